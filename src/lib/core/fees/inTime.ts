import { addBankDays, TARGET, type Day } from '../calendar';
import { PPM, type FoundRate } from '../money';
import { payoutsOn, type PastAround } from './around';
import { priceSide, type KindCost, type Past, type Side, type SideCost } from './compare';
import { placeOfDay } from './places';
import type { RateCard } from './rateCard';

// A stretch of past payments priced by the versions of a rate card of their days, instead of by one card for all of them.

/** A version of a side's rate card, and what happened around payments in its days. */
export interface TimedCard {
	/** `YYYY-MM-DD` */
	readonly validFrom: Day;
	readonly card: RateCard;
	readonly happened?: PastAround;
}

const monthNumber = (month: string): number => Number(month.slice(0, 4)) * 12 + Number(month.slice(5, 7));

/** The days of a stretch in which each version counts: the first one also counts before its first day. */
export function versionDays(
	versions: readonly { readonly validFrom: Day }[],
	from: Day,
	to: Day
): { readonly at: number; readonly from: Day; readonly to: Day }[] {
	const order = versions.map((_, at) => at).sort((a, b) => (versions[a]!.validFrom < versions[b]!.validFrom ? -1 : 1));
	const found: { at: number; from: Day; to: Day }[] = [];
	order.forEach((at, n) => {
		const begins = n === 0 ? from : versions[at]!.validFrom;
		const next = order[n + 1];
		if (begins > to || (next !== undefined && versions[next]!.validFrom <= from)) return;
		const last = found.at(-1);
		if (last) last.to = dayBefore(begins);
		found.push({ at, from: begins > from ? begins : from, to });
	});
	return found;
}
const dayBefore = (day: Day): Day => new Date(Date.parse(day) - 86_400_000).toISOString().slice(0, 10);

const less = (a: KindCost, b: KindCost): KindCost => ({
	count: a.count - b.count,
	base: a.base - b.base,
	fee: a.fee - b.fee,
	holes: a.holes - b.holes,
	leftOut: a.leftOut - b.leftOut,
	hole: a.holes > b.holes ? a.hole : undefined,
	around: a.around - b.around,
	fixed: a.fixed - b.fixed,
	conversion: a.conversion - b.conversion
});
const plus = (a: KindCost, b: KindCost): KindCost => ({
	count: a.count + b.count,
	base: a.base + b.base,
	fee: a.fee + b.fee,
	holes: a.holes + b.holes,
	leftOut: a.leftOut + b.leftOut,
	hole: a.hole ?? b.hole,
	around: a.around + b.around,
	fixed: a.fixed + b.fixed,
	conversion: a.conversion + b.conversion
});

/**
 * Prices a stretch of past payments, each by the version of its day, tiers counted over the whole calendar month. A month in
 * which a version begins has that version's monthly charges; a tier for the whole month is reached by what was captured
 * until the version ended. Days before the first version are priced by it.
 * @param versions in any order, at least one, all of one settlement currency
 */
