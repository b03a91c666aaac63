import type { Amount } from './amount';
import { amount } from './amount';
import { exponentOf, type Currency } from './currency';
import { fraction, round, type Fraction } from './fraction';

/** A published rate: major units of `to` for one major unit of `from`. */
export interface Rate {
	/** `YYYY-MM-DD`, the day it was published for */
	readonly day: string;
	readonly from: Currency;
	readonly to: Currency;
	/** a decimal string, for instance `0.9213` */
	readonly rate: string;
	/** who published it */
	readonly source: string;
}

/** A rate that was found, as an exact fraction, and whether it is the inverse of what was published. */
export interface FoundRate {
	readonly published: Rate;
	readonly inverse: boolean;
	/** minor units of the target for one minor unit of the source */
	readonly perMinor: Fraction;
}

/** @throws RangeError when the text is not a positive decimal */
export function decimalFraction(text: string): Fraction {
	const match = /^(\d{1,12})(?:\.(\d{1,12}))?$/.exec(text);
	if (!match) throw new RangeError(`Not a decimal: ${text}`);
	const [, whole = '0', rest = ''] = match;
	return fraction(BigInt(whole + rest), 10n ** BigInt(rest.length));
}

/**
 * The latest rate published up to a day. Where only the inverse is published, it is divided.
 * @param day `YYYY-MM-DD`
 * @param source whose rate counts where several were published for that day: a processor settles by its own
 * @returns undefined when neither direction was published up to that day
 */
export function findRate(
	rates: readonly Rate[],
	from: Currency,
	to: Currency,
	day: string,
	source?: string
): FoundRate | undefined {
	let best: Rate | undefined;
	let bestIs = 0;
	for (const rate of rates) {
		if (rate.day > day) continue;
		const direct = rate.from === from && rate.to === to;
		if (!direct && !(rate.from === to && rate.to === from)) continue;
		const is = (rate.source === source ? 2 : 0) + (direct ? 1 : 0);
		if (!best || rate.day > best.day || (rate.day === best.day && is >= bestIs)) [best, bestIs] = [rate, is];
	}
	if (!best) return undefined;
	const inverse = best.from !== from;
	const major = decimalFraction(best.rate);
	if (major.top === 0n) return undefined;
	const shift = exponentOf(to) - exponentOf(from);
	const [top, bottom] = inverse ? [major.bottom, major.top] : [major.top, major.bottom];
	const perMinor =
		shift >= 0 ? fraction(top * 10n ** BigInt(shift), bottom) : fraction(top, bottom * 10n ** BigInt(-shift));
	return { published: best, inverse, perMinor };
}

/** Rounds half-even to minor units of the target, before anything else is computed from it. */
export const convert = (from: Amount, to: Currency, found: FoundRate): Amount =>
	amount(Number(round(unrounded(from.minor, found), 'half-even')), to);

/** The converted value as an exact fraction of minor units of the target: limits are compared with this one. */
export const unrounded = (minor: number, found: FoundRate): Fraction =>
	fraction(BigInt(minor) * found.perMinor.top, found.perMinor.bottom);
