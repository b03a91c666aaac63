import { BLOCK, loadBlock, packKinds, priceByParts, storeFees } from './block';
import type { Pricing } from './single';
import type { Tables } from './tables';

/**
 * `whole` tiers: all of a month's payments by the tier that it reached.
 * @param tiers tables of the lines without a limit, then of those from each limit on
 * @param bases filled with the base of each payment, where given
 */
export function priceWhole(
	{ card, columns, even, each, bias, one, baseOf }: Pricing,
	tiers: readonly Tables[],
	tierAt: (volume: number) => number,
	fees: Float64Array,
	bases: Float64Array | undefined
): void {
	const { kind, minor } = columns;
	const month = columns.month!;
	const { intermediary } = card;
	const linesOf = [card.lines, ...card.tiers!.steps.map((step) => step.lines)];
	const count = kind.length;
	const { foreign } = tiers[0]!;
	// only part by part, halves up or everything up, has a loop: it is what such tiers mostly come with
	const hasLoop = each && !even;
	// without it one month's bases at a time are enough, and stay at hand
	const taken = bases ?? new Float64Array(largestMonth(month, count));
	let packedTier = -1;
	// month by month: what one came to is known before its payments are priced, while they are still at hand
	for (let from = 0; from < count;) {
		const to = endOfMonth(month, from, count);
		const off = bases ? 0 : from;
		let volume = 0;
		for (let n = from; n < to; n++) {
			const k = kind[n]!;
			const base = foreign[k] === 1 ? baseOf(n, k) : minor[n]!;
			taken[n - off] = base;
			// what has no line counts for tiers all the same; what has no rate cannot
			if (base >= 0) volume += base;
		}
		const tier = tierAt(volume);
		const tables = tiers[tier]!;
		const exact = (n: number) => {
			fees[n] = one(tables, n, kind[n]!, taken[n - off]!, -1, linesOf[tier]!);
		};
		if (!hasLoop) for (let n = from; n < to; n++) exact(n);
		else {
			if (tier !== packedTier) packKinds(columns.kinds.length, (k) => partsOf(tables, k));
			packedTier = tier;
			for (let at = from; at < to; at += BLOCK) {
				const many = loadBlock(kind.subarray(at), taken.subarray(at - off), 0, Math.min(to - at, BLOCK));
				storeFees(fees, at, many, priceByParts(many, bias, intermediary), exact);
			}
		}
		from = to;
	}
}

/** What the loop reads of a kind, in its order. */
const partsOf = (tables: Tables, k: number) => [
	tables.ceiling[k]!,
	tables.own[k]!,
	tables.fixedWhole[k]!,
	tables.lowWhole[k]!,
	tables.highWhole[k]!,
	tables.interchange[k]!,
	tables.scheme[k]!,
	tables.conversion[k]!
];

/** Where the payments of a later month begin, found by halving; months never fall. */
function endOfMonth(month: Uint16Array, from: number, count: number): number {
	let [low, high] = [from + 1, count];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (month[middle] === month[from]) low = middle + 1;
		else high = middle;
	}
	return low;
}

/** How many payments the largest month has. */
function largestMonth(month: Uint16Array, count: number): number {
	let most = 0;
	for (let from = 0; from < count;) {
		const to = endOfMonth(month, from, count);
		most = Math.max(most, to - from);
		from = to;
	}
	return most;
}
