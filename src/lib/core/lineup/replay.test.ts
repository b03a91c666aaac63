import { describe, expect, it } from 'vitest';
import {
	answer,
	gridEntries,
	Offer,
	replay,
	rulerDifferences,
	sound,
	VERDICTS,
	type Context,
	type Replayed,
	type ReplayKind,
	type ReplayPast,
	type States
} from '.';

const connection = (id: string, more: object = {}) => ({
	id,
	name: id,
	processor: id,
	mode: 'live' as const,
	verified: true,
	paused: false,
	failing: false,
	excludes: [],
	abilities: [
		{
			method: 'card',
			currencies: ['EUR', 'CHF', 'GBP'],
			entries: ['online' as const],
			cardTypes: { schemes: ['corvid', 'gildern'], fundings: 'any' as const, regions: 'any' as const },
			limits: []
		}
	],
	...more
});
const states: States = {
	connections: { fernhall: connection('fernhall'), brackwater: connection('brackwater', { paused: true }) },
	offline: {
		own: { id: 'own', name: 'own', method: 'credit-transfer', paused: false, currencies: ['EUR'], thresholds: [] }
	},
	pausedMethods: [],
	rates: [
		{ day: '2026-10-01', from: 'CHF', to: 'EUR', rate: '1.00', source: 'test' },
		{ day: '2026-11-01', from: 'CHF', to: 'EUR', rate: '2.00', source: 'test' }
	],
	homeCurrency: 'EUR',
	provenDomains: {},
	pageCodes: {}
};
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
const via = (id: string, standby?: string) => ({
	first: { kind: id === 'own' ? ('offline' as const) : ('connection' as const), id },
	...(standby ? { standby: { kind: 'connection' as const, id: standby } } : {})
});
const card = Offer.parse({
	id: 'card',
	method: 'card',
	name: 'Card',
	routes: { EUR: via('fernhall'), CHF: via('fernhall') }
});
const transfer = Offer.parse({ id: 't', method: 'credit-transfer', name: 'Transfer', routes: { EUR: via('own') } });
const kind = (more: Partial<ReplayKind> = {}): ReplayKind => ({
	method: 'card',
	currency: 'EUR',
	entry: 'online',
	scheme: 'corvid',
	funding: 'debit',
	issuer: 'BE',
	...more
});
const kinds = [kind(), kind({ currency: 'CHF' }), kind({ scheme: 'gildern' }), kind({ method: 'bank-app' })];
const past = (list: [number, number, string][]): ReplayPast => {
	const days = [...new Set(list.map(([, , day]) => day))];
	return {
		kinds,
		days,
		kind: Uint16Array.from(list, ([k]) => k),
		minor: Float64Array.from(list, ([, minor]) => minor),
		day: Uint16Array.from(list, ([, , day]) => days.indexOf(day))
	};
};
function run(list: [number, number, string][], published: Offer[], draft: Offer[], stretch = 1_000): Replayed {
	const steps = replay(
		{ past: past(list), published, draft, states: sound(states), base, areas: {}, countries: { fernhall: 'BE' } },
		[0, list.length],
		stretch
	);
	for (;;) {
		const step = steps.next();
		if (step.done) return step.value;
	}
}
const says = (result: Replayed) => [...result.verdict].map((one) => VERDICTS[one]);

