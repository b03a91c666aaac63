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
	for (let n = 0; n < count; n++) {
		const k = kind[n]!;
		const paid = minor[n]!;
		if (paid <= plain[k]!) {
			// a tie goes up; to the even neighbour it goes down again where that is the odd one
			const exact = paid * all[k]! + fixed[k]!;
			const fee = Math.floor(exact / PPM);
			fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
			if (bases) bases[n] = paid;
			continue;
		}
		if (paid <= clamped[k]!) {
			let markup = paid * own[k]! + fixed[k]!;
			if (markup < low[k]!) markup = low[k]!;
			else if (markup > high[k]!) markup = high[k]!;
			const exact = markup + paid * rest[k]!;
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
