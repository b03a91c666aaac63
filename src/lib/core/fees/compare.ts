import { addBankDays, daysBetween, TARGET, type Day } from '../calendar';
import { regionOf, UNKNOWN, type CardType } from '../cards';
import { PPM, type FoundRate } from '../money';
import { giveBackColumns, NOTHING_AROUND, payoutsOn, sumAround, type AroundCost, type PastAround } from './around';
import { priceColumns, UNPRICED, type PaymentColumns } from './columns';
import { hasCard } from '../lineup/methods';
import { monthlyMarkups } from './minimum';
import { isPriced, kindOf, priceOne } from './price';
import { lineFor, type EntryMode, type Kind, type RateCard } from './rateCard';

/** A kind of past payment, before a rate card says which countries count as regional. */
export interface PastKind {
	readonly method: string;
	readonly currency: string;
	readonly entry: EntryMode;
	readonly scheme: string;
	readonly funding: string;
	/** ISO 3166-1 alpha-2, or unknown */
	readonly issuer: string;
}

/** Past payments as columns, in order of capture. */
export interface Past {
	readonly count: number;
	readonly kinds: readonly PastKind[];
	readonly kind: Uint16Array;
	readonly minor: Float64Array;
	readonly day: Uint16Array;
	readonly month: Uint16Array;
	readonly days: readonly Day[];
	/** minor units given back of each so far */
	readonly refunded?: Float64Array;
}

/** One processor in a comparison: a connection or a candidate. */
export interface Side {
	readonly id: string;
	readonly card: RateCard;
	/** country of the merchant account, which decides what is domestic */
	readonly country: string;
	/** bank days from capture to the bank */
	readonly bankDays: number;
	/** how often it pays out: every day where it says nothing */
	readonly rhythm?: string;
	carries(kind: Kind): boolean;
}

/** What one side makes of one kind. Sums are minor units of the side's settlement currency. */
export interface KindCost {
	readonly count: number;
	readonly base: number;
	readonly fee: number;
	/** payments that it cannot carry or price, and why */
	readonly holes: number;
	/** what those come to, in minor units of the kind's own currency */
	readonly leftOut: number;
	readonly hole?: 'not carried' | 'no line' | 'ambiguous' | 'no rate' | 'no cost';
	/** charges around these payments: refunds less what they give back, disputes, declined attempts */
	readonly around: number;
	/** of the fee: fixed parts, and what another currency adds; the rest follows the amount */
	readonly fixed: number;
	readonly conversion: number;
}
export interface SideCost {
	readonly id: string;
	/** one entry a kind of the past */
	readonly kinds: readonly KindCost[];
	readonly months: number;
	readonly monthlyFee: number;
	readonly monthlyMinimum: number;
	/** all charges around payments, payouts too */
	readonly around: AroundCost;
	/** gross × calendar days until the bank, over all payments */
	readonly waited: bigint;
	/** what the money is worth while it is waited for, in minor units, rounded once */
	readonly waiting: number;
	/** fee of each payment, or -1; in the order of the past's columns from `from` on */
	readonly fees: Float64Array;
	/** what the refunds of a payment give back of its fee, by its place in `fees` */
	readonly givenBack: ReadonlyMap<number, number>;
	/** calendar days that the volume waits for the bank, on average */
	readonly averageWait: number;
}

/** A past kind as a side's rate card sees it. */
export const kindAt = (past: PastKind, card: Pick<RateCard, 'areas'>, country: string): Kind =>
	kindOf({
		method: past.method,
		currency: past.currency,
		entry: past.entry,
		scheme: past.scheme,
		funding: past.funding as CardType['funding'],
		region: hasCard(past.method) ? regionOf(past.issuer, country, card.areas) : UNKNOWN
	});

/**
 * Prices a stretch of past payments through one side, one by one, tiers and months counted over what it can carry.
 * @param from first payment, included; `to` is not
 * @param rateOf published rate of a day, payment currency to settlement currency
 * @param capitalPpm what waiting for money costs a year, in parts per million
 * @param happened disputes and declined attempts of the stretch; refunds stand with the payments. A refund counts once for a
 * payment, and a dispute as lost: settlement files tell sums, not how many there were or how they ended
 */
