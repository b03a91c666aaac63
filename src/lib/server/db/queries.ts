import type { Rate } from '../../core/money';
import { Op, QueryTypes } from 'sequelize';
import { open, type Tx } from './open';
import type { ArrivalRow, AuditRow, PaymentRow, SettledPaymentRow } from './rows';
import { actions, arrivals, audit, exchangeRates, payerMemberships, payers, payments, unmet } from './tables';
import type { ActionRow, ExchangeRateRow, PayerMembershipRow, PayerRow, UnmetRow } from './rows';

const PAGE = 50;

export interface PaymentFilter {
	/** an exact reference, a part of a payer's name or mail */
	readonly text?: string;
	readonly stage?: string;
	readonly tillId?: string;
	readonly method?: string;
	/** the last id of the page before */
	readonly before?: number;
}

/** One page of payments, newest first, paged by key. One row more than a page tells that there are more. */
export async function pageOfPayments(filter: PaymentFilter): Promise<{ rows: PaymentRow[]; more: boolean }> {
	const where: Record<string | symbol, unknown> = {};
	if (filter.before) where.id = { [Op.lt]: filter.before };
	if (filter.stage) where.stage = filter.stage;
	if (filter.tillId) where.tillId = filter.tillId;
	if (filter.method) where.method = filter.method;
	if (filter.text) {
		const part = `%${filter.text.replace(/[\\%_]/g, '\\$&')}%`;
		where[Op.or] = ['reference', 'payerName', 'payerMail', 'creditorReference'].map((column) => ({
			[column]: { [Op.like]: part }
		}));
	}
	const rows = (await payments.model.findAll({
		where,
		order: [['id', 'DESC']],
		limit: PAGE + 1,
		raw: true
	})) as unknown as PaymentRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

/** Payments whose reference begins like a text, for finding; through the index on references. */
export async function paymentsByReference(text: string, limit: number): Promise<PaymentRow[]> {
	return (await payments.model.findAll({
		where: { reference: { [Op.gte]: text, [Op.lt]: `${text}\uffff` } },
		order: [['reference', 'ASC']],
		limit,
		raw: true
	})) as unknown as PaymentRow[];
}

/** Arrivals that are due for work, oldest first: those that are proven, or those that wait to be confirmed. */
export async function dueArrivals(now: number, kind: 'proven' | 'unconfirmed', limit: number): Promise<ArrivalRow[]> {
	return (await arrivals.model.findAll({
		where: {
			state: kind === 'proven' ? ['stored', 'retry'] : 'unconfirmed',
			nextAt: { [Op.lte]: now }
		},
		order: [
			['nextAt', 'ASC'],
			['id', 'ASC']
		],
		limit,
		raw: true
	})) as unknown as ArrivalRow[];
}

/** When the next arrival or unknown action is due, in milliseconds since 1970. */
export async function nextDue(): Promise<number | undefined> {
	const [arrival, action] = await Promise.all([
		arrivals.model.min('nextAt', { where: { state: ['stored', 'unconfirmed', 'retry'] } }) as Promise<number | null>,
		actions.model.min('nextAt', { where: { state: 'unknown' } }) as Promise<number | null>
	]);
	const due = [arrival, action].filter((one): one is number => typeof one === 'number' && !Number.isNaN(one));
	return due.length ? Math.min(...due) : undefined;
}

/** Actions whose outcome is unknown and that should be asked after now. */
export async function dueActions(now: number, limit: number): Promise<ActionRow[]> {
	return (await actions.model.findAll({
		where: { state: 'unknown', nextAt: { [Op.lte]: now } },
		order: [['nextAt', 'ASC']],
		limit,
		raw: true
	})) as unknown as ActionRow[];
}

export async function pageOfArrivals(filter: {
	state?: string;
	connectionId?: string;
	before?: number;
}): Promise<{ rows: ArrivalRow[]; more: boolean }> {
	const where: Record<string, unknown> = {};
	if (filter.before) where.id = { [Op.lt]: filter.before };
	if (filter.state) where.state = filter.state;
	if (filter.connectionId) where.connectionId = filter.connectionId;
	const rows = (await arrivals.model.findAll({
		where,
		order: [['id', 'DESC']],
		limit: PAGE + 1,
		raw: true
	})) as unknown as ArrivalRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

export async function pageOfAudit(filter: {
	objectKind?: string;
	objectId?: string;
	before?: number;
}): Promise<{ rows: AuditRow[]; more: boolean }> {
	const where: Record<string, unknown> = {};
	if (filter.before) where.id = { [Op.lt]: filter.before };
	if (filter.objectKind) where.objectKind = filter.objectKind;
	if (filter.objectId) where.objectId = filter.objectId;
	const rows = (await audit.model.findAll({
		where,
		order: [['id', 'DESC']],
		limit: PAGE + 1,
		raw: true
	})) as unknown as AuditRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

/** Sums per currency of what payers came for and were not offered. */
export async function unmetSums(
	tillId: string,
	since: number
): Promise<{ kind: string; currency: string; count: number; minor: number }[]> {
	return (await open()).query(
		'SELECT kind, currency, COUNT(*) AS count, SUM(minor) AS minor FROM unmet WHERE till_id = :tillId AND at >= :since GROUP BY kind, currency ORDER BY kind, currency',
		{ replacements: { tillId, since }, type: QueryTypes.SELECT }
	);
}

/** Adds to the count of arrivals that were refused. */
export async function countRefused(
	rows: { connectionId: string; day: string; reason: string; count: number; lastAt: number }[],
	tx: Tx
): Promise<void> {
	const db = await open();
	for (const row of rows)
		await db.query(
			`INSERT INTO refused_arrivals (connection_id, day, reason, count, last_at) VALUES (:connectionId, :day, :reason, :count, :lastAt)
			ON CONFLICT (connection_id, day, reason) DO UPDATE SET count = count + excluded.count, last_at = MAX(last_at, excluded.last_at)`,
			{ replacements: row, transaction: tx }
		);
}

/** Every rate published from a day on. */
export async function exchangeRatesSince(day: string): Promise<ExchangeRateRow[]> {
	return (await exchangeRates.model.findAll({
		where: { day: { [Op.gte]: day } },
		raw: true
	})) as unknown as ExchangeRateRow[];
}

/** The latest rates between two currencies up to a day, in either direction. */
export async function ratesUpTo(from: string, to: string, day: string, tx?: Tx): Promise<Rate[]> {
	const rows = (await exchangeRates.model.findAll({
		where: {
			[Op.or]: [
				{ fromCurrency: from, toCurrency: to },
				{ fromCurrency: to, toCurrency: from }
			],
			day: { [Op.lte]: day }
		},
		order: [['day', 'DESC']],
		limit: 8,
		transaction: tx,
		raw: true
	})) as unknown as ExchangeRateRow[];
	return rows.map((row) => ({
		day: row.day,
		from: row.fromCurrency,
		to: row.toCurrency,
		rate: row.rate,
		source: row.source
	}));
}

/** How many payments there are at each stage; counted through the index on stages. */
export async function stageCounts(): Promise<Map<string, number>> {
	const rows: { stage: string; count: number }[] = await (
		await open()
	).query('SELECT stage, COUNT(*) AS count FROM payments GROUP BY stage', { type: QueryTypes.SELECT });
	return new Map(rows.map((row) => [row.stage, row.count]));
}

/** How many arrivals there are in each state; counted through the index on states. */
export async function arrivalCounts(): Promise<Map<string, number>> {
	const rows: { state: string; count: number }[] = await (
		await open()
	).query('SELECT state, COUNT(*) AS count FROM arrivals GROUP BY state', { type: QueryTypes.SELECT });
	return new Map(rows.map((row) => [row.state, row.count]));
}

/** Payments of a connection whose end is awaited, by stage, with their sums per currency. */
export async function sumsAwaited(
	connectionId: string
): Promise<{ stage: string; count: number; sums: { currency: string; minor: number }[] }[]> {
	const db = await open();
	const rows = (await db.query(
		`SELECT stage, currency, COUNT(*) AS count, SUM(minor) AS minor FROM payments
		 WHERE connection_id = ? AND stage IN ('authorised', 'pending', 'captured', 'settled') AND live = 1
		 GROUP BY stage, currency ORDER BY stage, currency`,
		{ replacements: [connectionId], type: QueryTypes.SELECT }
	)) as { stage: string; currency: string; count: number; minor: number }[];
	return [...new Set(rows.map((row) => row.stage))].map((stage) => {
		const mine = rows.filter((row) => row.stage === stage);
		return {
			stage,
			count: mine.reduce((sum, row) => sum + row.count, 0),
			sums: mine.map(({ currency, minor }) => ({ currency, minor }))
		};
	});
}

/** How an offline method was used: how often chosen, how often paid, and the middle of the days until paid. */
export async function offlineUse(
	since: number
): Promise<{ offlineId: string; chosen: number; paid: number; days: number | null }[]> {
	const db = await open();
	const rows = (await db.query(
		`SELECT offline_id AS id, captured_at AS paidAt, created_at AS askedAt, taken FROM payments
		 WHERE offline_id IS NOT NULL AND created_at >= ?`,
		{ replacements: [since], type: QueryTypes.SELECT }
	)) as { id: string; paidAt: number | null; askedAt: number; taken: number }[];
	return [...new Set(rows.map((row) => row.id))].map((id) => {
		const mine = rows.filter((row) => row.id === id);
		const days = mine
			.filter((row) => row.taken > 0 && row.paidAt !== null)
			.map((row) => (row.paidAt! - row.askedAt) / 86_400_000)
			.sort((a, b) => a - b);
		return {
			offlineId: id,
			chosen: mine.length,
			paid: days.length,
			days: days.length ? days[Math.floor((days.length - 1) / 2)]! : null
		};
	});
}

/** How many payments were begun since, whatever became of them. */
export const paymentsSince = (since: number): Promise<number> =>
	payments.model.count({ where: { createdAt: { [Op.gte]: since } } });

/** Payments of our own tills that a processor took, in live mode. */
export const capturedPayments = async (): Promise<PaymentRow[]> =>
	(await payments.model.findAll({
		where: { mode: 'live', connectionId: { [Op.ne]: null }, capturedAt: { [Op.ne]: null }, taken: { [Op.gt]: 0 } },
		raw: true
	})) as unknown as PaymentRow[];

/** Settled payments by their ids, for looking at single ones. */
export async function settledByIds(ids: readonly number[]): Promise<SettledPaymentRow[]> {
	const db = await open();
	return ids.length
		? ((await db.query(
				`SELECT id, file_id AS fileId, processor, processor_id AS processorId, source, captured_at AS capturedAt, method,
				 currency, minor, entry, scheme, funding, issuer, fee_currency AS feeCurrency, fee, base, refunded, disputed, ordered_at AS orderedAt
				 FROM settled_payments WHERE id IN (?) ORDER BY captured_at`,
				{ replacements: [ids], type: QueryTypes.SELECT }
			)) as SettledPaymentRow[])
		: [];
}

/** Captures of a connection in a stretch of time and before one payment, in their order: what tiers count. */
export async function capturesBefore(
	connectionId: string,
	from: number,
	to: number,
	before: number,
	tx?: Tx
): Promise<{ capturedAt: number; currency: string; taken: number; base: number | null }[]> {
	const db = await open();
	return (await db.query(
		`SELECT captured_at AS capturedAt, currency, taken, base_minor AS base FROM payments
		 WHERE captured_at >= ? AND captured_at <= ? AND connection_id = ? AND id <> ?
		 AND (captured_at < ? OR id < ?)`,
		{ replacements: [from, to, connectionId, before, to, before], type: QueryTypes.SELECT, transaction: tx }
	)) as { capturedAt: number; currency: string; taken: number; base: number | null }[];
}

/** One page of payers by name, paged by key; those whose name or mail holds a text. */
export async function pageOfPayers(
	text: string,
	after: { name: string; id: string } | undefined
): Promise<{ rows: PayerRow[]; more: boolean }> {
	const parts: unknown[] = [];
	if (text) {
		const part = `%${text.replace(/[\\%_]/g, '\\$&')}%`;
		parts.push({ [Op.or]: [{ name: { [Op.like]: part } }, { mail: { [Op.like]: part } }] });
	}
	if (after)
		parts.push({
			[Op.or]: [{ name: { [Op.gt]: after.name } }, { name: after.name, id: { [Op.gt]: after.id } }]
		});
	const rows = (await payers.model.findAll({
		where: { [Op.and]: parts } as never,
		order: [
			['name', 'ASC'],
			['id', 'ASC']
		],
		limit: PAGE + 1,
		raw: true
	})) as unknown as PayerRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

/** The groups of payers, by the payer's id. */
export async function membershipsOf(ids: readonly string[]): Promise<Map<string, string[]>> {
	const found = new Map<string, string[]>();
	if (!ids.length) return found;
	const rows = (await payerMemberships.model.findAll({
		where: { payerId: [...ids] },
		raw: true
	})) as unknown as PayerMembershipRow[];
	for (const row of rows) found.set(row.payerId, [...(found.get(row.payerId) ?? []), row.groupId]);
	return found;
}

/** How many payers each group has. */
export async function groupSizes(): Promise<Map<string, number>> {
	const db = await open();
	const rows = (await db.query(`SELECT group_id AS id, COUNT(*) AS n FROM payer_memberships GROUP BY group_id`, {
		type: QueryTypes.SELECT
	})) as { id: string; n: number }[];
	return new Map(rows.map((row) => [row.id, row.n]));
}

/** Recorded empty answers and refused cards of a till, the latest first. */
export const unmetSince = async (tillId: string, since: number): Promise<UnmetRow[]> =>
	(await unmet.model.findAll({
		where: { tillId, at: { [Op.gte]: since } },
		order: [['at', 'DESC']],
		limit: 20_000,
		raw: true
	})) as unknown as UnmetRow[];
