import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { add, fraction, times, ZERO, type Fraction } from '../money';
import { bridgeOf, roundToTotal, showBridge, type BridgePeriod, type KindFees } from './bridge';

const number = (one: Fraction) => Number(one.top) / Number(one.bottom);
const bps = (one: Fraction) => Math.round(number(one) * 1e9) / 1e5;

/** The rule as the design states it, in plain fractions: slow, and shares nothing with what it checks. */
function plainBridge(before: BridgePeriod, after: BridgePeriod) {
	const sum = (list: readonly Fraction[]) => list.reduce(add, ZERO);
	const gross = (period: BridgePeriod) => sum(period.kinds.map((one) => fraction(one.gross)));
	const over = (a: Fraction, b: Fraction) => fraction(a.top * b.bottom, a.bottom * b.top);
	const [v0, v1] = [gross(before), gross(after)];
	const keys = [...new Set([...before.kinds, ...after.kinds].map((one) => one.key))];
	const half = fraction(1, 2);
	let [mix, price] = [ZERO, ZERO];
	for (const key of keys) {
		const [a, b] = [before, after].map((period) => period.kinds.find((one) => one.key === key)) as [
			KindFees | undefined,
			KindFees | undefined
		];
		const share = (one: KindFees | undefined, all: Fraction) => over(fraction(one?.gross ?? 0), all);
		const rate = (one: KindFees | undefined) => (one && one.gross > 0 ? fraction(one.fees, one.gross) : undefined);
		const [s0, s1] = [share(a, v0), share(b, v1)];
		const [r0, r1] = [rate(a) ?? rate(b) ?? ZERO, rate(b) ?? rate(a) ?? ZERO];
		const less = (x: Fraction, y: Fraction) => add(x, times(y, fraction(-1)));
		mix = add(mix, times(times(less(s1, s0), add(r0, r1)), half));
		price = add(price, times(times(add(s0, s1), half), less(r1, r0)));
	}
	return { mix, price };
}

const kinds = fc.uniqueArray(
	fc.record({
		key: fc.constantFrom('a', 'b', 'c', 'd', 'e'),
		gross: fc.integer({ min: 1, max: 50_000_000 }),
		fees: fc.integer({ min: 0, max: 2_000_000 })
	}),
	{ selector: (one) => one.key, minLength: 1, maxLength: 5 }
);
const period = fc.record({ kinds, account: fc.integer({ min: -50_000, max: 500_000 }) });

