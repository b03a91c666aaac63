import { describe, expect, it } from 'vitest';
import { FUNDINGS, REGIONS } from '../cards';
import {
	boundsFor,
	CHECK_RULES,
	checkOffer,
	chooseRoute,
	domainTroubles,
	FACT_CODES,
	isWhoeverPays,
	limitIn,
	Offer,
	routeTrouble,
	sayFact,
	typesLeft,
	withinBound,
	type Ability,
	type ConnectionState,
	type Context,
	type Fact,
	type OfflineState,
	type States
} from '.';

const ABILITY: Ability = {
	method: 'card',
	currencies: ['EUR', 'GBP'],
	entries: ['online', 'recurring'],
	cardTypes: { schemes: ['corvid', 'mainsail'], fundings: [...FUNDINGS], regions: [...REGIONS] },
	limits: [{ currency: 'EUR', minimum: 50, maximum: 500_000 }]
};
const connection = (id: string, change: Partial<ConnectionState> = {}): ConnectionState => ({
	id,
	name: `${id[0]!.toUpperCase()}${id.slice(1)}`,
	processor: id,
	mode: 'live',
	verified: true,
	paused: false,
	failing: false,
	excludes: [],
	abilities: [ABILITY],
	...change
});
const own = (change: Partial<OfflineState> = {}): OfflineState => ({
	id: 'own',
	name: 'Own account',
	method: 'credit-transfer',
	paused: false,
	currencies: ['EUR', 'CHF'],
	thresholds: [],
	...change
});
const states = (change: Partial<States> = {}): States => ({
	connections: { fernhall: connection('fernhall'), brackwater: connection('brackwater') },
	offline: { own: own() },
	pausedMethods: [],
	rates: [{ day: '2026-11-23', from: 'CHF', to: 'EUR', rate: '1.0664', source: 'test' }],
	homeCurrency: 'EUR',
	provenDomains: {},
	pageCodes: {},
	...change
});
const context = (change: Partial<Context> = {}): Context => ({
	mode: 'live',
	tillCurrencies: ['EUR', 'GBP', 'CHF'],
	currency: 'EUR',
	minor: 8_450,
	country: 'BE',
	recurring: false,
	orderedBy: 'page',
	entry: 'online',
	day: '2026-11-24',
	...change
});
const first = (id: string, standby?: string) => ({
	first: { kind: 'connection' as const, id },
	...(standby ? { standby: { kind: 'connection' as const, id: standby } } : {})
});
const card = (change: object = {}) =>
	Offer.parse({ id: 'o1', method: 'card', name: 'Card', routes: { EUR: first('fernhall', 'brackwater') }, ...change });
const transfer = (change: object = {}) =>
	Offer.parse({
		id: 'o2',
		method: 'credit-transfer',
		name: 'Credit transfer',
		routes: {
			EUR: { first: { kind: 'offline', id: 'own' } },
			CHF: { first: { kind: 'offline', id: 'own' } },
			GBP: { first: { kind: 'offline', id: 'own' } }
		},
		...change
	});
/** The checks that failed, by their rule and what they found. */
const failed = (offer: Offer, asked = context(), held = states()): [string, Fact][] =>
	checkOffer(offer, asked, held)
		.checks.filter((one) => !one.ok)
		.map((one) => [one.rule, one.fact]);
const codes = (...asked: Parameters<typeof failed>): string[] =>
	failed(...asked).map(([rule, { code }]) => `${rule}: ${code}`);

