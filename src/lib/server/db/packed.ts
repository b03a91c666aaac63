import { QueryTypes } from 'sequelize';
import { open, write, type Tx } from './open';

/** What tells one kind of past payment from another, before a rate card says what counts as regional. */
export interface PackedKind {
	readonly method: string;
	readonly currency: string;
	readonly entry: string;
	readonly scheme: string;
	readonly funding: string;
	readonly issuer: string;
	/** the till, by the name that the settlement file gives it */
	readonly source: string;
}

/** A calendar month (UTC) of settled payments as columns, in order of capture, then of id. */
export interface PackedMonth {
	readonly month: string;
	readonly count: number;
	readonly kinds: readonly PackedKind[];
	readonly at: Float64Array;
	readonly minor: Float64Array;
	readonly refunded: Float64Array;
	readonly id: Float64Array;
	readonly kind: Uint16Array;
}

const BYTES = 4 * 8 + 2;
const SLICE = 4_000;

/** Says that months have other payments than before: they are packed anew before they are next read. */
export async function markStale(months: Iterable<string>, transaction: Tx): Promise<void> {
	const db = await open();
	for (const month of months)
		await db.query(
			`INSERT INTO packed_months (month) VALUES (?)
			 ON CONFLICT (month) DO UPDATE SET columns = NULL, count = 0, kinds = '[]'`,
			{ replacements: [month], transaction }
		);
}

/** Packs the months that are missing or old. @returns how many */
export async function packMonths(): Promise<number> {
	const db = await open();
	const stale = (await db.query(`SELECT month FROM packed_months WHERE columns IS NULL ORDER BY month`, {
		type: QueryTypes.SELECT
	})) as { month: string }[];
	for (const { month } of stale) {
		const from = Date.parse(`${month}-01T00:00:00Z`);
		const to = Date.UTC(Number(month.slice(0, 4)), Number(month.slice(5, 7)), 1);
		const [{ count }] = (await db.query(
			`SELECT COUNT(*) AS count FROM settled_payments WHERE captured_at >= ? AND captured_at < ?`,
			{ replacements: [from, to], type: QueryTypes.SELECT }
		)) as [{ count: number }];
		const blob = Buffer.alloc(count * BYTES);
		const { at, minor, refunded, id, kind } = columnsOf(blob, count);
		const kinds: PackedKind[] = [];
		const index = new Map<string, number>();
		// a slice at a time: whoever pays meanwhile waits for no more than one
		let [n, after, afterId] = [0, from, 0];
		while (n < count) {
			const rows = (await db.query(
				`SELECT id, captured_at AS at, minor, refunded, method, currency, entry, scheme, funding, issuer, source
				 FROM settled_payments WHERE (captured_at, id) > (?, ?) AND captured_at < ? ORDER BY captured_at, id LIMIT ?`,
				{ replacements: [after, afterId, to, Math.min(SLICE, count - n)], type: QueryTypes.SELECT }
			)) as (PackedKind & { id: number; at: number; minor: number; refunded: number })[];
			if (!rows.length) break;
			for (const row of rows) {
				const key = `${row.method} ${row.currency} ${row.entry} ${row.scheme} ${row.funding} ${row.issuer} ${row.source}`;
				let k = index.get(key);
				if (k === undefined) {
					const { method, currency, entry, scheme, funding, issuer, source } = row;
					k = kinds.push({ method, currency, entry, scheme, funding, issuer, source }) - 1;
					index.set(key, k);
				}
				at[n] = row.at;
				minor[n] = row.minor;
				refunded[n] = row.refunded;
				id[n] = row.id;
				kind[n] = k;
				n++;
			}
			({ at: after, id: afterId } = rows.at(-1)!);
		}
		// a file that came meanwhile has marked the month again: then it stays to be packed once more
		await write((transaction) =>
			db.query(
				`UPDATE packed_months SET count = ?, kinds = ?, columns = ? WHERE month = ?
				 AND (SELECT COUNT(*) FROM settled_payments WHERE captured_at >= ? AND captured_at < ?) = ?`,
				{ replacements: [count, JSON.stringify(kinds), blob, month, from, to, count], transaction }
			)
		);
	}
	return stale.length;
}

function columnsOf(blob: Uint8Array, count: number) {
	// a copy where the bytes do not lie as the columns need them
	const bytes = blob.byteOffset % 8 === 0 ? blob : Uint8Array.from(blob);
	const at = (n: number) => bytes.byteOffset + n * 8 * count;
	return {
		at: new Float64Array(bytes.buffer, at(0), count),
		minor: new Float64Array(bytes.buffer, at(1), count),
		refunded: new Float64Array(bytes.buffer, at(2), count),
		id: new Float64Array(bytes.buffer, at(3), count),
		kind: new Uint16Array(bytes.buffer, at(4), count)
	};
}

/** All settled payments as columns, month by month in their order. */
export async function packedMonths(): Promise<PackedMonth[]> {
	await packMonths();
	const db = await open();
	const rows = (await db.query(`SELECT month, count, kinds, columns FROM packed_months ORDER BY month`, {
		type: QueryTypes.SELECT
	})) as { month: string; count: number; kinds: string; columns: Buffer }[];
	return rows.map(({ month, count, kinds, columns }) => ({
		month,
		count,
		kinds: JSON.parse(kinds) as PackedKind[],
		...columnsOf(columns, count)
	}));
}

/** When the last payment was captured, of settlement files or our own tills. */
export async function lastCapture(): Promise<number | undefined> {
	const db = await open();
	const [row] = (await db.query(
		`SELECT (SELECT captured_at FROM settled_payments ORDER BY captured_at DESC LIMIT 1) AS a,
		 (SELECT captured_at FROM payments WHERE captured_at IS NOT NULL ORDER BY captured_at DESC LIMIT 1) AS b`,
		{ type: QueryTypes.SELECT }
	)) as { a: number | null; b: number | null }[];
	return Math.max(row?.a ?? 0, row?.b ?? 0) || undefined;
}

/** How many payments there are, of settlement files by their sums and of our own tills by the last one; and declined attempts. */
export async function pastCounts(): Promise<readonly [files: number, own: number, events: number, declined: number]> {
	const db = await open();
	const [row] = (await db.query(
		`SELECT (SELECT COALESCE(SUM(fresh), 0) FROM settlement_files) AS files,
		 (SELECT COALESCE(SUM(declined), 0) FROM settlement_files) AS declined,
		 (SELECT COUNT(*) FROM payments WHERE captured_at IS NOT NULL) AS own,
		 (SELECT COALESCE(MAX(id), 0) FROM payment_events) AS events`,
		{ type: QueryTypes.SELECT }
	)) as { files: number; own: number; events: number; declined: number }[];
	return [row!.files, row!.own, row!.events, row!.declined];
}
