import { PPM } from '../../money';
import { converted, slowBase } from './exact';
import type { Pricing } from './single';
import type { Tables } from './tables';

/** So many payments are looked at together; what is put aside of them stays in the processor's nearest cache. */
const BLOCK = 4_096;

/**
 * A card without tiers: every payment by itself. In a first pass over a block all are priced as if they were paid in the
 * card's own currency, with nothing to decide on the way but the clamps; in a second one those that are not, and the few
 * that this is not exact for. Where no part of the fee stands beside the line's own percentage, and no payment is so large
 * that doubles are not exact, the first pass reads less.
 */
export function priceFlat(
	{ card, columns, tops, bottoms, even, each, one }: Pricing,
	tables: Tables,
	fees: Float64Array,
	bases: Float64Array | undefined
): void {
	const { kind, minor, rate, kinds, rates, most } = columns;
	const count = kind.length;
	const { near, ceiling, own, rest, fixed, low, high, foreign } = tables;
	const isPlain =
		!even && most !== undefined && near.every((bound, k) => bound < 0 || (bound >= most && rest[k] === 0));
	// what the loop reads of a kind lies side by side; what is no number is priced in the second pass
	const packed = new Float64Array(kinds.length * (isPlain ? 4 : 8));
	for (let k = 0; k < kinds.length; k++)
		if (isPlain) packed.set([near[k]! < 0 ? NaN : own[k]!, fixed[k]!, low[k]!, high[k]!], k * 4);
		else packed.set([near[k]!, own[k]!, fixed[k]!, low[k]!, high[k]!, rest[k]!], k * 8);
	const aside = new Uint32Array(BLOCK + 1);
	if (bases) bases.set(minor);
	for (let from = 0; from < count; from += BLOCK) {
		const to = Math.min(count, from + BLOCK);
		const many = isPlain
			? priceOwn(kind, minor, packed, fees, aside, from, to)
			: priceMixed(kind, minor, packed, even, fees, aside, from, to);
		for (let m = 0; m < many; m++) {
			const n = aside[m]!;
			const k = kind[n]!;
			const paid = minor[n]!;
			const base = foreign[k] === 1 ? converted(paid, tops[rate[n]!]!, bottoms[rate[n]!]!) : paid;
			if (bases) bases[n] = base >= 0 ? base : slowBase(card, kinds[k]!, paid, rates[rate[n]!]);
			if (each || !(base >= 0 && base <= ceiling[k]!)) {
				fees[n] = one(tables, n, k, base, -1, card.lines);
				continue;
			}
			let markup = base * own[k]! + fixed[k]!;
			if (markup < low[k]!) markup = low[k]!;
			else if (markup > high[k]!) markup = high[k]!;
			const exact = markup + base * rest[k]!;
			const fee = Math.floor(exact / PPM);
			fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
		}
	}
}

/** Prices a block by the line's own percentage alone. @returns how many were put aside */
function priceOwn(
	kind: Uint16Array,
	minor: Float64Array,
	packed: Float64Array,
	fees: Float64Array,
	aside: Uint32Array,
	from: number,
	to: number
): number {
	let many = 0;
	for (let n = from; n < to; n++) {
		const at = kind[n]! << 2;
		let exact = minor[n]! * packed[at]! + packed[at + 1]!;
		if (exact < packed[at + 2]!) exact = packed[at + 2]!;
		else if (exact > packed[at + 3]!) exact = packed[at + 3]!;
		const fee = Math.floor(exact / PPM);
		fees[n] = fee;
		if (fee !== fee) aside[many++] = n;
	}
	return many;
}

/** Prices a block by all that counts. @returns how many were put aside */
function priceMixed(
	kind: Uint16Array,
	minor: Float64Array,
	packed: Float64Array,
	even: boolean,
	fees: Float64Array,
	aside: Uint32Array,
	from: number,
	to: number
): number {
	let many = 0;
	for (let n = from; n < to; n++) {
		const at = kind[n]! << 3;
		const paid = minor[n]!;
		let markup = paid * packed[at + 1]! + packed[at + 2]!;
		if (markup < packed[at + 3]!) markup = packed[at + 3]!;
		else if (markup > packed[at + 4]!) markup = packed[at + 4]!;
		const exact = markup + paid * packed[at + 5]!;
		const fee = Math.floor(exact / PPM);
		// a tie goes up; to the even neighbour it goes down again where that is the odd one
		fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
		if (paid > packed[at]!) aside[many++] = n;
	}
	return many;
}
