import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decimalOf, findRate, fraction, type FoundRate } from '../money';
import {
	givenBack,
	isPriced,
	kindOf,
	lineFor,
	percent,
	priceColumns,
	priceOne,
	priceSteps,
	RateCard,
	sayLine,
	UNPRICED,
	type Kind,
	type Priced
} from '.';

const seed = 20417;
type Input = Parameters<typeof RateCard.parse>[0];
const card = (change: object): RateCard =>
	RateCard.parse({
		settlement: 'EUR',
		rounding: 'total',
		mode: 'half-up',
		lines: [{ when: {}, percentage: 0, fixed: 0 }],
		...change
	} as Input);
const line = (percentage: number, fixed: number, more: object = {}) => ({ when: {}, percentage, fixed, ...more });
const kind = (currency = 'EUR', more: Partial<Kind> = {}) => kindOf({ method: 'card', currency, ...more });
const usd = (rate = '0.9213'): FoundRate =>
	findRate([{ day: '2026-11-24', from: 'USD', to: 'EUR', rate, source: 'test' }], 'USD', 'EUR', '2026-11-24')!;
const priced = (result: ReturnType<typeof priceOne>): Priced => {
	if (!isPriced(result)) throw new Error(result.reason);
	return result;
};

describe('the price of one payment, by the worked examples', () => {
	it('84.50 EUR at 1.35 % + 0.18', () => {
		const result = priced(priceOne(card({ lines: [line(13_500, 18)] }), kind(), { minor: 8450, currency: 'EUR' }));
		expect(decimalOf(result.exact, 2)).toBe('1.32075');
		expect(result.fee).toEqual({ minor: 132, currency: 'EUR' });
	});
	const plus = (rounding: 'total' | 'each') =>
		card({
			rounding,
			lines: [line(3500, 0)],
			costs: [{ scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 2000, schemeFee: 300 }]
		});
	const debit = kind('EUR', { scheme: 'corvid', funding: 'debit', region: 'domestic' });
	it('12.34 EUR, interchange 0.2 % + markup 0.35 % + scheme 0.03 %, total', () => {
		const result = priced(priceOne(plus('total'), debit, { minor: 1234, currency: 'EUR' }));
		expect(decimalOf(result.exact, 2)).toBe('0.071572');
		expect(result.fee.minor).toBe(7);
	});
	it('the same, each', () => {
		const result = priced(priceOne(plus('each'), debit, { minor: 1234, currency: 'EUR' }));
		expect(Object.fromEntries(result.parts.map((part) => [part.part, part.rounded]))).toEqual({
			interchange: 2,
			'scheme fee': 0,
			percentage: 4,
			fixed: 0
		});
		expect(result.fee.minor).toBe(6);
	});
	it('12.35 USD settled in EUR at 0.9213, 2.95 % + 0.22, margin 1.75 %, total and each', () => {
		const total = priced(
			priceOne(
				card({ lines: [line(29_500, 22)], conversion: 17_500 }),
				kind('USD'),
				{ minor: 1235, currency: 'USD' },
				usd()
			)
		);
		expect(total.base.minor).toBe(1138);
		expect(total.parts.map((part) => decimalOf(part.exact, 2))).toEqual(['0.33571', '0.22', '0.19915']);
		expect(decimalOf(total.exact, 2)).toBe('0.75486');
		expect(total.fee.minor).toBe(75);
		const each = priced(
			priceOne(
				card({ rounding: 'each', lines: [line(29_500, 22)], conversion: 17_500 }),
				kind('USD'),
				{ minor: 1235, currency: 'USD' },
				usd()
			)
		);
		expect(each.parts.map((part) => part.rounded)).toEqual([34, 22, 20]);
		expect(each.fee.minor).toBe(76);
	});
	it('¥12,800 settled in JPY at 3.1 % + ¥35', () => {
		const result = priced(
			priceOne(card({ settlement: 'JPY', lines: [line(31_000, 35)] }), kind('JPY'), { minor: 12_800, currency: 'JPY' })
		);
		expect(decimalOf(result.exact, 0)).toBe('431.8');
		expect(result.fee.minor).toBe(432);
	});
	it.each([
		[71_000, '4.97', 390],
		[4000, '0.28', 28],
		[1500, '0.105', 18]
	])('a bank debit of %i at 0.7 %%, minimum 0.18, maximum 3.90', (minor, working, fee) => {
		const result = priced(
			priceOne(card({ lines: [line(7000, 0, { minimum: 18, maximum: 390 })] }), kind(), { minor, currency: 'EUR' })
		);
		expect(decimalOf(result.parts[0]!.exact, 2)).toBe(working);
		expect(result.fee.minor).toBe(fee);
	});
});

