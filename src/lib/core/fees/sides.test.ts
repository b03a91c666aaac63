import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NOTHING_AROUND, sumAround } from './around';
import type { KindCost, SideCost } from './compare';
import { placeOfDay, placesOfDays } from './places';
import { countKinds, groupsOfSides, mergeCounts, methodsOfSides, totalOfSide } from './sides';

const NONE: KindCost = { count: 0, base: 0, fee: 0, holes: 0, leftOut: 0, around: 0, fixed: 0, conversion: 0 };
const side = (id: string, kinds: Partial<KindCost>[], more: Partial<SideCost> = {}): SideCost => ({
	id,
	kinds: kinds.map((one) => ({ ...NONE, ...one })),
	months: 1,
	monthlyFee: 0,
	monthlyMinimum: 0,
	around: NOTHING_AROUND,
	waited: 0n,
	waiting: 0,
	fees: new Float64Array(),
	givenBack: new Map(),
	averageWait: 2,
	...more
});
const KINDS = [
	{ method: 'card', currency: 'EUR' },
	{ method: 'card', currency: 'GBP' },
	{ method: 'bank-debit', currency: 'EUR' }
];
/** one pound is worth 1.20, everything else itself */
const worth = (k: number, minor: number) => (KINDS[k]!.currency === 'GBP' ? Math.round(minor * 1.2) : minor);

describe('sides, method by method', () => {
	const counts = [10, 5, 2];
	const volumes = [100_000, 40_000, 30_000];
	const wide = side('wide', [
		{ count: 10, base: 100_000, fee: 1_500, around: 20 },
		{ count: 5, base: 48_000, fee: 900 },
		{ count: 2, base: 30_000, fee: 200 }
	]);
	const narrow = side('narrow', [
		{ count: 10, base: 100_000, fee: 1_400, around: 50 },
		{ holes: 5, leftOut: 40_000, hole: 'not carried' },
		{ holes: 2, leftOut: 30_000, hole: 'no line' }
	]);
	const methods = methodsOfSides({ kinds: KINDS, counts, volumes, sides: [wide, narrow], worth });

	it('come with the methods of most payments first, with their volume at home', () => {
		expect(methods.map(({ method, count, volume }) => [method, count, volume])).toEqual([
			['card', 15, 148_000],
			['bank-debit', 2, 30_000]
		]);
	});
	it('are ranked over what all of them carry, and the rest is told', () => {
		const [card] = methods;
		expect(card!.costs.wide).toMatchObject({
			count: 15,
			fee: 2_400,
			around: 20,
			cost: 2_420,
			common: { count: 10, base: 100_000, cost: 1_520 },
			rank: 2,
			leftOut: [],
			leftOutHome: 0,
			holeWhy: ''
		});
		expect(card!.costs.narrow).toMatchObject({
			count: 10,
			cost: 1_450,
			holes: 5,
			leftOut: [{ currency: 'GBP', minor: 40_000 }],
			leftOutHome: 48_000,
			holeWhy: 'not carried',
			common: { count: 10, cost: 1_450 },
			rank: 1
		});
	});
	it('have no rank where only one can carry a method', () => {
		const [, debit] = methods;
		expect(debit!.costs.wide!.rank).toBe(undefined);
		expect(debit!.costs.narrow).toMatchObject({ count: 0, holes: 2, holeWhy: 'no line', rank: undefined });
	});
	it('leave out a method of which there was no payment', () => {
		const none = methodsOfSides({ kinds: KINDS, counts: [1, 0, 0], volumes: [5, 0, 0], sides: [wide], worth });
		expect(none.map((one) => one.method)).toEqual(['card']);
	});
});

