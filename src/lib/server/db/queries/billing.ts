import type { OpenDue } from '../../../core/billing';
import type { Tx } from '../open';
import { open } from '../open';
import {
	events,
	invoices,
	outbox,
	payments,
	type EventRow,
	type InvoiceRow,
	type OutboxRow,
	type PaymentRow
} from '../tables';
import { Op } from 'sequelize';
import { select } from './select';
import { debitsSince, NOT_MADE } from './storedMethods';

/** Events after one, in their order. */
export const eventsAfter = async (id: number, limit: number): Promise<EventRow[]> =>
	(await events.model.findAll({
		where: { id: { [Op.gt]: id } },
		order: [['id', 'ASC']],
		limit,
		raw: true
	})) as unknown as EventRow[];

/** Open dues of a payer in a currency, of all invoices or of some. */
export const openDuesOf = (payerId: string, currency: string, chosen: readonly number[], tx?: Tx): Promise<OpenDue[]> =>
	select<OpenDue>(
		`SELECT CAST(i.id AS TEXT) AS invoice, i.number AS number, d.day AS day, d.open AS open
		 FROM invoices i JOIN invoice_dues d ON d.invoice_id = i.id
		 WHERE i.payer_id = :payerId AND i.currency = :currency AND i.open > 0 AND d.open > 0
		 ${chosen.length ? 'AND i.id IN (:chosen)' : ''} ORDER BY d.day, i.number, d.n`,
		{ payerId, currency, chosen },
		tx
	);

/** A place that stands: what is left of it after what was taken back. */
export interface StandingPlace {
	readonly id: number;
	readonly paymentId: number;
	readonly invoiceId: number;
	readonly left: number;
	readonly why: string;
	readonly byUser: string;
	readonly at: number;
}
const STANDING = `SELECT p.id AS id, p.payment_id AS paymentId, p.invoice_id AS invoiceId, p.why AS why, p.by_user AS byUser, p.at AS at,
	p.minor + COALESCE((SELECT SUM(b.minor) FROM places b WHERE b.of_id = p.id AND b.payment_id = p.payment_id), 0) AS "left" FROM places p`;
const standing = async (where: string, id: number, tx?: Tx): Promise<StandingPlace[]> =>
	(await select<StandingPlace>(`${STANDING} WHERE ${where} AND p.minor > 0 ORDER BY p.id`, { id }, tx)).filter(
		(one) => one.left > 0
	);
/** Where a payment is placed, in the order in which it was. */
export const placesOfPayment = (paymentId: number, tx?: Tx) => standing('p.payment_id = :id', paymentId, tx);
/** What is placed on an invoice, in the order in which it was. */
export const placesOfInvoice = (invoiceId: number, tx?: Tx) => standing('p.invoice_id = :id', invoiceId, tx);

export const sumPlaced = async (invoiceId: number, tx?: Tx): Promise<number> =>
	(
		await select<{ sum: number }>(
			`SELECT COALESCE(SUM(minor), 0) AS sum FROM places WHERE invoice_id = ?`,
			[invoiceId],
			tx
		)
	)[0]!.sum;

/** Payments on their way whose money is meant for an invoice: by itself, or within all that its payer owes. */
export const promisedFor = (
	invoiceId: number,
	payerId: string | null,
	currency: string,
	tx?: Tx
): Promise<{ kind: 'invoice' | 'owed'; invoiceIds: string; minor: number; paymentId: number }[]> =>
	select(
		`SELECT c.kind AS kind, c.invoice_ids AS invoiceIds, p.minor - p.gratuity AS minor, p.id AS paymentId
		 FROM order_claims c JOIN payments p ON p.order_id = c.order_id
		 WHERE (c.invoice_id = :invoiceId OR (c.kind = 'owed' AND c.payer_id = :payerId AND c.payer_id IS NOT NULL))
			AND p.open = 1 AND p.taken = 0 AND p.currency = :currency AND p.mode = 'live' AND p.trial_id IS NULL
			AND p.stage IN ('pending', 'authorised') ORDER BY p.id`,
		{ invoiceId, payerId: payerId ?? '', currency },
		tx
	);