describe('lines', () => {
	const lines = [
		line(10_000, 0),
		{ ...line(20_000, 0), when: { funding: 'commercial' } },
		{ ...line(30_000, 0), when: { funding: 'commercial', region: 'regional' } }
	];
	it('lets the line with the most conditions win', () => {
		expect(lineFor(card({ lines }), kind('EUR', { funding: 'commercial', region: 'regional' }))).toMatchObject({
			found: 'one',
			index: 2
		});
		expect(lineFor(card({ lines }), kind('EUR', { funding: 'commercial' }))).toMatchObject({ found: 'one', index: 1 });
		expect(lineFor(card({ lines }), kind('EUR'))).toMatchObject({ found: 'one', index: 0 });
	});
	it('tells an ambiguous and an uncovered kind', () => {
		const two = card({
			lines: [
				{ ...line(1, 0), when: { scheme: 'corvid' } },
				{ ...line(2, 0), when: { region: 'domestic' } }
			]
		});
		expect(
			priceOne(two, kind('EUR', { scheme: 'corvid', region: 'domestic' }), { minor: 100, currency: 'EUR' })
		).toEqual({ reason: 'ambiguous', lines: [0, 1] });
		expect(priceOne(two, kind(), { minor: 100, currency: 'EUR' })).toEqual({ reason: 'no line' });
		expect(priceOne(two, kind('USD', { scheme: 'corvid' }), { minor: 100, currency: 'USD' })).toEqual({
			reason: 'no rate'
		});
	});
	it('refuses a card whose minimum is over its maximum', () => {
		expect(() => card({ lines: [line(1, 0, { minimum: 5, maximum: 4 })] })).toThrow(/minimum/);
	});
});

describe('refunds', () => {
	const percentagePart = fraction(114_075, 1000);
	it('gives back the percentage part cumulatively: 0.41, then 0.73', () => {
		const rules = { refund: { keeps: 'fixed' as const, fee: 0 }, mode: 'half-up' as const };
		const back = (refunded: number) => givenBack(rules, { percentagePart, fee: 132, captured: 8450, refunded });
		expect(back(3000)).toBe(41);
		expect(back(8450) - back(3000)).toBe(73);
	});
	it('keeps all, or gives back the fee as it was charged, in proportion', () => {
		const of = (keeps: 'all' | 'nothing', refunded: number) =>
			givenBack({ refund: { keeps, fee: 0 }, mode: 'half-up' }, { percentagePart, fee: 132, captured: 8450, refunded });
		expect(of('all', 8450)).toBe(0);
		expect(of('nothing', 3000)).toBe(47);
		expect(of('nothing', 8450)).toBe(132);
	});
});

describe('columns', () => {
	const ppm = fc.integer({ min: 0, max: 60_000 });
	const anyCard = fc
		.record({
			rounding: fc.constantFrom('total', 'each'),
			mode: fc.constantFrom('half-up', 'half-even', 'up'),
			percentage: ppm,
			fixed: fc.integer({ min: 0, max: 500 }),
			minimum: fc.option(fc.integer({ min: 0, max: 100 }), { nil: undefined }),
			maximum: fc.option(fc.integer({ min: 100, max: 5000 }), { nil: undefined }),
			conversion: ppm,
			intermediary: ppm,
			plus: fc.boolean()
		})
		.map(({ plus, percentage, fixed, minimum, maximum, ...rest }) =>
			card({
				...rest,
				lines: [line(percentage, fixed, { minimum, maximum })],
				costs: plus
					? [{ scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 2000, schemeFee: 310 }]
					: undefined
			})
		);
	it('price exactly as one by one, up to the largest amounts', () => {
		const kinds = [
			kind('EUR', { scheme: 'corvid', funding: 'debit', region: 'domestic' }),
			kind('USD', { scheme: 'corvid', funding: 'debit', region: 'domestic' }),
			kind('EUR')
		];
		const rates = [undefined, usd(), usd('0.123456789')];
		const payment = fc.record({
			kind: fc.integer({ min: 0, max: 2 }),
			rate: fc.integer({ min: 1, max: 2 }),
			minor: fc.oneof(fc.integer({ min: 1, max: 100_000 }), fc.integer({ min: 1, max: 10 ** 12 }))
		});
		fc.assert(
			fc.property(anyCard, fc.array(payment, { minLength: 1, maxLength: 20 }), (rateCard, payments) => {
				const fees = new Float64Array(payments.length);
				priceColumns(
					rateCard,
					{
						kind: Uint16Array.from(payments, (p) => p.kind),
						minor: Float64Array.from(payments, (p) => p.minor),
						rate: Uint16Array.from(payments, (p) => (p.kind === 1 ? p.rate : 0)),
						kinds,
						rates
					},
					fees
				);
				payments.forEach((p, i) => {
					const one = priceOne(
						rateCard,
						kinds[p.kind]!,
						{ minor: p.minor, currency: kinds[p.kind]!.currency },
						p.kind === 1 ? rates[p.rate] : undefined
					);
					expect(fees[i]).toBe(isPriced(one) ? one.fee.minor : UNPRICED);
				});
			}),
			{ seed, numRuns: 1500 }
		);
	});
});

it('says a price in steps that add up', () => {
	const rateCard = card({ lines: [{ ...line(13_500, 18), when: { method: 'card', region: 'domestic' } }] });
	const result = priced(priceOne(rateCard, kind('EUR', { region: 'domestic' }), { minor: 8450, currency: 'EUR' }));
	expect(priceSteps(result, { minor: 8450, currency: 'EUR' }, 'en-GB').map((step) => [step.title, step.sum])).toEqual([
		['Captured', '84.50 EUR'],
		['Percentage 1.35 %', '1.14075'],
		['Fixed part', '0.18'],
		['Expected fee', '1.32 EUR']
	]);
	expect(sayLine(rateCard.lines[0]!)).toBe('card, domestic');
	expect([0, 300, 10_000, 1_000_000].map((ppm) => percent(ppm, 'en-GB'))).toEqual(['0 %', '0.03 %', '1 %', '100 %']);
});
