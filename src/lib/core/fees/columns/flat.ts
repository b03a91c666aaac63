import { PPM } from '../../money';
import { BLOCK, loadBlock, packKinds, priceClamped, priceEven, priceOpen, storeFees } from './block';
import { converted, slowBase } from './exact';
import type { Pricing } from './single';
import type { Tables } from './tables';

/**
 * A card without tiers: every payment by itself. In a first pass over a block all are priced as if they were paid in the
 * card's own currency, with nothing to decide on the way but what the card asks for; in a second one those that are not, and
 * the few that this is not exact for.
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
	packKinds(kinds.length, (k) => [near[k]!, own[k]!, fixed[k]!, low[k]!, high[k]!, rest[k]!, own[k]! + rest[k]!]);
	const isClamped = low.some((one) => one > 0) || high.some((one) => one < Infinity);
	const price = even ? priceEven : isClamped ? priceClamped : priceOpen;
	if (bases) bases.set(minor);
	const second = (n: number) => {
		const k = kind[n]!;
		const paid = minor[n]!;
		const base = foreign[k] === 1 ? converted(paid, tops[rate[n]!]!, bottoms[rate[n]!]!) : paid;
		if (bases) bases[n] = base >= 0 ? base : slowBase(card, kinds[k]!, paid, rates[rate[n]!]);
		if (each || !(base >= 0 && base <= ceiling[k]!)) {
			fees[n] = one(tables, n, k, base, -1, card.lines);
			return;
		}
		let markup = base * own[k]! + fixed[k]!;
		if (markup < low[k]!) markup = low[k]!;
		else if (markup > high[k]!) markup = high[k]!;
		const exact = markup + base * rest[k]!;
		const fee = Math.floor(exact / PPM);
		fees[n] = even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
	};
	for (let from = 0; from < count; from += BLOCK) {
		const many = loadBlock(kind, minor, from, Math.min(count, from + BLOCK));
		storeFees(fees, from, many, price(many), second);
	}
}
