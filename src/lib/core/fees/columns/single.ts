import { PPM } from '../../money';
import type { RateCard } from '../rateCard';
import type { PaymentColumns } from './columns';
import { converted, ratesOf, slow, slowBase } from './exact';
import type { Tables } from './tables';

/** What pricing columns by one card has at hand, whatever its tiers. */
export interface Pricing {
	readonly card: RateCard;
	readonly columns: PaymentColumns;
	/** rates as doubles, over `bottoms` */
	readonly tops: Float64Array;
	readonly bottoms: Float64Array;
	/** halves to the even neighbour; each part rounded by itself */
	readonly even: boolean;
	readonly each: boolean;
	/** what makes a floor of the card's rounding, in millionths of a minor unit */
	readonly bias: number;
	/**
	 * The fee of the payment at a place, of a kind, taken from a base in the settlement currency.
	 * @param before volume of its month before it, −1 where tiers are decided already
	 * @param lines those that hold for it
	 */
	one(tables: Tables, n: number, k: number, base: number, before: number, lines: RateCard['lines']): number;
	/** the base of a payment in another currency; `UNPRICED` where there is no rate */
	baseOf(n: number, k: number): number;
}

export function pricingOf(card: RateCard, columns: PaymentColumns): Pricing {
	const { minor, rate, kinds, rates } = columns;
	const { tops, bottoms } = ratesOf(rates);
	const even = card.mode === 'half-even';
	const each = card.rounding === 'each';
	const bias = card.mode === 'up' ? PPM - 1 : PPM / 2;
	const { intermediary } = card;
	/** one part, rounded by itself */
	const plainPart = (base: number, ppm: number): number => (ppm === 0 ? 0 : Math.floor((base * ppm + bias) / PPM));
	const evenPart = (base: number, ppm: number): number => {
		const exact = base * ppm + bias;
		const rounded = Math.floor(exact / PPM);
		return exact === rounded * PPM && rounded % 2 === 1 ? rounded - 1 : rounded;
	};
	const part = even ? evenPart : plainPart;
	return {
		card,
		columns,
		tops,
		bottoms,
		even,
		each,
		bias,
		one(tables, n, k, base, before, lines) {
			if (!(base >= 0 && base <= tables.ceiling[k]!))
				return slow(
					before < 0 ? { ...card, lines, tiers: undefined } : card,
					kinds[k]!,
					minor[n]!,
					rates[rate[n]!],
					Math.max(0, before)
				);
			if (each) {
				const markup = part(base, tables.own[k]!) * PPM + tables.fixed[k]!;
				return (
					Math.min(Math.max(markup, tables.low[k]!), tables.high[k]!) / PPM +
					part(base, tables.interchange[k]!) +
					part(base, tables.scheme[k]!) +
					part(base, tables.conversion[k]!) +
					part(base, intermediary)
				);
			}
			const markup = Math.min(Math.max(base * tables.own[k]! + tables.fixed[k]!, tables.low[k]!), tables.high[k]!);
			const exact = markup + base * tables.rest[k]!;
			const fee = Math.floor(exact / PPM);
			return even && exact === fee * PPM && fee % 2 === 1 ? fee - 1 : fee;
		},
		baseOf(n, k) {
			const base = converted(minor[n]!, tops[rate[n]!]!, bottoms[rate[n]!]!);
			return base < 0 ? slowBase(card, kinds[k]!, minor[n]!, rates[rate[n]!]) : base;
		}
	};
}
