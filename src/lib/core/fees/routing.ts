// Cheapest routing: which connection carries which till, method and currency, so that a month costs least. A route is chosen
// before the card is known, so never by scheme or region.

/** One till × method × currency. */
export interface RouteGroup {
	readonly key: string;
	readonly till: string;
	/** the place of the connection that carries it today, in the list of connections; none where nobody does */
	readonly today?: number;
	/**
	 * For each connection: what its payments cost there at least, whatever else it carries; undefined where it cannot carry
	 * them, or where the administrator refuses that move. Minor units of the home currency.
	 */
	readonly least: readonly (number | undefined)[];
}
export interface RoutingAsked {
	readonly groups: readonly RouteGroup[];
	/** how many connections there are */
	readonly connections: number;
	/** for each connection, what it costs to keep it in use at all */
	readonly monthly: readonly number[];
	/** pairs of connections that may not share a till */
	readonly apart: readonly (readonly [number, number])[];
	/** so many connections are in use at most */
	readonly most?: number;
	/**
	 * What a connection costs with exactly these groups, months, tiers and minimums counted: the truth. Never below the sum of
	 * `least` and `monthly`.
	 * @param groups places in the list of groups, in order
	 */
	cost(connection: number, groups: readonly number[]): number;
	/** whether nobody waits for it any more */
	isStopped?(): boolean;
}
export interface Routing {
	/** for each group the place of its connection; -1 where none can carry it */
	readonly routes: readonly number[];
	readonly cost: number;
	/** no assignment costs less than this */
	readonly bound: number;
	/** whether it is the cheapest there is, not only the cheapest found */
	readonly isExact: boolean;
}

/** Beyond so many connections all sets of them are too many to go through. */
export const EXACT_CONNECTIONS = 8;

const placesOf = (set: number): number[] => {
	const places: number[] = [];
	for (let at = 0; set >> at; at++) if ((set >> at) & 1) places.push(at);
	return places;
};
const sizeOf = (set: number): number => placesOf(set).length;

/** All that an assignment costs, as `cost` tells it, each connection asked once for each set of groups. */
function costing({ connections, cost }: RoutingAsked) {
	const known = Array.from({ length: connections }, () => new Map<string, number>());
	return (routes: readonly number[]): number => {
		const mine: number[][] = Array.from({ length: connections }, () => []);
		routes.forEach((connection, group) => connection >= 0 && mine[connection]!.push(group));
		let sum = 0;
		mine.forEach((groups, connection) => {
			if (!groups.length) return;
			const key = groups.join(' ');
			let told = known[connection]!.get(key);
			if (told === undefined) known[connection]!.set(key, (told = cost(connection, groups)));
			sum += told;
		});
		return sum;
	};
}

/** Whether an assignment keeps apart what may not share a till, and uses no more connections than allowed. */
export function isAllowed(asked: RoutingAsked, routes: readonly number[]): boolean {
	const used = new Set(routes.filter((one) => one >= 0));
	if (asked.most !== undefined && used.size > asked.most) return false;
	const tills = new Map<string, Set<number>>();
	for (const [group, connection] of routes.entries()) {
		if (connection < 0) continue;
		const { till, least } = asked.groups[group]!;
		if (least[connection] === undefined) return false;
		tills.set(till, (tills.get(till) ?? new Set()).add(connection));
	}
	return [...tills.values()].every((set) => asked.apart.every(([a, b]) => !set.has(a) || !set.has(b)));
}

