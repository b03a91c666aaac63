import { describe, expect, it } from 'vitest';
import {
	answer,
	fromFile,
	Offer,
	offeredOnly,
	replay,
	replayFees,
	sound,
	VERDICTS,
	type Context,
	type ReplayKind,
	type States
} from '.';
import { RateCard } from '../fees';

const ability = (more: object = {}) => ({
	method: 'card',
	currencies: ['EUR'],
	entries: ['online' as const],
	cardTypes: { schemes: ['corvid', 'tessel'], fundings: 'any' as const, regions: 'any' as const },
	limits: [] as { currency: string; minimum?: number; maximum?: number }[],
	...more
});
const states = (more: object = {}): States => ({
	connections: {
		f: {
			id: 'f',
			name: 'Fernhall',
			processor: 'fernhall',
			mode: 'live',
			verified: true,
			paused: false,
			failing: false,
			excludes: [],
			abilities: [ability(), ability({ method: 'device-wallet' })],
			...more
		}
	},
	offline: {
		own: { id: 'own', name: 'Own', method: 'credit-transfer', paused: false, currencies: ['EUR'], thresholds: [] }
	},
	pausedMethods: [],
	rates: [],
	homeCurrency: 'EUR',
	provenDomains: {},
	pageCodes: {}
});
const context: Context = {
	mode: 'live',
	tillCurrencies: ['EUR'],
	currency: 'EUR',
	minor: 1_000,
	recurring: false,
	orderedBy: 'page',
	entry: 'online',
	day: '2026-11-24'
};
const by = (kind: 'connection' | 'offline', id: string) => ({ EUR: { first: { kind, id } } });
const card = Offer.parse({ id: 'c', method: 'card', name: 'Card', routes: by('connection', 'f') });
const transfer = Offer.parse({ id: 't', method: 'credit-transfer', name: 'Transfer', routes: by('offline', 'own') });

describe('bounds', () => {
	it('of one currency all count, of the offer and of the account', () => {
		const two = {
			...card,
			conditions: {
				amounts: [
					{ currency: 'EUR', minimum: 100 },
					{ currency: 'EUR', minimum: 2_000 }
				]
			}
		};
		const limits = states({
			abilities: [
				ability({
					limits: [
						{ currency: 'EUR', maximum: 5_000 },
						{ currency: 'EUR', maximum: 900 }
					]
				})
			]
		});
		const cases: [Offer[], ReturnType<typeof states>][] = [
			[[two], states()],
			[[card], limits]
		];
		for (const [lineUp, s] of cases) {
			expect(answer(lineUp, context, s).offered).toEqual([]);
			expect(offeredOnly(lineUp, context, s)).toEqual([]);
		}
	});
	it('in another currency are compared beyond what an amount may be', () => {
		const huge = { ...context, currency: 'GBP', minor: 10 ** 12, tillCurrencies: ['GBP'] };
		const s = { ...states(), rates: [{ day: '2026-11-20', from: 'GBP', to: 'EUR', rate: '1.14', source: 'test' }] };
		const bounded = Offer.parse({
			...transfer,
			routes: { GBP: { first: { kind: 'offline', id: 'own' } } },
			conditions: { amounts: [{ currency: 'EUR', minimum: 2_000 }] }
		});
		expect(() => answer([bounded], huge, s)).not.toThrow();
	});
});

