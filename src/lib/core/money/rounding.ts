/** How a tie, or a rest, is rounded. `half-up` takes ties away from zero; `up` takes every rest away from zero. */
export type RoundingMode = 'half-up' | 'half-even' | 'up';

/**
 * Divides two whole numbers and rounds to a whole number, exactly.
 * @param numerator any sign
 * @param denominator above zero
 * @example divideRounded(14_500_000n, 1_000_000n, 'half-even') // 14n, of 14.5
 */
export function divideRounded(numerator: bigint, denominator: bigint, mode: RoundingMode): bigint {
	if (denominator <= 0n) throw new RangeError('A denominator must be above zero');
	const negative = numerator < 0n;
	const size = negative ? -numerator : numerator;
	const quotient = size / denominator;
	const rest = size % denominator;
	const away =
		rest !== 0n &&
		(mode === 'up' ||
			rest * 2n > denominator ||
			(rest * 2n === denominator && (mode === 'half-up' || quotient % 2n === 1n)));
	const rounded = away ? quotient + 1n : quotient;
	return negative ? -rounded : rounded;
}
