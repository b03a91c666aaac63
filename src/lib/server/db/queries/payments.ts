import { Op } from 'sequelize';
import { open, type Tx } from '../open';
import { select, selectLong } from './select';
import {
	orders,
	paymentKinds,
	payments,
	paymentRequests,
	type ActionRow,
	type OrderRow,
	type PaymentKindRow,
	type PaymentRequestRow,
	type PaymentRow
} from '../tables';

/** What tills' pages know of payments, by the payment's id. */
export async function requestsOf(ids: readonly number[]): Promise<Map<number, PaymentRequestRow>> {
	const rows = ids.length ? await paymentRequests.find({ paymentId: ids }) : [];
	return new Map(rows.map((row) => [row.paymentId, row]));
}

/** Kinds of payments by their id. */
export async function kindsByIds(ids: readonly number[]): Promise<Map<number, PaymentKindRow>> {
	const rows = ids.length ? await paymentKinds.find({ id: ids }) : [];
	return new Map(rows.map((row) => [row.id, row]));
}

/** Orders by their id. */
export async function ordersByIds(ids: readonly number[]): Promise<Map<number, OrderRow>> {
	const rows = ids.length ? await orders.find({ id: [...new Set(ids)] }) : [];
	return new Map(rows.map((row) => [row.id, row]));
}

/** Payments whose reference begins like a text, for finding; through the index on references. */
export const paymentsByReference = (text: string, limit: number): Promise<PaymentRow[]> =>
	payments.model.findAll({
		where: { reference: { [Op.gte]: text, [Op.lt]: `${text}\u{10ffff}`, [Op.ne]: '' } },
		order: [['reference', 'ASC']],
		limit,
		raw: true
	}) as unknown as Promise<PaymentRow[]>;

/** A payment by the token of its payer's page, with what that page knows. */
export async function paymentByToken(
	token: string
): Promise<{ payment: PaymentRow; request: PaymentRequestRow } | undefined> {
	const request = await paymentRequests.one({ token });
	const payment = request && (await payments.one({ id: request.paymentId }));
	return payment && { payment, request };
}

/** How many payments there are at each stage. Counted in the sums by day. */
export async function stageCounts(): Promise<Map<string, number>> {
	const rows = await select<{ stage: string; count: number }>(
		'SELECT stage, SUM(count) AS count FROM day_sums GROUP BY stage HAVING SUM(count) > 0',
		[]
	);
	return new Map(rows.map((row) => [row.stage, row.count]));
}

/** Sums of a stretch of days, by till, carrier, method and currency: what every screen adds up from. */
export interface DaySum {
	readonly tillId: string;
	/** a connection, an offline method, or a processor that is not connected */
	readonly carrier: string;
	readonly method: string;
	readonly currency: string;
	readonly count: number;
	/** how many of them brought money */
	readonly paid: number;
	readonly taken: number;
	readonly refunded: number;
	readonly disputed: number;
}
const CAME = `('part received', 'received', 'captured', 'settled', 'paid out', 'part refunded', 'refunded', 'disputed', 'returned')`;

/** @param from the first day, @param to the last, in the business's time zone */
export const sumsOfDays = (from: string, to: string): Promise<DaySum[]> =>
	select<DaySum>(
		`SELECT d.till_id AS tillId, d.carrier, d.method, d.currency, SUM(d.count) AS count,
		 SUM(CASE WHEN d.stage IN ${CAME} THEN d.count ELSE 0 END) AS paid, SUM(d.taken) AS taken, SUM(d.refunded) AS refunded,
		 SUM(d.disputed) AS disputed
		 FROM day_sums d WHERE d.day >= ? AND d.day <= ?
		 GROUP BY 1, 2, 3, 4 HAVING SUM(d.count) > 0`,
		[from, to]
	);

