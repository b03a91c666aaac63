import { PPM } from '../../money';
import { converted, slowBase } from './exact';
import type { Pricing } from './single';
import type { Tables } from './tables';

/** So many payments are looked at together; what is put aside of them stays in the processor's nearest cache. */
const BLOCK = 4_096;

/** What the first pass over a block reads and writes. */
interface Pass {
	readonly kind: Uint16Array;
	readonly minor: Float64Array;
	/** of each kind, side by side: bound, own percentage, fixed part, minimum, maximum, other percentages, all percentages */
	readonly packed: Float64Array;
	readonly fees: Float64Array;
	/** places of what is looked at again */
	readonly aside: Uint32Array;
}

/**
 * A card without tiers: every payment by itself. In a first pass over a block all are priced as if they were paid in the
 * card's own currency, with nothing to decide on the way but what the card asks for; in a second one those that are not, and
 * the few that this is not exact for. Deciding it payment by payment takes a fifth longer, calls for all of them half as long
 * again; one first pass for all cards, which clamps and looks for ties, a sixth: measured side by side, three to twelve runs each.
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
	const packed = new Float64Array(kinds.length * 8);
	for (let k = 0; k < kinds.length; k++)
		packed.set([near[k]!, own[k]!, fixed[k]!, low[k]!, high[k]!, rest[k]!, own[k]! + rest[k]!], k * 8);
	const pass: Pass = { kind, minor, packed, fees, aside: new Uint32Array(BLOCK + 1) };
	const { aside } = pass;
	const isClamped = low.some((one) => one > 0) || high.some((one) => one < Infinity);
	const first = even ? passEven : isClamped ? passClamped : passOpen;
	if (bases) bases.set(minor);
	for (let from = 0; from < count; from += BLOCK) {
		const many = first(pass, from, Math.min(count, from + BLOCK));
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

/** Percentages and a fixed part, and nothing that bounds them. @returns how many were put aside */
function passOpen({ kind, minor, packed, fees, aside }: Pass, from: number, to: number): number {
	let many = 0;
	for (let n = from; n < to; n++) {
		const at = kind[n]! << 3;
		const paid = minor[n]!;
		fees[n] = Math.floor((paid * packed[at + 6]! + packed[at + 2]!) / PPM);
		if (paid > packed[at]!) aside[many++] = n;
	}
	return many;
}

/** The same where some line has a minimum or a maximum. @returns how many were put aside */
function passClamped({ kind, minor, packed, fees, aside }: Pass, from: number, to: number): number {
	let many = 0;
	for (let n = from; n < to; n++) {
		const at = kind[n]! << 3;
		const paid = minor[n]!;
		let markup = paid * packed[at + 1]! + packed[at + 2]!;
		if (markup < packed[at + 3]!) markup = packed[at + 3]!;
		else if (markup > packed[at + 4]!) markup = packed[at + 4]!;
		fees[n] = Math.floor((markup + paid * packed[at + 5]!) / PPM);
		if (paid > packed[at]!) aside[many++] = n;
	}
	return many;
}

/** The same where halves go to the even neighbour. @returns how many were put aside */
function passEven({ kind, minor, packed, fees, aside }: Pass, from: number, to: number): number {
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
