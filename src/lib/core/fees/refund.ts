import { fraction, round, times, type Fraction } from '../money';
import type { RateCard } from './rateCard';

/** What refunds give back of one fee: what was charged, and how much of it follows the amount. */
export interface Refunds {
	/** percentage part after clamping, less the fixed part, exact, in minor units of the settlement currency */
	readonly percentagePart: Fraction;
	/** the fee as it was charged, rounded, in minor units of the settlement currency */
	readonly fee: number;
	/** minor units of the payment's currency */
	readonly captured: number;
	/** of the same, in all so far */
	readonly refunded: number;
}

/**
 * What a processor gives back of a fee, in all, once so much is refunded: cumulative, so that part refunds never drift.
 * One that keeps the fixed part gives back the percentage part in proportion; one that gives back all gives back the fee as
 * it was charged, so that a whole refund gives back exactly that fee.
 * @returns minor units of the settlement currency given back so far
 * @example captured 8450, percentage part 114.075, refunds of 3000 and 5450: 41, then 114 in all, so 73 more
 */
export function givenBack(
	card: Pick<RateCard, 'refund' | 'mode'>,
	{ percentagePart, fee, captured, refunded }: Refunds
): number {
	if (card.refund.keeps === 'all' || captured <= 0) return 0;
	const share = fraction(Math.min(refunded, captured), captured);
	const whole = card.refund.keeps === 'nothing' ? fraction(fee) : percentagePart;
	return Number(round(times(whole, share), card.mode));
}