/** What takings a day are parted by. */
export type DayBy = 'till' | 'method' | 'connection' | 'currency';
const DAY_PARTS: Readonly<Record<DayBy, string>> = {
	till: 'till_id',
	method: 'method',
	connection: 'carrier',
	currency: 'currency'
};

/** Sums of each day, of payments that brought money, parted by one thing. */
export const daySumsBy = (
	by: DayBy,
	from: string,
	to: string
): Promise<
	{ day: string; part: string; currency: string; count: number; taken: number; refunded: number; disputed: number }[]
> =>
	select(
		`SELECT day, ${DAY_PARTS[by]} AS part, currency, SUM(count) AS count, SUM(taken) AS taken, SUM(refunded) AS refunded,
		 SUM(disputed) AS disputed FROM day_sums WHERE day >= ? AND day <= ? AND stage IN ${CAME}
		 GROUP BY 1, 2, 3 HAVING SUM(count) > 0 ORDER BY 1`,
		[from, to]
	);

/**
 * What is on its way, per stage and currency, of payments since a day: older ones that nobody told more of are not. The rest of what
 * was refunded in part counts as far as it has come.
 */
export const onItsWay = (since: string): Promise<{ stage: string; currency: string; count: number; minor: number }[]> =>
	select(
		`SELECT stage, currency, SUM(count) AS count, SUM(minor) AS minor FROM (
			SELECT stage, currency, count, CASE WHEN taken > 0 THEN taken - refunded - disputed ELSE minor END AS minor FROM day_sums
			WHERE day >= :since AND stage IN ('authorised', 'pending', 'captured', 'settled')
			UNION ALL SELECT CASE WHEN reached_step = 3 THEN 'settled' ELSE 'captured' END, currency, 1, taken - refunded - disputed
			FROM payments INDEXED BY payments_rest_awaited
			WHERE stage = 'part refunded' AND reached_step < 4 AND day >= :since AND mode = 'live' AND offline_id IS NULL)
		 GROUP BY 1, 2 HAVING SUM(count) > 0 ORDER BY 1, 3 DESC`,
		{ since }
	);

/**
 * Payments whose money is expected from a processor, the oldest first: what is late stands among them. What settlement files told is
 * settled by them: it is not waited for.
 */
export async function awaitedPayments(limit: number): Promise<PaymentRow[]> {
	const ids = await select<{ id: number }>(
		`SELECT id FROM payments INDEXED BY payments_awaited WHERE stage IN ('pending', 'captured', 'part refunded') AND origin <> 'file'
		 AND (stage <> 'part refunded' OR reached_step = 2) AND connection_id IS NOT NULL AND mode = 'live' AND trial_id IS NULL ORDER BY created_at, id LIMIT ?`,
		[limit]
	);
	return ids.length
		? payments.find(
				{ id: ids.map((one) => one.id) },
				{
					order: [
						['createdAt', 'ASC'],
						['id', 'ASC']
					]
				}
			)
		: [];
}

/**
 * What was begun before a moment of each connection and is still expected from it, by connection and currency.
 * @param before moments by connection, in milliseconds since 1970
 * @param agreed whether what payers have agreed to counts, too, and not only what is captured
 */
export const expectedBefore = (
	before: ReadonlyMap<string, number>,
	agreed: boolean
): Promise<{ connectionId: string; currency: string; count: number; minor: number }[]> =>
	select(
		`SELECT p.connection_id AS connectionId, p.currency, COUNT(*) AS count,
			SUM(CASE WHEN p.taken > 0 THEN p.taken - p.refunded ELSE p.minor END) AS minor
		 FROM payments p INDEXED BY payments_awaited
		 CROSS JOIN (SELECT json_extract(value, '$[0]') AS id, json_extract(value, '$[1]') AS at FROM json_each(:before)) b ON b.id = p.connection_id
		 WHERE p.stage IN (:stages) AND (p.stage = 'pending' OR p.reached_step = 2 AND p.taken > p.refunded)
			AND p.origin <> 'file' AND p.connection_id IS NOT NULL AND p.mode = 'live' AND p.trial_id IS NULL
			AND p.created_at < :latest AND COALESCE(p.captured_at, p.created_at) < b.at
		 GROUP BY 1, 2 ORDER BY 1, 2`,
		{
			before: JSON.stringify([...before]),
			stages: ['captured', 'part refunded', ...(agreed ? ['pending'] : [])],
			latest: Math.max(0, ...before.values())
		}
	);

