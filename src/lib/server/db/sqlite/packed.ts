import { QueryTypes } from 'sequelize';
import type { PastKind } from '../../../core/fees';
import { open, openForLongReads, write } from '../open';

/** What tells one kind of past payment from another, before a rate card says what counts as regional. */
export interface PackedKind extends PastKind {
	/** the till's id; empty where a settlement file names a place that stands for no till */
	readonly till: string;
	/** what a settlement file calls the place; empty for our own tills */
	readonly source: string;
	/** the connection, the offline method, or a processor that is not connected */
	readonly carrier: string;
	/** 1 where no processor carries it */
	readonly offline: number;
}

/** A calendar month (UTC) of captured payments as columns, in order of capture, then of id. */
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

interface Stale {
	readonly month: string;
	readonly revision: number;
}

/** Packs the months that have changed since they were packed, as far as each is due when its turn comes. @returns how many */
export async function packMonths(isDue: (month: string) => boolean = () => true): Promise<number> {
	const db = await open();
	const stale = (await db.query(`SELECT month, revision FROM packed_months WHERE packed <> revision ORDER BY month`, {
		type: QueryTypes.SELECT
	})) as Stale[];
	let count = 0;
	for (const one of stale) {
		if (!isDue(one.month)) continue;
		await packMonth(one);
		count++;
	}
	return count;
}

async function packMonth({ month, revision }: Stale): Promise<void> {
	const db = await openForLongReads();
	const from = Date.parse(`${month}-01T00:00:00Z`);
	const to = Date.UTC(Number(month.slice(0, 4)), Number(month.slice(5, 7)), 1);
	const [{ count }] = (await db.query(
		`SELECT COUNT(*) AS count FROM payments WHERE captured_at >= ? AND captured_at < ? AND mode = 'live'`,
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
			`SELECT p.id, p.captured_at AS at, p.taken AS minor, p.refunded, p.kind_id AS kindId, COALESCE(p.till_id, '') AS till, p.source,
			 COALESCE(p.connection_id, p.offline_id, p.processor) AS carrier, p.offline_id IS NOT NULL AS offline
			 FROM payments p WHERE (p.captured_at, p.id) > (?, ?) AND p.captured_at < ? AND p.mode = 'live'
			 ORDER BY p.captured_at, p.id LIMIT ?`,
			{ replacements: [after, afterId, to, Math.min(SLICE, count - n)], type: QueryTypes.SELECT }
		)) as (Pick<PackedKind, 'till' | 'source' | 'carrier' | 'offline'> & {
			id: number;
			at: number;
			minor: number;
			refunded: number;
			kindId: number;
		})[];
		if (!rows.length) break;
		for (const row of rows) {
			const key = `${row.kindId} ${row.till} ${row.carrier} ${row.source}`;
			let k = index.get(key);
			if (k === undefined) {
				const { till, source, carrier, offline } = row;
				k = kinds.push({ ...(await kindOf(row.kindId)), till, source, carrier, offline }) - 1;
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
	// what came meanwhile has moved the revision on: then the month stays to be packed once more
	const writer = await open();
	await write(
		(transaction) =>
			writer.query(`UPDATE packed_months SET packed = $1, count = $2, kinds = $3, columns = $4 WHERE month = $5`, {
				bind: [revision, n, JSON.stringify(kinds), n === count ? blob : shortened(blob, count, n), month],
				transaction
			}),
		{ isPatient: true }
	);
}

type KindColumns = Pick<PackedKind, 'method' | 'currency' | 'entry' | 'scheme' | 'funding' | 'issuer'>;
const kindsById = new Map<number, KindColumns>();
async function kindOf(id: number): Promise<KindColumns> {
	const known = kindsById.get(id);
	if (known) return known;
	const [row] = (await (
		await open()
	).query(`SELECT method, currency, entry, scheme, funding, issuer FROM payment_kinds WHERE id = ?`, {
		replacements: [id],
		type: QueryTypes.SELECT
	})) as KindColumns[];
	kindsById.set(id, row!);
	return row!;
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

/** The columns of fewer rows: some went while they were read. */
function shortened(blob: Buffer, count: number, n: number): Buffer {
	const [from, short] = [columnsOf(blob, count), Buffer.alloc(n * BYTES)];
	const to = columnsOf(short, n);
	for (const name of ['at', 'minor', 'refunded', 'id'] as const) to[name].set(from[name].subarray(0, n));
	to.kind.set(from.kind.subarray(0, n));
	return short;
}

/** All captured payments as columns, month by month in their order. */
export async function packedMonths(): Promise<PackedMonth[]> {
	await packMonths();
	const db = await openForLongReads();
	const rows = (await db.query(
		`SELECT month, count, kinds, columns FROM packed_months WHERE columns IS NOT NULL ORDER BY month`,
		{ type: QueryTypes.SELECT }
	)) as { month: string; count: number; kinds: string; columns: Buffer }[];
	return rows.map(({ month, count, kinds, columns }) => ({
		month,
		count,
		kinds: JSON.parse(kinds) as PackedKind[],
		...columnsOf(columns, count)
	}));
}

/** When the last payment was captured. */
export async function lastCapture(): Promise<number | undefined> {
	const [row] = (await (
		await open()
	).query(`SELECT MAX(captured_at) AS at FROM payments WHERE captured_at IS NOT NULL`, {
		type: QueryTypes.SELECT
	})) as { at: number | null }[];
	return row?.at ?? undefined;
}

/** Something that differs whenever past payments, or what happened to them, do. */
export async function pastStamp(): Promise<string> {
	const [row] = (await (
		await open()
	).query(
		`SELECT (SELECT COUNT(*) || '-' || COALESCE(SUM(revision), 0) FROM packed_months) AS months,
		 (SELECT COALESCE(MAX(id), 0) FROM payment_events) AS events,
		 (SELECT COALESCE(MAX(id), 0) FROM payments) AS payments`,
		{ type: QueryTypes.SELECT }
	)) as { months: string; events: number; payments: number }[];
	return `${row!.months} ${row!.events} ${row!.payments}`;
}

/** How many captured payments there are, by what was packed and what is still to be packed. */
export async function pastCount(): Promise<number> {
	const [row] = (await (
		await open()
	).query(`SELECT COALESCE(SUM(count), 0) AS n FROM tier_volumes`, { type: QueryTypes.SELECT })) as { n: number }[];
	return row!.n;
}
