import { describe, expect, it } from 'vitest';
import { addDays } from '../calendar';
import { RateCard, type Past, type PastKind, type Side } from '.';
import { priceAsOther, routeCosts, type RouteCosts } from './routeCosts';
import { cheapestRouting, isAllowed, type RoutingAsked } from './routing';
import { kindAt } from './compare';
import { found, generator, randomCard, simple } from '../../../../tests/world/simplePricing';

type Random = ReturnType<typeof generator>;
const DAYS = Array.from({ length: 70 }, (_, n) => addDays('2026-01-05', n));

/** A small past of a few kinds, in order, over three calendar months. */
function randomPast({ whole, pick, chance }: Random, groups: number): { past: Past; groupOf: number[] } {
	const kinds: PastKind[] = [];
	const groupOf: number[] = [];
	for (let group = 0; group < groups; group++) {
		const currency = chance(0.8) ? 'EUR' : 'USD';
		for (let n = whole(1, 3); n > 0; n--) {
			kinds.push({
				method: 'card',
				currency,
				entry: 'online',
				scheme: pick(['corvid', 'mainsail']),
				funding: pick(['debit', 'credit']),
				issuer: pick(['BE', 'NL'])
			});
			groupOf.push(group);
		}
	}
	// a kind that belongs to no group is in no sum
	kinds.push({ ...kinds[0]! });
	groupOf.push(-1);
	const count = whole(5, 60);
	const day = Uint16Array.from({ length: count }, () => whole(0, DAYS.length - 1)).sort();
	const minor = Float64Array.from({ length: count }, () => whole(100, 60_000));
	return {
		past: {
			count,
			kinds,
			days: DAYS,
			day,
			minor,
			kind: Uint16Array.from({ length: count }, () => whole(0, kinds.length - 1)),
			month: Uint16Array.from(day, (one) => Number(DAYS[one]!.slice(5, 7))),
			refunded: minor.map((one) => (chance(0.2) ? whole(1, one) : 0))
		},
		groupOf
	};
}
function randomSides(random: Random, many: number, change: (card: RateCard) => RateCard = (one) => one): Side[] {
	const { whole, chance } = random;
	return Array.from({ length: many }, (_, n) => ({
		id: `side ${n}`,
		card: change({
			...randomCard(random),
			areas: [['BE', 'NL']],
			monthly: { fee: chance(0.4) ? whole(0, 900) : 0, minimum: chance(0.4) ? whole(0, 3_000) : 0 },
			refund: { keeps: random.pick(['all', 'fixed', 'nothing']), fee: whole(0, 20) },
			payout: chance(0.3) ? whole(0, 25) : 0
		}),
		country: 'BE',
		bankDays: whole(0, 3),
		rhythm: random.pick(['daily', 'weekly', 'monthly']),
		carries: () => true
	}));
}
const costsOf = (past: Past, groupOf: number[], groups: number, sides: Side[]): RouteCosts =>
	routeCosts({
		past,
		range: [0, past.count],
		groupOf,
		groups,
		sides,
		rateOf: (_, currency) => found(currency),
		happened: { disputes: [], declined: [] }
	});
const someOf = ({ chance }: Random, groups: number) =>
	Array.from({ length: groups }, (_, at) => at).filter(() => chance(0.6));