/** The invoice that a payment names: by its number, or by its creditor reference. */
export async function invoiceByReference(
	payment: Pick<PaymentRow, 'reference' | 'creditorReference' | 'currency' | 'tillId'>,
	tx?: Tx
): Promise<InvoiceRow | undefined> {
	const { reference, creditorReference, currency, tillId } = payment;
	const found = reference ? await invoices.find({ number: reference, kind: 'invoice' }, { limit: 1 }, tx) : [];
	// a receipt from the books tells the number, or the creditor reference, beside its own id
	if (!found.length && creditorReference)
		found.push(
			...(await invoices.find({ creditorReference, kind: 'invoice' }, { limit: 1 }, tx)),
			...(await invoices.find({ number: creditorReference, kind: 'invoice' }, { limit: 1 }, tx))
		);
	const [invoice] = found;
	return invoice && invoice.currency === currency && (!tillId || invoice.tillId === tillId) ? invoice : undefined;
}

/**
 * Takes the next number of a series in a year. Part of the transaction that stores what bears it: no gap and no double, also
 * when two approve at once or the process is killed.
 */
export async function takeNumber(seriesId: string, year: string, start: number, tx: Tx): Promise<number> {
	await (
		await open()
	).query(
		`INSERT INTO number_counters (series_id, year, next) VALUES (:seriesId, :year, :start + 1)
		 ON CONFLICT (series_id, year) DO UPDATE SET next = next + 1`,
		{ replacements: { seriesId, year, start }, transaction: tx }
	);
	const [row] = await select<{ next: number }>(
		`SELECT next - 1 AS next FROM number_counters WHERE series_id = :seriesId AND year = :year`,
		{ seriesId, year },
		tx
	);
	return row!.next;
}

/** What payers hold as credit, by currency: money that is theirs and on no invoice. */
export const creditOf = (payerId: string, tx?: Tx): Promise<{ currency: string; minor: number }[]> =>
	select(
		`SELECT currency, SUM(unplaced) AS minor FROM payments WHERE payer_id = ? AND unplaced > 0 GROUP BY currency`,
		[payerId],
		tx
	);

/** The payments whose money a payer holds as credit, the oldest first. */
export const creditPaymentsOf = (
	payerId: string
): Promise<{ id: number; reference: string; currency: string; minor: number }[]> =>
	select(
		`SELECT id, reference, currency, unplaced AS minor FROM payments WHERE payer_id = ? AND unplaced > 0 ORDER BY id LIMIT 500`,
		[payerId]
	);

/** Invoices of a payer that something is open of, those that are due first before others. */
export const openInvoicesOf = (payerId: string, limit: number): Promise<InvoiceRow[]> =>
	invoices.model.findAll({
		where: { payerId, open: { [Op.gt]: 0 } },
		order: [
			['nextDue', 'ASC'],
			['id', 'ASC']
		],
		limit,
		raw: true
	}) as unknown as Promise<InvoiceRow[]>;

/** What payers owe, have been asked and have paid, by currency. */
export interface OwedSum {
	readonly currency: string;
	readonly count: number;
	readonly total: number;
	readonly placed: number;
	readonly credited: number;
	readonly promised: number;
	readonly open: number;
	readonly writtenOff: number;
}
const SUMS = `SUM(count) AS count, SUM(total) AS total, SUM(placed) AS placed, SUM(credited) AS credited, SUM(promised) AS promised,
	SUM(open) AS open, SUM(CASE state WHEN 'written off' THEN total - placed - credited ELSE 0 END) AS writtenOff`;
export const owedSums = (payerId?: string): Promise<OwedSum[]> =>
	select(
		`SELECT currency, ${SUMS} FROM invoice_sums WHERE state <> 'void' ${payerId === undefined ? '' : 'AND payer_id = :payerId'}
		 GROUP BY currency HAVING SUM(count) > 0 ORDER BY SUM(open) DESC, currency`,
		{ payerId }
	);
