import { describe, expect, it } from 'vitest';
import { daysOf, useOfMethods, type MethodFacts } from './methodUse';

const facts = (method: string, more: Partial<MethodFacts>): MethodFacts => ({
	method,
	paid: 0,
	taken: 0,
	priced: 0,
	fees: 0,
	waited: 0n,
	failed: 0,
	givenUp: 0,
	returned: 0,
	disputed: 0,
	days: [],
	byHand: 0,
	...more
});

describe('use of methods', () => {
	it('tells shares of payments and of amount, cost in basis points, and what came to nothing', () => {
		const [card, transfer] = useOfMethods(
			[
				facts('card', { paid: 300, taken: 3_000_000, priced: 3_000_000, fees: 45_000, failed: 100 }),
				facts('credit-transfer', { paid: 100, taken: 1_000_000, byHand: 100 })
			],
			4,
			0
		);
		expect(card).toMatchObject({
			share: 7_500,
			amountShare: 7_500,
			costBps: 150,
			failedShare: 2_500,
			minutes: 0,
			doubts: []
		});
		expect(transfer).toMatchObject({ share: 2_500, costBps: undefined, minutes: 400, doubts: [] });
	});
	it('doubts what is rare and dear, rare and laborious, or rare and often fails; nothing that is common', () => {
		const of = (more: Partial<MethodFacts>) =>
			useOfMethods(
				[facts('card', { paid: 990, taken: 9_900_000, priced: 9_900_000, fees: 99_000 }), facts('pay-later', more)],
				5,
				0
			).find((one) => one.method === 'pay-later')!.doubts;
		expect(of({ paid: 10, taken: 100_000, priced: 100_000, fees: 5_000 })).toEqual(['rare', 'dear']);
		expect(of({ paid: 10, taken: 100_000, priced: 100_000, fees: 900 })).toEqual([]);
		expect(of({ paid: 10, taken: 100_000, byHand: 10 })).toEqual(['rare', 'laborious']);
		expect(of({ paid: 10, taken: 100_000, failed: 20 })).toEqual(['rare', 'often fails']);
		expect(of({ paid: 300, taken: 3_000_000, priced: 3_000_000, fees: 150_000 })).toEqual([]);
	});
	it('doubts what is offered and was never chosen', () => {
		const list = useOfMethods([facts('card', { paid: 10, taken: 100 }), facts('cheque', {})], 5, 0);
		expect(list.map((one) => [one.method, one.doubts])).toEqual([
			['card', []],
			['cheque', ['not used']]
		]);
	});
	it('is nothing where nothing came', () => {
		expect(useOfMethods([], 5, 40_000)).toEqual([]);
		expect(useOfMethods([facts('card', {})], 5, 40_000)[0]).toMatchObject({ share: 0, amountShare: 0, failedShare: 0 });
	});
});

describe('days from order to money', () => {
	const days = [
		{ days: 0, count: 5 },
		{ days: 7, count: 1 },
		{ days: 2, count: 4 }
	];
	it('are counted by the nearest rank, whatever their order', () => {
		expect([daysOf(days, 50), daysOf(days, 51), daysOf(days, 90), daysOf(days, 91)]).toEqual([0, 2, 2, 7]);
		expect(daysOf([{ days: 3, count: 1 }], 50)).toBe(3);
	});
	it('are none where none are known', () => {
		expect(daysOf([], 50)).toBe(undefined);
	});
	it('what waiting costs is sum × days ÷ 365 × the cost of capital, rounded once, and counts for what is dear', () => {
		const [card, transfer] = useOfMethods(
			[
				// 30,000.00 that waited two days each, and 10,000.00 that waited twelve
				facts('card', { paid: 300, taken: 3_000_000, priced: 3_000_000, fees: 45_000, waited: 6_000_000n }),
				facts('credit-transfer', { paid: 100, taken: 1_000_000, waited: 12_000_000n })
			],
			4,
			40_000
		);
		expect([card!.waiting, card!.waitingBps]).toEqual([658, 2]);
		expect([transfer!.waiting, transfer!.waitingBps]).toEqual([1_315, 13]);
		const dear = (waited: bigint) =>
			useOfMethods(
				[
					facts('card', { paid: 990, taken: 9_900_000, priced: 9_900_000, fees: 99_000 }),
					facts('pay-later', { paid: 10, taken: 100_000, priced: 100_000, fees: 1_500, waited })
				],
				5,
				40_000
			).find((one) => one.method === 'pay-later')!.doubts;
		expect(dear(0n)).toEqual([]);
		// 1.50 in fees and 1.00 for 91 days of waiting are more than twice 1.00
		expect(dear(9_125_000n)).toEqual(['rare', 'dear']);
	});
});
