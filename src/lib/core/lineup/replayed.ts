import { VERDICTS, type Replayed, type Verdict } from './replay';

// What a replay came to: payments by verdict, moves between carriers, fees under both line-ups, single payments behind.

/** Payments of one till out of a whole history, as columns of their own. */
export interface TillPast {
	readonly count: number;
	readonly kind: Uint16Array;
	readonly minor: Float64Array;
	readonly day: Uint16Array;
	/** ids of the payments */
	readonly row: Float64Array;
	/** places in the whole history */
	readonly place: Uint32Array;
}
interface WholeColumns {
	readonly count: number;
	readonly kind: Uint16Array;
	readonly minor: Float64Array;
	readonly day: Uint16Array;
	readonly row: Float64Array;
}

/**
 * Takes some kinds of payments out of a history.
 * @param isMine by kind, @param range places between which they lie
 */
export function takeKinds(
	whole: WholeColumns,
	isMine: readonly boolean[],
	[from, to]: readonly [number, number]
): TillPast {
	let count = 0;
	for (let n = from; n < to; n++) if (isMine[whole.kind[n]!]) count++;
	const past: TillPast = {
		count,
		kind: new Uint16Array(count),
		minor: new Float64Array(count),
		day: new Uint16Array(count),
		row: new Float64Array(count),
		place: new Uint32Array(count)
	};
	let at = 0;
	for (let n = from; n < to; n++) {
		if (!isMine[whole.kind[n]!]) continue;
		past.kind[at] = whole.kind[n]!;
		past.minor[at] = whole.minor[n]!;
		past.day[at] = whole.day[n]!;
		past.row[at] = whole.row[n]!;
		past.place[at] = n;
		at++;
	}
	return past;
}

/** Payments of one verdict, with their sums in minor units by currency. */
export interface VerdictSums {
	readonly verdict: Verdict;
	readonly count: number;
	readonly sums: readonly { readonly currency: string; readonly minor: number; readonly count: number }[];
}
export function sumVerdicts(
	past: Pick<TillPast, 'count' | 'kind' | 'minor'>,
	verdict: Replayed['verdict'],
	currencyOf: (kind: number) => string
): VerdictSums[] {
	const sums = VERDICTS.map(() => new Map<string, { minor: number; count: number }>());
	for (let n = 0; n < past.count; n++) {
		const currency = currencyOf(past.kind[n]!);
		const sum = sums[verdict[n]!]!;
		const one = sum.get(currency) ?? { minor: 0, count: 0 };
		one.minor += past.minor[n]!;
		one.count++;
		sum.set(currency, one);
	}
	return VERDICTS.map((name, v) => ({
		verdict: name,
		count: [...sums[v]!.values()].reduce((all, one) => all + one.count, 0),
		sums: [...sums[v]!].map(([currency, one]) => ({ currency, ...one }))
	}));
}

/** How many payments went from one carrier to another, the most first; carriers by their place in `carriers`. */
export function countMoves(
	count: number,
	{ verdict, before, after }: Pick<Replayed, 'verdict' | 'before' | 'after'>
): { from: number; to: number; count: number }[] {
	const moves = new Map<string, { from: number; to: number; count: number }>();
	const other = VERDICTS.indexOf('other route');
	for (let n = 0; n < count; n++) {
		if (verdict[n] !== other) continue;
		const [from, to] = [before[n]!, after[n]!];
		const key = `${from} ${to}`;
		const one = moves.get(key) ?? { from, to, count: 0 };
		one.count++;
		moves.set(key, one);
	}
	return [...moves.values()].sort((a, b) => b.count - a.count);
}

/** The latest payments of each verdict, by their places in the past. */
export function latestByVerdict(count: number, verdict: Replayed['verdict'], most: number): Map<Verdict, number[]> {
	const found = new Map<Verdict, number[]>();
	for (let n = count - 1; n >= 0; n--) {
		const name = VERDICTS[verdict[n]!]!;
		const list = found.get(name) ?? [];
		if (list.length < most) list.push(n);
		found.set(name, list);
	}
	return found;
}

/** Fees of the same payments under two line-ups, in minor units of one settlement currency. */
export interface FeeSums {
	readonly currency: string;
	readonly count: number;
	readonly before: number;
	readonly after: number;
}
/** One payment that both line-ups take: what settles it, empty for what costs no fee, and its fee, −1 where it has no price. */
export interface FeePair {
	readonly before: { readonly settles: string; readonly fee: number };
	readonly after: { readonly settles: string; readonly fee: number };
}

/** Adds up fees by settlement currency. A payment that one side cannot price, or that settles otherwise, stands beside. */
export function sumFees(pairs: Iterable<FeePair>): { fees: FeeSums[]; unpriced: number } {
	const sums = new Map<string, { currency: string; count: number; before: number; after: number }>();
	let unpriced = 0;
	for (const { before, after } of pairs) {
		// an offline way costs no fee
		const a = before.settles ? before.fee : 0;
		const b = after.settles ? after.fee : 0;
		if (a < 0 || b < 0 || (before.settles && after.settles && before.settles !== after.settles)) {
			unpriced++;
			continue;
		}
		const currency = before.settles || after.settles;
		if (!currency) continue;
		const one = sums.get(currency) ?? { currency, count: 0, before: 0, after: 0 };
		one.count++;
		one.before += a;
		one.after += b;
		sums.set(currency, one);
	}
	return { fees: [...sums.values()], unpriced };
}
