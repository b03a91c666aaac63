import { slow } from './exact';
import type { Pricing } from './single';
import type { Tables } from './tables';

/**
 * Bands: each payment by the volume of its month before it; one that crosses a limit is split there, by the exact way.
 * @param tiers tables of the lines without a limit, then of those from each limit on
 * @param taken filled with the base of each payment
 */
export function priceBands(
	{ card, columns, one, baseOf }: Pricing,
	tiers: readonly Tables[],
	tierAt: (volume: number) => number,
	fees: Float64Array,
	taken: Float64Array
): void {
	const { kind, minor, rate, kinds, rates } = columns;
	const month = columns.month!;
	const { steps } = card.tiers!;
	const linesOf = [card.lines, ...steps.map((step) => step.lines)];
	const { foreign } = tiers[0]!;
	const volumes = new Float64Array(2 ** 16);
	for (let n = 0; n < kind.length; n++) {
		const k = kind[n]!;
		const before = volumes[month[n]!]!;
		const base = foreign[k] === 1 ? baseOf(n, k) : minor[n]!;
		taken[n] = base;
		const tier = tierAt(before);
		const crosses = tier < steps.length && before + base > steps[tier]!.from;
		fees[n] = crosses
			? slow(card, kinds[k]!, minor[n]!, rates[rate[n]!], before)
			: one(tiers[tier]!, n, k, base, before, linesOf[tier]!);
		if (base >= 0) volumes[month[n]!] = before + base;
	}
}