describe('what a connection costs for a set of groups', () => {
	it('is the sum of its payments, each by the simple pricing, with its months', () => {
		const random = generator(3);
		let compared = 0;
		for (let round = 0; round < 400; round++) {
			const { past, groupOf } = randomPast(random, 4);
			// refunds and payouts have tests of their own
			const plain: Past = { ...past, refunded: undefined };
			const [side] = randomSides(random, 1, (card) => ({
				...card,
				payout: 0,
				monthly: { ...card.monthly, minimum: 0 }
			}));
			const costs = costsOf(plain, groupOf, 4, [side!]);
			const list = someOf(random, 4);
			if (!list.length || !list.every((group) => costs.carries(0, group))) continue;
			const { card } = side!;
			const mine = Array.from({ length: past.count }, (_, n) => n).filter((n) =>
				list.includes(groupOf[past.kind[n]!]!)
			);
			const rateOf = (n: number) => found(past.kinds[past.kind[n]!]!.currency);
			const fees = mine.map((n, at) => {
				const kind = kindAt(past.kinds[past.kind[n]!]!, card, 'BE');
				const baseOf = (m: number) =>
					Number(
						simple(card, kindAt(past.kinds[past.kind[m]!]!, card, 'BE'), past.minor[m]!, rateOf(m) && '0.9213', 0)!.base
					);
				const sameMonth = mine.filter((m) => past.month[m] === past.month[n]);
				const before =
					card.tiers?.way === 'whole'
						? sameMonth.reduce((all, m) => all + baseOf(m), 0)
						: mine
								.slice(0, at)
								.filter((m) => past.month[m] === past.month[n])
								.reduce((all, m) => all + baseOf(m), 0);
				return Number(simple(card, kind, past.minor[n]!, rateOf(n) && '0.9213', before)!.fee);
			});
			const inGroups = Array.from({ length: past.count }, (_, n) => n).filter((n) => groupOf[past.kind[n]!]! >= 0);
			const months = past.month[inGroups.at(-1)!]! - past.month[inGroups[0]!]! + 1;
			const expected = fees.reduce((all, one) => all + one, 0) + months * card.monthly.fee;
			expect([round, costs.exact(0, list)]).toEqual([round, expected]);
			compared++;
		}
		expect(compared).toBeGreaterThan(200);
	});
	it('is the same as a sum of cells, but where a band or a minimum bends it, and near it there', () => {
		const random = generator(8);
		let [straight, bent] = [0, 0];
		for (let round = 0; round < 600; round++) {
			const { past, groupOf } = randomPast(random, 4);
			const [side] = randomSides(random, 1);
			const costs = costsOf(past, groupOf, 4, [side!]);
			const list = someOf(random, 4).filter((group) => costs.carries(0, group) && costs.counts[group]);
			if (!list.length) continue;
			const [exact, cells] = [costs.exact(0, list), costs.cost(0, list)];
			const { card } = side!;
			if (card.tiers?.way === 'band') continue;
			if (!card.monthly.minimum) {
				straight++;
				expect([round, cells]).toEqual([round, exact]);
			} else {
				bent++;
				expect(Math.abs(cells - exact)).toBeLessThanOrEqual(past.count);
			}
		}
		expect([straight > 100, bent > 50]).toEqual([true, true]);
	});
	it('is never below what its groups cost at least', () => {
		const random = generator(21);
		for (let round = 0; round < 400; round++) {
			const { past, groupOf } = randomPast(random, 4);
			const [side] = randomSides(random, 1, (card) => ({
				...card,
				tiers: card.tiers && { ...card.tiers, way: 'whole' }
			}));
			const costs = costsOf(past, groupOf, 4, [side!]);
			const list = someOf(random, 4).filter((group) => costs.carries(0, group));
			const least = list.reduce((all, group) => all + costs.least(0, group), costs.monthly(0));
			if (list.length) expect(costs.exact(0, list)).toBeGreaterThanOrEqual(least);
		}
	});
	it('leaves out a group whose payments a connection cannot price', () => {
		const random = generator(1);
		const { past, groupOf } = randomPast(random, 3);
		const [side] = randomSides(random, 1);
		const costs = costsOf(past, groupOf, 3, [
			{ ...side!, carries: (kind) => kind.currency !== past.kinds[0]!.currency }
		]);
		const told = [0, 1, 2].map((group) => costs.carries(0, group));
		expect(told).toEqual(
			[0, 1, 2].map((group) => {
				const own = past.kinds.filter((_, k) => groupOf[k] === group);
				const has = Array.from(past.kind).some((k) => groupOf[k] === group);
				return !has || own.every((one) => one.currency !== past.kinds[0]!.currency);
			})
		);
	});
});

