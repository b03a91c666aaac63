import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FUNDINGS, REGIONS } from '../cards';
import {
	answer,
	coverageRuler,
	differences,
	failedChecks,
	isFailing,
	LineUp,
	Offer,
	offeredOnly,
	sayFact,
	type ConnectionState,
	type Context,
	type OfflineState,
	type Outcome,
	type States
} from '.';

const connection = (id: string, change: Partial<ConnectionState> = {}): ConnectionState => ({
	id,
	name: id,
	processor: id,
	mode: 'live',
	verified: true,
	paused: false,
	failing: false,
	excludes: [],
	abilities: [
		{
			method: 'card',
			currencies: ['EUR', 'GBP', 'JPY'],
			entries: ['online', 'recurring'],
			cardTypes: { schemes: ['corvid', 'mainsail', 'tessel'], fundings: [...FUNDINGS], regions: [...REGIONS] },
			limits: [{ currency: 'EUR', minimum: 50, maximum: 2_500_000 }]
		}
	],
	...change
});
const own: OfflineState = {
	id: 'own',
	name: 'own account',
	method: 'credit-transfer',
	paused: false,
	currencies: ['EUR', 'CHF'],
	thresholds: []
};
const states = (change: Partial<States> = {}): States => ({
	connections: { fernhall: connection('fernhall'), brackwater: connection('brackwater') },
	offline: { own },
	pausedMethods: [],
	rates: [{ day: '2026-11-23', from: 'CHF', to: 'EUR', rate: '1.0664', source: 'test' }],
	homeCurrency: 'EUR',
	provenDomains: {},
	pageCodes: {},
	...change
});
const route = (id: string, standby?: string) => ({
	first: { kind: 'connection' as const, id },
	...(standby ? { standby: { kind: 'connection' as const, id: standby } } : {})
});
const card = Offer.parse({
	id: 'o1',
	method: 'card',
	name: 'Card',
	routes: { EUR: route('fernhall', 'brackwater'), GBP: route('fernhall') },
	cardTypes: { schemes: ['corvid', 'gildern'] }
});
const transfer = Offer.parse({
	id: 'o2',
	method: 'credit-transfer',
	name: 'Credit transfer',
	routes: { EUR: { first: { kind: 'offline', id: 'own' } }, CHF: { first: { kind: 'offline', id: 'own' } } },
	conditions: { amounts: [{ currency: 'EUR', minimum: 2000 }] }
});
const context = (change: Partial<Context> = {}): Context => ({
	mode: 'live',
	tillCurrencies: ['EUR', 'GBP', 'CHF'],
	currency: 'EUR',
	minor: 8450,
	country: 'BE',
	recurring: false,
	orderedBy: 'page',
	entry: 'online',
	day: '2026-11-24',
	...change
});
const names = (lineUp: LineUp, c: Context, s = states()) => answer(lineUp, c, s).offered.map((one) => one.offer.name);
const why = (lineUp: LineUp, c: Context, s = states()) =>
	answer(lineUp, c, s).withheld.flatMap((one) => failedChecks(one.checks).map((check) => check.fact.code));