/** The same by payer: who owes most stands first. */
export const owedByPayer = (
	currency: string,
	limit: number,
	offset: number
): Promise<(OwedSum & { payerId: string })[]> =>
	select(
		`SELECT payer_id AS payerId, currency, ${SUMS} FROM invoice_sums WHERE state <> 'void' AND currency = :currency
		 GROUP BY payer_id HAVING SUM(open) > 0 ORDER BY SUM(open) DESC, payer_id LIMIT :limit OFFSET :offset`,
		{ currency, limit, offset }
	);
/** How many invoices are in each state. */
export const invoicesByState = async (): Promise<Map<string, number>> =>
	new Map(
		(
			await select<{ state: string; n: number }>(
				`SELECT state, SUM(count) AS n FROM invoice_sums GROUP BY state HAVING SUM(count) > 0`,
				[]
			)
		).map((row) => [row.state, row.n])
	);

/** What is open by how long it is over, in days: not yet due, up to 30, 60, 90, and longer. */
export const AGES = ['not yet due', '1 to 30 days', '31 to 60 days', '61 to 90 days', 'over 90 days'] as const;
export const openByAge = (today: string): Promise<{ currency: string; age: number; count: number; open: number }[]> =>
	select(
		`SELECT currency, CASE WHEN day >= :today THEN 0 WHEN julianday(:today) - julianday(day) <= 30 THEN 1
			WHEN julianday(:today) - julianday(day) <= 60 THEN 2 WHEN julianday(:today) - julianday(day) <= 90 THEN 3 ELSE 4 END AS age,
			SUM(count) AS count, SUM(open) AS open
		 FROM due_sums GROUP BY 1, 2 HAVING SUM(open) > 0 ORDER BY 1, 2`,
		{ today }
	);
export const openByAgeOf = (
	payerId: string,
	today: string
): Promise<{ currency: string; age: number; count: number; open: number }[]> =>
	select(
		`SELECT i.currency AS currency, CASE WHEN d.day >= :today THEN 0 WHEN julianday(:today) - julianday(d.day) <= 30 THEN 1
			WHEN julianday(:today) - julianday(d.day) <= 60 THEN 2 WHEN julianday(:today) - julianday(d.day) <= 90 THEN 3 ELSE 4 END AS age,
			COUNT(*) AS count, SUM(d.open) AS open
		 FROM invoices i JOIN invoice_dues d ON d.invoice_id = i.id WHERE i.payer_id = :payerId AND d.open > 0 GROUP BY 1, 2 ORDER BY 1, 2`,
		{ payerId, today }
	);

/** What a list of invoices is narrowed to. */
export interface InvoiceFilter {
	readonly kind: InvoiceRow['kind'];
	readonly states?: readonly string[];
	/** only what is open; overdue before a day */
	readonly isOpen?: boolean;
	readonly overdueBefore?: string;
	/** due from one day to another, both included */
	readonly dueFrom?: string;
	readonly dueTo?: string;
	readonly payerId?: string;
	readonly tillId?: string;
	readonly currency?: string;
	readonly isPromised?: boolean;
	readonly isUnsent?: boolean;
	readonly isAsked?: boolean;
	readonly isHeld?: boolean;
	/** a bank debit is announced for it, or was not made; looked after up to a moment */
	readonly debit?: { readonly state: 'announced' | 'not made'; readonly now: number };
	/** begins a number, an outside reference or a payer's name */
	readonly text?: string;
	readonly from?: string;
	readonly to?: string;
	/** the last one of the page before */
	readonly after?: { readonly key: string; readonly id: number };
}
export const INVOICE_PAGE = 50;

