import {
	cheapestRouting,
	priceAsOther,
	routeCosts,
	savingsOfMoves,
	type Past,
	type PastAround,
	type Routing,
	type RoutingAsked
} from '../../core/fees';
import { Stopped } from '../../core/lineup';
import type { FoundRate } from '../../core/money';
import { plainKind, type PlainSide } from './tasks';

export interface FindRoutingAsked {
	readonly past: Past;
	readonly range: readonly [number, number];
	/** the group of each kind of the past, or -1 */
	readonly groupOf: readonly number[];
	readonly groups: readonly {
		readonly key: string;
		readonly till: string;
		/** the place of the side that carries it today */
		readonly today: number;
		/** places of sides that it may not go to */
		readonly barred: readonly number[];
	}[];
	/** of each group */
	readonly methods: readonly string[];
	readonly currencies: readonly string[];
	readonly sides: readonly PlainSide[];
	/** for each side, by currency and day, with a space between */
	readonly rates: readonly ReadonlyMap<string, FoundRate>[];
	readonly apart: readonly (readonly [number, number])[];
	readonly most?: number;
	readonly happened: PastAround;
}
export interface FoundRouting {
	/** payments of each group */
	readonly counts: readonly number[];
	/** what each group costs at each side by itself, or undefined where it cannot be carried; the least with tiers */
	readonly costs: readonly (readonly (number | undefined)[])[];
	/** what today's routes cost, month by month charges of the connections in use counted */
	readonly today: number;
	readonly found?: Routing;
	/** what each side costs today, and in the cheapest routing */
	readonly sides: readonly { readonly today: number; readonly found: number }[];
	readonly moves: readonly {
		readonly group: number;
		readonly from: number;
		readonly to: number;
		readonly saves: number;
	}[];
	/**
	 * What the payments of a group cost today by themselves, and what they would cost as payments of another method at the same
	 * till: those where that is less, the largest saving first.
	 */
	readonly shifts: readonly {
		readonly from: number;
		readonly to: number;
		readonly now: number;
		readonly then: number;
	}[];
}

/** So many payments are priced one by one for every set that the search asks for. */
const FEW = 3_000;

/** Finds the cheapest routing of past payments. */
export async function findRouting(
	asked: FindRoutingAsked,
	give: (done: number) => Promise<void>,
	isStopped: () => boolean
): Promise<FoundRouting> {
	const { past, range, groupOf, groups, sides, rates, apart, most, happened } = asked;
	const carried = sides.map((side) => new Set(side.carried));
	const stopOr = () => {
		if (isStopped()) throw new Stopped('Nobody waits for it any more.');
	};
	const told: Promise<void>[] = [];
	const costs = routeCosts(
		{
			past,
			range,
			groupOf,
			groups: groups.length,
			sides: sides.map((side, at) => ({ ...side, carries: (kind) => carried[at]!.has(plainKind(kind)) })),
			rateOf: (at, currency, day) => rates[at]!.get(`${currency} ${day}`),
			happened
		},
		(done) => {
			stopOr();
			told.push(give(done));
		}
	);
	await Promise.all(told);
	const places = sides.map((_, at) => at);
	const able = (group: number) => places.map((at) => (costs.carries(at, group) ? costs.least(at, group) : undefined));
	const isFew = costs.counts.reduce((all, one) => all + one, 0) <= FEW;
	const routing: RoutingAsked = {
		groups: groups.map(({ key, till, today, barred }, group) => ({
			key,
			till,
			today,
			least: able(group).map((one, at) => (barred.includes(at) && at !== today ? undefined : one))
		})),
		connections: sides.length,
		monthly: places.map((at) => costs.monthly(at)),
		apart,
		...(most === undefined ? {} : { most }),
		cost: isFew ? costs.exact : costs.cost,
		isStopped
	};
	const searched = cheapestRouting(routing);
	stopOr();
	const costsOf = (routes: readonly number[]) =>
		places.map((at) => {
			const list = routes.flatMap((one, group) => (one === at ? [group] : []));
			return list.length ? costs.exact(at, list) : 0;
		});
	const sum = (list: readonly number[]) => list.reduce((all, one) => all + one, 0);
	const routes = groups.map((one) => one.today);
	const now = costsOf(routes);
	let best = searched && costsOf(searched.routes);
	let found = searched && { ...searched, cost: sum(best!), bound: Math.min(searched.bound, sum(best!)) };
	// bands are laid evenly in the search: what is dearer when priced payment by payment is none
	const keepsToLimit = most === undefined || new Set(routes).size <= most;
	if (
		found &&
		keepsToLimit &&
		found.cost >= sum(now) &&
		routes.every((one, group) => routing.groups[group]!.least[one] !== undefined)
	) {
		found = { ...found, routes, cost: sum(now), bound: Math.min(found.bound, sum(now)) };
		best = now;
	}
	const shifts = groups.flatMap((group, from) =>
		groups.flatMap((other, to) => {
			if (from === to || group.till !== other.till || asked.currencies[from] !== asked.currencies[to]) return [];
			if (asked.methods[from] === asked.methods[to] || !costs.counts[from]) return [];
			stopOr();
			const priced = ([own, at]: readonly [number, number]) =>
				priceAsOther(
					past,
					range,
					groupOf,
					[from, own],
					{ ...sides[at]!, carries: (kind) => carried[at]!.has(plainKind(kind)) },
					(currency, day) => rates[at]!.get(`${currency} ${day}`)
				);
			const now = priced([from, group.today]);
			const then = priced([to, other.today]);
			return now !== undefined && then !== undefined && then < now ? [{ from, to, now, then }] : [];
		})
	);
	return {
		shifts: shifts.sort((a, b) => b.now - b.then - (a.now - a.then)),
		counts: costs.counts,
		costs: groups.map((_, group) => able(group)),
		today: sum(now),
		...(found ? { found } : {}),
		sides: places.map((at) => ({ today: now[at]!, found: best?.[at] ?? 0 })),
		moves: found ? savingsOfMoves({ ...routing, cost: costs.exact }, found.routes) : []
	};
}