describe('the checks of an offer', () => {
	it('are all told, also those after one that failed, in their order', () => {
		const { checks } = checkOffer(
			card({ on: false }),
			context({ currency: 'CHF' }),
			states({ pausedMethods: ['card'] })
		);
		const rules = checks.map((one) => one.rule);
		expect([...new Set(rules)]).toEqual(CHECK_RULES.filter((one) => one !== 'beside'));
		expect(checks.filter((one) => !one.ok).map((one) => one.rule)).toEqual([
			'on',
			'method',
			'route',
			'account',
			'currency'
		]);
	});
	it('all hold for a payer whom nothing stands in the way of', () => {
		expect(codes(card())).toEqual([]);
		expect(codes(transfer())).toEqual([]);
	});
	it('1: is it on, and is its method paused everywhere', () => {
		expect(codes(card({ on: false }))).toEqual(['on: offer-off']);
		expect(codes(card(), context(), states({ pausedMethods: ['card'] }))).toEqual(['method: method-paused']);
		expect(codes(transfer(), context(), states({ pausedMethods: ['card'] }))).toEqual([]);
	});
	it('2: can its route carry it, or its standby, which never chains further', () => {
		const down = (change: Partial<ConnectionState>, other: Partial<ConnectionState> = {}) =>
			states({
				connections: { fernhall: connection('fernhall', change), brackwater: connection('brackwater', other) }
			});
		const troubles: [Partial<ConnectionState>, string][] = [
			[{ verified: false }, 'unverified'],
			[{ mode: 'test' }, 'mode'],
			[{ paused: true }, 'paused'],
			[{ failing: true }, 'failing']
		];
		for (const [change, why] of troubles) {
			const held = down(change);
			expect(routeTrouble({ kind: 'connection', id: 'fernhall' }, context(), held)).toBe(why);
			expect(chooseRoute(card(), context(), held)).toMatchObject({
				carrier: { id: 'brackwater' },
				standby: true,
				usable: true
			});
			// both are out: the first choice is told, with what is wrong with either
			const both = down(change, { failing: true });
			expect(failed(card(), context(), both)).toEqual([
				['route', { code: 'route-out', name: 'Fernhall', why, standbyName: 'Brackwater', standbyWhy: 'failing' }]
			]);
		}
		expect(routeTrouble({ kind: 'connection', id: 'nobody' }, context(), states())).toBe('gone');
		expect(routeTrouble({ kind: 'offline', id: 'nobody' }, context(), states())).toBe('gone');
		expect(
			routeTrouble({ kind: 'offline', id: 'own' }, context(), states({ offline: { own: own({ paused: true }) } }))
		).toBe('paused');
		expect(codes(card(), context({ currency: 'GBP' }))).toEqual(['route: no-route', 'currency: offer-currency']);
	});
	it('3: can the account carry it: method, currency, how it is entered, its own bounds', () => {
		const able = (change: Partial<Ability>) =>
			states({ connections: { fernhall: connection('fernhall', { abilities: [{ ...ABILITY, ...change }] }) } });
		expect(codes(card(), context(), able({ method: 'bank-redirect' }))).toEqual(['account: not-offered']);
		expect(codes(card(), context(), able({ currencies: ['GBP'] }))).toEqual(['account: account-currency']);
		expect(codes(card(), context(), able({ entries: ['present'] }))).toEqual(['account: account-entry']);
		expect(codes(card(), context({ recurring: true }), able({ entries: ['online'] }))).toEqual([
			'account: account-entry'
		]);
		expect([49, 50, 500_000, 500_001].map((minor) => codes(card(), context({ minor })))).toEqual([
			['account: account-limit'],
			[],
			[],
			['account: account-limit']
		]);
		// two limits of one currency both count
		const two = able({
			limits: [
				{ currency: 'EUR', minimum: 100 },
				{ currency: 'EUR', maximum: 90 }
			]
		});
		expect(codes(card(), context({ minor: 95 }), two)).toEqual(['account: account-limit', 'account: account-limit']);
		expect(codes(transfer(), context({ currency: 'GBP' }))).toEqual(['account: account-currency']);
		expect(codes(transfer(), context(), states({ offline: { own: own({ method: 'cash' }) } }))).toEqual([
			'account: not-offered'
		]);
	});
	it('4: does the till take the currency, and is it not paused', () => {
		expect(codes(card(), context({ tillCurrencies: ['GBP'] }))).toEqual(['currency: till-currency']);
		expect(codes(card(), context(), states({ pausedCurrencies: ['EUR'] }))).toEqual(['currency: currency-paused']);
		expect(codes(card(), context(), states({ pausedCurrencies: ['GBP'] }))).toEqual([]);
	});
	it('5: is the amount within every bound that counts', () => {
		const from20 = { conditions: { amounts: [{ currency: 'EUR', minimum: 2_000, maximum: 9_000 }] } };
		expect([1_999, 2_000, 9_000, 9_001].map((minor) => codes(transfer(from20), context({ minor })))).toEqual([
			['amount: amount-out'],
			[],
			[],
			['amount: amount-out']
		]);
		const threshold = states({
			offline: {
				own: own({
					thresholds: [
						{ currency: 'EUR', minimum: 5_000, common: false },
						{ currency: 'EUR', minimum: 10_000, common: true }
					]
				})
			}
		});
		const told = failed(transfer(from20), context({ minor: 1_000 }), threshold).map(([, fact]) =>
			fact.code === 'amount-out' ? `${fact.bound.from} ${fact.bound.minor}` : fact.code
		);
		// each bound that fails is told, not only the first
		expect(told).toEqual(['offer 2000', 'method 5000', 'common 10000']);
	});
	it('5: without a rate a bound in another currency cannot be held, and says so', () => {
		const bound = { conditions: { amounts: [{ currency: 'EUR', minimum: 2_000 }] } };
		expect(failed(transfer(bound), context({ currency: 'CHF' }), states({ rates: [] }))).toEqual([
			['amount', { code: 'no-rate', from: 'CHF', to: 'EUR' }]
		]);
	});
	it('6: is the payer one of those it is for; every condition that fails is told', () => {
		const only = (value: string) => ({ rule: 'only' as const, values: [value] });
		const offer = card({
			conditions: {
				countries: only('NL'),
				groups: only('teachers'),
				goods: only('strings'),
				delivery: only('collected'),
				domains: only('shop.wrenalder.example'),
				recurrence: 'recurring',
				orderedBy: 'interface',
				withoutOnlineMethod: true
			}
		});
		const told = (asked: Partial<Context>) =>
			failed(offer, context(asked)).map(([, fact]) => (fact.code === 'condition' ? fact.what : fact.code));
		expect(told({ country: 'BE', domain: 'elsewhere.example' })).toEqual([
			'country',
			'group',
			'goods',
			'delivery',
			'domain',
			'recurrence',
			'ordered-by',
			'has-online'
		]);
		const fits: Partial<Context> = {
			country: 'NL',
			groups: ['pupils', 'teachers'],
			goods: 'strings',
			delivery: 'collected',
			domain: 'shop.wrenalder.example',
			recurring: true,
			orderedBy: 'interface',
			hasOnlineMethod: false
		};
		expect(told(fits)).toEqual([]);
		// what is not known fails a condition on it
		expect(told({ ...fits, country: undefined, groups: undefined })).toEqual(['country', 'group']);
		const except = card({ conditions: { amounts: [], countries: { rule: 'except', values: ['NL'] } } });
		expect([codes(except), codes(except, context({ country: 'NL' }))]).toEqual([[], ['payer: condition']]);
		const once = card({ conditions: { amounts: [], recurrence: 'one-time' } });
		expect([codes(once), codes(once, context({ recurring: true }))]).toEqual([[], ['payer: recurrence']]);
		const desk = card({ conditions: { amounts: [], orderedBy: 'interface' } });
		expect([codes(desk), codes(desk, context({ orderedBy: 'interface' }))]).toEqual([['payer: ordered-by'], []]);
	});
	it('7: what the domain lacks is told both: proof and page code', () => {
		const wants = { ...ABILITY, wantsDomainProof: true, wantsPageCode: true };
		const held = (change: Partial<States> = {}) =>
			states({ connections: { fernhall: connection('fernhall', { abilities: [wants] }) }, ...change });
		const at = context({ domain: 'shop.wrenalder.example' });
		expect(codes(card(), at, held())).toEqual(['domain: no-proof', 'domain: no-page-code']);
		const books = { 'shop.wrenalder.example': ['fernhall'] };
		expect(codes(card(), at, held({ provenDomains: books }))).toEqual(['domain: no-page-code']);
		expect(codes(card(), at, held({ provenDomains: books, pageCodes: books }))).toEqual([]);
		// proven elsewhere, or at another connection, is not proven here
		expect(
			domainTroubles(wants, connection('fernhall'), at, held({ provenDomains: { 'shop.wrenalder.example': ['x'] } }))
		).toEqual(['no-proof', 'no-page-code']);
		expect(domainTroubles(wants, connection('fernhall'), context(), held({ provenDomains: books }))).toHaveLength(2);
		// names of what every object has are no domains
		expect(domainTroubles(wants, connection('fernhall'), context({ domain: 'constructor' }), held())).toHaveLength(2);
	});
	it('8: is any card type left of what offer and account take', () => {
		expect(typesLeft(card({ cardTypes: { schemes: ['corvid', 'tessel'] } }), ABILITY, states())!.schemes).toEqual([
			'corvid'
		]);
		expect(codes(card({ cardTypes: { schemes: ['tessel'] } }))).toEqual(['card types: no-types']);
		expect(
			codes(card({ cardTypes: { schemes: ['corvid'] } }), context(), states({ pausedSchemes: ['corvid'] }))
		).toEqual(['card types: types-paused']);
		expect(typesLeft(transfer(), undefined, states())).toBe(undefined);
	});
});

