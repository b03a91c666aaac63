import { QueryTypes } from 'sequelize';
import { open, type Tx } from '../open';
import { select, selectLong } from './select';

/** Fees of a stretch, of one till, connection and kind; sums are minor units of `currency`, the account's own. */
export interface FeeSum {
	readonly month: string;
	readonly carrier: string;
	readonly tillId: string;
	readonly kindId: number;
	readonly currency: string;
	readonly count: number;
	/** captured, in the account's currency */
	readonly gross: number;
	/** charged, or expected where the processor has not told yet */
	readonly fee: number;
	/** payments whose fee the processor told */
	readonly told: number;
	readonly expected: number;
	/** payments that the contract prices */
	readonly priced: number;
	readonly difference: number;
	readonly differing: number;
}

/** Fees by month from the kept sums. @param from `YYYY-MM`, as `to`, both included */
export const feeMonths = (from: string, to: string): Promise<FeeSum[]> =>
	select<FeeSum>(
		`SELECT month, carrier, till_id AS tillId, kind_id AS kindId, currency, count, gross, fee, told, expected, priced, difference, differing
		 FROM fee_months WHERE month >= ? AND month <= ? AND count > 0`,
		[from, to]
	);

/** The same for a stretch of days within a month. @param from `YYYY-MM-DD`, as `to`, both included */
export const feesOfDays = (from: string, to: string): Promise<FeeSum[]> =>
	select<FeeSum>(
		`SELECT substr(day, 1, 7) AS month, carrier, till_id AS tillId, kind_id AS kindId, currency, SUM(count) AS count, SUM(gross) AS gross,
		 SUM(fee) AS fee, SUM(told) AS told, SUM(expected) AS expected, SUM(priced) AS priced, SUM(difference) AS difference, SUM(differing) AS differing
		 FROM fee_days WHERE day >= ? AND day <= ? GROUP BY 1, 2, 3, 4, 5 HAVING SUM(count) > 0`,
		[from, to]
	);

/**
 * Payments without an expected fee, by connection and currency, with what was charged for them. Those of months before the first
 * contract of their connection are one row, without a kind; the others stand by day and kind.
 */
export const unpricedDays = (): Promise<
	{
		from: string;
		to: string;
		carrier: string;
		kindId: number | null;
		currency: string;
		count: number;
		fee: number;
	}[]
> =>
	select(
		// what was charged for the others is what was expected of them, and by how much it differs
		`WITH firsts AS (SELECT connection_id AS carrier, MIN(valid_from) AS day FROM rate_cards WHERE role = 'contract' GROUP BY 1)
		 SELECT MIN(m.month) || '-01' AS "from", MAX(m.month) || '-01' AS "to", m.carrier AS carrier, m.currency AS currency, NULL AS kindId,
			SUM(m.count - m.priced) AS count, SUM(m.fee - m.expected - m.difference) AS fee
		 FROM fee_months m LEFT JOIN firsts f ON f.carrier = m.carrier
		 WHERE m.count > m.priced AND (f.day IS NULL OR m.month < substr(f.day, 1, 7)) GROUP BY m.carrier, m.currency
		 UNION ALL
		 SELECT d.day, d.day, d.carrier, d.currency, d.kind_id, SUM(d.count - d.priced), SUM(d.fee - d.expected - d.difference)
		 FROM (SELECT DISTINCT m.month, m.carrier FROM fee_months m JOIN firsts f ON f.carrier = m.carrier
			WHERE m.count > m.priced AND m.month >= substr(f.day, 1, 7)) m
		 CROSS JOIN fee_days d ON d.day >= m.month || '-01' AND d.day <= m.month || '-31' AND d.carrier = m.carrier
		 WHERE d.count > d.priced GROUP BY d.day, d.carrier, d.currency, d.kind_id`,
		[]
	);

/** The first and the last month in which anything was captured. */
export async function feeReach(): Promise<{ from: string; to: string } | undefined> {
	const [row] = await select<{ from: string | null; to: string | null }>(
		`SELECT MIN(month) AS "from", MAX(month) AS "to" FROM fee_months WHERE count > 0`,
		[]
	);
	return row?.from && row.to ? { from: row.from, to: row.to } : undefined;
}

