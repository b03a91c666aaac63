import { QueryTypes } from 'sequelize';
import { openForLongReads } from './open';
import type { PackedKind } from './sqlite/packed';

/** Milliseconds since 1970, the first included, the last not. */
export type Span = readonly [number, number];

/** So many of a kind of payment. */
export interface KindCount extends PackedKind {
	readonly count: number;
}
export interface DeclinedCount extends KindCount {
	readonly reason: string;
}

const select = async <T>(text: string, replacements: unknown[]): Promise<T[]> =>
	(await (await openForLongReads()).query(text, { replacements, type: QueryTypes.SELECT })) as T[];

/** The columns by which past payments are told apart. */
const KIND = `k.method, k.currency, k.entry, k.scheme, k.funding, k.issuer, COALESCE(p.till_id, '') AS till, p.source,
	COALESCE(p.connection_id, p.offline_id, p.processor) AS carrier, p.offline_id IS NOT NULL AS offline`;
/** Payments that a processor carries, and that are money. */
const CARRIED = `FROM payments p JOIN payment_kinds k ON k.id = p.kind_id WHERE p.mode = 'live' AND p.offline_id IS NULL`;

/** Disputed payments of a stretch, counted by kind. */
export const disputesWithin = (span: Span): Promise<KindCount[]> =>
	select<KindCount>(
		`SELECT ${KIND}, COUNT(*) AS count ${CARRIED} AND p.disputed > 0 AND p.stage <> 'returned' AND p.captured_at IS NOT NULL
		 AND p.captured_at >= ? AND p.captured_at < ? GROUP BY p.kind_id, till, p.source, carrier`,
		[...span]
	);

/** Declined attempts of a stretch, counted by kind and by what was said of them. */
export const declinedWithin = (span: Span): Promise<DeclinedCount[]> =>
	select<DeclinedCount>(
		`SELECT ${KIND}, p.failure AS reason, COUNT(*) AS count ${CARRIED} AND p.stage = 'failed' AND p.created_at >= ? AND p.created_at < ?
		 GROUP BY p.kind_id, till, p.source, carrier, p.failure`,
		[...span]
	);

/** Ordered so many days before it came, a payment is late. */
export const LATE_DAYS = 14;
const LATER = 'p.ordered_at < p.captured_at - 86400000';

/** How many payments came so many times 24 hours after they were ordered, where that is told. */
export const delaysWithin = (span: Span): Promise<{ days: number; method: string; count: number }[]> =>
	select(
		`SELECT (p.captured_at - p.ordered_at) / 86400000 AS days, p.method, COUNT(*) AS count FROM payments p
		 WHERE ${LATER} AND p.captured_at >= ? AND p.captured_at < ? AND p.mode = 'live' AND p.offline_id IS NULL
		 GROUP BY days, p.method ORDER BY days`,
		[...span]
	);

/** Payments of a stretch that were refunded, by currency. */
export const refundsWithin = (span: Span): Promise<{ currency: string; count: number; minor: number }[]> =>
	select(
		`SELECT p.currency, COUNT(*) AS count, SUM(p.refunded) AS minor FROM payments p
		 WHERE p.refunded > 0 AND p.captured_at IS NOT NULL AND p.captured_at >= ? AND p.captured_at < ? AND p.mode = 'live'
		 AND p.offline_id IS NULL GROUP BY p.currency ORDER BY count DESC`,
		[...span]
	);

/** One payment or attempt behind a count. */
export interface BehindRow {
	/** id of the payment */
	readonly row: number;
	readonly processorId: string;
	readonly processor: string;
	readonly at: number;
	readonly orderedAt: number | null;
	readonly method: string;
	/** the till's name, or what a settlement file calls the place */
	readonly source: string;
	readonly currency: string;
	readonly minor: number;
	readonly refunded: number;
	readonly disputed: number;
	readonly reason: string;
}
export const BEHIND = ['refunded', 'disputed', 'declined', 'late'] as const;
export type Behind = (typeof BEHIND)[number];

const ROW = `SELECT p.id AS "row", COALESCE(p.processor_id, '') AS processorId, p.processor, COALESCE(p.captured_at, p.created_at) AS at,
	CASE WHEN ${LATER} THEN p.ordered_at END AS orderedAt, p.method, COALESCE(t.name, p.source) AS source, p.currency,
	CASE p.taken WHEN 0 THEN p.minor ELSE p.taken END AS minor, p.refunded, p.disputed, p.failure AS reason
	FROM payments p LEFT JOIN tills t ON t.id = p.till_id`;
const WHERE: Readonly<Record<Behind, string>> = {
	refunded: 'p.refunded > 0 AND p.captured_at IS NOT NULL AND p.captured_at >= ? AND p.captured_at < ?',
	disputed: 'p.disputed > 0 AND p.captured_at IS NOT NULL AND p.captured_at >= ? AND p.captured_at < ?',
	declined: `p.stage = 'failed' AND p.created_at >= ? AND p.created_at < ?`,
	late: `${LATER} AND p.captured_at - p.ordered_at >= ${LATE_DAYS * 86_400_000} AND p.captured_at >= ? AND p.captured_at < ?`
};

/** Payments or attempts of a stretch behind a count, the latest first, from the `skip`-th on; one more tells that there are more. */
export const behindWithin = (what: Behind, span: Span, skip: number, limit: number): Promise<BehindRow[]> =>
	select<BehindRow>(
		`${ROW} WHERE ${WHERE[what]} AND p.mode = 'live' AND p.offline_id IS NULL ORDER BY at DESC, p.id LIMIT ? OFFSET ?`,
		[...span, limit + 1, skip]
	);

/** Single payments by their ids, for looking behind a figure. */
export const rowsByIds = (ids: readonly number[]): Promise<BehindRow[]> =>
	ids.length ? select<BehindRow>(`${ROW} WHERE p.id IN (?)`, [ids]) : Promise.resolve([]);