/** Offline payments that are still to come, whole or in part, the newest first; those that a text means, where one is given. */
export async function receivablePayments(text: string, limit: number): Promise<PaymentRow[]> {
	const to = `${text}\u{10ffff}`;
	const ids = await select<{ id: number }>(
		`SELECT id FROM payments INDEXED BY payments_receivable WHERE offline_id IS NOT NULL AND stage IN ('requested', 'part received')
		 ${text ? `AND (reference >= :text AND reference < :to OR payer_name LIKE :like OR payer_mail >= :text AND payer_mail < :to)` : ''}
		 ORDER BY created_at DESC, id DESC LIMIT ${Math.trunc(limit)}`,
		{ text, to, like: `%${text.replace(/[%_]/g, '')}%` }
	);
	return ids.length
		? payments.find(
				{ id: ids.map((one) => one.id) },
				{
					order: [
						['createdAt', 'DESC'],
						['id', 'DESC']
					]
				}
			)
		: [];
}

/** Sums of one carrier over a stretch of days, by method and currency. */
export const sumsOfCarrier = (
	carrier: string,
	from: string,
	to: string
): Promise<Omit<DaySum, 'tillId' | 'carrier'>[]> =>
	select(
		`SELECT d.method, d.currency, SUM(d.count) AS count, SUM(CASE WHEN d.stage IN ${CAME} THEN d.count ELSE 0 END) AS paid,
		 SUM(d.taken) AS taken, SUM(d.refunded) AS refunded, SUM(d.disputed) AS disputed
		 FROM day_sums d WHERE d.carrier = ? AND d.day >= ? AND d.day <= ?
		 GROUP BY 1, 2 HAVING SUM(d.count) > 0`,
		[carrier, from, to]
	);

/** Payments of a connection whose end is awaited, by stage, with their sums per currency. */
export async function sumsAwaited(
	connectionId: string
): Promise<{ stage: string; count: number; sums: { currency: string; minor: number }[] }[]> {
	const rows = await select<{ stage: string; currency: string; count: number; minor: number }>(
		`SELECT d.stage, d.currency, SUM(d.count) AS count, SUM(d.minor) AS minor FROM day_sums d
		 WHERE d.carrier = ? AND d.stage IN ('authorised', 'pending', 'captured', 'settled')
		 GROUP BY d.stage, d.currency HAVING SUM(d.count) > 0 ORDER BY d.stage, d.currency`,
		[connectionId]
	);
	return [...new Set(rows.map((row) => row.stage))].map((stage) => {
		const mine = rows.filter((row) => row.stage === stage);
		return {
			stage,
			count: mine.reduce((sum, row) => sum + row.count, 0),
			sums: mine.map(({ currency, minor }) => ({ currency, minor }))
		};
	});
}

/** The middle of the days from the order to the money, of an offline method's payments since a moment. */
export async function middleDays(offlineId: string, since: number): Promise<number | null> {
	const rows = await select<{ days: number }>(
		`SELECT (captured_at - COALESCE(ordered_at, created_at)) / 86400000.0 AS days FROM payments
		 WHERE offline_id = ? AND created_at >= ? AND taken > 0 ORDER BY days`,
		[offlineId, since]
	);
	return rows.length ? rows[Math.floor((rows.length - 1) / 2)]!.days : null;
}