/** Whether any payment was held against a contract yet. */
export async function isAnythingChecked(): Promise<boolean> {
	return (await select('SELECT 1 FROM fee_months WHERE priced > 0 LIMIT 1', [])).length > 0;
}

/** Charges of accounts of a stretch of days of those accounts, both included, by month and connection; they belong to no payment's own fee. */
export const accountFees = (
	from: string,
	to: string
): Promise<{ month: string; carrier: string; currency: string; kind: string; count: number; minor: number }[]> =>
	select(
		`SELECT substr(day, 1, 7) AS month, COALESCE(connection_id, processor) AS carrier, currency, kind,
		 COUNT(*) AS count, SUM(minor) AS minor FROM account_charges
		 WHERE day >= ? AND day <= ? GROUP BY 1, 2, 3, 4`,
		[from, to]
	);

/** Charges of accounts that came before the first contract of their connection, by connection and currency. */
export const chargesWithoutContract = (): Promise<
	{ connectionId: string; currency: string; count: number; minor: number; from: string; to: string }[]
> =>
	select(
		`SELECT c.connection_id AS connectionId, c.currency, COUNT(*) AS count, SUM(c.minor) AS minor,
		 substr(MIN(c.day), 1, 7) AS "from", substr(MAX(c.day), 1, 7) AS "to"
		 FROM account_charges c WHERE c.connection_id IN (SELECT id FROM connections) AND c.kind IN ('monthly', 'payout', 'refund', 'dispute')
			AND NOT EXISTS (SELECT 1 FROM rate_cards r WHERE r.connection_id = c.connection_id AND r.role = 'contract'
				AND r.valid_from <= c.day) GROUP BY 1, 2`,
		[]
	);

/** What of connections and kinds the fee check has not looked at since it changed. */
export interface DueFeeCheck {
	readonly connectionId: string;
	readonly kindId: number;
	/** moves on with every change, also while it is looked at */
	readonly revision: number;
}
export const dueFeeChecks = (limit: number): Promise<DueFeeCheck[]> =>
	select(`SELECT connection_id AS connectionId, kind_id AS kindId, revision FROM fee_checks_due LIMIT ?`, [limit]);

/** One payment that was charged otherwise than expected. */
export interface DifferingRow {
	readonly id: number;
	readonly day: string;
	readonly currency: string;
	readonly taken: number;
	readonly refunded: number;
	readonly expected: number;
	readonly charged: number;
	readonly rateCardId: number;
	readonly feeCurrency: string;
	readonly capturedAt: number;
}
/** Payments of a connection and a kind that differ, in order of capture. */
export const differingRows = (connectionId: string, kindId: number): Promise<DifferingRow[]> =>
	selectLong<DifferingRow>(
		`SELECT id, account_day AS day, currency, taken, refunded, expected_fee AS expected, charged_fee AS charged,
		 rate_card_id AS rateCardId, fee_currency AS feeCurrency, captured_at AS capturedAt
		 FROM payments WHERE connection_id = ? AND kind_id = ? AND fee_difference <> 0 AND mode = 'live' AND rate_card_id IS NOT NULL
			AND account_day IS NOT NULL ORDER BY captured_at, id`,
		[connectionId, kindId]
	);

/** Payments of found discrepancies, with what they are charged and expected now. */
export interface HeldPayment {
	readonly discrepancyId: number;
	readonly paymentId: number;
	readonly state: string;
	readonly expected: number;
	readonly charged: number;
	readonly corrected: number;
	readonly expectedNow: number | null;
	readonly chargedNow: number | null;
}
export const heldPayments = (connectionId: string, kindId: number, tx: Tx): Promise<HeldPayment[]> =>
	select<HeldPayment>(
		`SELECT d.id AS discrepancyId, x.payment_id AS paymentId, d.state, x.expected, x.charged, x.corrected,
		 p.expected_fee AS expectedNow, p.charged_fee AS chargedNow
		 FROM discrepancies d JOIN discrepancy_payments x ON x.discrepancy_id = d.id JOIN payments p ON p.id = x.payment_id
		 WHERE d.connection_id = ? AND x.kind_id = ?`,
		[connectionId, kindId],
		tx
	);

