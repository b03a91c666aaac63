import { fraction, round, times, type Fraction } from '../money';
import type { RateCard } from './rateCard';

/**
 * What a processor gives back of a fee, in all, once so much is refunded: cumulative, so that part refunds never drift.
 * @param percentagePart percentage part after clamping, exact, in minor units of the settlement currency
 * @param fixed fixed part in minor units; counted only once all is refunded, and only where the card gives back all
 * @returns minor units of the settlement currency given back so far
 * @example captured 8450, percentage part 114.075, refunds of 3000 and 5450: 41, then 114 in all, so 73 more
 */
export function givenBack(
	card: Pick<RateCard, 'refund' | 'mode'>,
	{
		percentagePart,
		fixed,
		captured,
		refunded
	}: { percentagePart: Fraction; fixed: number; captured: number; refunded: number }
): number {
	if (card.refund.keeps === 'all' || captured <= 0) return 0;
	const part = Number(round(times(percentagePart, fraction(refunded, captured)), card.mode));
	return card.refund.keeps === 'nothing' && refunded >= captured ? part + fixed : part;
}