/** The cheapest assignment by `least` and `monthly` alone, over all sets of connections: exact for these, and a bound for the truth. */
function cheapestBySets(asked: RoutingAsked): { routes: number[]; cost: number } | undefined {
	const { groups, connections, monthly, apart } = asked;
	const tills = [...new Set(groups.map((one) => one.till))].map((till) =>
		groups.flatMap((one, at) => (one.till === till ? [at] : []))
	);
	const conflicts = apart.map(([a, b]) => (1 << a) | (1 << b));
	const isApart = (set: number) => conflicts.every((pair) => (set & pair) !== pair);
	// what nobody at all can carry is left where it is not counted
	const carried = groups.map((one) => one.least.some((cost) => cost !== undefined));
	const all = 1 << connections;
	/** for each till and each set that may stand together: what it costs, or Infinity where a group has no way */
	const together = Array.from({ length: all }, (_, set) => set).filter(isApart);
	const tillCost = tills.map((list) => {
		const costs = new Float64Array(all).fill(Infinity);
		for (const set of together) {
			let sum = 0;
			for (const group of list) {
				if (!carried[group]) continue;
				let best = Infinity;
				for (const at of placesOf(set)) best = Math.min(best, groups[group]!.least[at] ?? Infinity);
				sum += best;
			}
			costs[set] = sum;
		}
		return costs;
	});
	let best: { set: number; chosen: number[]; cost: number } | undefined;
	for (let set = 0; set < all; set++) {
		if (asked.most !== undefined && sizeOf(set) > asked.most) continue;
		let cost = placesOf(set).reduce((sum, at) => sum + monthly[at]!, 0);
		const chosen: number[] = [];
		for (const costs of tillCost) {
			let [least, at] = [Infinity, 0];
			// every part of the set that may stand together
			for (let part = set; ; part = (part - 1) & set) {
				if (costs[part]! < least) [least, at] = [costs[part]!, part];
				if (!part) break;
			}
			cost += least;
			chosen.push(at);
			if (best && cost >= best.cost) break;
		}
		if (Number.isFinite(cost) && (!best || cost < best.cost) && chosen.length === tills.length)
			best = { set, chosen, cost };
	}
	if (!best) return undefined;
	const routes = groups.map(() => -1);
	tills.forEach((list, till) => {
		for (const group of list) {
			if (!carried[group]) continue;
			let [least, at] = [Infinity, -1];
			for (const one of placesOf(best.chosen[till]!)) {
				const cost = groups[group]!.least[one] ?? Infinity;
				if (cost < least) [least, at] = [cost, one];
			}
			routes[group] = at;
		}
	});
	return { routes, cost: best.cost };
}

/** The cheapest of a few connections that is sure to be allowed, where there are too many for all sets: the bound is each group's own least. */
function cheapestEach(asked: RoutingAsked): { routes: number[]; cost: number } {
	const routes: number[] = asked.groups.map(() => -1);
	let cost = 0;
	asked.groups.forEach((group, at) => {
		const options = group.least
			.flatMap((one, connection) => (one === undefined ? [] : [{ one, connection }]))
			.sort((a, b) => a.one - b.one);
		cost += options[0]?.one ?? 0;
		for (const { connection } of options) {
			routes[at] = connection;
			if (isAllowed(asked, routes)) return;
		}
		routes[at] = -1;
	});
	return { routes, cost };
}

/** An assignment that is changed a step at a time: what each connection carries, and who stands at each till. */
class Assignment {
	readonly routes: number[];
	readonly costs: number[];
	private readonly carried: Set<number>[];
	/** how many groups each connection has at each till */
	private readonly atTill = new Map<string, number[]>();

	constructor(
		private readonly asked: RoutingAsked,
		from: readonly number[]
	) {
		this.routes = [...from];
		this.carried = Array.from({ length: asked.connections }, () => new Set<number>());
		from.forEach((connection, group) => connection >= 0 && this.put(group, connection, 1));
		this.costs = this.carried.map((mine, at) => this.costOf(at, mine));
	}
	get cost(): number {
		return this.costs.reduce((all, one) => all + one, 0);
	}
	private put(group: number, connection: number, by: 1 | -1): void {
		const { till } = this.asked.groups[group]!;
		const counts = this.atTill.get(till) ?? Array.from({ length: this.asked.connections }, () => 0);
		this.atTill.set(till, counts);
		counts[connection]! += by;
		if (by > 0) this.carried[connection]!.add(group);
		else this.carried[connection]!.delete(group);
	}
	private costOf(connection: number, mine: Set<number>): number {
		return mine.size
			? this.asked.cost(
					connection,
					[...mine].sort((a, b) => a - b)
				)
			: 0;
	}
	private isAllowed(groups: readonly number[], to: number): boolean {
		const { apart, most } = this.asked;
		if (most !== undefined && this.carried.filter((one) => one.size > 0).length > most) return false;
		for (const till of new Set(groups.map((group) => this.asked.groups[group]!.till))) {
			const counts = this.atTill.get(till)!;
			if (apart.some(([a, b]) => (a === to || b === to) && counts[a]! > 0 && counts[b]! > 0)) return false;
		}
		return true;
	}
	/** Moves groups to a connection where that is allowed and makes all cheaper. @returns whether it did */
	tryMove(groups: readonly number[], to: number): boolean {
		const from = groups.map((group) => this.routes[group]!);
		const move = (group: number, was: number, is: number) => {
			if (was >= 0) this.put(group, was, -1);
			if (is >= 0) this.put(group, is, 1);
			this.routes[group] = is;
		};
		groups.forEach((group, at) => move(group, from[at]!, to));
		const touched = [...new Set([...from, to])].filter((one) => one >= 0);
		const before = touched.reduce((all, one) => all + this.costs[one]!, 0);
		if (this.isAllowed(groups, to)) {
			const after = touched.map((one) => this.costOf(one, this.carried[one]!));
			if (after.reduce((all, one) => all + one, 0) < before) {
				touched.forEach((one, at) => (this.costs[one] = after[at]!));
				return true;
			}
		}
		groups.forEach((group, at) => move(group, to, from[at]!));
		return false;
	}
	groupsOf(connection: number): number[] {
		return [...this.carried[connection]!].sort((a, b) => a - b);
	}
}