describe('cheapest routing of payments', () => {
	it('is that of all assignments, priced payment by payment: tiers, minimums, limits and pairs kept apart', () => {
		const random = generator(44);
		let solved = 0;
		for (let round = 0; round < 150; round++) {
			const [groups, many] = [random.whole(1, 4), random.whole(2, 3)];
			const { past, groupOf } = randomPast(random, groups);
			const costs = costsOf(past, groupOf, groups, randomSides(random, many));
			const places = Array.from({ length: many }, (_, at) => at);
			const asked: RoutingAsked = {
				groups: Array.from({ length: groups }, (_, group) => ({
					key: `g${group}`,
					till: `till ${group % 2}`,
					least: places.map((at) => (costs.carries(at, group) ? costs.least(at, group) : undefined))
				})),
				connections: many,
				monthly: places.map((at) => costs.monthly(at)),
				apart: random.chance(0.4) ? [[0, 1]] : [],
				...(random.chance(0.3) ? { most: 1 } : {}),
				cost: (at, list) => costs.exact(at, list)
			};
			let best = Infinity;
			const walk = (routes: number[]): void => {
				if (routes.length === groups) {
					if (!isAllowed(asked, routes)) return;
					const sum = places.reduce((all, at) => {
						const list = routes.flatMap((one, group) => (one === at ? [group] : []));
						return all + (list.length ? costs.exact(at, list) : 0);
					}, 0);
					best = Math.min(best, sum);
					return;
				}
				const able = places.filter((at) => costs.carries(at, routes.length));
				for (const at of able.length ? able : [-1]) walk([...routes, at]);
			};
			walk([]);
			const told = cheapestRouting(asked);
			if (!told) {
				expect([round, best]).toEqual([round, Infinity]);
				continue;
			}
			solved++;
			expect([round, told.cost, told.isExact]).toEqual([round, best, true]);
			expect(told.bound).toBeLessThanOrEqual(best);
		}
		expect(solved).toBeGreaterThan(100);
	});
});

describe('payments as if they were of another method', () => {
	const kind = (method: string, scheme: string): PastKind => ({
		method,
		currency: 'EUR',
		entry: 'online',
		scheme,
		funding: 'debit',
		issuer: 'BE'
	});
	const side = (lines: { when: object; percentage: number; fixed: number }[]): Side => ({
		id: 'side',
		card: RateCard.parse({ settlement: 'EUR', rounding: 'total', mode: 'half-up', lines }),
		country: 'BE',
		bankDays: 1,
		carries: () => true
	});
	const pastOf = (kinds: PastKind[], list: [kind: number, minor: number][]): Past => ({
		count: list.length,
		kinds,
		days: ['2026-03-02'],
		day: new Uint16Array(list.length),
		month: new Uint16Array(list.length).fill(3),
		kind: Uint16Array.from(list, ([one]) => one),
		minor: Float64Array.from(list, ([, minor]) => minor)
	});
	const wallet = [{ when: { method: 'account-wallet' }, percentage: 34_000, fixed: 35 }];
	const bank = [{ when: { method: 'bank-app' }, percentage: 4_500, fixed: 5 }];

	it('are priced amount by amount at the other connection', () => {
		const kinds = [kind('account-wallet', 'unknown'), kind('bank-app', 'unknown')];
		const past = pastOf(kinds, [
			[0, 10_000],
			[0, 2_500],
			[1, 7_000]
		]);
		const priced = (which: [number, number], lines: typeof wallet) =>
			priceAsOther(past, [0, 3], [0, 1], which, side(lines), () => undefined);
		// 3.4 % and 0.35 of 100.00 and of 25.00; 0.45 % and 0.05 of the same
		expect(priced([0, 0], wallet)).toBe(375 + 120);
		expect(priced([0, 1], bank)).toBe(50 + 16);
	});
	it('take the mix of cards that the other method has', () => {
		const kinds = [kind('bank-app', 'unknown'), kind('card', 'corvid'), kind('card', 'mainsail')];
		const past = pastOf(kinds, [
			[0, 10_000],
			[1, 500],
			[1, 900],
			[1, 100],
			[2, 300]
		]);
		const cards = side([
			{ when: { scheme: 'corvid' }, percentage: 10_000, fixed: 0 },
			{ when: { scheme: 'mainsail' }, percentage: 30_000, fixed: 0 }
		]);
		// three in four at 1 %, one in four at 3 %
		expect(priceAsOther(past, [0, 5], [0, 1, 1], [0, 1], cards, () => undefined)).toBe(75 + 75);
	});
	it('are not priced where nobody paid by the other method, or it cannot be priced there', () => {
		const kinds = [kind('account-wallet', 'unknown'), kind('bank-app', 'unknown')];
		const past = pastOf(kinds, [[0, 10_000]]);
		expect(priceAsOther(past, [0, 1], [0, 1], [0, 1], side(bank), () => undefined)).toBeUndefined();
		const both = pastOf(kinds, [
			[0, 10_000],
			[1, 10_000]
		]);
		expect(priceAsOther(both, [0, 2], [0, 1], [0, 1], side(wallet), () => undefined)).toBeUndefined();
	});
});