export function priceSide(
	past: Past,
	[from, to]: readonly [number, number],
	side: Side,
	rateOf: (currency: string, day: Day) => FoundRate | undefined,
	capitalPpm: number,
	happened?: PastAround
): SideCost {
	const { card } = side;
	const kinds = past.kinds.map((one) => kindAt(one, card, side.country));
	const carried = kinds.map((kind) => side.carries(kind));
	// those that it carries, by their places from `from` on
	let count = 0;
	const places = new Uint32Array(to - from);
	for (let n = from; n < to; n++) if (carried[past.kind[n]!]) places[count++] = n - from;
	const picked = places.subarray(0, count);
	const rates: (FoundRate | undefined)[] = [undefined];
	const many = past.days.length;
	const foreign = kinds.map((kind) => kind.currency !== card.settlement);
	const currencies = kinds.map(({ currency }) => currency);
	/** one more than a rate's place, by currency and day; 0 is not looked up yet */
	const rateAt = new Map<string, Uint32Array>();
	const rateOfKind = currencies.map((currency) => {
		const known = rateAt.get(currency) ?? new Uint32Array(many);
		rateAt.set(currency, known);
		return known;
	});
	const columns = {
		kinds,
		rates,
		kind: new Uint16Array(count),
		minor: new Float64Array(count),
		rate: new Uint16Array(count),
		month: new Uint16Array(count)
	};
	const refunded = past.refunded && new Float64Array(count);
	for (let at = 0; at < count; at++) {
		const n = from + picked[at]!;
		const k = past.kind[n]!;
		columns.kind[at] = k;
		columns.minor[at] = past.minor[n]!;
		columns.month[at] = past.month[n]!;
		if (refunded) refunded[at] = past.refunded![n]!;
		if (!foreign[k]) continue;
		const known = rateOfKind[k]!;
		const day = past.day[n]!;
		if (known[day] === 0) known[day] = rates.push(rateOf(currencies[k]!, past.days[day]!));
		columns.rate[at] = known[day]! - 1;
	}
	const priced = new Float64Array(count);
	const bases = new Float64Array(count);
	priceColumns(card, columns, priced, bases);
	const fixed = new Float64Array(kinds.length);
	const back = giveBackColumns(card, columns, priced, bases, refunded, fixed);
	const fees = new Float64Array(to - from).fill(UNPRICED);
	const givenBack = new Map<number, number>();
	const sums = kinds.map(() => ({ count: 0, base: 0, fee: 0, holes: 0, leftOut: 0, refunds: 0, back: 0 }));
	const leaveOut = (n: number) => {
		const sum = sums[past.kind[n]!]!;
		sum.holes++;
		sum.leftOut += past.minor[n]!;
	};
	for (let n = from; n < to; n++) if (!carried[past.kind[n]!]) leaveOut(n);
	let waited = 0n;
	const byDay = new Float64Array(many);
	for (let at = 0; at < count; at++) {
		const place = picked[at]!;
		const sum = sums[columns.kind[at]!]!;
		const fee = priced[at]!;
		fees[place] = fee;
		if (fee < 0) {
			leaveOut(from + place);
			continue;
		}
		sum.count++;
		sum.base += bases[at]!;
		sum.fee += fee;
		if (refunded && refunded[at]! > 0) {
			sum.refunds++;
			sum.back += back[at]!;
			if (back[at]) givenBack.set(place, back[at]!);
		}
		byDay[past.day[from + place]!]! += bases[at]!;
	}
	const arrivals = new Set<Day>();
	byDay.forEach((base, day) => {
		if (base === 0) return;
		const arrives = addBankDays(past.days[day]!, side.bankDays, TARGET);
		arrivals.add(arrives);
		waited += BigInt(base) * BigInt(daysBetween(past.days[day]!, arrives));
	});
	const all = (counts: readonly number[]) => counts.reduce((a, b) => a + b, 0);
	const volume = all(sums.map((one) => one.base));
	const waits = volume ? Number(waited) / volume : 0;
	const bottom = 365n * BigInt(PPM);
	const waiting = Number((waited * BigInt(capitalPpm) * 2n + bottom) / (bottom * 2n));
	const payouts = payoutsOn(arrivals, side.rhythm);
	const disputes = kinds.map((_, k) => (sums[k]!.count ? (happened?.disputes[k] ?? 0) : 0));
	const declined = kinds.map((_, k) => (carried[k] ? (happened?.declined[k] ?? 0) : 0));
	const charge = (count: number, fee: number) => ({ count, fee: count * fee });
	const months = to > from ? past.month[to - 1]! - past.month[from]! + 1 : 0;
	return {
		id: side.id,
		fees,
		givenBack,
		averageWait: waits,
		around: {
			refunds: charge(all(sums.map((one) => one.refunds)), card.refund.fee),
			givenBack: all(sums.map((one) => one.back)),
			disputes: charge(all(disputes), card.dispute.fee),
			declined: charge(all(declined), card.declined),
			payouts: charge(payouts, card.payout)
		},
		months,
		monthlyFee: months * card.monthly.fee,
		monthlyMinimum: missingToMinimum(card, columns, priced, bases, months),
		waited,
		waiting,
		kinds: sums.map(({ count, base, fee, holes, leftOut, refunds, back }, k) => {
			const why = holes ? (!carried[k] ? ('not carried' as const) : whyUnpriced(card, kinds[k]!)) : undefined;
			return {
				count,
				base,
				fee,
				holes,
				leftOut,
				hole: why,
				around: sumAround({
					...NOTHING_AROUND,
					refunds: charge(refunds, card.refund.fee),
					givenBack: back,
					disputes: charge(disputes[k]!, card.dispute.fee),
					declined: charge(declined[k]!, card.declined)
				}),
				fixed: fixed[k]!,
				conversion: foreign[k] ? Math.round((base * card.conversion) / PPM) : 0
			};
		})
	};
}

