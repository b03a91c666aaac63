import { divideRounded, type RoundingMode } from './rounding';

/** An exact fraction; the bottom is above zero. The core's only way to hold anything between two minor units. */
export interface Fraction {
	readonly top: bigint;
	readonly bottom: bigint;
}

const gcd = (a: bigint, b: bigint): bigint => (b === 0n ? (a < 0n ? -a : a) : gcd(b, a % b));

/** A fraction in lowest terms. */
export function fraction(top: bigint | number, bottom: bigint | number = 1n): Fraction {
	let [t, b] = [BigInt(top), BigInt(bottom)];
	if (b === 0n) throw new RangeError('A fraction over zero');
	if (b < 0n) [t, b] = [-t, -b];
	const common = gcd(t, b) || 1n;
	return { top: t / common, bottom: b / common };
}

export const ZERO: Fraction = { top: 0n, bottom: 1n };
export const add = (a: Fraction, b: Fraction) => fraction(a.top * b.bottom + b.top * a.bottom, a.bottom * b.bottom);
export const times = (a: Fraction, b: Fraction) => fraction(a.top * b.top, a.bottom * b.bottom);
/** Below zero when a < b, zero when equal, above zero when a > b. */
export const compare = (a: Fraction, b: Fraction): number => {
	const difference = a.top * b.bottom - b.top * a.bottom;
	return difference < 0n ? -1 : difference > 0n ? 1 : 0;
};
export const round = (a: Fraction, mode: RoundingMode): bigint => divideRounded(a.top, a.bottom, mode);

/**
 * A fraction of minor units as a decimal of major units, cut after `digits` further digits, for workings only.
 * @example decimalOf(fraction(114075n, 1000n), 2) // '1.14075'
 */
export function decimalOf(value: Fraction, exponent: number, digits = 6): string {
	const scale = 10n ** BigInt(exponent + digits);
	const scaled = divideRounded(value.top * scale, value.bottom * 10n ** BigInt(exponent), 'half-even');
	const negative = scaled < 0n;
	const text = (negative ? -scaled : scaled).toString().padStart(exponent + digits + 1, '0');
	const whole = text.slice(0, -(exponent + digits));
	let rest = text.slice(-(exponent + digits)).replace(/0+$/, '');
	if (rest.length < exponent) rest = rest.padEnd(exponent, '0');
	return `${negative ? '-' : ''}${whole}${rest ? `.${rest}` : ''}`;
}