/** Adds payments to discrepancies: a JSON list of [discrepancy, payment, kind, day, expected, charged]. */
export async function addHeld(rows: readonly (readonly unknown[])[], transaction: Tx): Promise<void> {
	if (!rows.length) return;
	await (
		await open()
	).query(
		`INSERT OR REPLACE INTO discrepancy_payments (discrepancy_id, payment_id, kind_id, day, expected, charged)
		 SELECT value ->> 0, value ->> 1, value ->> 2, value ->> 3, value ->> 4, value ->> 5 FROM json_each($1)`,
		{ bind: [JSON.stringify(rows)], transaction }
	);
}
/** Notes what of single payments was corrected: a JSON list of [discrepancy, payment, corrected]. */
export async function noteCorrected(rows: readonly (readonly unknown[])[], transaction: Tx): Promise<void> {
	if (!rows.length) return;
	await (
		await open()
	).query(
		`UPDATE discrepancy_payments SET corrected = told.corrected FROM
		 (SELECT value ->> 0 AS d, value ->> 1 AS p, value ->> 2 AS corrected FROM json_each($1)) told
		 WHERE discrepancy_id = told.d AND payment_id = told.p`,
		{ bind: [JSON.stringify(rows)], transaction }
	);
}
/** Takes payments out of discrepancies: a JSON list of [discrepancy, payment]. */
export async function dropHeld(rows: readonly (readonly unknown[])[], transaction: Tx): Promise<void> {
	if (!rows.length) return;
	await (
		await open()
	).query(
		`DELETE FROM discrepancy_payments WHERE (discrepancy_id, payment_id) IN (SELECT value ->> 0, value ->> 1 FROM json_each($1))`,
		{ bind: [JSON.stringify(rows)], transaction }
	);
}

/** Adds up what discrepancies hold, from their payments. */
export async function sumHeld(ids: readonly number[], transaction: Tx): Promise<void> {
	if (!ids.length) return;
	await (
		await open()
	).query(
		`UPDATE discrepancies SET first_day = s.first, last_day = s.last, count = s.n, over = s.over, under = s.under, corrected = s.corrected
		 FROM (SELECT h.id, MIN(day) AS first, MAX(day) AS last, COUNT(*) AS n, SUM(MAX(charged - expected, 0)) AS over,
			SUM(MAX(expected - charged, 0)) AS under,
			SUM(corrected) + COALESCE((SELECT -SUM(minor) FROM discrepancy_adjustments a WHERE a.discrepancy_id = h.id), 0) AS corrected
			FROM (SELECT discrepancy_id AS id, day, expected, charged, corrected FROM discrepancy_payments
				WHERE discrepancy_id IN (SELECT value FROM json_each($1))
				UNION ALL SELECT discrepancy_id, day, expected, charged, 0 FROM discrepancy_charges
				WHERE discrepancy_id IN (SELECT value FROM json_each($1))) h GROUP BY 1) s WHERE discrepancies.id = s.id`,
		{ bind: [JSON.stringify(ids)], transaction }
	);
}
/** Ends the look at a connection and a kind, unless something changed meanwhile. */
export async function endFeeCheck({ connectionId, kindId, revision }: DueFeeCheck, transaction: Tx): Promise<void> {
	await (
		await open()
	).query(`DELETE FROM fee_checks_due WHERE connection_id = ? AND kind_id = ? AND revision = ?`, {
		replacements: [connectionId, kindId, revision],
		type: QueryTypes.DELETE,
		transaction
	});
}

/** Kinds of the payments of a discrepancy, with how many of each. */
export const kindsOfDiscrepancy = (id: number): Promise<{ kindId: number; count: number }[]> =>
	select(
		`SELECT kind_id AS kindId, COUNT(*) AS count FROM discrepancy_payments WHERE discrepancy_id = ? GROUP BY 1 ORDER BY 2 DESC`,
		[id]
	);

