import { describe, expect, it } from 'vitest';
import { findRate } from '../money';
import { monthlyMarkups } from './minimum';
import { priceColumns, priceMonth, RateCard, type Kind, type MonthPayment } from '.';

const card = (change: object): RateCard =>
	RateCard.parse({ settlement: 'EUR', rounding: 'total', mode: 'half-up', monthly: { fee: 0, minimum: 1 }, ...change });
const line = (percentage: number, fixed: number, when: object = {}, more: object = {}) => ({
	when,
	percentage,
	fixed,
	...more
});
const kind = (currency: string, funding: string): Kind => ({
	method: 'card',
	scheme: 'corvid',
	funding,
	region: 'domestic',
	currency,
	entry: 'online'
});
const KINDS = [kind('EUR', 'debit'), kind('EUR', 'credit'), kind('USD', 'credit')];
const RATE = findRate(
	[{ day: '2026-01-01', from: 'USD', to: 'EUR', rate: '0.9213', source: 'test' }],
	'USD',
	'EUR',
	'2026-01-01'
);
const CARDS: Readonly<Record<string, RateCard>> = {
	flat: card({ lines: [line(13_500, 18)], conversion: 17_500 }),
	'each part rounded': card({ rounding: 'each', mode: 'up', lines: [line(13_333, 7)] }),
	clamped: card({ lines: [line(20_000, 10, {}, { minimum: 90, maximum: 400 })] }),
	'interchange plus': card({
		lines: [line(4_000, 5)],
		costs: ['debit', 'credit'].map((funding) => ({
			scheme: 'corvid',
			funding,
			region: 'domestic',
			interchange: 2_000,
			schemeFee: 300
		}))
	}),
	bands: card({
		lines: [line(13_500, 18)],
		tiers: { way: 'band', steps: [{ from: 300_000, lines: [line(9_000, 10)] }] }
	}),
	whole: card({
		lines: [line(13_500, 18)],
		tiers: { way: 'whole', steps: [{ from: 300_000, lines: [line(9_000, 10)] }] }
	})
};

describe('the markups of months', () => {
	it('are what the simple pricing of a month adds up, for every way of pricing', () => {
		for (const [name, own] of Object.entries(CARDS))
			for (let seed = 1; seed <= 15; seed++) {
				let state = seed;
				const next = (to: number) => ((state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) >>> 8) % to;
				const count = 120;
				const columns = {
					kinds: KINDS,
					rates: [undefined, RATE],
					kind: Uint16Array.from({ length: count }, () => next(3)),
					minor: Float64Array.from({ length: count }, () => 50 + next(30_000)),
					rate: new Uint16Array(count),
					month: Uint16Array.from({ length: count }, (_, n) => Math.floor(n / 50))
				};
				for (let n = 0; n < count; n++) columns.rate[n] = columns.kind[n] === 2 ? 1 : 0;
				const fees = new Float64Array(count);
				const bases = new Float64Array(count);
				priceColumns(own, columns, fees, bases);
				const found = monthlyMarkups(own, columns, fees, bases);
				for (const month of [0, 1, 2]) {
					const payments: MonthPayment[] = [];
					for (let n = 0; n < count; n++)
						if (columns.month[n] === month) {
							const one = KINDS[columns.kind[n]!]!;
							payments.push({
								kind: one,
								paid: { minor: columns.minor[n]!, currency: one.currency },
								rate: one.currency === 'USD' ? RATE : undefined
							});
						}
					// what is missing to a minimum that is never reached tells the markup
					const high = { ...own, monthly: { fee: 0, minimum: 900_000_000 } };
					const markup = 900_000_000 - priceMonth(high, payments).minimum;
					expect([name, seed, month, found.get(month)]).toEqual([name, seed, month, markup]);
				}
			}
	});
	it('of a month without a payment are not there', () => {
		const empty = {
			kinds: KINDS,
			rates: [undefined],
			kind: new Uint16Array(0),
			minor: new Float64Array(0),
			rate: new Uint16Array(0),
			month: new Uint16Array(0)
		};
		expect(monthlyMarkups(CARDS.flat!, empty, new Float64Array(0), new Float64Array(0)).size).toBe(0);
	});
});
