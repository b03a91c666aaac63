import { exponentOf, type Currency } from './currency';
import { divideRounded, type RoundingMode } from './rounding';

/** A whole number of minor units of one currency. */
export interface Amount {
	readonly minor: number;
	readonly currency: Currency;
}

/** The largest amount that is taken anywhere, in minor units. Beyond it is refused with a clear error. */
export const LARGEST_MINOR = 1_000_000_000_000;

/** One million parts: a percentage is held as whole parts of it (1.5 % = 15,000 ppm). */
export const PPM = 1_000_000;

export class AmountError extends Error {}

/**
 * Makes an amount, or says what is wrong with it.
 * @param minor whole minor units, either sign
 * @throws AmountError when not whole, not finite or over 10^12 minor units
 */
export function amount(minor: number, currency: Currency): Amount {
	exponentOf(currency);
	if (!Number.isInteger(minor)) throw new AmountError('An amount is a whole number of minor units');
	if (Math.abs(minor) > LARGEST_MINOR) throw new AmountError('The amount is too large: at most 10^12 minor units');
	return { minor, currency };
}

/** @throws AmountError when the currencies differ: a mixed sum is a sum per currency. */
export function plus(a: Amount, b: Amount): Amount {
	if (a.currency !== b.currency) throw new AmountError(`${a.currency} and ${b.currency} do not add`);
	return amount(a.minor + b.minor, a.currency);
}

export const minus = (a: Amount, b: Amount): Amount => plus(a, amount(-b.minor, b.currency));

/** A sum per currency, in the order in which the currencies first appear. */
export function sumPerCurrency(amounts: Iterable<Amount>): Amount[] {
	const sums = new Map<Currency, bigint>();
	for (const { minor, currency } of amounts) sums.set(currency, (sums.get(currency) ?? 0n) + BigInt(minor));
	return [...sums].map(([currency, minor]) => {
		if (minor > BigInt(Number.MAX_SAFE_INTEGER) || minor < -BigInt(Number.MAX_SAFE_INTEGER))
			throw new AmountError('The sum is too large to show exactly');
		return { minor: Number(minor), currency };
	});
}

/**
 * A share of an amount, rounded once.
 * @param minor whole minor units
 * @param ppm parts per million
 * @example shareOf(1000, 14_500, 'half-up') // 15; 'half-even' 14; 'up' 15
 */
export const shareOf = (minor: number, ppm: number, mode: RoundingMode): number =>
	Number(divideRounded(BigInt(minor) * BigInt(ppm), BigInt(PPM), mode));
