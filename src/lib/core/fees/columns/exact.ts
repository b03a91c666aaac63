import { convert, type FoundRate } from '../../money';
import { isPriced, priceOne } from '../price';
import type { Kind, RateCard } from '../rateCard';
import { UNPRICED, type PaymentColumns } from './columns';

const SAFE = Number.MAX_SAFE_INTEGER;

/** Rates as doubles, where both parts fit; 0 over 1 where they do not, or where there is none. */
export function ratesOf(rates: PaymentColumns['rates']): { tops: Float64Array; bottoms: Float64Array } {
	const tops = new Float64Array(rates.length);
	const bottoms = new Float64Array(rates.length).fill(1);
	rates.forEach((found, i) => {
		if (!found) return;
		const { top, bottom } = found.perMinor;
		if (top * 2n < BigInt(SAFE) && bottom * 2n < BigInt(SAFE)) {
			tops[i] = Number(top);
			bottoms[i] = Number(bottom);
		}
	});
	return { tops, bottoms };
}

/**
 * An amount at a rate, rounded half-even; -1 where that is not exact in a double. It is the floor of what is a half more,
 * so that one division is enough, and nothing is decided but for what is rare.
 */
export function converted(minor: number, top: number, bottom: number): number {
	const twice = minor * top * 2 + bottom;
	if (top === 0 || twice > SAFE) return -1;
	const whole = bottom * 2;
	const quotient = Math.floor(twice / whole);
	const reached = quotient * whole;
	if (reached < twice) return quotient;
	// the division was rounded up to a whole number that it does not reach; or it is a tie, and goes to the even neighbour
	return reached > twice || quotient % 2 === 1 ? quotient - 1 : quotient;
}

/** One payment by the exact way, beyond what doubles hold. */
export function slow(card: RateCard, kind: Kind, minor: number, rate: FoundRate | undefined, before = 0): number {
	const priced = priceOne(card, kind, { minor, currency: kind.currency }, rate, before);
	return isPriced(priced) ? priced.fee.minor : UNPRICED;
}

/** What its fee is taken from, by the exact way; `UNPRICED` where there is no rate. */
export function slowBase(card: RateCard, kind: Kind, minor: number, rate: FoundRate | undefined): number {
	if (kind.currency === card.settlement) return minor;
	return rate ? convert({ minor, currency: kind.currency }, card.settlement, rate).minor : UNPRICED;
}