interface Part {
	readonly sql: string;
	readonly values?: Record<string, unknown>;
}
async function partsOf(filter: InvoiceFilter): Promise<Part[]> {
	// what is owed is read from its own index, that is in the order of the list and holds the sums: a plus keeps others away
	const plus = isByDue(filter) ? '+' : '';
	const parts: Part[] = [{ sql: `${plus}kind = :kind`, values: { kind: filter.kind } }];
	const add = (sql: string, values: Record<string, unknown> = {}) => parts.push({ sql, values });
	if (filter.states?.length) add(`${plus}state IN (:states)`, { states: filter.states });
	if (filter.isOpen) add('open > 0');
	if (filter.overdueBefore) add('open > 0 AND next_due < :over', { over: filter.overdueBefore });
	if (filter.dueFrom) add('next_due >= :dueFrom', { dueFrom: filter.dueFrom });
	if (filter.dueTo) add('next_due <= :dueTo', { dueTo: filter.dueTo });
	if (filter.payerId) add('payer_id = :payerId', { payerId: filter.payerId });
	if (filter.tillId) add('till_id = :tillId', { tillId: filter.tillId });
	if (filter.currency) add(`${plus}currency = :currency`, { currency: filter.currency });
	if (filter.isPromised) add('promised > 0');
	if (filter.isUnsent) add(`sent_at IS NULL AND approved_at IS NOT NULL`);
	if (filter.isAsked) add(`asked_at IS NOT NULL AND state = 'draft'`);
	if (filter.isHeld) add('held_at IS NOT NULL');
	if (filter.debit?.state === 'announced')
		add(`id IN (SELECT invoice_id FROM announced_debits WHERE state = 'announced')`);
	if (filter.debit?.state === 'not made')
		add(`id IN (SELECT invoice_id FROM announced_debits WHERE id IN (${NOT_MADE}))`, debitsSince(filter.debit.now));
	if (filter.from) add('day >= :from', { from: filter.from });
	if (filter.to) add('day <= :to', { to: filter.to });
	if (filter.text) {
		const rows = await select<{ id: number }>(
			`SELECT id FROM (SELECT id FROM invoices WHERE number >= :text AND number < :until AND number <> '' LIMIT 500)
			 UNION SELECT id FROM (SELECT id FROM invoices WHERE outside_reference >= :text AND outside_reference < :until AND outside_reference <> '' LIMIT 500)
			 UNION SELECT id FROM (SELECT id FROM invoices WHERE payer_name >= :text COLLATE NOCASE AND payer_name < :until COLLATE NOCASE LIMIT 2000)`,
			{ text: filter.text, until: `${filter.text}\u{10ffff}` }
		);
		add('id IN (:ids)', { ids: rows.length ? rows.map((row) => row.id) : [-1] });
	}
	return parts;
}
const joined = (parts: readonly Part[]) => ({
	sql: parts.map((one) => one.sql).join(' AND '),
	values: Object.assign({}, ...parts.map((one) => one.values)) as Record<string, unknown>
});

/** Whether a list goes by the day that is due next; other lists by the newest first. */
export const isByDue = (filter: InvoiceFilter): boolean =>
	filter.kind === 'invoice' && !!(filter.isOpen || filter.overdueBefore);

/** One page of invoices: what is owed by the oldest due first, all others the newest first. */
export async function pageOfInvoices(
	filter: InvoiceFilter,
	size = INVOICE_PAGE
): Promise<{ rows: InvoiceRow[]; next?: { key: string; id: number } }> {
	const parts = await partsOf(filter);
	const byDue = isByDue(filter);
	if (filter.after)
		parts.push(
			byDue
				? {
						sql: '(next_due, id) > (:afterKey, :afterId)',
						values: { afterKey: filter.after.key, afterId: filter.after.id }
					}
				: { sql: 'id < :afterId', values: { afterId: filter.after.id } }
		);
	const { sql, values } = joined(parts);
	const found = await select<{ id: number }>(
		`SELECT id FROM invoices WHERE ${sql} ORDER BY ${byDue ? 'next_due, id' : 'id DESC'} LIMIT ${Math.trunc(size) + 1}`,
		values
	);
	const ids = found.slice(0, size).map((row) => row.id);
	const byId = new Map((ids.length ? await invoices.find({ id: ids }) : []).map((row) => [row.id, row]));
	const rows = ids.map((id) => byId.get(id)!);
	const last = rows.at(-1);
	return { rows, ...(found.length > size && last ? { next: { key: last.nextDue, id: last.id } } : {}) };
}

/** Ids of the invoices that fit a filter, in the order of their list. @param most no more than so many */
export async function idsOfInvoices(filter: InvoiceFilter, most: number): Promise<number[]> {
	const { sql, values } = joined(await partsOf({ ...filter, after: undefined }));
	const order = isByDue(filter) ? 'next_due, id' : 'id DESC';
	const found = await select<{ id: number }>(
		`SELECT id FROM invoices WHERE ${sql} ORDER BY ${order} LIMIT ${Math.trunc(most)}`,
		values
	);
	return found.map((row) => row.id);
}