describe('a bridge between two periods', () => {
	it('is the worked example: 168 to 187, of which mix 16.5 and price 2.5', () => {
		const of = (shares: readonly number[], rates: readonly number[]): BridgePeriod => ({
			kinds: shares.map((share, n) => ({ key: `k${n}`, gross: share * 100_000, fees: share * 10 * rates[n]! })),
			account: 0
		});
		const bridge = bridgeOf(
			of(
				[0.7, 0.2, 0.1].map((one) => one * 10),
				[140, 200, 300]
			),
			of([6, 2, 2], [140, 205, 310])
		)!;
		expect([bps(bridge.from), bps(bridge.to)]).toEqual([168, 187]);
		expect([bps(bridge.mix), bps(bridge.price), bps(bridge.account)]).toEqual([16.5, 2.5, 0]);
	});
	it('takes a kind that appears or vanishes as mix alone', () => {
		const bridge = bridgeOf(
			{
				kinds: [
					{ key: 'a', gross: 1000, fees: 10 },
					{ key: 'old', gross: 1000, fees: 50 }
				],
				account: 0
			},
			{
				kinds: [
					{ key: 'a', gross: 1000, fees: 10 },
					{ key: 'new', gross: 1000, fees: 90 }
				],
				account: 0
			}
		)!;
		expect(bridge.price).toEqual(ZERO);
		expect(bps(bridge.mix)).toBe(bps(bridge.to) - bps(bridge.from));
	});
	it('tells charges of the account as a third part, also where no payment changed', () => {
		const kinds = [{ key: 'a', gross: 10_000, fees: 100 }];
		const bridge = bridgeOf({ kinds, account: 0 }, { kinds, account: 39 })!;
		expect([bps(bridge.mix), bps(bridge.price), bps(bridge.account)]).toEqual([0, 0, 39]);
	});
	it('is none where a period took nothing', () => {
		const some = { kinds: [{ key: 'a', gross: 1, fees: 0 }], account: 0 };
		expect(bridgeOf({ kinds: [], account: 9 }, some)).toBe(undefined);
		expect(bridgeOf(some, { kinds: [{ key: 'a', gross: 0, fees: 0 }], account: 0 })).toBe(undefined);
	});
	it('is exactly the change, and each part what the rule says, for any two periods', () => {
		fc.assert(
			fc.property(period, period, (before, after) => {
				const bridge = bridgeOf(before, after)!;
				const change = add(bridge.to, times(bridge.from, fraction(-1)));
				expect(add(add(bridge.mix, bridge.price), bridge.account)).toEqual(change);
				const plain = plainBridge(before, after);
				expect(Math.abs(number(bridge.mix) - number(plain.mix))).toBeLessThan(1e-9);
				expect(Math.abs(number(bridge.price) - number(plain.price))).toBeLessThan(1e-9);
				const parts = bridge.kinds.reduce((sum, one) => add(sum, add(one.mix, one.price)), ZERO);
				expect(parts).toEqual(add(bridge.mix, bridge.price));
			}),
			{ numRuns: 3_000 }
		);
	});
	it('backwards is the same with the other sign', () => {
		fc.assert(
			fc.property(period, period, (before, after) => {
				const [there, back] = [bridgeOf(before, after)!, bridgeOf(after, before)!];
				expect(Math.abs(number(there.price) + number(back.price))).toBeLessThan(1e-9);
				expect(Math.abs(number(there.mix) + number(back.mix))).toBeLessThan(1e-9);
			}),
			{ numRuns: 500 }
		);
	});
});

describe('a bridge as it is shown', () => {
	it('adds up in whole units, at the top and within each step, for any two periods and any fineness', () => {
		fc.assert(
			fc.property(period, period, fc.constantFrom(100, 10_000, 1_000_000), (before, after, units) => {
				const shown = showBridge(bridgeOf(before, after)!, units);
				expect(shown.mix + shown.price + shown.account).toBe(shown.to - shown.from);
				const sum = (pick: (one: (typeof shown.kinds)[number]) => number) =>
					shown.kinds.reduce((all, one) => all + pick(one), 0);
				expect(sum((one) => one.mix)).toBe(shown.mix);
				expect(sum((one) => one.price)).toBe(shown.price);
			}),
			{ numRuns: 3_000 }
		);
	});
	it('is never further from the truth than two units', () => {
		fc.assert(
			fc.property(period, period, (before, after) => {
				const bridge = bridgeOf(before, after)!;
				const shown = showBridge(bridge);
				for (const part of ['mix', 'price', 'account'] as const)
					expect(Math.abs(shown[part] - number(bridge[part]) * 10_000)).toBeLessThan(2);
			}),
			{ numRuns: 1_000 }
		);
	});
});

describe('parts that are rounded to a total', () => {
	it('give what is missing to the largest rests, the first of equals first', () => {
		expect(roundToTotal([fraction(1, 3), fraction(1, 3), fraction(1, 3)], 1)).toEqual([1, 0, 0]);
		expect(roundToTotal([fraction(-1, 2), fraction(3, 2)], 1)).toEqual([0, 1]);
		expect(roundToTotal([fraction(-7, 10), fraction(2, 10)], -1)).toEqual([-1, 0]);
		expect(roundToTotal([], 0)).toEqual([]);
	});
	it('take away where the total is below what was cut', () => {
		expect(roundToTotal([fraction(5), fraction(3)], 7)).toEqual([5, 2]);
	});
});
