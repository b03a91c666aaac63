import { add, convert, round, ZERO, type Amount, type FoundRate, type Fraction } from '../money';
import { isPriced, priceOne, type Priced, type Unpriced } from './price';
import { linesAt, type Kind, type RateCard } from './rateCard';

/** One captured payment of a month, as a rate card counts it. */
export interface MonthPayment {
	readonly kind: Kind;
	readonly paid: Amount;
	readonly rate?: FoundRate;
}

/** What a month costs: every payment by the volume before it, and what comes at its end. Minor units of the settlement currency. */
export interface MonthPrice {
	readonly each: readonly (Priced | Unpriced)[];
	readonly fees: number;
	/** gross captures, priced or not, as far as there is a rate for them */
	readonly volume: number;
	/** what could not be priced */
	readonly unpriced: number;
	/** `whole` tiers: what the tier reached changes, in one entry at the end of the month */
	readonly correction: number;
	readonly monthly: number;
	/** what is missing to the month's minimum */
	readonly minimum: number;
	readonly total: number;
}

/** A gross amount in the settlement currency; undefined without a rate. */
const baseOf = (card: RateCard, paid: Amount, rate: FoundRate | undefined): number | undefined =>
	paid.currency === card.settlement ? paid.minor : rate && convert(paid, card.settlement, rate).minor;

/**
 * Prices one calendar month of one account.
 * @param payments in order of capture time, then of the processor's id
 */
export function priceMonth(card: RateCard, payments: readonly MonthPayment[]): MonthPrice {
	let [volume, fees, unpriced] = [0, 0, 0];
	let markup: Fraction = ZERO;
	const each = payments.map(({ kind, paid, rate }) => {
		const priced = priceOne(card, kind, paid, rate, volume);
		// what has no price counts for tiers all the same; what has no rate cannot
		volume += baseOf(card, paid, rate) ?? 0;
		if (!isPriced(priced)) {
			unpriced++;
			return priced;
		}
		fees += priced.fee.minor;
		markup = add(markup, priced.markup);
		return priced;
	});
	let correction = 0;
	if (card.tiers?.way === 'whole' && payments.length) {
		const reached = { ...card, lines: linesAt(card, volume), tiers: undefined };
		markup = ZERO;
		let after = 0;
		for (const { kind, paid, rate } of payments) {
			const priced = priceOne(reached, kind, paid, rate);
			if (!isPriced(priced)) continue;
			after += priced.fee.minor;
			markup = add(markup, priced.markup);
		}
		correction = after - fees;
	}
	const minimum = Math.max(0, card.monthly.minimum - Number(round(markup, card.mode)));
	const owed = card.monthly.minimum ? minimum : 0;
	return {
		each,
		fees,
		volume,
		unpriced,
		correction,
		monthly: card.monthly.fee,
		minimum: owed,
		total: fees + correction + card.monthly.fee + owed
	};
}
