import { PPM } from '../money';
import type { PaymentColumns } from './columns';
import { isPriced, priceOne } from './price';
import { lineFor, type RateCard } from './rateCard';

/** Rounds whole millionths to minor units. */
function roundMillionths(whole: number, rest: number, mode: RateCard['mode']): number {
	if (rest === 0) return whole;
	if (mode === 'up' || rest * 2 > PPM) return whole + 1;
	if (rest * 2 < PPM) return whole;
	return mode === 'half-up' || whole % 2 === 1 ? whole + 1 : whole;
}

/**
 * The markups of each month, percentage and fixed part after clamping, of what the card could price: added exactly, the sum
 * rounded once. No interchange, scheme fee, conversion or intermediary is in them.
 * @param fees as `priceColumns` filled them, with their `bases`
 * @returns minor units of the settlement currency by the month's ordinal
 */
export function monthlyMarkups(
	card: RateCard,
	{ kind, minor, rate, month, kinds, rates }: PaymentColumns & { readonly month: Uint16Array },
	fees: Float64Array,
	bases: Float64Array
): Map<number, number> {
	const limits = card.tiers?.steps.map((step) => step.from) ?? [];
	const lists = [card.lines, ...(card.tiers?.steps.map((step) => step.lines) ?? [])];
	const lines = lists.map((list) =>
		kinds.map((one) => {
			const choice = lineFor({ lines: list }, one);
			return choice.found === 'one' ? choice.line : undefined;
		})
	);
	const isWhole = card.tiers?.way === 'whole';
	const each = card.rounding === 'each';
	const volumes = new Map<number, number>();
	const addVolume = (n: number) => {
		if (bases[n]! >= 0) volumes.set(month[n]!, (volumes.get(month[n]!) ?? 0) + bases[n]!);
	};
	if (isWhole) for (let n = 0; n < kind.length; n++) addVolume(n);
	// whole minor units and millionths apart, so that a month of millions of payments stays exact in doubles
	const sums = new Map<number, { whole: number; rest: number }>();
	for (let n = 0; n < kind.length; n++) {
		const before = volumes.get(month[n]!) ?? 0;
		const base = bases[n]!;
		if (!isWhole) addVolume(n);
		if (fees[n]! < 0) continue;
		let tier = 0;
		while (tier < limits.length && before >= limits[tier]!) tier++;
		const line = lines[tier]![kind[n]!];
		const crosses = !isWhole && tier < limits.length && before + base > limits[tier]!;
		const product = base * (line?.percentage ?? 0);
		let whole: number;
		let rest: number;
		if (crosses || !line || product > Number.MAX_SAFE_INTEGER - 2 * PPM) {
			const paid = { minor: minor[n]!, currency: kinds[kind[n]!]!.currency };
			const told = priceOne(
				crosses ? card : { ...card, lines: lists[tier]!, tiers: undefined },
				kinds[kind[n]!]!,
				paid,
				rates[rate[n]!],
				before
			);
			if (!isPriced(told)) continue;
			const { top, bottom } = told.markup;
			whole = Number(top / bottom);
			rest = Number(((top % bottom) * BigInt(PPM)) / bottom);
		} else {
			[whole, rest] = [Math.floor(product / PPM), product % PPM];
			if (each) [whole, rest] = [roundMillionths(whole, rest, card.mode), 0];
			whole += line.fixed;
			if (line.minimum !== undefined && whole < line.minimum) [whole, rest] = [line.minimum, 0];
			if (line.maximum !== undefined && whole >= line.maximum) [whole, rest] = [line.maximum, 0];
		}
		const sum = sums.get(month[n]!) ?? { whole: 0, rest: 0 };
		const all = sum.rest + rest;
		sums.set(month[n]!, { whole: sum.whole + whole + Math.floor(all / PPM), rest: all % PPM });
	}
	return new Map([...sums].map(([at, { whole, rest }]) => [at, roundMillionths(whole, rest, card.mode)]));
}