describe('bounds', () => {
	const offer = transfer({
		conditions: {
			amounts: [
				{ currency: 'EUR', minimum: 2_000 },
				{ currency: 'CHF', minimum: 3_000 }
			]
		}
	});
	it('in the payment’s own currency count instead of those in the home currency', () => {
		const of = (currency: string) =>
			boundsFor(offer, undefined, context({ currency }), states()).map((one) => `${one.currency} ${one.minor}`);
		expect([of('EUR'), of('CHF'), of('GBP')]).toEqual([['EUR 2000'], ['CHF 3000'], ['EUR 2000']]);
	});
	it('have a first amount that they allow in another currency, to the minor unit', () => {
		const asked = context({ currency: 'CHF' });
		for (const side of ['minimum', 'maximum'] as const)
			for (const minor of [1, 99, 2_000, 123_457]) {
				const bound = { side, minor, currency: 'EUR', from: 'offer' } as const;
				const at = limitIn(bound, asked, states())!;
				const rate = checkOffer(
					transfer({ conditions: { amounts: [{ currency: 'EUR', [side]: minor }] } }),
					{ ...asked, minor: at },
					states()
				);
				expect([side, minor, rate.checks.find((one) => one.rule === 'amount')!.ok]).toEqual([side, minor, true]);
				const beyond = side === 'minimum' ? at - 1 : at + 1;
				if (beyond < 1) continue;
				const other = checkOffer(
					transfer({ conditions: { amounts: [{ currency: 'EUR', [side]: minor }] } }),
					{ ...asked, minor: beyond },
					states()
				);
				expect([side, minor, other.checks.find((one) => one.rule === 'amount')!.ok]).toEqual([side, minor, false]);
			}
		expect(limitIn({ side: 'minimum', minor: 5, currency: 'EUR' }, asked, states({ rates: [] }))).toBe(undefined);
	});
	it('without a rate are not held', () => {
		const bound = { side: 'minimum', minor: 5, currency: 'EUR', from: 'offer' } as const;
		expect(withinBound(bound, context({ currency: 'CHF' }), undefined)).toBe(false);
		expect(withinBound(bound, context({ minor: 5 }), undefined)).toBe(true);
	});
});

