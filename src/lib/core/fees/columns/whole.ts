import { PPM } from '../../money';
import type { Pricing } from './single';
import type { Tables } from './tables';

/**
 * `whole` tiers: all of a month's payments by the tier that it reached. A card that rounds part by part is written out
 * within the loop, since it is what such tiers mostly come with; called
 * instead, a million payments take 1.7 to 1.9 times as long: measured side by side, eleven runs each.
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
	const plainEach = each && !even;
	// what the loop reads of a kind lies side by side
	const packs = tiers.map((tables) => {
		const packed = new Float64Array(columns.kinds.length * 8);
		for (let k = 0; k < columns.kinds.length; k++)
			packed.set(
				[
					tables.ceiling[k]!,
					tables.own[k]!,
					tables.fixedWhole[k]!,
					tables.lowWhole[k]!,
					tables.highWhole[k]!,
					tables.interchange[k]!,
					tables.scheme[k]!,
					tables.conversion[k]!
				],
				k * 8
			);
		return packed;
	});
	// without it one month's bases at a time are enough, and stay at hand
	const taken = bases ?? new Float64Array(largestMonth(month, count));
	// month by month: what one came to is known before its payments are priced, while they are still at hand
	for (let from = 0; from < count;) {
		const now = month[from]!;
		const off = bases ? 0 : from;
		let [volume, to] = [0, from];
		for (; to < count && month[to] === now; to++) {
			const k = kind[to]!;
			const base = foreign[k] === 1 ? baseOf(to, k) : minor[to]!;
			taken[to - off] = base;
			// what has no line counts for tiers all the same; what has no rate cannot
			if (base >= 0) volume += base;
		}
		const tier = tierAt(volume);
		const tables = tiers[tier]!;
		const packed = packs[tier]!;
		for (let n = from; n < to; n++) {
			const k = kind[n]!;
			const base = taken[n - off]!;
			const at = k << 3;
			if (!plainEach || !(base >= 0 && base <= packed[at]!)) {
				fees[n] = one(tables, n, k, base, -1, linesOf[tier]!);
				continue;
			}
			// part by part, halves up or everything up: the same as `one`, without a call
			let fee = Math.floor((base * packed[at + 1]! + bias) / PPM) + packed[at + 2]!;
			if (fee < packed[at + 3]!) fee = packed[at + 3]!;
			else if (fee > packed[at + 4]!) fee = packed[at + 4]!;
			const interchange = packed[at + 5]!;
			const scheme = packed[at + 6]!;
			const conversion = packed[at + 7]!;
			if (interchange > 0) fee += Math.floor((base * interchange + bias) / PPM);
			if (scheme > 0) fee += Math.floor((base * scheme + bias) / PPM);
			if (conversion > 0) fee += Math.floor((base * conversion + bias) / PPM);
			if (intermediary > 0) fee += Math.floor((base * intermediary + bias) / PPM);
			fees[n] = fee;
		}
		from = to;
	}
}

/** How many payments the largest month has; months never fall. */
function largestMonth(month: Uint16Array, count: number): number {
	let most = 0;
	for (let from = 0; from < count;) {
		// the first of a later month, found by halving
		let [low, high] = [from + 1, count];
		while (low < high) {
			const middle = (low + high) >> 1;
			if (month[middle] === month[from]) low = middle + 1;
			else high = middle;
		}
		most = Math.max(most, low - from);
		from = low;
	}
	return most;
}
