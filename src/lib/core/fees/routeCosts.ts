import { addBankDays, TARGET, type Day } from '../calendar';
import type { FoundRate } from '../money';
import { payoutsOn, sumAround, type PastAround } from './around';
import { priceSide, type Past, type Side } from './compare';
import type { RateCard } from './rateCard';

// What a connection costs for any set of tills, methods and currencies, so that cheapest routing can ask for many of them.

export interface RouteCostsAsked {
	readonly past: Past;
	/** first payment, included; the second is not */
	readonly range: readonly [number, number];
	/** the group of each kind of the past, or -1 for one that is left out */
	readonly groupOf: readonly number[];
	readonly groups: number;
	readonly sides: readonly Side[];
	/** published rate of a day, payment currency to the settlement currency of a side */
	rateOf(side: number, currency: string, day: Day): FoundRate | undefined;
	readonly happened: PastAround;
}
/** All sums are minor units of the settlement currency, which all sides share. */
export interface RouteCosts {
	/** payments of each group */
	readonly counts: readonly number[];
	/** whether a side can carry and price every payment of a group */
	carries(side: number, group: number): boolean;
	/** what a group costs at a side at least, whatever else it carries */
	least(side: number, group: number): number;
	/** what a side costs by the month, in all months together, whatever it carries */
	monthly(side: number): number;
	/**
	 * Fees, what refunds, disputes and declined attempts cost, payouts, monthly fees, and what the months' markups lack to the
	 * minimum. Exact, but for bands, whose limits are laid evenly through the payments of a month, and for the markup of a
	 * minimum, which is rounded payment by payment.
	 */
	cost(side: number, groups: readonly number[]): number;
	/** the same, priced payment by payment: slower, and exact */
	exact(side: number, groups: readonly number[]): number;
}

/** What one side makes of the groups in one month at one tier. One entry a group. */
interface Cells {
	readonly base: Float64Array;
	/** fees and what happened around the payments */
	readonly cost: Float64Array;
	readonly markup: Float64Array;
	/** 1 where it cannot carry or price all of them */
	readonly holes: Uint8Array;
}

/** The payments of some kinds only, in order. */
function takeGroups(past: Past, [from, to]: readonly [number, number], isIn: readonly boolean[]): Past {
	let count = 0;
	for (let n = from; n < to; n++) if (isIn[past.kind[n]!]) count++;
	const kept = {
		kind: new Uint16Array(count),
		minor: new Float64Array(count),
		day: new Uint16Array(count),
		month: new Uint16Array(count),
		refunded: new Float64Array(count)
	};
	for (let n = from, at = 0; n < to; n++) {
		if (!isIn[past.kind[n]!]) continue;
		kept.kind[at] = past.kind[n]!;
		kept.minor[at] = past.minor[n]!;
		kept.day[at] = past.day[n]!;
		kept.month[at] = past.month[n]!;
		kept.refunded[at] = past.refunded?.[n] ?? 0;
		at++;
	}
	return { count, kinds: past.kinds, days: past.days, ...kept };
}

/** A card with the lines of one tier only, and nothing by the month. */
const flatCard = (card: RateCard, tier: number): RateCard => ({
	...card,
	lines: tier ? card.tiers!.steps[tier - 1]!.lines : card.lines,
	tiers: undefined,
	monthly: { fee: 0, minimum: 0 }
});
const bareCard = (card: RateCard): RateCard => ({ ...card, costs: undefined, conversion: 0, intermediary: 0 });

/**
 * Prices all groups at all sides once, so that what any set of groups costs at a side is a sum.
 * @param step is told how many sides are done
 */