/** Changes of one group's route, or of all that a connection carries, as long as they make it cheaper. */
function improve(asked: RoutingAsked, from: readonly number[]): { routes: number[]; cost: number } {
	const held = new Assignment(asked, from);
	const options = asked.groups.map((group) => group.least.flatMap((one, at) => (one === undefined ? [] : [at])));
	for (let isBetter = true; isBetter && !asked.isStopped?.();) {
		isBetter = false;
		for (let group = 0; group < options.length && !asked.isStopped?.(); group++)
			for (const to of options[group]!) if (to !== held.routes[group] && held.tryMove([group], to)) isBetter = true;
		// all that one connection carries goes to another: a tier or a monthly fee is worth it only together
		for (let a = 0; a < asked.connections && !asked.isStopped?.(); a++)
			for (let b = 0; b < asked.connections; b++) {
				if (a === b) continue;
				const able = held.groupsOf(a).filter((group) => asked.groups[group]!.least[b] !== undefined);
				if (able.length && held.tryMove(able, b)) isBetter = true;
				// or all that it could carry comes to it, whoever carries it
				const could = options.flatMap((list, group) => (list.includes(a) && held.routes[group] === b ? [group] : []));
				if (could.length && held.tryMove(could, a)) isBetter = true;
			}
	}
	return { routes: [...held.routes], cost: held.cost };
}

/** So many assignments are tried one by one. */
const ONE_BY_ONE = 20_000;

/** The cheapest of all assignments, where they are few enough to try every one. */
function cheapestOfAll(asked: RoutingAsked): { routes: number[]; cost: number } | undefined {
	const options = asked.groups.map((group) => {
		const able = group.least.flatMap((one, at) => (one === undefined ? [] : [at]));
		return able.length ? able : [-1];
	});
	if (options.reduce((all, list) => all * list.length, 1) > ONE_BY_ONE) return undefined;
	const costOf = costing(asked);
	const routes = options.map((list) => list[0]!);
	let best: { routes: number[]; cost: number } | undefined;
	const walk = (at: number): void => {
		if (asked.isStopped?.()) return;
		if (at === routes.length) {
			if (!isAllowed(asked, routes)) return;
			const cost = costOf(routes);
			if (!best || cost < best.cost) best = { routes: [...routes], cost };
			return;
		}
		for (const one of options[at]!) {
			routes[at] = one;
			walk(at + 1);
		}
	};
	walk(0);
	return best;
}

/**
 * The cheapest routing. It is exact where the assignments are few, and without tiers and minimums for up to eight connections;
 * else it is the cheapest that was found, and says how far from the cheapest there is it may be.
 * @returns undefined where no allowed assignment carries all groups that anybody can carry
 */
export function cheapestRouting(asked: RoutingAsked): Routing | undefined {
	if (!asked.groups.length) return { routes: [], cost: 0, bound: 0, isExact: true };
	const isSmall = asked.connections <= EXACT_CONNECTIONS;
	const start = isSmall ? cheapestBySets(asked) : cheapestEach(asked);
	if (!start) return undefined;
	const all = cheapestOfAll(asked);
	if (all && !asked.isStopped?.()) return { ...all, bound: all.cost, isExact: true };
	const today = asked.groups.map((one) => one.today ?? -1);
	const starts = [start.routes];
	// what is done today is never beaten by something dearer
	if (isAllowed(asked, today) && today.every((one, at) => one >= 0 || start.routes[at]! < 0)) starts.push(today);
	let best: { routes: number[]; cost: number } | undefined;
	for (const from of starts) {
		const found = improve(asked, from);
		if (!best || found.cost < best.cost) best = found;
	}
	const isExact = isSmall && best!.cost === start.cost;
	return { ...best!, bound: Math.min(start.cost, best!.cost), isExact };
}

/** What each change from today saves by itself, with all else as it is today; the largest saving first. */
export function savingsOfMoves(
	asked: RoutingAsked,
	routes: readonly number[]
): { group: number; from: number; to: number; saves: number }[] {
	const costOf = costing(asked);
	const today = asked.groups.map((one) => one.today ?? -1);
	const before = costOf(today);
	return routes
		.flatMap((to, group) => {
			const from = today[group]!;
			if (from === to || from < 0 || to < 0) return [];
			const copy = [...today];
			copy[group] = to;
			return [{ group, from, to, saves: before - costOf(copy) }];
		})
		.sort((a, b) => b.saves - a.saves || a.group - b.group);
}
