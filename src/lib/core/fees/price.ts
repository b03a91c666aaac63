import { UNKNOWN } from '../cards';
import {
	add,
	amount,
	compare,
	convert,
	fraction,
	PPM,
	round,
	times,
	ZERO,
	type Amount,
	type FoundRate,
	type Fraction
} from '../money';
import { costOf, hasInterchange, lineFor, stretchesOf, type Kind, type RateCard, type RateLine } from './rateCard';

/** One part of a fee, in minor units of the settlement currency. */
export interface FeePart {
	readonly part: 'percentage' | 'fixed' | 'clamped' | 'interchange' | 'scheme fee' | 'conversion' | 'intermediary';
	readonly ppm?: number;
	readonly exact: Fraction;
	/** only where the card rounds each part */
	readonly rounded?: number;
}

/** A priced payment with all that led to it. */
export interface Priced {
	readonly fee: Amount;
	/** the amount all parts are taken from, in the settlement currency */
	readonly base: Amount;
	readonly rate?: FoundRate;
	readonly line: RateLine;
	readonly lineIndex: number;
	readonly parts: readonly FeePart[];
	/** the sum before it was rounded */
	readonly exact: Fraction;
	/** percentage part after clamping: what a refund may give back */
	readonly percentagePart: Fraction;
	/** what the processor itself takes of it, clamped; no interchange, scheme fee or conversion in it */
	readonly markup: Fraction;
	readonly rounding: RateCard['rounding'];
	readonly mode: RateCard['mode'];
}

/** Why a payment cannot be priced. */
export interface Unpriced {
	readonly reason: 'no line' | 'ambiguous' | 'no rate' | 'no cost';
	readonly lines?: readonly number[];
}

export const isPriced = (result: Priced | Unpriced): result is Priced => 'fee' in result;

/**
 * Prices one payment: percentage + fixed, clamped, + conversion + intermediary; with a cost table also interchange and
 * scheme fee, and the clamp is the markup's alone.
 * A card with bands splits a payment that crosses a limit; its fixed part, minimum and maximum are the first band's.
 * @param rate payment currency to settlement currency, of the day of capture; needed when they differ
 * @param before gross captures of the month before it, in minor units of the settlement currency; for tiers
 * @example 84.50 EUR at 1.35 % + 0.18 is 1.32
 */
export function priceOne(card: RateCard, kind: Kind, paid: Amount, rate?: FoundRate, before = 0): Priced | Unpriced {
	const foreign = paid.currency !== card.settlement;
	const found = foreign ? rate && convert(paid, card.settlement, rate) : paid;
	const stretches: { minor: number; line: RateLine; index: number }[] = [];
	for (const { minor, lines } of stretchesOf(card, found?.minor ?? 0, before)) {
		const choice = lineFor({ lines }, kind);
		if (choice.found === 'none') return { reason: 'no line' };
		if (choice.found === 'ambiguous') return { reason: 'ambiguous', lines: choice.indexes };
		stretches.push({ minor, line: choice.line, index: choice.index });
	}
	const { line, index: lineIndex } = stretches[0]!;
	if (!found) return { reason: 'no rate' };
	const base = found;

	const each = card.rounding === 'each';
	const part = (name: FeePart['part'], exact: Fraction, ppm?: number): FeePart =>
		each ? { part: name, ppm, exact, rounded: Number(round(exact, card.mode)) } : { part: name, ppm, exact };
	const share = (ppm: number) => fraction(BigInt(base.minor) * BigInt(ppm), PPM);
	const value = (one: FeePart): Fraction => (each ? fraction(one.rounded!) : one.exact);

	const parts: FeePart[] = [];
	if (hasInterchange(card, kind)) {
		const cost = costOf(card, kind);
		if (!cost) return { reason: 'no cost' };
		parts.push(part('interchange', share(cost.interchange), cost.interchange));
		parts.push(part('scheme fee', share(cost.schemeFee), cost.schemeFee));
	}
	const percentages = stretches.map(({ minor, line: { percentage } }) =>
		part('percentage', fraction(BigInt(minor) * BigInt(percentage), PPM), percentage)
	);
	const fixed = part('fixed', fraction(line.fixed));
	parts.push(...percentages, fixed);
	const markup = [...percentages, fixed].reduce((sum, one) => add(sum, value(one)), ZERO);
	let after = markup;
	if (line.minimum !== undefined && compare(markup, fraction(line.minimum)) < 0) after = fraction(line.minimum);
	if (line.maximum !== undefined && compare(markup, fraction(line.maximum)) > 0) after = fraction(line.maximum);
	if (compare(after, markup) !== 0) parts.push(part('clamped', add(after, times(markup, fraction(-1)))));
	if (foreign && card.conversion) parts.push(part('conversion', share(card.conversion), card.conversion));
	if (card.intermediary) parts.push(part('intermediary', share(card.intermediary), card.intermediary));

	const exact = parts.reduce((sum, one) => add(sum, value(one)), ZERO);
	const percentagePart = add(after, fraction(-line.fixed));
	return {
		fee: amount(Number(round(exact, card.mode)), card.settlement),
		base,
		rate: foreign ? rate : undefined,
		line,
		lineIndex,
		parts,
		exact,
		percentagePart: compare(percentagePart, ZERO) < 0 ? ZERO : percentagePart,
		markup: after,
		rounding: card.rounding,
		mode: card.mode
	};
}

/** A kind whose unknown parts are told as such. */
export const kindOf = (parts: Partial<Kind> & Pick<Kind, 'method' | 'currency'>): Kind => ({
	scheme: UNKNOWN,
	funding: UNKNOWN,
	region: UNKNOWN,
	entry: 'online',
	...parts
});