/** Whether the kept sums tell what a filter asks for. */
const isKept = (filter: InvoiceFilter): boolean =>
	filter.kind === 'invoice' &&
	!filter.overdueBefore &&
	!filter.dueFrom &&
	!filter.dueTo &&
	!filter.isPromised &&
	!filter.isUnsent &&
	!filter.isAsked &&
	!filter.isHeld &&
	!filter.debit &&
	!filter.text &&
	!filter.from &&
	!filter.to &&
	!filter.isOpen;

/** Sums per currency of what is filtered: of approved invoices that stand. */
export async function sumsOfInvoices(filter: InvoiceFilter): Promise<OwedSum[]> {
	if (isKept(filter)) {
		const parts: Part[] = [{ sql: `state <> 'void'` }];
		if (filter.states?.length) parts.push({ sql: 'state IN (:states)', values: { states: filter.states } });
		if (filter.payerId) parts.push({ sql: 'payer_id = :payerId', values: { payerId: filter.payerId } });
		if (filter.tillId) parts.push({ sql: 'till_id = :tillId', values: { tillId: filter.tillId } });
		if (filter.currency) parts.push({ sql: 'currency = :currency', values: { currency: filter.currency } });
		const { sql, values } = joined(parts);
		return select(
			`SELECT currency, ${SUMS} FROM invoice_sums WHERE ${sql} GROUP BY currency HAVING SUM(count) > 0 ORDER BY SUM(count) DESC`,
			values
		);
	}
	// what is open and no more than that: told by the states that can be
	if (filter.isOpen && isKept({ ...filter, isOpen: false }))
		return (await sumsOfInvoices({ ...filter, isOpen: false, states: ['approved', 'sent', 'part paid'] })).filter(
			(one) => one.open > 0
		);
	return sumsOfRows(filter);
}

/** The same, added up from the invoices one by one. */
export async function sumsOfRows(filter: InvoiceFilter): Promise<OwedSum[]> {
	const { sql, values } = joined([...(await partsOf({ ...filter, after: undefined }))]);
	return select(
		`SELECT currency, COUNT(*) AS count, SUM(total) AS total, SUM(placed) AS placed, SUM(credited) AS credited,
			SUM(promised) AS promised, SUM(open) AS open,
			SUM(CASE state WHEN 'written off' THEN total - placed - credited ELSE 0 END) AS writtenOff
		 FROM invoices WHERE ${sql} AND state <> 'void' AND (approved_at IS NOT NULL OR kind <> 'invoice') GROUP BY +currency ORDER BY COUNT(*) DESC`,
		values
	);
}

/** Everything on both sides of the proof: by invoices, by payers, by dues, by places. */
export const proofSums = (): Promise<{ side: string; currency: string; minor: number }[]> =>
	select(
		`SELECT 'invoices' AS side, currency, SUM(open) AS minor FROM invoices WHERE kind = 'invoice' GROUP BY currency
		 UNION ALL SELECT 'payers', currency, SUM(open) FROM invoice_sums GROUP BY currency
		 UNION ALL SELECT 'dues', currency, SUM(open) FROM invoice_dues GROUP BY currency
		 UNION ALL SELECT 'days', currency, SUM(open) FROM due_sums GROUP BY currency
		 UNION ALL SELECT 'rest', currency, SUM(total - placed - credited) FROM invoices
			WHERE kind = 'invoice' AND approved_at IS NOT NULL AND state NOT IN ('void', 'written off') GROUP BY currency
		 UNION ALL SELECT 'placed', i.currency, SUM(p.minor) FROM places p JOIN invoices i ON i.id = p.invoice_id GROUP BY i.currency
		 UNION ALL SELECT 'placed on', currency, SUM(placed) FROM invoices GROUP BY currency`,
		[]
	);

