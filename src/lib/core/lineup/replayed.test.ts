import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { VERDICTS } from './replay';
import { countMoves, latestByVerdict, sumFees, sumVerdicts, takeKinds, type FeePair } from './replayed';

const [SAME, OTHER] = [VERDICTS.indexOf(VERDICTS[0]!), VERDICTS.indexOf('other route')];
const CURRENCIES = ['EUR', 'GBP', 'JPY'];
const payment = fc.record({
	kind: fc.nat(2),
	minor: fc.integer({ min: 1, max: 1_000_000 }),
	verdict: fc.nat(VERDICTS.length - 1),
	before: fc.nat(3),
	after: fc.nat(3)
});
const columnsOf = (list: readonly { kind: number; minor: number }[]) => ({
	count: list.length,
	kind: Uint16Array.from(list, (one) => one.kind),
	minor: Float64Array.from(list, (one) => one.minor),
	day: new Uint16Array(list.length),
	row: Float64Array.from(list, (_, n) => 1_000 + n)
});

describe('payments of one till out of a history', () => {
	it('are those of its kinds between two places, each with its id and its place', () => {
		fc.assert(
			fc.property(
				fc.array(payment, { maxLength: 40 }),
				fc.array(fc.boolean(), { minLength: 3, maxLength: 3 }),
				fc.nat(40),
				fc.nat(40),
				(list, isMine, a, b) => {
					const [from, to] = [Math.min(a, b, list.length), Math.min(Math.max(a, b), list.length)];
					const taken = takeKinds(columnsOf(list), isMine, [from, to]);
					const wanted = list
						.map((one, place) => ({ ...one, place }))
						.slice(from, to)
						.filter((one) => isMine[one.kind]);
					expect(taken.count).toBe(wanted.length);
					expect([...taken.place]).toEqual(wanted.map((one) => one.place));
					expect([...taken.minor]).toEqual(wanted.map((one) => one.minor));
					expect([...taken.kind]).toEqual(wanted.map((one) => one.kind));
					expect([...taken.row]).toEqual(wanted.map((one) => 1_000 + one.place));
				}
			),
			{ seed: 17, numRuns: 200 }
		);
	});
});

describe('verdicts', () => {
	it('add up to all payments and all money, in every currency', () => {
		fc.assert(
			fc.property(fc.array(payment, { maxLength: 60 }), (list) => {
				const told = sumVerdicts(
					columnsOf(list),
					Uint8Array.from(list, (one) => one.verdict) as never,
					(kind) => CURRENCIES[kind]!
				);
				expect(told.map((one) => one.verdict)).toEqual([...VERDICTS]);
				expect(told.reduce((all, one) => all + one.count, 0)).toBe(list.length);
				for (const currency of CURRENCIES)
					expect(
						told.flatMap((one) => one.sums.filter((sum) => sum.currency === currency)).reduce((a, b) => a + b.minor, 0)
					).toBe(list.filter((one) => CURRENCIES[one.kind] === currency).reduce((a, b) => a + b.minor, 0));
			}),
			{ seed: 29, numRuns: 200 }
		);
	});
	it('are told with their latest payments, so many of each', () => {
		const verdict = Uint8Array.from([SAME, OTHER, SAME, SAME, OTHER]) as never;
		expect(latestByVerdict(5, verdict, 2)).toEqual(
			new Map([
				['other route', [4, 1]],
				[VERDICTS[SAME]!, [3, 2]]
			])
		);
		expect(latestByVerdict(0, verdict, 2)).toEqual(new Map());
	});
	it('of another route are counted from where to where, the most first', () => {
		const done = {
			verdict: Uint8Array.from([OTHER, SAME, OTHER, OTHER, OTHER]),
			before: Int32Array.from([1, 1, 1, 2, 1]),
			after: Int32Array.from([2, 2, 2, 1, 3])
		} as never;
		expect(countMoves(5, done)).toEqual([
			{ from: 1, to: 2, count: 2 },
			{ from: 2, to: 1, count: 1 },
			{ from: 1, to: 3, count: 1 }
		]);
	});
});

describe('fees under two line-ups', () => {
	const pair = (before: [string, number], after: [string, number]): FeePair => ({
		before: { settles: before[0], fee: before[1] },
		after: { settles: after[0], fee: after[1] }
	});
	it('are added up by settlement currency', () => {
		expect(
			sumFees([
				pair(['EUR', 100], ['EUR', 80]),
				pair(['EUR', 50], ['EUR', 60]),
				pair(['GBP', 7], ['GBP', 7]),
				// an offline method costs no fee, before or after
				pair(['', -1], ['EUR', 30]),
				pair(['EUR', 20], ['', -1]),
				pair(['', -1], ['', -1])
			])
		).toEqual({
			fees: [
				{ currency: 'EUR', count: 4, before: 170, after: 170 },
				{ currency: 'GBP', count: 1, before: 7, after: 7 }
			],
			unpriced: 0
		});
	});
	it('leave beside, and count, what has no price or settles otherwise', () => {
		expect(
			sumFees([
				pair(['EUR', -1], ['EUR', 80]),
				pair(['EUR', 80], ['EUR', -1]),
				pair(['EUR', 80], ['GBP', 70]),
				pair(['EUR', 1], ['EUR', 2])
			])
		).toEqual({ fees: [{ currency: 'EUR', count: 1, before: 1, after: 2 }], unpriced: 3 });
	});
	it('of nothing are nothing', () => expect(sumFees([])).toEqual({ fees: [], unpriced: 0 }));
});