/** Payments or charges of a discrepancy, in order of day and id, page by page. */
export interface EvidenceRow {
	/** where the next page goes on */
	readonly place: number;
	/** 0 for a charge that belongs to no payment */
	readonly paymentId: number;
	readonly processorId: string;
	readonly day: string;
	readonly currency: string;
	readonly taken: number;
	readonly refunded: number;
	readonly base: number | null;
	readonly feeCurrency: string;
	readonly expected: number;
	readonly charged: number;
	readonly corrected: number;
	readonly scheme: string;
	readonly funding: string;
	readonly issuer: string;
	readonly method: string;
	readonly reference: string;
}
export const evidenceOf = (
	id: number,
	after: { day: string; id: number } | undefined,
	limit: number
): Promise<EvidenceRow[]> =>
	select<EvidenceRow>(
		`SELECT x.payment_id AS place, x.payment_id AS paymentId, COALESCE(p.processor_id, '') AS processorId, x.day, p.currency, p.taken, p.refunded,
		 p.base_minor AS base, p.fee_currency AS feeCurrency, x.expected, x.charged, x.corrected, k.scheme, k.funding, k.issuer, k.method, p.reference
		 FROM discrepancy_payments x JOIN payments p ON p.id = x.payment_id JOIN payment_kinds k ON k.id = x.kind_id
		 WHERE x.discrepancy_id = ? ${after ? 'AND (x.day, x.payment_id) > (?, ?)' : ''} ORDER BY x.day, x.payment_id LIMIT ?`,
		[id, ...(after ? [after.day, after.id] : []), limit]
	);
/** The same of a discrepancy of charges: what each is for stands in the processor's id, its kind in the method. */
export const chargeEvidenceOf = (
	id: number,
	after: { day: string; id: number } | undefined,
	limit: number
): Promise<EvidenceRow[]> =>
	select<EvidenceRow>(
		`SELECT x.id AS place, COALESCE(c.payment_id, 0) AS paymentId, COALESCE(c.object, x.key) AS processorId, x.day, d.currency, 0 AS taken,
		 0 AS refunded, NULL AS base, d.currency AS feeCurrency, x.expected, x.charged, 0 AS corrected, '' AS scheme, '' AS funding, '' AS issuer,
		 substr(x.key, 1, instr(x.key, ' ') - 1) AS method, COALESCE(c.says, '') AS reference
		 FROM discrepancy_charges x JOIN discrepancies d ON d.id = x.discrepancy_id LEFT JOIN account_charges c ON c.id = x.charge_id
		 WHERE x.discrepancy_id = ? ${after ? 'AND (x.day, x.id) > (?, ?)' : ''} ORDER BY x.day, x.id LIMIT ?`,
		[id, ...(after ? [after.day, after.id] : []), limit]
	);

/** Charges that discrepancies of a connection hold. */
export interface HeldCharge {
	readonly id: number;
	readonly discrepancyId: number;
	readonly state: string;
	readonly key: string;
	readonly expected: number;
	readonly charged: number;
}
export const heldCharges = (connectionId: string, tx: Tx): Promise<HeldCharge[]> =>
	select<HeldCharge>(
		`SELECT x.id, x.discrepancy_id AS discrepancyId, d.state, x.key, x.expected, x.charged
		 FROM discrepancies d JOIN discrepancy_charges x ON x.discrepancy_id = d.id WHERE d.connection_id = ?`,
		[connectionId],
		tx
	);

/** How many payments of kinds a connection took in a stretch of days: those that were charged rightly among them. */
export async function countOfKinds(
	connectionId: string,
	kinds: readonly number[],
	from: string,
	to: string
): Promise<number> {
	if (!kinds.length) return 0;
	const [row] = await selectLong<{ n: number }>(
		`SELECT COUNT(*) AS n FROM payments WHERE connection_id = ? AND account_day >= ? AND account_day <= ? AND kind_id IN (?) AND taken > 0
		 AND mode = 'live'`,
		[connectionId, from, to, kinds]
	);
	return row?.n ?? 0;
}

/** Adjustments of an account that have corrected no discrepancy yet, the oldest first; below zero where money comes back. */
export const freeAdjustments = (
	connectionId: string,
	tx: Tx
): Promise<{ id: number; at: number; currency: string; minor: number; says: string; paymentId: number | null }[]> =>
	select(
		`SELECT c.id, c.at, c.currency, c.minor, c.says, c.payment_id AS paymentId FROM account_charges c
		 WHERE c.connection_id = ? AND c.kind = 'adjustment' AND NOT EXISTS (SELECT 1 FROM discrepancy_adjustments a WHERE a.charge_id = c.id)
		 ORDER BY c.at, c.id`,
		[connectionId],
		tx
	);
/** Discrepancies that hold a payment and are not closed, the newest first. */
export const discrepanciesOfPayment = (paymentId: number, tx?: Tx): Promise<{ id: number; state: string }[]> =>
	select(
		`SELECT d.id, d.state FROM discrepancy_payments x JOIN discrepancies d ON d.id = x.discrepancy_id WHERE x.payment_id = ? ORDER BY d.id DESC`,
		[paymentId],
		tx
	);