/** Fees that differ from what was expected, among the latest so many that do, by currency. */
export const feeDifferences = (since: number): Promise<{ currency: string; count: number; minor: number }[]> =>
	select(
		`SELECT fee_currency AS currency, COUNT(*) AS count, SUM(fee_difference) AS minor FROM payments
		 WHERE fee_difference <> 0 AND created_at >= ? AND mode = 'live' GROUP BY fee_currency ORDER BY count DESC`,
		[since]
	);

/** The id of a kind of payment; it is added where it is new. */
export async function kindIdOf(
	kind: Readonly<Record<'method' | 'currency' | 'entry' | 'scheme' | 'funding' | 'issuer', string>>,
	tx: Tx
): Promise<number> {
	const { method, currency, entry, scheme, funding, issuer } = kind;
	const values = [method, currency, entry, scheme, funding, issuer];
	const find = () =>
		select<{ id: number }>(
			`SELECT id FROM payment_kinds WHERE method = ? AND currency = ? AND entry = ? AND scheme = ? AND funding = ? AND issuer = ?`,
			values,
			tx
		);
	const [known] = await find();
	if (known) return known.id;
	await (
		await open()
	).query(`INSERT INTO payment_kinds (method, currency, entry, scheme, funding, issuer) VALUES (?, ?, ?, ?, ?, ?)`, {
		replacements: values,
		transaction: tx
	});
	return (await find())[0]!.id;
}

// Tiers

/** Gross captures of a connection on days from the first up to, without, the last; minor units of its settlement currency. */
export async function volumeOfDays(connectionId: string, from: string, before: string, tx?: Tx): Promise<number> {
	const [row] = await select<{ volume: number | null }>(
		`SELECT SUM(volume) AS volume FROM tier_volumes WHERE connection_id = ? AND day >= ? AND day < ?`,
		[connectionId, from, before],
		tx
	);
	return row?.volume ?? 0;
}

/** Gross captures of a day before one of its payments, in order of capture, then of the processor's id. */
export async function volumeOfDayBefore(
	connectionId: string,
	day: string,
	capturedAt: number,
	processorId: string,
	paymentId: number,
	tx?: Tx
): Promise<number> {
	const [row] = await select<{ volume: number | null }>(
		`SELECT SUM(COALESCE(base_minor, 0)) AS volume FROM payments
		 WHERE connection_id = ? AND account_day = ? AND captured_at <= ? AND id <> ?
		 AND (captured_at < ? OR COALESCE(processor_id, '') < ?)`,
		[connectionId, day, capturedAt, paymentId, capturedAt, processorId],
		tx
	);
	return row?.volume ?? 0;
}

/** Notes that what was captured at a connection after a moment, in the month of that day, must be priced anew. */
async function addRepricing(connectionId: string, month: string, after: number, tx: Tx): Promise<void> {
	await (
		await open()
	).query(
		`INSERT INTO repricings (connection_id, month, after) VALUES (?, ?, ?)
		 ON CONFLICT (connection_id, month) DO UPDATE SET after = MIN(after, excluded.after)`,
		{ replacements: [connectionId, month, after], transaction: tx }
	);
}

/** A capture that comes late moves what tiers made of the payments after it in its month, where there are any. */
export async function markLateCapture(connectionId: string, day: string, capturedAt: number, tx: Tx): Promise<void> {
	const month = day.slice(0, 7);
	const [later] = await select<{ id: number }>(
		`SELECT id FROM payments WHERE connection_id = ? AND account_day >= ? AND account_day < ? AND captured_at > ? LIMIT 1`,
		[connectionId, day, `${month}-99`, capturedAt],
		tx
	);
	if (later) await addRepricing(connectionId, month, capturedAt, tx);
}

/** Payments captured from a day on are priced by another contract now. */
export async function markRepricing(connectionId: string, from: string, tx: Tx): Promise<void> {
	const months = await select<{ month: string }>(
		`SELECT DISTINCT substr(day, 1, 7) AS month FROM tier_volumes WHERE connection_id = ? AND day >= ?`,
		[connectionId, `${from.slice(0, 7)}-01`],
		tx
	);
	for (const { month } of months) await addRepricing(connectionId, month, 0, tx);
}