/** How often an order of a link, or a discount code, counts: those that expired or were cancelled unpaid are given back. */
const STANDS = `o.replaced_by IS NULL AND o.cancelled_at IS NULL AND (o.paid > 0 OR o.expires_at IS NULL OR o.expires_at > :now
	OR EXISTS (SELECT 1 FROM payments p WHERE p.order_id = o.id AND p.open = 1 AND p.stage IN ('pending', 'authorised')))`;
export const countLinkOrders = async (linkId: string, now: number, tx?: Tx): Promise<number> =>
	(
		await select<{ n: number }>(
			`SELECT COUNT(*) AS n FROM order_claims c JOIN orders o ON o.id = c.order_id WHERE c.link_id = :linkId AND ${STANDS}`,
			{ linkId, now },
			tx
		)
	)[0]!.n;
export const countCodeUses = async (
	code: string,
	mail: string,
	now: number,
	tx?: Tx
): Promise<{ used: number; usedByPayer: number }> =>
	(
		await select<{ used: number; usedByPayer: number }>(
			`SELECT COUNT(*) AS used, COALESCE(SUM(c.payer_mail = :mail AND :mail <> ''), 0) AS usedByPayer
			 FROM order_claims c JOIN orders o ON o.id = c.order_id WHERE c.code = :code AND c.code <> '' AND ${STANDS}`,
			{ code, mail, now },
			tx
		)
	)[0]!;
/** How many of each thing of the price list link orders hold. */
export const linkTotals = (
	linkId: string
): Promise<{ currency: string; orders: number; paid: number; minor: number; taken: number }[]> =>
	select(
		`SELECT o.currency AS currency, COUNT(*) AS orders, SUM(o.paid >= o.minor) AS paid, SUM(o.minor) AS minor, SUM(o.paid) AS taken
		 FROM order_claims c JOIN orders o ON o.id = c.order_id WHERE c.link_id = ? AND o.replaced_by IS NULL GROUP BY o.currency`,
		[linkId]
	);
/** What payers met at a link's orders when nothing could be offered. */
export const unmetOfLink = (
	linkId: string
): Promise<{ currency: string; count: number; minor: number; latest: number }[]> =>
	select(
		`SELECT u.currency AS currency, COUNT(*) AS count, SUM(u.minor) AS minor, MAX(u.at) AS latest
		 FROM order_claims c JOIN orders o ON o.id = c.order_id JOIN unmet u ON u.till_id = o.till_id AND u.reference = o.reference
		 WHERE c.link_id = ? GROUP BY u.currency`,
		[linkId]
	);
/** Counts a visit at a link, or a start. */
export async function countAtLink(linkId: string, day: string, what: 'visits' | 'starts', tx: Tx): Promise<void> {
	await (
		await open()
	).query(
		`INSERT INTO pay_link_days (link_id, day, visits, starts) VALUES (:linkId, :day, ${what === 'visits' ? 1 : 0}, ${what === 'starts' ? 1 : 0})
		 ON CONFLICT (link_id, day) DO UPDATE SET ${what} = ${what} + 1`,
		{ replacements: { linkId, day }, transaction: tx }
	);
}

/** Money that nobody claims, the oldest first. @param payerId of one payer: their credit */
export const unplacedIds = async (after: number, limit: number): Promise<{ id: number; minor: number }[]> =>
	select(
		`SELECT id, unplaced AS minor FROM payments INDEXED BY payments_unplaced WHERE unplaced <> 0 AND id > :after ORDER BY id LIMIT :limit`,
		{ after, limit }
	);
export const unplacedSums = (): Promise<{ currency: string; count: number; minor: number; credit: number }[]> =>
	select(
		`SELECT currency, COUNT(*) AS count, SUM(unplaced) AS minor, SUM(CASE WHEN payer_id IS NULL THEN 0 ELSE unplaced END) AS credit
		 FROM payments INDEXED BY payments_unplaced WHERE unplaced <> 0 GROUP BY currency`,
		[]
	);