export function routeCosts(asked: RouteCostsAsked, step: (done: number) => void = () => {}): RouteCosts {
	const { groupOf, groups, sides, happened } = asked;
	const isIn = groupOf.map((group) => group >= 0);
	const past = takeGroups(asked.past, asked.range, isIn);
	const counts = new Array<number>(groups).fill(0);
	for (let n = 0; n < past.count; n++) counts[groupOf[past.kind[n]!]!]!++;
	/** where each month begins, and the end */
	const starts: number[] = [];
	for (let n = 0; n < past.count; n++) if (!n || past.month[n] !== past.month[n - 1]) starts.push(n);
	starts.push(past.count);
	const many = Math.max(0, starts.length - 1);
	// a month in which nothing was taken counts for monthly fees, too
	const months = past.count ? past.month[past.count - 1]! - past.month[0]! + 1 : 0;
	const days = Array.from({ length: groups }, () => new Uint8Array(past.days.length));
	for (let n = 0; n < past.count; n++) days[groupOf[past.kind[n]!]!]![past.day[n]!] = 1;
	const none: PastAround = { disputes: [], declined: [] };

	const priced = sides.map((side, at) => {
		const { card } = side;
		const rateOf = (currency: string, day: Day) => asked.rateOf(at, currency, day);
		const bends = !!card.tiers || card.monthly.minimum > 0;
		const cellsOf = (range: readonly [number, number], tier: number, around: PastAround): Cells => {
			const flat = flatCard(card, tier);
			const told = priceSide(past, range, { ...side, card: flat }, rateOf, 0, around);
			const own = card.monthly.minimum
				? priceSide(past, range, { ...side, card: bareCard(flat) }, rateOf, 0, none)
				: undefined;
			const cells = {
				base: new Float64Array(groups),
				cost: new Float64Array(groups),
				markup: new Float64Array(groups),
				holes: new Uint8Array(groups)
			};
			told.kinds.forEach((one, k) => {
				const group = groupOf[k]!;
				if (group < 0) return;
				if (one.holes) cells.holes[group] = 1;
				cells.base[group]! += one.base;
				cells.cost[group]! += one.fee + one.around;
				cells.markup[group]! += own?.kinds[k]!.fee ?? 0;
			});
			return cells;
		};
		const tiers = 1 + (card.tiers?.steps.length ?? 0);
		const byMonth = bends
			? Array.from({ length: many }, (_, month) =>
					Array.from({ length: tiers }, (_, tier) => cellsOf([starts[month]!, starts[month + 1]!], tier, none))
				)
			: [];
		const whole = bends ? undefined : cellsOf([0, past.count], 0, happened);
		const able = Array.from({ length: groups }, (_, group) =>
			whole ? !whole.holes[group] : byMonth.every((cells) => !cells[0]!.holes[group])
		);
		/** the last tier that a month can reach, with all that the side could carry */
		const reach = byMonth.map((cells) => {
			const volume = cells[0]!.base.reduce((all, one, group) => all + (able[group] ? one : 0), 0);
			return (card.tiers?.steps ?? []).filter((one) => volume >= one.from).length;
		});
		byMonth.forEach((cells, month) =>
			able.forEach((is, group) => {
				if (is && cells.some((one, tier) => tier <= reach[month]! && one.holes[group])) able[group] = false;
			})
		);
		// disputes and declined attempts are told for the whole time
		const aside = new Float64Array(groups);
		if (bends) {
			const [told, bare] = [happened, none].map((around) =>
				priceSide(past, [0, past.count], { ...side, card: flatCard(card, 0) }, rateOf, 0, around)
			);
			groupOf.forEach((group, k) => {
				if (group >= 0) aside[group]! += told!.kinds[k]!.around - bare!.kinds[k]!.around;
			});
		}
		const least = Array.from({ length: groups }, (_, group) =>
			whole
				? whole.cost[group]!
				: aside[group]! +
					byMonth.reduce(
						(all, cells, month) => all + Math.min(...cells.slice(0, reach[month]! + 1).map((one) => one.cost[group]!)),
						0
					)
		);
		const arrivals = past.days.map((day) => (card.payout ? addBankDays(day, side.bankDays, TARGET) : day));
		const payouts = (list: readonly number[]): number => {
			if (!card.payout) return 0;
			const seen = new Set<Day>();
			for (const group of list) days[group]!.forEach((is, day) => is && seen.add(arrivals[day]!));
			return payoutsOn(seen, side.rhythm) * card.payout;
		};
		step(at + 1);
		return { side, able, least, whole, byMonth, aside, payouts, rateOf };
	});

	/** What a month costs: all of it at the tier it reaches, or each stretch of it at its own. */
	const monthCost = (card: RateCard, cells: readonly Cells[], list: readonly number[]): number => {
		const sums = cells.map((one) => {
			let [base, cost, markup] = [0, 0, 0];
			for (const group of list) {
				base += one.base[group]!;
				cost += one.cost[group]!;
				markup += one.markup[group]!;
			}
			return { base, cost, markup };
		});
		const volume = sums[0]!.base;
		const limits = [0, ...(card.tiers?.steps.map((one) => one.from) ?? []), Infinity];
		let [cost, markup] = [0, 0];
		sums.forEach((one, tier) => {
			const [from, to] = [limits[tier]!, limits[tier + 1]!];
			const part =
				card.tiers?.way === 'band'
					? volume
						? Math.max(0, Math.min(volume, to) - from) / volume
						: Number(tier === 0)
					: Number(volume >= from && volume < to);
			cost += one.cost * part;
			markup += one.markup * part;
		});
		return cost + Math.max(0, card.monthly.minimum - markup);
	};
	const monthly = (at: number) => months * sides[at]!.card.monthly.fee;
	const cost = (at: number, list: readonly number[]): number => {
		const { side, whole, byMonth, aside, payouts } = priced[at]!;
		const { card } = side;
		let sum = monthly(at) + payouts(list);
		if (whole) for (const group of list) sum += whole.cost[group]!;
		else {
			for (const group of list) sum += aside[group]!;
			for (const cells of byMonth) sum += monthCost(card, cells, list);
			sum += (months - many) * card.monthly.minimum;
		}
		return Math.round(sum);
	};
	const isBent = ({ card }: Side) => card.tiers?.way === 'band' || card.monthly.minimum > 0;
	const kept = new Map<string, number>();
	return {
		counts,
		carries: (at, group) => priced[at]!.able[group]!,
		least: (at, group) => priced[at]!.least[group]!,
		monthly,
		cost,
		exact(at, list) {
			const { side, rateOf } = priced[at]!;
			if (!isBent(side)) return cost(at, list);
			const key = `${at} ${list.join(' ')}`;
			const known = kept.get(key);
			if (known !== undefined) return known;
			const mine = new Set(list);
			const picked = groupOf.map((group) => mine.has(group));
			const own = takeGroups(past, [0, past.count], picked);
			const only = (counts: readonly number[]) => counts.map((one, k) => (picked[k] ? one : 0));
			const told = priceSide(own, [0, own.count], side, rateOf, 0, {
				disputes: only(happened.disputes),
				declined: only(happened.declined)
			});
			const missing = months - told.months;
			const sum =
				told.kinds.reduce((all, one) => all + one.fee, 0) +
				sumAround(told.around) +
				told.monthlyFee +
				told.monthlyMinimum +
				missing * (side.card.monthly.fee + side.card.monthly.minimum);
			kept.set(key, sum);
			return sum;
		}
	};
}