describe('what a check found', () => {
	it('has a stable code, and a sentence that is no code', () => {
		const facts: Fact[] = [
			{ code: 'offer-off' },
			{ code: 'method-paused' },
			{ code: 'currency-paused', currency: 'EUR', takes: ['EUR'] },
			{ code: 'no-route', currency: 'EUR' },
			{ code: 'route-out', name: 'Fernhall', why: 'paused' },
			{ code: 'not-offered', name: 'Fernhall', method: 'card' },
			{ code: 'account-currency', name: 'Fernhall', currency: 'CHF', takes: ['EUR'] },
			{ code: 'account-entry', name: 'Fernhall', entry: 'present' },
			{ code: 'account-limit', name: 'Fernhall', currency: 'EUR', bound: 50, side: 'minimum' },
			{ code: 'till-currency', currency: 'CHF', takes: ['EUR'] },
			{ code: 'offer-currency', currency: 'CHF', takes: ['EUR'] },
			{
				code: 'amount-out',
				bound: { side: 'minimum', minor: 50, currency: 'EUR', from: 'offer' },
				minor: 20,
				currency: 'EUR'
			},
			{ code: 'no-rate', from: 'CHF', to: 'EUR' },
			{ code: 'recurrence', wanted: 'one-time' },
			{ code: 'ordered-by', wanted: 'page' },
			{ code: 'has-online' },
			{ code: 'no-proof', domain: 'shop.wrenalder.example' },
			{ code: 'no-page-code', domain: 'shop.wrenalder.example' },
			{ code: 'no-types' },
			{ code: 'types-paused' },
			{ code: 'excluded', name: 'Card', other: 'Wallet' },
			{ code: 'same-name', name: 'Card' }
		];
		for (const fact of facts) {
			expect(FACT_CODES).toContain(fact.code);
			const says = sayFact(fact, 'en-GB');
			// it begins with a capital, or with the name of a domain
			expect([fact.code, /^([A-Z“]|shop\.).*\.$/su.test(says), says.includes(fact.code)]).toEqual([
				fact.code,
				true,
				false
			]);
		}
	});
	it('holds whoever pays, or only for some', () => {
		expect(isWhoeverPays({ code: 'offer-off' })).toBe(true);
		expect(isWhoeverPays({ code: 'no-types' })).toBe(true);
		expect(isWhoeverPays({ code: 'has-online' })).toBe(false);
		expect(isWhoeverPays({ code: 'no-rate', from: 'CHF', to: 'EUR' })).toBe(false);
	});
});