describe('all of a side', () => {
	const around = { ...NOTHING_AROUND, refunds: { count: 2, fee: 60 }, givenBack: 25, payouts: { count: 4, fee: 40 } };
	const one = side(
		'one',
		[
			{ count: 3, base: 1_000, fee: 30, fixed: 12, conversion: 4 },
			{ count: 1, base: 200, fee: 5, holes: 2 }
		],
		{ monthlyFee: 900, monthlyMinimum: 100, months: 2, waiting: 7, around: around as never }
	);
	it('is its fees, the charges around payments, the months and the waiting, each once', () => {
		const total = totalOfSide(one);
		expect(total).toMatchObject({ count: 4, base: 1_200, fee: 35, fixed: 12, conversion: 4, holes: 2, monthly: 1_000 });
		expect(total.total).toBe(35 + sumAround(one.around) + 1_000 + 7);
	});
	it('is the same whichever way its kinds are grouped', () => {
		const kind = fc.record({
			count: fc.nat(50),
			base: fc.nat(100_000),
			fee: fc.nat(5_000),
			around: fc.integer({ min: -50, max: 500 }),
			holes: fc.nat(3)
		});
		fc.assert(
			fc.property(fc.array(kind, { minLength: 1, maxLength: 12 }), fc.nat(), (kinds, salt) => {
				const cost = side('x', kinds);
				const counts = kinds.map((k) => k.count + k.holes);
				const groups = groupsOfSides(counts, [cost], (k) => `group ${(k * 7 + salt) % 3}`);
				const sum = (pick: (one: { count: number; base: number; fee: number; around: number }) => number) =>
					groups.reduce((all, group) => all + pick(group.costs.x!), 0);
				const shown = kinds.filter((_, k) => counts[k]! > 0);
				expect(groups.reduce((all, group) => all + group.count, 0)).toBe(counts.reduce((a, b) => a + b, 0));
				expect(sum((g) => g.fee)).toBe(shown.reduce((all, k) => all + k.fee, 0));
				expect(sum((g) => g.around)).toBe(shown.reduce((all, k) => all + k.around, 0));
				expect(sum((g) => g.base)).toBe(shown.reduce((all, k) => all + k.base, 0));
				// the largest group stands first
				expect(groups.map((g) => g.count)).toEqual(groups.map((g) => g.count).sort((a, b) => b - a));
			}),
			{ seed: 11, numRuns: 200 }
		);
	});
});

describe('counting', () => {
	it('goes through a stretch once, by kind', () => {
		const columns = { kind: Uint16Array.from([0, 1, 0, 2, 1]), minor: Float64Array.from([5, 7, 11, 13, 17]) };
		expect(countKinds(4, columns, [1, 5])).toEqual({ counts: [1, 2, 1, 0], volumes: [11, 24, 13, 0] });
		expect(countKinds(2, columns, [3, 3])).toEqual({ counts: [0, 0], volumes: [0, 0] });
	});
	it('puts together what is alike in the columns asked for', () => {
		const list = [
			{ method: 'card', reason: 'no money', place: 1, count: 2 },
			{ method: 'card', reason: 'expired', place: 1, count: 9 },
			{ method: 'card', reason: 'no money', place: 2, count: 5 }
		];
		expect(mergeCounts(list, ['method', 'reason'])).toEqual([
			{ method: 'card', reason: 'expired', count: 9 },
			{ method: 'card', reason: 'no money', count: 7 }
		]);
		expect(mergeCounts(list, ['method'])).toEqual([{ method: 'card', count: 16 }]);
		// what it was given is left as it was
		expect(list[0]!.count).toBe(2);
	});
});

describe('places of days', () => {
	it('are found as by looking at every payment', () => {
		const day = (n: number) => new Date(Date.UTC(2026, 0, 1 + n)).toISOString().slice(0, 10);
		fc.assert(
			fc.property(
				fc.array(fc.nat(20), { maxLength: 60 }),
				fc.integer({ min: -2, max: 23 }),
				fc.integer({ min: -2, max: 23 }),
				(numbers, a, b) => {
					const days = [...new Set(numbers)].sort((x, y) => x - y);
					const at = [...numbers].sort((x, y) => x - y).map((one) => days.indexOf(one));
					const columns = { count: at.length, day: Uint16Array.from(at), days: days.map(day) };
					const [from, to] = [day(a), day(b)];
					const all = at.map((one) => day(days[one]!));
					const within = all.filter((one) => one >= from && one <= to);
					const [first, end] = placesOfDays(columns, from, to);
					expect(placeOfDay(columns, from)).toBe(all.filter((one) => one < from).length);
					if (from <= to) expect(all.slice(first, end)).toEqual(within);
				}
			),
			{ seed: 3, numRuns: 400 }
		);
	});
	it('are none in no payments', () => {
		expect(placesOfDays({ count: 0, day: [], days: [] }, '2026-01-01', '2026-12-31')).toEqual([0, 0]);
	});
});
