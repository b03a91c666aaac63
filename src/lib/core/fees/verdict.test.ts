import { describe, expect, it } from 'vitest';
import type { MethodCost, MethodOfSides } from './sides';
import { judgeSides } from './verdict';

const cost = (more: Partial<MethodCost>): MethodCost => ({
	count: 0,
	base: 0,
	fee: 0,
	around: 0,
	cost: 0,
	holes: 0,
	leftOut: [],
	leftOutHome: 0,
	holeWhy: '',
	common: { count: 0, base: 0, cost: 0 },
	...more
});
const carries = (count: number, shared: number, of: number, holes = 0): MethodCost =>
	cost({ count, cost: of, common: { count: shared, base: 100_000, cost: of }, holes, leftOutHome: holes * 1_000 });
const method = (name: string, volume: number, costs: Record<string, MethodCost>): MethodOfSides => ({
	method: name,
	count: 100,
	volume,
	costs
});
const monthly = (sums: Record<string, number>) =>
	Object.fromEntries(Object.entries(sums).map(([id, one]) => [id, { monthly: one }]));

describe('the verdict of a comparison', () => {
	const cards = method('card', 500_000, { dear: carries(100, 90, 2_000), cheap: carries(90, 90, 1_400, 10) });

	it('names the cheapest over what all can carry, for a year, and what it leaves out', () => {
		expect(judgeSides([cards], monthly({ dear: 0, cheap: 0 }), 73)).toEqual({
			is: 'cheapest',
			method: 'card',
			count: 100,
			shared: 90,
			sides: [
				{ id: 'cheap', cost: 1_400, monthly: 0, yearly: 7_000 },
				{ id: 'dear', cost: 2_000, monthly: 0, yearly: 10_000 }
			],
			saves: 3_000,
			leftOut: { count: 10, minor: 10_000 }
		});
	});
	it('counts what the account costs by the month, which can turn it round', () => {
		expect(judgeSides([cards], monthly({ dear: 0, cheap: 900 }), 365)).toMatchObject({
			sides: [{ id: 'dear' }, { id: 'cheap', monthly: 900 }],
			saves: 300,
			leftOut: { count: 0 }
		});
	});
	it('is of the method with the largest volume that two of them carry', () => {
		const wallet = method('account-wallet', 900_000, { dear: carries(100, 100, 3_000), cheap: cost({ holes: 100 }) });
		expect(judgeSides([cards, wallet], monthly({ dear: 0, cheap: 0 }), 365)).toMatchObject({ method: 'card' });
	});
	it('rounds a year half-up, away from zero', () => {
		const of = (a: number, b: number) =>
			judgeSides([method('card', 1, { a: carries(1, 1, a), b: carries(1, 1, b) })], monthly({ a: 0, b: 0 }), 730);
		expect(of(1, 4)).toMatchObject({ sides: [{ yearly: 1 }, { yearly: 2 }] });
		expect(of(-1, 4)).toMatchObject({ sides: [{ yearly: -1 }, { yearly: 2 }] });
	});
	it('says when there is none to give', () => {
		expect(judgeSides([], {}, 365)).toEqual({ is: 'no payments' });
		expect(judgeSides([method('card', 1, { a: carries(1, 1, 1) })], monthly({ a: 0 }), 365)).toEqual({
			is: 'alone',
			id: 'a',
			method: 'card'
		});
		expect(judgeSides([method('card', 1, { a: cost({ holes: 1 }) })], monthly({ a: 0 }), 365)).toEqual({
			is: 'nothing shared',
			method: 'card'
		});
		const apart = method('card', 1, { a: carries(1, 0, 1), b: carries(1, 0, 1) });
		expect(judgeSides([apart], monthly({ a: 0, b: 0 }), 365)).toEqual({ is: 'nothing shared', method: 'card' });
	});
});
