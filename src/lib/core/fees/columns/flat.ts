import { PPM } from '../../money';
import { converted, slowBase } from './exact';
import type { Pricing } from './single';
import type { Tables } from './tables';

/**
 * A card without tiers: every payment by itself. The two commonest kinds of line are written out within the loop: `one` is
 * called for the others. Calls for them, too, make a million payments take 1.6 to 2.1 times as long: measured side by side, eleven runs each.
 */
export function priceFlat(
	{ card, columns, tops, bottoms, even, each, one }: Pricing,
	tables: Tables,
	fees: Float64Array,
	bases: Float64Array | undefined
): void {
	const { kind, minor, rate, kinds, rates } = columns;
	const count = kind.length;
	const { plain, clamped, ceiling, own, rest, all, fixed, low, high, foreign } = tables;
	// what the loop reads of a kind lies side by side
	const packed = new Float64Array(kinds.length * 8);
	for (let k = 0; k < kinds.length; k++)
		packed.set([plain[k]!, all[k]!, fixed[k]!, clamped[k]!, own[k]!, low[k]!, high[k]!, rest[k]!], k * 8);
	for (let n = 0; n < count; n++) {
		const k = kind[n]!;
		const at = k << 3;
		const paid = minor[n]!;
		if (paid <= packed[at]!) {
			// a tie goes up; to the even neighbour it goes down again where that is the odd one
			const exact = paid * packed[at + 1]! + packed[at + 2]!;
			const fee = Math.floor(exact / PPM);
			fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
			if (bases) bases[n] = paid;
			continue;
		}
		if (paid <= packed[at + 3]!) {
			let markup = paid * packed[at + 4]! + packed[at + 2]!;
			if (markup < packed[at + 5]!) markup = packed[at + 5]!;
			else if (markup > packed[at + 6]!) markup = packed[at + 6]!;
			const exact = markup + paid * packed[at + 7]!;
			const fee = Math.floor(exact / PPM);
			fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
			if (bases) bases[n] = paid;
			continue;
		}
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
