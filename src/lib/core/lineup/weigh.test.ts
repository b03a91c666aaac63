import { describe, expect, it } from 'vitest';
import { coverage, isProcessorsOwnBound, Offer, shareOfOffers, weighSituations, type Context, type States } from '.';

const card = {
	method: 'card',
	currencies: ['EUR', 'CHF'],
	entries: ['online' as const],
	cardTypes: { schemes: ['corvid'], fundings: 'any' as const, regions: 'any' as const },
	limits: [{ currency: 'EUR', minimum: 50 }]
};
const states = {
	connections: {
		f: {
			id: 'f',
			name: 'F',
			processor: 'f',
			mode: 'live',
			verified: true,
			paused: false,
			failing: false,
			excludes: [],
			abilities: [card]
		}
	},
	offline: {},
	pausedMethods: [],
	rates: [],
	homeCurrency: 'EUR',
	provenDomains: {},
	pageCodes: {}
} as unknown as States;
const base: Context = {
	mode: 'live',
	tillCurrencies: ['EUR', 'CHF'],
	currency: 'EUR',
	minor: 1,
	recurring: false,
	orderedBy: 'page',
	entry: 'online',
	day: '2026-11-24'
};
const lineUp = [
	Offer.parse({
		id: 'card',
		method: 'card',
		name: 'Card',
		routes: { EUR: { first: { kind: 'connection', id: 'f' } }, CHF: { first: { kind: 'connection', id: 'f' } } },
		conditions: {
			amounts: [{ currency: 'CHF', minimum: 2_000 }],
			countries: { rule: 'except', values: ['US'] }
		}
	})
];
const input = { lineUp, states, base, domains: [] };
const { situations } = coverage(input);
const payers = (currency: string, minor: number, country: string, count = 1, met = 0) => ({
	currency,
	minor,
	country,
	count,
	met
});

describe('past payers', () => {
	it('each stand in one situation, where the same is offered them at the same amounts', () => {
		const past = [
			payers('EUR', 8_450, 'BE', 7),
			payers('CHF', 1_200, 'CH', 2, 2),
			payers('CHF', 2_000, 'CH', 3),
			payers('EUR', 9_900, 'US', 4, 4)
		];
		const weights = weighSituations(situations, input, past);
		expect(weights.reduce((sum, one) => sum + one.count, 0)).toBe(16);
		expect(weights.reduce((sum, one) => sum + one.met, 0)).toBe(6);
		const at = (currency: string, minor: number, isEmpty: boolean) =>
			weights.filter((one, n) => {
				const each = situations[n]!;
				return (
					one.count > 0 &&
					each.currency === currency &&
					minor >= each.from &&
					minor <= (each.to ?? Infinity) &&
					(each.offers.length === 0) === isEmpty
				);
			});
		expect(at('EUR', 8_450, false)).toEqual([{ count: 7, met: 0, minor: 7 * 8_450 }]);
		expect(at('CHF', 1_200, true)).toEqual([{ count: 2, met: 2, minor: 2_400 }]);
		expect(at('EUR', 9_900, true)).toEqual([{ count: 4, met: 4, minor: 4 * 9_900 }]);
	});
	it('of a currency or a sum that no situation holds count in none', () => {
		expect(weighSituations(situations, input, [payers('USD', 100, 'US')]).every((one) => one.count === 0)).toBe(true);
	});
});

describe('an empty situation', () => {
	it('is the processors’ own bound where only their limit is in the way, and ours where our own is', () => {
		const empty = situations.filter((one) => one.offers.length === 0 && one.context.country !== 'US');
		const small =
			empty.find((one) => one.currency === 'EUR' && one.from === 0) ?? empty.find((one) => one.currency === 'EUR')!;
		expect([small.to, isProcessorsOwnBound({ ...small, context: { ...small.context, country: 'BE' } }, input)]).toEqual(
			[49, true]
		);
		const chf = empty.find((one) => one.currency === 'CHF')!;
		expect(isProcessorsOwnBound({ ...chf, context: { ...chf.context, country: 'CH' } }, input)).toBe(false);
		expect(
			isProcessorsOwnBound(
				situations.find((one) => one.offers.length > 0)!,
				input
			)
		).toBe(false);
	});
});

describe('the share of payers to whom an offer was shown', () => {
	it('counts all who came, by currency, and none where nobody came', () => {
		const past = [
			payers('EUR', 8_450, 'BE', 7),
			payers('CHF', 1_200, 'CH', 2, 2),
			payers('CHF', 2_000, 'CH', 3),
			payers('EUR', 9_900, 'US', 4, 4)
		];
		expect(shareOfOffers(input, past).get('card')).toEqual({
			shown: 10,
			of: 16,
			byCurrency: [
				{ currency: 'EUR', shown: 7, of: 11 },
				{ currency: 'CHF', shown: 3, of: 5 }
			]
		});
		expect(shareOfOffers(input, []).size).toBe(0);
	});
});