/** Open invoices that money could be for: by the numbers and references it names, its sum, its payer or account. */
export const openInvoicesFor = (asked: {
	readonly currency: string;
	readonly minor: number;
	readonly words: readonly string[];
	readonly payerIds: readonly string[];
}): Promise<InvoiceRow[]> =>
	select<{ id: number }>(
		`SELECT id FROM invoices INDEXED BY invoices_open WHERE open > 0 AND currency = :currency AND open = :minor
		 UNION SELECT id FROM invoices WHERE number IN (:words) AND open > 0 AND number <> ''
		 UNION SELECT id FROM invoices WHERE creditor_reference IN (:words) AND open > 0 AND creditor_reference <> ''
		 UNION SELECT id FROM invoices WHERE payer_id IN (:payerIds) AND open > 0 LIMIT 400`,
		{
			...asked,
			words: asked.words.length ? asked.words : ['?'],
			payerIds: asked.payerIds.length ? asked.payerIds : ['?']
		}
	).then((rows) => (rows.length ? invoices.find({ id: rows.map((row) => row.id) }) : []));

/** Payers whose name has all of some words in it, and those who paid from an account before. */
export const payersLike = async (name: string, iban: string): Promise<string[]> => {
	const words = name
		.split(/\s+/)
		.filter((word) => word.length > 2)
		.slice(0, 4);
	const byName = words.length
		? await select<{ id: string }>(
				`SELECT id FROM payers WHERE removed_at IS NULL AND ${words.map((_, at) => `(name || ' ' || company) LIKE :w${at}`).join(' AND ')} LIMIT 20`,
				Object.fromEntries(words.map((word, at) => [`w${at}`, `%${word.replace(/[\\%_]/g, '')}%`]))
			)
		: [];
	const byIban = iban
		? await select<{ id: string }>(
				`SELECT DISTINCT p.payer_id AS id FROM money_details m JOIN payments p ON p.id = m.payment_id
				 WHERE m.iban = :iban AND m.iban <> '' AND p.payer_id IS NOT NULL LIMIT 20`,
				{ iban }
			)
		: [];
	return [...new Set([...byName, ...byIban].map((row) => row.id))];
};
/** Accounts that payers paid from, by the payer. */
export async function ibansOf(payerIds: readonly string[]): Promise<Map<string, string[]>> {
	const found = new Map<string, string[]>();
	if (!payerIds.length) return found;
	for (const row of await select<{ id: string; iban: string }>(
		`SELECT DISTINCT p.payer_id AS id, m.iban AS iban FROM payments p JOIN money_details m ON m.payment_id = p.id
		 WHERE p.payer_id IN (:payerIds) AND m.iban <> ''`,
		{ payerIds }
	))
		found.set(row.id, [...(found.get(row.id) ?? []), row.iban]);
	return found;
}

/** Payments of a payer, and how they paid: methods by how often, the latest first. */
export const methodsOfPayer = (payerId: string): Promise<{ method: string; count: number; last: number }[]> =>
	select(
		`SELECT method, COUNT(*) AS count, MAX(created_at) AS last FROM payments WHERE payer_id = ? AND taken > 0 GROUP BY method ORDER BY count DESC`,
		[payerId]
	);

/** Invoices that can be found by a text: numbers and payers. */
export const findInvoices = (text: string): Promise<InvoiceRow[]> =>
	select<{ id: number }>(
		`SELECT id FROM (SELECT id FROM invoices WHERE number >= :text AND number < :until AND number <> '' LIMIT 8)
		 UNION SELECT id FROM (SELECT id FROM invoices WHERE outside_reference >= :text AND outside_reference < :until AND outside_reference <> '' LIMIT 4)`,
		{ text, until: `${text}\u{10ffff}` }
	).then((rows) => (rows.length ? invoices.find({ id: rows.map((row) => row.id) }) : []));

/** Messages that can be tried now, the oldest first. */
export const dueMessages = async (now: number, limit: number): Promise<OutboxRow[]> => {
	const rows = await select<{ id: number }>(
		`SELECT id FROM outbox INDEXED BY outbox_due WHERE next_at <= :now AND state IN ('waiting', 'sending') AND state = 'waiting' ORDER BY next_at, id LIMIT :limit`,
		{ now, limit }
	);
	return rows.length ? outbox.find({ id: rows.map((row) => row.id) }, { order: [['id', 'ASC']] }) : [];
};