/** A month of a connection whose payments must be priced anew. */
export interface Repricing {
	readonly connectionId: string;
	readonly month: string;
	readonly after: number;
}
export const dueRepricings = (limit: number): Promise<Repricing[]> =>
	select<Repricing>(
		`SELECT connection_id AS connectionId, month, after FROM repricings ORDER BY month, connection_id LIMIT ?`,
		[limit]
	);
export async function endRepricing({ connectionId, month, after }: Repricing, tx: Tx): Promise<void> {
	await (
		await open()
	).query(`DELETE FROM repricings WHERE connection_id = ? AND month = ? AND after = ?`, {
		replacements: [connectionId, month, after],
		transaction: tx
	});
	// what a month was charged is held against its payments, too
	await (
		await open()
	).query(
		`INSERT INTO fee_checks_due (connection_id, kind_id) SELECT $1, 0 WHERE EXISTS (SELECT 1 FROM account_charges WHERE connection_id = $1)
		 ON CONFLICT (connection_id, kind_id) DO UPDATE SET revision = revision + 1`,
		{ bind: [connectionId], transaction: tx }
	);
}

/** Captured payments of a connection's month with what prices them, in order of capture, then of the processor's id. */
export interface PricedRow {
	readonly id: number;
	readonly kindId: number;
	readonly currency: string;
	readonly taken: number;
	readonly refunded: number;
	readonly capturedAt: number;
	readonly accountDay: string;
	readonly base: number | null;
	readonly charged: number | null;
	/** as it was priced last */
	readonly expected: number | null;
	readonly feeCurrency: string | null;
}
type PricedCells = [
	id: number,
	kindId: number,
	currency: string,
	taken: number,
	refunded: number,
	capturedAt: number,
	accountDay: string,
	base: number | null,
	charged: number | null,
	expected: number | null,
	feeCurrency: string | null
];
/**
 * Payments of days of an account, both included, in order of capture. They are handed over as one text: an object from the
 * driver for each of thousands takes several times as long.
 */
export async function pricedRows(connectionId: string, from: string, to: string): Promise<PricedRow[]> {
	const [found] = await selectLong<{ list: string }>(
		`SELECT json_group_array(json_array(id, kind_id, currency, taken, refunded, captured_at, account_day, base_minor, charged_fee,
			expected_fee, fee_currency) ORDER BY captured_at, processor_id) AS list FROM payments
		 WHERE connection_id = ? AND account_day >= ? AND account_day <= ? AND taken > 0`,
		[connectionId, from, to]
	);
	return (JSON.parse(found?.list ?? '[]') as PricedCells[]).map(
		([id, kindId, currency, taken, refunded, capturedAt, accountDay, base, charged, expected, feeCurrency]) => ({
			id,
			kindId,
			currency,
			taken,
			refunded,
			capturedAt,
			accountDay,
			base,
			charged,
			expected,
			feeCurrency
		})
	);
}

// Actions

/** Actions to be asked after or to be sent now, of processors that are not being asked already, oldest first. */
export const dueActions = (
	now: number,
	busy: readonly string[],
	limit: number
): Promise<(ActionRow & { carrier: string })[]> =>
	select(
		`SELECT a.key, a.payment_id AS paymentId, a.act, a.content, a.minor, a.state, a.says, a.next_at AS nextAt, a.tries,
		 a.created_at AS createdAt, COALESCE(p.connection_id, '') AS carrier
		 FROM actions a JOIN payments p ON p.id = a.payment_id
		 WHERE a.state IN ('planned', 'unknown') AND a.next_at <= ? AND COALESCE(p.connection_id, '') NOT IN (?)
		 ORDER BY a.next_at LIMIT ?`,
		[now, busy.length ? busy : ['-'], limit]
	);

