import type { Day } from '../calendar';
import { kindAt, priceColumns, UNPRICED, type Kind, type PastKind, type RateCard } from '../fees';
import type { FoundRate } from '../money';

/** What prices the payments that one connection carries. */
export interface CarrierPrices {
	/** versions of its card, the newest first; the oldest holds for what was before it, too */
	readonly cards: readonly { readonly from: Day; readonly card: RateCard }[];
	/** country of its account */
	readonly country: string;
	readonly rateOf: (currency: string, day: Day) => FoundRate | undefined;
}

/** All of the business's payments from the first of a month on, as columns in order of capture. */
export interface WholePast {
	readonly kinds: readonly PastKind[];
	readonly kind: Uint16Array;
	readonly minor: Float64Array;
	/** index into `days` */
	readonly day: Uint16Array;
	readonly month: Uint16Array;
	readonly days: readonly Day[];
	readonly count: number;
}

/**
 * Fees of replayed payments under one line-up. Tiers count the volume of the whole connection from the first of the month:
 * what other tills brought, what this till brought before the period, and what this line-up sends there.
 * @param carrierOf index into `carriers` of what carries each payment of the whole past, -1 where none of them does
 * @param wanted places of the payments whose fees are asked for
 * @returns fees in minor units of each carrier's settlement currency, one for each place, or `UNPRICED`
 */
export function replayFees(
	past: WholePast,
	carriers: readonly (CarrierPrices | undefined)[],
	carrierOf: Int32Array,
	wanted: readonly number[]
): Float64Array {
	const fees = new Float64Array(past.count).fill(UNPRICED);
	carriers.forEach((carrier, c) => {
		if (!carrier?.cards.length) return;
		const mine: number[] = [];
		for (let n = 0; n < past.count; n++) if (carrierOf[n] === c) mine.push(n);
		if (mine.length) priceCarried(past, carrier, mine, fees);
	});
	return Float64Array.from(wanted, (n) => fees[n]!);
}

function priceCarried(
	past: WholePast,
	{ cards, country, rateOf }: CarrierPrices,
	mine: readonly number[],
	fees: Float64Array
): void {
	const dayOf = (n: number) => past.days[past.day[n]!]!;
	cards.forEach(({ from, card }, v) => {
		const until = v === 0 ? undefined : cards[v - 1]!.from;
		const isOldest = v === cards.length - 1;
		const holds = (day: Day) => (isOldest || day >= from) && (until === undefined || day < until);
		const months = new Set(mine.filter((n) => holds(dayOf(n))).map((n) => past.month[n]!));
		if (!months.size) return;
		// a card that begins within a month finds the volume that was there before it
		const places = mine.filter((n) => months.has(past.month[n]!));
		const kinds: Kind[] = past.kinds.map((kind) => kindAt(kind, card, country));
		const rates: (FoundRate | undefined)[] = [undefined];
		const known = new Map<string, number>();
		const rate = Uint16Array.from(places, (n) => {
			const { currency } = kinds[past.kind[n]!]!;
			if (currency === card.settlement) return 0;
			const key = `${currency} ${past.day[n]!}`;
			let index = known.get(key);
			if (index === undefined) known.set(key, (index = rates.push(rateOf(currency, dayOf(n))) - 1));
			return index;
		});
		const priced = new Float64Array(places.length);
		priceColumns(
			card,
			{
				kinds,
				rates,
				rate,
				kind: Uint16Array.from(places, (n) => past.kind[n]!),
				minor: Float64Array.from(places, (n) => past.minor[n]!),
				month: Uint16Array.from(places, (n) => past.month[n]!)
			},
			priced
		);
		places.forEach((n, i) => {
			if (holds(dayOf(n))) fees[n] = priced[i]!;
		});
	});
}