describe('replay', () => {
	const kinds: ReplayKind[] = [
		{ method: 'card', currency: 'EUR', entry: 'online', scheme: 'unknown', funding: 'unknown', issuer: 'unknown' },
		{ method: 'card', currency: 'EUR', entry: 'online', scheme: 'tessel', funding: 'debit', issuer: 'BE' }
	];
	const run = (published: Offer[], draft: Offer[], list: readonly (readonly [number, number])[]) => {
		const past = {
			kinds,
			kind: Uint16Array.from(list, ([k]) => k),
			minor: Float64Array.from(list, ([, minor]) => minor),
			day: new Uint16Array(list.length),
			days: ['2026-11-20']
		};
		const steps = replay(
			{ past, published, draft, states: sound(states()), base: context, areas: {}, countries: { f: 'BE' } },
			[0, list.length]
		);
		for (;;) {
			const step = steps.next();
			if (step.done) return [...step.value.verdict].map((verdict) => VERDICTS[verdict]);
		}
	};
	const corvid = { ...card, cardTypes: { schemes: ['corvid'], fundings: 'any' as const, regions: 'any' as const } };
	it('lets no card of an unknown scheme pass an offer that asks for schemes', () => {
		expect(run([corvid], [corvid], [[0, 1_000]])).toEqual(['not offered by either']);
	});
	it('tells no other method where the only offer left refuses that very card', () => {
		const wallet = { ...corvid, id: 'w', method: 'device-wallet' as const, name: 'Wallet' };
		expect(run([card], [wallet], [[1, 1_000]])).toEqual(['nothing offered']);
		expect(run([card], [transfer], [[1, 1_000]])).toEqual(['other method only']);
	});
	it('keeps kinds apart however many limits are in play', () => {
		const many = Array.from({ length: 40 }, (_, n) => ({
			...transfer,
			id: `t${n}`,
			name: `T${n}`,
			conditions: {
				amounts: Array.from({ length: 20 }, (_, m) => ({
					currency: 'EUR',
					minimum: 10 + n * 40 + m * 2,
					maximum: 10_000 + n * 40 + m * 2
				}))
			}
		}));
		const list = Array.from({ length: 1_200 }, (_, n) => [n % 2, 1 + n * 9] as const);
		const told = run([...many, corvid], [...many, corvid], list);
		// whatever lies between the limits: an unknown card is never taken by an offer for one scheme
		expect(new Set(told)).toEqual(new Set(['not offered by either']));
	});
	it('counts tiers over the whole connection, from the first of the month, whatever till paid in', () => {
		const line = (percentage: number) => [{ when: {}, percentage, fixed: 0 }];
		const own = RateCard.parse({
			settlement: 'EUR',
			rounding: 'total',
			mode: 'half-up',
			lines: line(20_000),
			tiers: { way: 'band', steps: [{ from: 10_000, lines: line(10_000) }] }
		});
		const past = {
			kinds: [{ ...kinds[1]!, entry: 'online' as const }],
			kind: Uint16Array.of(0, 0, 0),
			minor: Float64Array.of(10_000, 1_000, 1_000),
			day: Uint16Array.of(0, 1, 2),
			month: Uint16Array.of(0, 0, 1),
			days: ['2026-10-01', '2026-10-20', '2026-11-01'],
			count: 3
		};
		const carrier = { cards: [{ from: '2026-01-01', card: own }], country: 'BE', rateOf: () => undefined };
		// the first is another till's: alone, the second would be in the first band
		expect([...replayFees(past, [undefined, carrier], Int32Array.of(1, 1, 1), [1, 2])]).toEqual([10, 20]);
		expect([...replayFees(past, [undefined, carrier], Int32Array.of(-1, 1, 1), [1, 2])]).toEqual([20, 20]);
	});
});

describe('a line-up file', () => {
	const book = [{ kind: 'connection' as const, id: 'f', name: 'Fernhall', mode: 'live', schemes: ['corvid'] }];
	const file = (offer: object) => ({
		kind: 'line-up',
		version: 1,
		offers: [
			{ method: 'card', name: 'Card', routes: { EUR: { first: { kind: 'connection', name: 'Fernhall' } } }, ...offer }
		]
	});
	it.each([
		[{ conditions: { countrys: { rule: 'only', values: ['BE'] } } }, '/offers/0/conditions'],
		[{ conditions: { amounts: [{ currency: 'EUR', minumum: 5 }] } }, '/offers/0/conditions/amounts/0'],
		[{ methodd: 'card' }, '/offers/0'],
		[{ conditions: { countries: { rule: 'only', values: ['Belgium'] } } }, '/offers/0/conditions/countries/values/0'],
		[{ cardTypes: { schemes: ['nosuch'], fundings: 'any', regions: 'any' } }, '/offers/0/cardTypes/schemes/0'],
		[{ routes: { 'a/b': { first: { kind: 'connection', name: 'Fernhall' } } } }, '/offers/0/routes/a~1b'],
		[{ routes: {} }, '/offers/0/routes']
	])('is strict: %j is a fault with its pointer', (wrong, pointer) => {
		const read = fromFile(file(wrong), 'live', book, () => 'new');
		expect('faults' in read && read.faults.map((one) => one.pointer)).toEqual([pointer]);
	});
});