export function priceSideInTime(
	past: Past,
	[from, to]: readonly [number, number],
	side: Side,
	versions: readonly TimedCard[],
	rateOf: (currency: string, day: Day) => FoundRate | undefined,
	capitalPpm: number
): SideCost {
	const dayOf = (n: number) => past.days[past.day[n]!]!;
	const price = (a: number, b: number, { card, happened }: TimedCard, around = true) =>
		priceSide(past, [a, b], { ...side, card }, rateOf, capitalPpm, around ? happened : undefined);
	if (to <= from) return price(from, to, versions[0]!);
	const spans = versionDays(versions, dayOf(from), dayOf(to - 1));
	const only = spans.length === 1 ? versions[spans[0]!.at]! : undefined;
	if (only) return price(from, to, only);

	const place = (day: Day) => Math.min(to, Math.max(from, placeOfDay(past, day)));
	const fees = new Float64Array(to - from);
	const givenBack = new Map<number, number>();
	const arrivals = new Set<Day>();
	const merged: Omit<SideCost, 'fees' | 'givenBack' | 'averageWait' | 'id' | 'kinds'>[] = [];
	let kinds: readonly KindCost[] | undefined;
	let [waited, volume, payouts] = [0n, 0, 0];
	spans.forEach(({ at, from: first }, n) => {
		const version = versions[at]!;
		const next = spans[n + 1];
		const [begin, end] = [n === 0 ? from : place(first), next ? place(next.from) : to];
		// volumes of tiers begin with the month
		const monthBegin = n === 0 ? from : place(`${first.slice(0, 7)}-01`);
		const whole = price(monthBegin, end, version);
		const before = begin > monthBegin ? price(monthBegin, begin, version, false) : undefined;
		for (let place = begin; place < end; place++) {
			const fee = whole.fees[place - monthBegin]!;
			fees[place - from] = fee;
			const back = whole.givenBack.get(place - monthBegin);
			if (back) givenBack.set(place - from, back);
			if (fee >= 0) arrivals.add(addBankDays(dayOf(place), side.bankDays, TARGET));
		}
		const mine = whole.kinds.map((one, k) => {
			const rest = before ? less(one, before.kinds[k]!) : one;
			return before && rest.conversion
				? { ...rest, conversion: Math.round((rest.base * version.card.conversion) / PPM) }
				: rest;
		});
		kinds = kinds ? kinds.map((one, k) => plus(one, mine[k]!)) : mine;
		waited += whole.waited - (before?.waited ?? 0n);
		volume += mine.reduce((all, one) => all + one.base, 0);
		// the month in which the next version begins has the next one's charges
		const lastMonth = next ? monthNumber(next.from) - 1 : monthNumber(dayOf(to - 1));
		const months = Math.max(0, lastMonth - monthNumber(first) + 1);
		const ownEnd = next ? Math.max(monthBegin, place(`${next.from.slice(0, 7)}-01`)) : to;
		const own = ownEnd === end ? whole : price(monthBegin, ownEnd, version, false);
		const { card } = version;
		// as many more payouts as money of this version's days adds
		const seen = payoutsOn(arrivals, side.rhythm);
		const { refunds, disputes, declined, givenBack: back } = whole.around;
		merged.push({
			months,
			monthlyFee: months * card.monthly.fee,
			monthlyMinimum: months ? own.monthlyMinimum + (months - own.months) * card.monthly.minimum : 0,
			waiting: 0,
			waited: 0n,
			around: {
				refunds: {
					count: refunds.count - (before?.around.refunds.count ?? 0),
					fee: refunds.fee - (before?.around.refunds.fee ?? 0)
				},
				givenBack: back - (before?.around.givenBack ?? 0),
				disputes,
				declined,
				payouts: { count: seen - payouts, fee: (seen - payouts) * card.payout }
			}
		});
		payouts = seen;
	});
	const sum = (pick: (one: (typeof merged)[number]) => number) => merged.reduce((all, one) => all + pick(one), 0);
	const charge = (name: 'refunds' | 'disputes' | 'declined' | 'payouts') => ({
		count: sum((one) => one.around[name].count),
		fee: sum((one) => one.around[name].fee)
	});
	const bottom = 365n * BigInt(PPM);
	return {
		id: side.id,
		kinds: kinds!,
		months: sum((one) => one.months),
		monthlyFee: sum((one) => one.monthlyFee),
		monthlyMinimum: sum((one) => one.monthlyMinimum),
		around: {
			refunds: charge('refunds'),
			givenBack: sum((one) => one.around.givenBack),
			disputes: charge('disputes'),
			declined: charge('declined'),
			payouts: charge('payouts')
		},
		waited,
		waiting: Number((waited * BigInt(capitalPpm) * 2n + bottom) / (bottom * 2n)),
		fees,
		givenBack,
		averageWait: volume ? Number(waited) / volume : 0
	};
}