/** How many documents there are of each kind, and what waits. */
export async function billCounts(today: string): Promise<{
	invoices: number;
	drafts: number;
	asked: number;
	quotes: number;
	credits: number;
	unsent: number;
	waiting: number;
}> {
	const [row] = await select<{
		invoices: number | null;
		drafts: number;
		asked: number;
		quotes: number;
		credits: number;
		unsent: number;
		waiting: number;
	}>(
		`SELECT (SELECT SUM(count) FROM invoice_sums) AS invoices,
			(SELECT COUNT(*) FROM invoices INDEXED BY invoices_state WHERE kind = 'invoice' AND state = 'draft') AS drafts,
			(SELECT COUNT(*) FROM invoices INDEXED BY invoices_state WHERE kind = 'invoice' AND state = 'draft' AND asked_at IS NOT NULL) AS asked,
			(SELECT COUNT(*) FROM invoices INDEXED BY invoices_state WHERE kind = 'quote' AND state IN ('sent', 'opened') AND until >= :today) AS quotes,
			(SELECT COUNT(*) FROM invoices INDEXED BY invoices_state WHERE kind = 'credit note') AS credits,
			(SELECT COUNT(*) FROM outbox INDEXED BY outbox_state WHERE state IN ('refused', 'failed', 'unknown')) AS unsent,
			(SELECT COUNT(*) FROM outbox INDEXED BY outbox_state WHERE state IN ('waiting', 'sending')) AS waiting`,
		{ today }
	);
	return { ...row!, invoices: row!.invoices ?? 0 };
}

/** What some payers owe, by payer and currency. */
export const owedByPayers = (ids: readonly string[]): Promise<{ payerId: string; currency: string; open: number }[]> =>
	select(
		`SELECT payer_id AS payerId, currency, SUM(open) AS open FROM invoice_sums WHERE payer_id IN (:ids) GROUP BY payer_id, currency HAVING SUM(open) > 0`,
		{ ids }
	);
/** Payments of a payer, the newest first: those that are theirs, and those that bear their mail address. */
export const paymentsOfPayer = async (payerId: string, mail: string, limit: number): Promise<PaymentRow[]> => {
	const rows = await select<{ id: number }>(
		`SELECT id, created_at FROM (SELECT id, created_at FROM payments WHERE payer_id = :payerId AND payer_id IS NOT NULL ORDER BY created_at DESC LIMIT :limit)
		 UNION SELECT id, created_at FROM (SELECT id, created_at FROM payments WHERE payer_mail = :mail AND payer_mail <> '' ORDER BY id DESC LIMIT :limit)
		 ORDER BY created_at DESC, id DESC LIMIT :limit`,
		{ payerId, mail: mail || '?', limit }
	);
	const found = rows.length ? await payments.find({ id: rows.map((row) => row.id) }) : [];
	return rows.flatMap((row) => found.find((one) => one.id === row.id) ?? []);
};

/** One page of the outbox, the newest first. */
export async function pageOfOutbox(
	state: OutboxRow['state'] | undefined,
	before: number | undefined
): Promise<{ rows: OutboxRow[]; more: boolean }> {
	const where: Record<string, unknown> = {};
	if (state) where.state = state;
	if (before) where.id = { [Op.lt]: before };
	const rows = (await outbox.model.findAll({
		where: where as never,
		order: [['id', 'DESC']],
		limit: INVOICE_PAGE + 1,
		raw: true
	})) as unknown as OutboxRow[];
	return { rows: rows.slice(0, INVOICE_PAGE), more: rows.length > INVOICE_PAGE };
}

/** Payments of settlement files that carry a number and were placed nowhere yet. */
export const filePaymentsOf = async (number: string, tx: Tx): Promise<number[]> =>
	(
		await select<{ id: number }>(
			`SELECT id FROM payments WHERE reference = :number AND reference <> '' AND (origin = 'file' OR origin = 'console' AND source <> '') AND considered = 0 AND taken > 0
			 UNION SELECT id FROM payments WHERE creditor_reference = :number AND creditor_reference <> '' AND (origin = 'file' OR origin = 'console' AND source <> '')
				AND considered = 0 AND taken > 0 LIMIT 500`,
			{ number },
			tx
		)
	).map((row) => row.id);