/** So many kinds of another method stand for all of it, the most frequent first. */
const KINDS = 6;

/**
 * What the payments of one group would cost as payments of another, in the mix of kinds that the other has: fees alone,
 * tiers counted over these payments by themselves.
 * @param which the group whose payments are priced, and the group whose kinds they take
 * @returns minor units of the settlement currency, rounded once; undefined where it cannot be carried or priced
 */
export function priceAsOther(
	past: Past,
	range: readonly [number, number],
	groupOf: readonly number[],
	[group, as]: readonly [number, number],
	side: Side,
	rateOf: (currency: string, day: Day) => FoundRate | undefined
): number | undefined {
	const none: PastAround = { disputes: [], declined: [] };
	const own = takeGroups(
		past,
		range,
		groupOf.map((one) => one === group)
	);
	const feesOf = (list: Past): number | undefined => {
		const told = priceSide({ ...list, refunded: undefined }, [0, list.count], side, rateOf, 0, none);
		if (told.kinds.some((one) => one.holes)) return undefined;
		return told.kinds.reduce((all, one) => all + one.fee, 0);
	};
	if (group === as) return feesOf(own);
	const counts = new Map<number, number>();
	for (let n = range[0]; n < range[1]; n++)
		if (groupOf[past.kind[n]!] === as) counts.set(past.kind[n]!, (counts.get(past.kind[n]!) ?? 0) + 1);
	const kinds = [...counts].sort(([, a], [, b]) => b - a).slice(0, KINDS);
	const all = kinds.reduce((sum, [, count]) => sum + count, 0);
	if (!all) return undefined;
	let sum = 0;
	for (const [kind, count] of kinds) {
		const fees = feesOf({ ...own, kind: new Uint16Array(own.count).fill(kind) });
		if (fees === undefined) return undefined;
		sum += (fees * count) / all;
	}
	return Math.round(sum);
}