/** Why a kind cannot be priced: by the card itself, else for want of a rate. */
function whyUnpriced(card: RateCard, kind: Kind): KindCost['hole'] {
	const priced = priceOne(card, { ...kind, currency: card.settlement }, { minor: 100, currency: card.settlement });
	const lines = lineFor(card, kind);
	if (lines.found === 'none') return 'no line';
	if (lines.found === 'ambiguous') return 'ambiguous';
	return !isPriced(priced) && priced.reason === 'no cost' ? 'no cost' : 'no rate';
}

/** What the months' markups lack to the monthly minimum, in all. */
function missingToMinimum(
	card: RateCard,
	columns: PaymentColumns & { readonly month: Uint16Array },
	fees: Float64Array,
	bases: Float64Array,
	months: number
): number {
	if (!card.monthly.minimum || !months) return 0;
	const markups = monthlyMarkups(card, columns, fees, bases);
	let missing = (months - markups.size) * card.monthly.minimum;
	for (const markup of markups.values()) missing += Math.max(0, card.monthly.minimum - markup);
	return missing;
}

/** A crossing of two costs: below it one is the cheaper, from it on the other. */
export interface Crossing {
	readonly at: number;
	readonly below: string;
	readonly above: string;
}

/** So many whole numbers are looked at one by one. */
const ONE_BY_ONE = 2_000;

/**
 * Finds every crossing of two functions of a whole number between two ends, to the whole number at which it happens.
 * A short stretch is looked at number by number. A long one is swept; between two numbers where nothing breaks the
 * difference is a straight line, so that it changes its sign at most once, and halving finds where.
 * @param difference cost of `a` less cost of `b`
 * @param breaks numbers at which either cost may jump or bend: the first that is priced otherwise
 */
export function crossings(
	a: string,
	b: string,
	difference: (at: number) => number,
	[from, to]: readonly [number, number],
	breaks: readonly number[] = [],
	steps = 400
): Crossing[] {
	const found: Crossing[] = [];
	const points = new Set<number>();
	if (to - from <= ONE_BY_ONE) for (let at = Math.round(from); at <= to; at++) points.add(at);
	else {
		for (let step = 0; step <= steps; step++) points.add(Math.round(from + ((to - from) * step) / steps));
		for (const at of breaks) for (const one of [at - 1, at, at + 1]) if (one >= from && one <= to) points.add(one);
	}
	const [first, ...rest] = [...points].sort((x, y) => x - y);
	if (first === undefined) return found;
	let last = { at: first, sign: Math.sign(difference(first)) };
	for (const at of rest) {
		const sign = Math.sign(difference(at));
		if (sign === 0) continue;
		if (last.sign !== 0 && sign !== last.sign) {
			let [low, high] = [last.at, at];
			while (high - low > 1) {
				const middle = Math.floor((low + high) / 2);
				if (Math.sign(difference(middle)) === sign) high = middle;
				else low = middle;
			}
			found.push({ at: high, below: sign > 0 ? a : b, above: sign > 0 ? b : a });
		}
		last = { at, sign };
	}
	return found;
}