describe('replay', () => {
	it('takes who paid by what some groups alone are offered for one of them', () => {
		const schools = {
			...transfer,
			conditions: { ...transfer.conditions, groups: { rule: 'only' as const, values: ['schools'] } }
		};
		const mine = [kind({ method: 'credit-transfer', scheme: '', funding: '', issuer: '' }), kind()];
		const told = (list: Offer[]) => {
			const steps = replay(
				{
					past: {
						kinds: mine,
						days: ['2026-11-24'],
						kind: Uint16Array.of(0, 1),
						minor: Float64Array.of(500, 500),
						day: Uint16Array.of(0, 0)
					},
					published: list,
					draft: list,
					states: sound(states),
					base,
					areas: {},
					countries: { fernhall: 'BE' }
				},
				[0, 2]
			);
			for (;;) {
				const step = steps.next();
				if (step.done) return says(step.value);
			}
		};
		expect(told([schools, card])).toEqual([VERDICTS[0], VERDICTS[0]]);
		// one offer for all beside it: nothing is known of who paid
		expect(
			told([
				schools,
				{
					...schools,
					id: 'u',
					conditions: { ...schools.conditions, groups: { rule: 'only' as const, values: ['dealers'] } }
				},
				transfer
			])
		).toEqual([VERDICTS[0], VERDICTS[5]]);
	});
	it('tells routes, methods and emptiness apart', () => {
		const other = { ...card, routes: { EUR: via('brackwater'), CHF: via('fernhall') } };
		const noGildern = {
			...card,
			cardTypes: { schemes: ['corvid'], fundings: 'any' as const, regions: 'any' as const }
		};
		const list: [number, number, string][] = [
			[0, 1_000, '2026-11-20'],
			[1, 1_000, '2026-11-20'],
			[2, 1_000, '2026-11-20'],
			[3, 1_000, '2026-11-20']
		];
		expect(says(run(list, [card, transfer], [other, transfer]))).toEqual([
			'other route',
			'same route',
			'other route',
			'not offered by either'
		]);
		expect(says(run(list, [card, transfer], [noGildern, transfer]))[2]).toBe('other method only');
		expect(says(run(list, [card], [transfer]))).toEqual([
			'other method only',
			'nothing offered',
			'other method only',
			'not offered by either'
		]);
		expect(says(run(list, [transfer], [card]))).toEqual([
			'newly offered',
			'newly offered',
			'newly offered',
			'not offered by either'
		]);
	});
	it('compares a converted limit at the rate of the payment’s day', () => {
		const from20 = { ...card, conditions: { amounts: [{ currency: 'EUR', minimum: 2_000 }] } };
		expect(
			says(
				run(
					[
						[1, 1_500, '2026-10-15'],
						[1, 1_500, '2026-11-15']
					],
					[card],
					[from20]
				)
			)
		).toEqual(['nothing offered', 'same route']);
	});
	it('answers as the payer’s page would, for every payment, and goes on after each stretch', () => {
		let state = 7;
		const draw = (n: number) => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) % n;
		const list = Array.from({ length: 3_000 }, (): [number, number, string] => [
			draw(3),
			1 + draw(6_000),
			draw(2) ? '2026-10-15' : '2026-11-15'
		]);
		const draft = [
			{ ...card, conditions: { amounts: [{ currency: 'EUR', minimum: 1_234, maximum: 4_000 }] } },
			{ ...transfer, conditions: { amounts: [{ currency: 'EUR', minimum: 700 }] } }
		];
		const result = run(list, [card], draft, 500);
		list.forEach(([k, minor, day], n) => {
			const { offered } = answer(
				draft,
				{ ...base, currency: kinds[k]!.currency, minor, country: 'BE', day },
				sound(states)
			);
			const fit = offered.find((one) => one.offer.method === 'card');
			expect(result.carriers[result.after[n]!]).toBe(fit?.carrier.id ?? '');
			expect(VERDICTS[result.verdict[n]!]).toBe(
				fit ? 'same route' : offered.length ? 'other method only' : 'nothing offered'
			);
		});
		const steps = replay(
			{ past: past(list), published: [card], draft, states: sound(states), base, areas: {}, countries: {} },
			[0, list.length],
			1_000
		);
		expect([steps.next().value, steps.next().value, steps.next().value, steps.next().done]).toEqual([
			1_000,
			2_000,
			3_000,
			true
		]);
	});
});

describe('the grid', () => {
	const till = { slug: 'shop', name: 'Web shop', currencies: ['EUR', 'CHF', 'JPY'], base };
	it('gives an entry for each currency and scheme, with route, standby and conditions', () => {
		const bounded = { ...card, conditions: { amounts: [{ currency: 'EUR', minimum: 5 }] } };
		const entries = gridEntries([{ ...till, lineUp: [bounded, transfer, { ...card, id: 'off', on: false }] }], states);
		expect(entries.map((one) => [one.method, one.scheme, one.currency, one.conditions, one.trouble])).toEqual([
			['card', 'corvid', 'EUR', true, undefined],
			['card', 'gildern', 'EUR', true, undefined],
			['card', 'corvid', 'CHF', true, undefined],
			['card', 'gildern', 'CHF', true, undefined],
			['credit-transfer', '', 'EUR', false, undefined]
		]);
	});
	it('says when a standby carries, and when nothing can', () => {
		const paused = (standby?: string) => [{ ...card, routes: { EUR: via('brackwater', standby) } }];
		expect(gridEntries([{ ...till, lineUp: paused('fernhall') }], states)[0]).toMatchObject({
			onStandby: true,
			trouble: undefined
		});
		expect(gridEntries([{ ...till, lineUp: paused() }], states)[0]!.trouble).toBe('paused');
		const everywhere = { ...states, pausedMethods: ['card'] };
		expect(gridEntries([{ ...till, lineUp: [card] }], everywhere)[0]!.trouble).toBe('paused everywhere');
	});
});

describe('pauses everywhere', () => {
	const of = (s: Partial<States>, currency = 'EUR') =>
		answer([card, transfer], { ...base, currency, minor: 5_000 }, { ...states, ...s });
	it('withhold a currency, a method, and narrow card types to what is not paused', () => {
		expect(of({ pausedCurrencies: ['EUR'] }).offered).toEqual([]);
		expect(of({ pausedMethods: ['card'] }).offered.map((one) => one.offer.id)).toEqual(['t']);
		expect(of({ pausedSchemes: ['corvid'] }).offered[0]!.types?.schemes).toEqual(['gildern']);
		expect(of({ pausedSchemes: ['corvid', 'gildern'] }).offered.map((one) => one.offer.id)).toEqual(['t']);
	});
});

describe('a difference in words', () => {
	it('says from where to where nothing is taken any more', () => {
		const from10 = {
			...card,
			conditions: {
				amounts: [
					{ currency: 'EUR', minimum: 1_000 },
					{ currency: 'CHF', minimum: 500, maximum: 900 }
				]
			}
		};
		expect(rulerDifferences([card], [from10], base, states, 'Web shop', 'en-GB')).toEqual([
			'EUR is no longer taken below 10.00 at Web shop.',
			'CHF is no longer taken below 5.00 at Web shop.',
			'CHF is no longer taken from 9.01 up at Web shop.'
		]);
		expect(rulerDifferences([transfer], [card, transfer], base, states, 'Web shop', 'en-GB')).toEqual([
			'CHF is now taken at Web shop.'
		]);
		expect(rulerDifferences([card], [card], base, states, 'Web shop', 'en-GB')).toEqual([]);
	});
});