describe('what a payer is offered', () => {
	it('offers in the line-up’s order, with route and what is left of the card types', () => {
		const { offered, withheld } = answer([transfer, card], context(), states());
		expect(offered.map((one) => [one.offer.name, one.carrier.id, one.standby])).toEqual([
			['Credit transfer', 'own', false],
			['Card', 'fernhall', false]
		]);
		expect(offered[1]!.types?.schemes).toEqual(['corvid']);
		expect(withheld).toEqual([]);
	});
	it('includes both ends of an amount window', () => {
		expect([1999, 2000].map((minor) => names([transfer], context({ minor })))).toEqual([[], ['Credit transfer']]);
		const upTo = { ...transfer, conditions: { ...transfer.conditions, amounts: [{ currency: 'EUR', maximum: 2000 }] } };
		expect([2000, 2001].map((minor) => names([upTo], context({ minor })).length)).toEqual([1, 0]);
	});
	it('compares an amount in another currency, unrounded, with the home currency’s bound, and says the rate', () => {
		// 20.00 EUR ÷ 1.0664 is 18.7547… CHF
		expect([1875, 1876].map((minor) => names([transfer], context({ currency: 'CHF', minor })).length)).toEqual([0, 1]);
		const [withheld] = answer([transfer], context({ currency: 'CHF', minor: 1250 }), states()).withheld;
		expect(sayFact(failedChecks(withheld!.checks)[0]!.fact, 'en-GB')).toBe(
			'Only from 20.00 EUR, set on this offer. 12.50 CHF is 13.33 EUR at 1.0664 of 2026-11-23 (test).'
		);
		expect(why([transfer], context({ currency: 'CHF' }), states({ rates: [] }))).toEqual(['no-rate']);
	});
	it('lets a bound in the payment’s own currency count instead', () => {
		const both = {
			...transfer,
			conditions: {
				...transfer.conditions,
				amounts: [
					{ currency: 'EUR', minimum: 2000 },
					{ currency: 'CHF', minimum: 500 }
				]
			}
		};
		expect(names([both], context({ currency: 'CHF', minor: 500 }))).toEqual(['Credit transfer']);
	});
	it('counts the threshold of the method and the one common to all offline methods', () => {
		const s = states({
			offline: {
				own: {
					...own,
					thresholds: [
						{ currency: 'EUR', minimum: 3000, common: true },
						{ currency: 'EUR', minimum: 2500, common: false }
					]
				}
			}
		});
		expect(why([transfer], context({ minor: 2600 }), s)).toEqual(['amount-out']);
		expect(names([transfer], context({ minor: 3000 }), s)).toEqual(['Credit transfer']);
	});
	it.each([
		[{ paused: true }, 'paused'],
		[{ failing: true }, 'failing'],
		[{ verified: false }, 'unverified'],
		[{ mode: 'test' as const }, 'mode']
	])('goes to the standby when the first choice is %o, and tells why', (change, trouble) => {
		const s = states({ connections: { ...states().connections, fernhall: connection('fernhall', change) } });
		const { offered } = answer([card], context(), s);
		expect(offered[0]).toMatchObject({ carrier: { id: 'brackwater' }, standby: true });
		expect(offered[0]!.checks!.find((check) => check.rule === 'route')?.fact).toMatchObject({ firstWhy: trouble });
		expect(why([card], context({ currency: 'GBP' }), s)).toEqual(['route-out']);
	});
	it('never offers a live till a test connection, nor a removed one', () => {
		const s = states({ connections: { fernhall: connection('fernhall', { mode: 'test' }) } });
		expect(why([card], context(), s)).toContain('route-out');
		expect(why([card], context(), states({ connections: {} }))).toContain('not-offered');
	});
	it('keeps to what the account can carry: currency, entry, amount', () => {
		expect(why([card], context({ minor: 49 }))).toEqual(['account-limit']);
		expect(why([card], context({ entry: 'present' }))).toEqual(['account-entry']);
		const chf = { ...card, routes: { CHF: route('fernhall') } };
		expect(why([chf], context({ currency: 'CHF' }))).toEqual(['account-currency']);
	});
	it('runs every check even after one has failed', () => {
		expect(
			why([{ ...transfer, on: false }], context({ minor: 5 }), states({ pausedMethods: ['credit-transfer'] }))
		).toEqual(['offer-off', 'method-paused', 'amount-out']);
		expect(why([card], context({ currency: 'USD' }))).toEqual(['no-route', 'account-currency', 'till-currency']);
	});
	it('fails a condition on what is not known', () => {
		const only = {
			...transfer,
			conditions: { ...transfer.conditions, countries: { rule: 'only' as const, values: ['BE'] } }
		};
		const except = {
			...transfer,
			conditions: { ...transfer.conditions, countries: { rule: 'except' as const, values: ['BE'] } }
		};
		expect(['BE', 'NL', undefined].map((country) => names([only], context({ country })).length)).toEqual([1, 0, 0]);
		expect(['BE', 'NL', undefined].map((country) => names([except], context({ country })).length)).toEqual([0, 1, 0]);
	});
	it('asks for the rest of the conditions: recurrence, interface, online method', () => {
		const asking = (conditions: object) => Offer.parse({ ...transfer, conditions });
		expect(why([asking({ recurrence: 'recurring' })], context())).toEqual(['recurrence']);
		expect(why([asking({ orderedBy: 'interface' })], context())).toEqual(['ordered-by']);
		expect(why([asking({ withoutOnlineMethod: true })], context())).toEqual(['has-online']);
		expect(
			names(
				[asking({ withoutOnlineMethod: true, orderedBy: 'page', recurrence: 'one-time' })],
				context({ hasOnlineMethod: false })
			)
		).toHaveLength(1);
	});
	it('wants proof of a domain where the method does', () => {
		const wallet = connection('fernhall', {
			abilities: [{ ...connection('x').abilities[0]!, wantsDomainProof: true, wantsPageCode: true }]
		});
		const s = (provenDomains: Record<string, string[]>, pageCodes: Record<string, string[]>) =>
			states({ connections: { fernhall: wallet }, provenDomains, pageCodes });
		const at = context({ domain: 'shop.wrenalder.example' });
		expect(why([card], at, s({}, {}))).toEqual(['no-proof', 'no-page-code']);
		expect(why([card], at, s({ 'shop.wrenalder.example': ['fernhall'] }, {}))).toEqual(['no-page-code']);
		expect(
			names([card], at, s({ 'shop.wrenalder.example': ['fernhall'] }, { 'shop.wrenalder.example': ['fernhall'] }))
		).toEqual(['Card']);
	});
	it('withholds when no card type is left', () => {
		expect(why([{ ...card, cardTypes: { schemes: ['gildern'], fundings: 'any', regions: 'any' } }], context())).toEqual(
			['no-types']
		);
	});
	it('keeps processors apart that may not share a till, and names unique', () => {
		const other = { ...card, id: 'o3', name: 'Other card', routes: { EUR: route('brackwater') } };
		const s = states({
			connections: {
				fernhall: connection('fernhall'),
				brackwater: connection('brackwater', { excludes: ['fernhall'] })
			}
		});
		expect(why([card, other], context(), s)).toEqual(['excluded']);
		expect(why([card, { ...other, name: ' CARD ' }], context())).toEqual(['same-name']);
	});
	it('says every fact in a sentence without a hole in it', () => {
		const facts = [
			answer([card, transfer], context({ currency: 'CHF', minor: 100, entry: 'keyed', recurring: true }), states()),
			answer([card, transfer], context(), states())
		]
			.flatMap(({ offered, withheld }) => [
				...offered.flatMap((one) => one.checks!),
				...withheld.flatMap((one) => one.checks)
			])
			.map((check) => sayFact(check.fact, 'en-GB'));
		for (const text of facts) expect(text).toMatch(/^[^]*[^ ]\.?$/u);
		for (const text of facts) expect(text).not.toMatch(/undefined|NaN|\[object/);
	});
});

const bound = fc.record({
	currency: fc.constantFrom('EUR', 'CHF', 'JPY'),
	minimum: fc.option(fc.integer({ min: 0, max: 5000 }), { nil: undefined }),
	maximum: fc.option(fc.integer({ min: 5000, max: 9000 }), { nil: undefined })
});
const carrier = fc.constantFrom(
	{ kind: 'connection' as const, id: 'fernhall' },
	{ kind: 'connection' as const, id: 'brackwater' },
	{ kind: 'offline' as const, id: 'own' },
	{ kind: 'connection' as const, id: 'gone' }
);
const rarely = <T>(arbitrary: fc.Arbitrary<T>) =>
	fc.oneof({ weight: 7, arbitrary: fc.constant(undefined) }, { weight: 1, arbitrary });
const anyChoice = rarely(
	fc.record({
		rule: fc.constantFrom('only' as const, 'except' as const),
		values: fc.subarray(['BE', 'NL', 'strings'], { minLength: 1 })
	})
);
const routed = (carriers: typeof carrier) =>
	fc.dictionary(
		fc.constantFrom('EUR', 'CHF', 'GBP', 'JPY'),
		fc.record({ first: carriers, standby: fc.option(carrier, { nil: undefined }) }),
		{ minKeys: 1, maxKeys: 4 }
	);
const anyOffer = fc.constantFrom('card' as const, 'credit-transfer' as const).chain((method) =>
	fc.record({
		id: fc.uuid(),
		on: fc.integer({ min: 0, max: 5 }).map((n) => n > 0),
		method: fc.constant(method),
		name: fc.constantFrom('Card', 'card', 'Transfer', 'Other'),
		note: fc.constant(''),
		noteAfter: fc.constant(''),
		capture: fc.constant('as the account' as const),
		storing: fc.constant(false),
		place: fc.constant('in the page' as const),
		routes: fc.oneof(
			{
				weight: 4,
				arbitrary: routed(
					method === 'card'
						? carrier.filter((one) => one.kind === 'connection')
						: carrier.filter((one) => one.kind === 'offline')
				)
			},
			{ weight: 1, arbitrary: routed(carrier) }
		),
		cardTypes: fc.option(
			fc.record({
				schemes: fc.constantFrom('any' as const, ['corvid'], ['gildern']),
				fundings: fc.constant('any' as const),
				regions: fc.constant('any' as const)
			}),
			{ nil: undefined }
		),
		conditions: fc.record({
			amounts: fc.array(bound, { maxLength: 2 }),
			countries: anyChoice,
			groups: anyChoice,
			goods: anyChoice,
			recurrence: rarely(fc.constantFrom('one-time' as const, 'recurring' as const)),
			orderedBy: rarely(fc.constantFrom('page' as const, 'interface' as const)),
			withoutOnlineMethod: rarely(fc.boolean())
		})
	})
);
const anyContext = fc.record({
	mode: fc.constantFrom('live' as const, 'live' as const, 'test' as const),
	tillCurrencies: fc.subarray(['EUR', 'CHF', 'GBP', 'JPY'], { minLength: 2 }),
	currency: fc.constantFrom('EUR', 'EUR', 'CHF', 'GBP', 'JPY'),
	minor: fc.integer({ min: 1, max: 12_000 }),
	country: fc.constantFrom('BE', 'NL', undefined),
	groups: fc.constantFrom(undefined, [], ['strings']),
	goods: fc.constantFrom(undefined, 'strings'),
	recurring: fc.boolean(),
	orderedBy: fc.constantFrom('page' as const, 'interface' as const),
	hasOnlineMethod: fc.constantFrom(undefined, true, false),
	entry: fc.constantFrom('online' as const, 'online' as const, 'present' as const),
	day: fc.constant('2026-11-24')
});
const anyStates = fc
	.record({
		paused: rarely(fc.constant(true)).map(Boolean),
		failing: rarely(fc.constant(true)).map(Boolean),
		testing: rarely(fc.constant(true)).map(Boolean),
		excludes: fc.boolean(),
		offlinePaused: rarely(fc.constant(true)).map(Boolean),
		noRates: fc.boolean(),
		common: fc.integer({ min: 0, max: 4000 }),
		methodPaused: rarely(fc.constant(true)).map(Boolean)
	})
	.map((one) =>
		states({
			connections: {
				fernhall: connection('fernhall', { paused: one.paused, mode: one.testing ? 'test' : 'live' }),
				brackwater: connection('brackwater', { failing: one.failing, excludes: one.excludes ? ['fernhall'] : [] })
			},
			offline: {
				own: { ...own, paused: one.offlinePaused, thresholds: [{ currency: 'EUR', minimum: one.common, common: true }] }
			},
			rates: one.noRates ? [] : states().rates,
			pausedMethods: one.methodPaused ? ['card'] : []
		})
	);

it('answers the same with and without workings', () => {
	let offeredOnce = 0;
	fc.assert(
		fc.property(fc.array(anyOffer, { maxLength: 6 }), anyContext, anyStates, (lineUp, c, s) => {
			const full = answer(lineUp, c, s);
			const withWorkings = full.offered.map(({ checks: _, ...rest }) => rest);
			offeredOnce += withWorkings.length;
			expect(offeredOnly(lineUp, c, s)).toEqual(withWorkings);
			expect(full.offered.length + full.withheld.length).toBe(lineUp.length);
			for (const one of full.withheld) expect(failedChecks(one.checks).length).toBeGreaterThan(0);
		}),
		{ seed: 20417, numRuns: 4000 }
	);
	expect(offeredOnce).toBeGreaterThan(300);
});

it('draws a ruler that tells the truth at every amount', () => {
	fc.assert(
		fc.property(fc.array(anyOffer, { maxLength: 4 }), anyContext, anyStates, (lineUp, c, s) => {
			const ruler = coverageRuler(lineUp, c, s);
			expect(ruler[0]!.from).toBe(1);
			for (let minor = 1; minor <= 9500; minor += 61) {
				const stretch = ruler.find((one) => one.from <= minor && (one.to === undefined || minor <= one.to))!;
				expect(stretch.offers).toEqual(offeredOnly(lineUp, { ...c, minor }, s).map((one) => one.offer.name));
			}
		}),
		{ seed: 20417, numRuns: 150 }
	);
});

describe('failing', () => {
	const run = (...sound: (0 | 1)[]): Outcome[] => sound.map((one, i) => ({ at: i * 1000, sound: one === 1 }));
	it('begins with five technical errors in a row', () => {
		expect(isFailing(run(0, 0, 0, 0), false)).toBe(false);
		expect(isFailing(run(1, 0, 0, 0, 0, 0), false)).toBe(true);
		expect(isFailing(run(0, 0, 0, 1, 0, 0), false)).toBe(false);
	});
	it('or with over half of at least twenty in ten minutes', () => {
		expect(isFailing(run(0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 0), false)).toBe(true);
		expect(isFailing(run(0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0), false)).toBe(false);
		expect(isFailing(run(0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1), false)).toBe(false);
	});
	it('ends with three successes, or one probe', () => {
		expect(isFailing(run(0, 1, 1), true)).toBe(true);
		expect(isFailing(run(1, 1, 1), true)).toBe(false);
		expect(isFailing([{ at: 0, sound: true, probe: true }], true)).toBe(false);
		expect(isFailing([], true)).toBe(true);
	});
});

it('says what a draft changes', () => {
	const after: LineUp = [
		{ ...transfer, conditions: { ...transfer.conditions, amounts: [{ currency: 'EUR', minimum: 2500 }] } },
		{
			...card,
			routes: { EUR: route('brackwater') },
			cardTypes: { schemes: ['corvid'], fundings: 'any', regions: 'any' }
		}
	];
	expect(differences([card, transfer], after, { brackwater: 'Brackwater' }, 'en-GB')).toEqual([
		'Credit transfer moves up to 1.',
		'Credit transfer is now offered from 25.00 EUR.',
		'Card no longer takes GBP.',
		'Card in EUR now goes through Brackwater.',
		'Card in EUR has no standby any more.',
		'Card takes other card types.'
	]);
	expect(differences([card], [card], {}, 'en-GB')).toEqual([]);
});