/** How many outcomes of a connection are not known. */
export async function openOutcomes(connectionId: string): Promise<number> {
	const [row] = await select<{ n: number }>(
		`SELECT COUNT(*) AS n FROM actions a JOIN payments p ON p.id = a.payment_id
		 WHERE a.state IN ('planned', 'unknown', 'stuck') AND p.connection_id = ?`,
		[connectionId]
	);
	return row!.n;
}

/** Outcomes that are not known, with their payment; the oldest first. */
export const openActions = (
	limit: number
): Promise<
	(Pick<ActionRow, 'key' | 'act' | 'minor' | 'state' | 'says' | 'paymentId'> & {
		reference: string;
		currency: string;
		processorId: string | null;
	})[]
> =>
	select(
		`SELECT a.key, a.act, a.minor, a.state, a.says, a.payment_id AS paymentId, p.reference, p.currency, p.processor_id AS processorId
		 FROM actions a JOIN payments p ON p.id = a.payment_id
		 WHERE a.state IN ('planned', 'unknown', 'stuck') AND a.state <> 'planned' ORDER BY a.created_at LIMIT ?`,
		[limit]
	);

/** Orders that more was paid for than asked. */
export const overpaidOrders = (
	limit: number
): Promise<{ id: number; reference: string; currency: string; over: number; paymentId: number; payments: number }[]> =>
	select(
		`SELECT o.id, o.reference, o.currency, o.paid - o.minor AS over,
		 (SELECT id FROM payments WHERE order_id = o.id AND taken > refunded ORDER BY captured_at DESC, id DESC LIMIT 1) AS paymentId,
		 (SELECT COUNT(*) FROM payments WHERE order_id = o.id AND taken > refunded) AS payments
		 FROM orders o WHERE o.paid > o.minor ORDER BY o.id DESC LIMIT ?`,
		[limit]
	);

/** Payments whose events contradict each other and that nobody has looked at since, the newest first. */
export const unseenContradictions = (
	limit: number
): Promise<
	{
		id: number;
		reference: string;
		processorId: string | null;
		currency: string;
		taken: number;
		contradiction: string;
	}[]
> =>
	select(
		`SELECT p.id, p.reference, p.processor_id AS processorId, p.currency, p.taken, p.contradiction FROM payments p
		 WHERE p.contradiction <> '' AND NOT EXISTS (SELECT 1 FROM seen_contradictions s WHERE s.payment_id = p.id AND s.contradiction = p.contradiction)
		 ORDER BY p.created_at DESC LIMIT ?`,
		[limit]
	);

/** Facts that were told otherwise than they were known, with their payment. */
export const unseenClashes = (
	limit: number
): Promise<
	{
		id: number;
		paymentId: number;
		kind: string;
		known: number;
		told: number;
		source: string;
		currency: string;
		reference: string;
		processorId: string | null;
	}[]
> =>
	select(
		`SELECT c.id, c.payment_id AS paymentId, c.kind, c.known_minor AS known, c.told_minor AS told, c.source, p.currency, p.reference,
		 p.processor_id AS processorId FROM fact_clashes c JOIN payments p ON p.id = c.payment_id
		 WHERE c.seen_at IS NULL ORDER BY c.id DESC LIMIT ?`,
		[limit]
	);

/** How many captured live payments there are, and on which days the first and last of them came. */
export async function daysReach(): Promise<{ count: number; from: string | null; to: string | null }> {
	const [row] = await select<{ count: number; from: string | null; to: string | null }>(
		`SELECT COALESCE(SUM(count), 0) AS count, MIN(day) AS "from", MAX(day) AS "to" FROM day_sums WHERE stage IN ${CAME} AND count > 0`,
		[]
	);
	return row!;
}

/** How many payments there are at all. */
export async function paymentCount(): Promise<number> {
	const [row] = await select<{ n: number }>('SELECT COALESCE(SUM(count), 0) AS n FROM day_sums', []);
	return row!.n;
}