/** Adds charges to discrepancies: a JSON list of [discrepancy, key, charge or null, day, expected, charged]. */
export async function addHeldCharges(rows: readonly (readonly unknown[])[], transaction: Tx): Promise<void> {
	if (!rows.length) return;
	await (
		await open()
	).query(
		`INSERT INTO discrepancy_charges (discrepancy_id, key, charge_id, day, expected, charged)
		 SELECT value ->> 0, value ->> 1, value ->> 2, value ->> 3, value ->> 4, value ->> 5 FROM json_each($1)`,
		{ bind: [JSON.stringify(rows)], transaction }
	);
}
/** Takes charges out of discrepancies, by their ids here. */
export async function dropHeldCharges(ids: readonly number[], transaction: Tx): Promise<void> {
	if (!ids.length) return;
	await (
		await open()
	).query(`DELETE FROM discrepancy_charges WHERE id IN (SELECT value FROM json_each($1))`, {
		bind: [JSON.stringify(ids)],
		transaction
	});
}

/** Discrepancies that hold a charge of an account, the newest first. */
export const discrepanciesOfCharge = (connectionId: string, key: string): Promise<{ id: number; state: string }[]> =>
	select(
		`SELECT d.id, d.state FROM discrepancies d JOIN discrepancy_charges x ON x.discrepancy_id = d.id
		 WHERE d.connection_id = ? AND x.key = ? ORDER BY d.id DESC`,
		[connectionId, key]
	);

/** Payments of a stretch of days by till, method and stage, in their own currency, from the day sums. */
export const stagesOfMethods = (
	from: string,
	to: string
): Promise<{ tillId: string; method: string; currency: string; stage: string; count: number; taken: number }[]> =>
	select(
		`SELECT till_id AS tillId, method, currency, stage, SUM(count) AS count, SUM(taken) AS taken FROM day_sums
		 WHERE day >= ? AND day <= ? GROUP BY 1, 2, 3, 4 HAVING SUM(count) > 0`,
		[from, to]
	);
/**
 * How many payments of a till came after so many whole days from their order, by method, currency, connection and day of capture
 * in UTC, days since 1970; what was recorded by hand, too.
 */
export const daysToMoney = (
	tillId: string,
	from: number,
	to: number
): Promise<
	{
		method: string;
		currency: string;
		carrier: string;
		capturedDay: number;
		days: number | null;
		count: number;
		taken: number;
		byHand: number;
	}[]
> =>
	selectLong(
		`SELECT method, currency, COALESCE(connection_id, '') AS carrier, captured_at / 86400000 AS capturedDay, SUM(taken) AS taken,
		 CASE WHEN ordered_at IS NOT NULL THEN MAX(0, (captured_at - ordered_at) / 86400000) END AS days, COUNT(*) AS count,
		 SUM(offline_id IS NOT NULL AND origin = 'till') AS byHand
		 FROM payments WHERE captured_at >= ? AND captured_at < ? AND till_id = ? AND mode = 'live' GROUP BY 1, 2, 3, 4, 6`,
		[from, to, tillId]
	);
/**
 * Orders of a till that chose a method and brought no money, by method. What is on its way, and what waits for an offline
 * payment, is not given up.
 * @param to the last moment of choosing: a day before now at the latest
 */
export const givenUpOrders = (
	tillId: string,
	from: number,
	to: number
): Promise<{ method: string; orders: number }[]> =>
	selectLong(
		`SELECT p.method, COUNT(DISTINCT p.order_id) AS orders FROM payments p
		 WHERE p.till_id = ? AND p.created_at >= ? AND p.created_at < ? AND p.order_id IS NOT NULL AND p.mode = 'live' AND p.taken = 0
			AND (p.stage IN ('failed', 'voided', 'expired') OR (p.stage = 'requested' AND p.offline_id IS NULL))
			AND NOT EXISTS (SELECT 1 FROM payments q WHERE q.order_id = p.order_id
				AND (q.taken > 0 OR q.stage IN ('pending', 'authorised', 'part received') OR (q.stage = 'requested' AND q.offline_id IS NOT NULL)))
		 GROUP BY 1`,
		[tillId, from, to]
	);
