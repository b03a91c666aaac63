import { QueryTypes } from 'sequelize';
import { open } from './open';
import type { PackedKind } from './packed';

/** Milliseconds since 1970, the first included, the last not. */
export type Span = readonly [number, number];

/** So many of a kind of payment, with what their processors charged for it. */
export interface KindCount extends PackedKind {
	readonly count: number;
}
export interface DeclinedCount extends KindCount {
	readonly reason: string;
}
/** The columns by which past payments are told apart. */
const KIND = 'method, currency, entry, scheme, funding, issuer, source';

const select = async <T>(text: string, replacements: unknown[]): Promise<T[]> =>
	(await (await open()).query(text, { replacements, type: QueryTypes.SELECT })) as T[];

/** An own till's payment as a settlement file would tell it; card details are kept as JSON. */
const OWN = (what: string) => `
	SELECT p.id, p.method, p.currency, p.minor, 'online' AS entry, p.failure AS reason,
		COALESCE(NULLIF(json_extract(p.card, '$.scheme'), ''), 'unknown') AS scheme,
		COALESCE(NULLIF(json_extract(p.card, '$.funding'), ''), 'unknown') AS funding,
		COALESCE(NULLIF(json_extract(p.card, '$.issuerCountry'), ''), 'unknown') AS issuer,
		t.name AS source, MIN(e.at) AS at
	FROM payment_events e JOIN payments p ON p.id = e.payment_id JOIN tills t ON t.id = p.till_id
	WHERE e.kind = '${what}' AND e.at >= ? AND e.at < ? AND p.mode = 'live' AND p.connection_id IS NOT NULL
	GROUP BY p.id`;

/** Disputed payments of a stretch, counted by kind; those of our own tills by the day of the dispute. */
export const disputesWithin = (span: Span): Promise<KindCount[]> =>
	select<KindCount>(
		`SELECT ${KIND}, COUNT(*) AS count FROM (
			SELECT ${KIND} FROM settled_payments WHERE disputed > 0 AND captured_at >= ? AND captured_at < ?
			UNION ALL SELECT ${KIND} FROM (${OWN('disputed')})
		) GROUP BY ${KIND}`,
		[...span, ...span]
	);

/** Declined attempts of a stretch, counted by kind and by what was said of them. */
export const declinedWithin = (span: Span): Promise<DeclinedCount[]> =>
	select<DeclinedCount>(
		`SELECT ${KIND}, reason, COUNT(*) AS count FROM (
			SELECT ${KIND}, reason FROM declined_attempts WHERE at >= ? AND at < ?
			UNION ALL SELECT ${KIND}, reason FROM (${OWN('failed')})
		) GROUP BY ${KIND}, reason`,
		[...span, ...span]
	);

/** How many payments came so many times 24 hours after they were ordered, where that is told. */
export const delaysWithin = (span: Span): Promise<{ days: number; method: string; count: number }[]> =>
	select(
		`SELECT (captured_at - ordered_at) / 86400000 AS days, method, COUNT(*) AS count FROM settled_payments
		 WHERE ordered_at IS NOT NULL AND captured_at >= ? AND captured_at < ? GROUP BY days, method ORDER BY days`,
		[...span]
	);

/** Payments of a stretch that were refunded, by currency. */
export const refundsWithin = (span: Span): Promise<{ currency: string; count: number; minor: number }[]> =>
	select(
		`SELECT currency, COUNT(*) AS count, SUM(refunded) AS minor FROM (
			SELECT currency, refunded FROM settled_payments WHERE refunded > 0 AND captured_at >= ? AND captured_at < ?
			UNION ALL SELECT currency, refunded FROM payments WHERE refunded > 0 AND captured_at >= ? AND captured_at < ?
				AND mode = 'live' AND connection_id IS NOT NULL
		) GROUP BY currency ORDER BY count DESC`,
		[...span, ...span]
	);

/** One payment or attempt behind a count. */
export interface BehindRow {
	/** settled payments and declined attempts of files above zero, those of our own tills below */
	readonly row: number;
	/** the processor's id; empty for those of our own tills */
	readonly processorId: string;
	readonly processor: string;
	readonly at: number;
	readonly orderedAt: number | null;
	readonly method: string;
	readonly source: string;
	readonly currency: string;
	readonly minor: number;
	readonly refunded: number;
	readonly disputed: number;
	readonly reason: string;
}
export const BEHIND = ['refunded', 'disputed', 'declined', 'late'] as const;
export type Behind = (typeof BEHIND)[number];
/** Ordered so many days before it came, a payment is late. */
export const LATE_DAYS = 14;

const SETTLED = `SELECT id AS "row", processor_id AS processorId, processor, captured_at AS at, ordered_at AS orderedAt, method,
	source, currency, minor, refunded, disputed, '' AS reason FROM settled_payments`;
const OWN_ROWS = (what: string) =>
	`SELECT -id AS "row", '' AS processorId, '' AS processor, at, NULL AS orderedAt, method, source, currency, minor,
	 0 AS refunded, ${what === 'disputed' ? 'minor' : '0'} AS disputed, reason FROM (${OWN(what)})`;
const WITHIN = 'captured_at >= ? AND captured_at < ?';

/** Payments or attempts of a stretch behind a count, the latest first, from the `skip`-th on; one more tells that there are more. */
export function behindWithin(what: Behind, span: Span, skip: number, limit: number): Promise<BehindRow[]> {
	const text = {
		refunded: `${SETTLED} WHERE refunded > 0 AND ${WITHIN}
			UNION ALL SELECT -p.id, '', '', p.captured_at, NULL, p.method, t.name, p.currency, p.minor, p.refunded, 0, ''
			FROM payments p JOIN tills t ON t.id = p.till_id
			WHERE p.refunded > 0 AND p.captured_at >= ? AND p.captured_at < ? AND p.mode = 'live' AND p.connection_id IS NOT NULL`,
		disputed: `${SETTLED} WHERE disputed > 0 AND ${WITHIN} UNION ALL ${OWN_ROWS('disputed')}`,
		declined: `SELECT id AS "row", processor_id AS processorId, processor, at, NULL AS orderedAt, method, source, currency,
			minor, 0 AS refunded, 0 AS disputed, reason FROM declined_attempts WHERE at >= ? AND at < ?
			UNION ALL ${OWN_ROWS('failed')}`,
		late: `${SETTLED} WHERE ordered_at IS NOT NULL AND captured_at - ordered_at >= ${LATE_DAYS * 86_400_000} AND ${WITHIN}`
	}[what];
	return select<BehindRow>(`SELECT * FROM (${text}) ORDER BY at DESC, "row" LIMIT ? OFFSET ?`, [
		...span,
		...(what === 'late' ? [] : span),
		limit + 1,
		skip
	]);
}
