import { Op, type WhereOptions } from 'sequelize';
import { select } from './select';
import { announcedDebits, payers, storedMethods, type AnnouncedDebitRow, type StoredMethodRow } from '../tables';

const OPEN = ['active', 'suspended'] as const;
const read = (where: WhereOptions, limit: number): Promise<StoredMethodRow[]> =>
	storedMethods.model.findAll({ where, order: [['id', 'ASC']], limit, raw: true }) as unknown as Promise<
		StoredMethodRow[]
	>;

/** Stored cards whose last month is over. @param month the month that it is, `YYYY-MM` */
export const expiredCards = (month: string, limit: number): Promise<StoredMethodRow[]> =>
	read({ state: OPEN, expires: { [Op.gt]: '', [Op.lt]: month } }, limit);

type Months = { readonly from: string; readonly to: string };
/** Stored cards that end in these months and whose payers were not asked yet to renew them. */
export const endingCards = ({ from, to }: Months, limit: number): Promise<StoredMethodRow[]> =>
	read({ state: 'active', expires: { [Op.gte]: from, [Op.lte]: to }, renewalAskedAt: null }, limit);

/** Cards of live payments that end in these months, with their payers: how many, and the first of them. */
export async function cardsEnding(
	{ from, to }: Months,
	limit: number
): Promise<{ count: number; until: string; first: { payerId: string; payer: string; row: StoredMethodRow }[] }> {
	const where = { state: 'active', mode: 'live', expires: { [Op.gte]: from, [Op.lte]: to } };
	const [count, rows] = await Promise.all([
		storedMethods.model.count({ where }),
		storedMethods.model.findAll({
			where,
			order: [
				['expires', 'ASC'],
				['id', 'ASC']
			],
			limit,
			raw: true
		}) as unknown as Promise<StoredMethodRow[]>
	]);
	const named = await payers.find({ id: [...new Set(rows.map((row) => row.payerId))] });
	const nameOf = new Map(named.map((one) => [one.id, one.company || one.name]));
	return {
		count,
		until: rows.at(-1)?.expires ?? '',
		first: rows.map((row) => ({ payerId: row.payerId, payer: nameOf.get(row.payerId) ?? '', row }))
	};
}

/** Mandates that were not used since a moment. */
export const unusedMandates = (before: number, limit: number): Promise<StoredMethodRow[]> =>
	read({ state: OPEN, expires: '', usedAt: { [Op.lt]: before }, method: 'bank-debit' }, limit);

/**
 * What has ended here, and the processor was not told yet.
 * @param after the id that was looked at last
 * @param notAt connections that do not answer
 */
export const unforgottenMethods = (
	limit: number,
	{ after, notAt }: { readonly after: number; readonly notAt: readonly string[] }
): Promise<StoredMethodRow[]> =>
	read({ state: 'ended', forgottenAt: null, id: { [Op.gt]: after }, connectionId: { [Op.notIn]: [...notAt] } }, limit);

/** Payments at which a payer agreed to have the method kept, and that are still open: a mandate that is asked for. */
export const askedToStore = (
	payerId: string
): Promise<{ paymentId: number; reference: string; method: string; at: number }[]> =>
	select(
		`SELECT p.id AS paymentId, p.reference AS reference, p.method AS method, p.created_at AS at
		 FROM payment_requests r JOIN payments p ON p.id = r.payment_id
		 WHERE r.keep_payer = :payerId AND p.open = 1 AND p.taken = 0 AND p.stage = 'requested' ORDER BY p.id DESC LIMIT 20`,
		{ payerId }
	);

/** Debits that are announced and not made yet, by their number. @param after the number that was looked at last */
export const standingDebits = (after: number, limit: number): Promise<AnnouncedDebitRow[]> =>
	announcedDebits.model.findAll({
		where: { state: 'announced', id: { [Op.gt]: after } },
		order: [['id', 'ASC']],
		limit,
		raw: true
	}) as unknown as Promise<AnnouncedDebitRow[]>;

/** Bank debits of so long ago are not looked after any more. */
const DEBITS_SINCE_MS = 90 * 86_400_000;
/** Debits that came to nothing and whose invoice is still open, where none was announced since. */
export const NOT_MADE = `SELECT d.id FROM announced_debits d JOIN invoices i ON i.id = d.invoice_id LEFT JOIN payments p ON p.id = d.payment_id
	WHERE d.ended_at >= :debitsSince AND (d.state = 'not made' OR (d.state = 'made' AND p.stage = 'failed')) AND i.open - i.promised > 0
		AND NOT EXISTS (SELECT 1 FROM announced_debits later WHERE later.invoice_id = d.invoice_id AND later.id > d.id)`;
export const debitsSince = (now: number): { debitsSince: number } => ({ debitsSince: now - DEBITS_SINCE_MS });

/** The same by currency: how many, what they were to bring, and the invoice of one. */
export const debitsNotMade = (
	now: number
): Promise<{ currency: string; count: number; minor: number; invoiceId: number }[]> =>
	select(
		`SELECT d.currency AS currency, COUNT(*) AS count, SUM(MIN(d.minor, i.open - i.promised)) AS minor, MIN(d.invoice_id) AS invoiceId
		 FROM announced_debits d JOIN invoices i ON i.id = d.invoice_id WHERE d.id IN (${NOT_MADE}) GROUP BY d.currency`,
		debitsSince(now)
	);
