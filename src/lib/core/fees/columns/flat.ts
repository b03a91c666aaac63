import { PPM } from '../../money';
import { converted, slowBase } from './exact';
import type { Pricing } from './single';
import type { Tables } from './tables';

/** So many payments are looked at together; what is put aside of them stays in the processor's nearest cache. */
const BLOCK = 4_096;

/**
 * A card without tiers: every payment by itself. In a first pass over a block all are priced as if they were paid in the
 * card's own currency, with nothing to decide on the way but the clamps; in a second one those that are not, and the few
 * that this is not exact for. Deciding it payment by payment takes a fifth longer, calls for all of them half as long again;
 * one loop for every way of rounding a twentieth longer: measured side by side, four to twelve runs each.
 */
export function priceFlat(
	{ card, columns, tops, bottoms, even, each, one }: Pricing,
	tables: Tables,
	fees: Float64Array,
	bases: Float64Array | undefined
): void {
	const { kind, minor, rate, kinds, rates } = columns;
	const count = kind.length;
	const { near, ceiling, own, rest, fixed, low, high, foreign } = tables;
	// what the loop reads of a kind lies side by side
	const packed = new Float64Array(kinds.length * 8);
	for (let k = 0; k < kinds.length; k++) packed.set([near[k]!, own[k]!, fixed[k]!, low[k]!, high[k]!, rest[k]!], k * 8);
	const aside = new Uint32Array(BLOCK + 1);
	if (bases) bases.set(minor);
	for (let from = 0; from < count; from += BLOCK) {
		const to = Math.min(count, from + BLOCK);
		let many = 0;
		if (even) many = priceEven(columns, packed, fees, aside, from, to);
		else
			for (let n = from; n < to; n++) {
				const at = kind[n]! << 3;
				const paid = minor[n]!;
				let markup = paid * packed[at + 1]! + packed[at + 2]!;
				if (markup < packed[at + 3]!) markup = packed[at + 3]!;
				else if (markup > packed[at + 4]!) markup = packed[at + 4]!;
				fees[n] = Math.floor((markup + paid * packed[at + 5]!) / PPM);
				if (paid > packed[at]!) aside[many++] = n;
			}
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

/** The first pass where halves go to the even neighbour. @returns how many were put aside */
function priceEven(
	{ kind, minor }: Pricing['columns'],
	packed: Float64Array,
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
		fees[n] = exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
		if (paid > packed[at]!) aside[many++] = n;
	}
	return many;
}
