import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { quickestOf } from '../../../../tests/world/quickest';
import {
	answer,
	applyAct,
	isOutside,
	leastChanges,
	Offer,
	type Context,
	type LineUp,
	type Standing,
	type States
} from '.';

const ability = (method: string, currencies: string[], more: object = {}) => ({
	method,
	currencies,
	entries: ['online' as const],
	limits: [],
	...(method === 'card' || method === 'device-wallet'
		? { cardTypes: { schemes: ['corvid', 'tessel'], fundings: 'any' as const, regions: 'any' as const } }
		: {}),
	...more
});
const connection = (id: string, abilities: object[], more: object = {}) => ({
	id,
	name: id,
	processor: id,
	mode: 'live' as const,
	verified: true,
	paused: false,
	failing: false,
	excludes: [] as string[],
	abilities,
	...more
});
const states = (more: Partial<States> = {}): States =>
	({
		connections: {
			fernhall: connection('fernhall', [
				ability('card', ['EUR', 'GBP']),
				ability('device-wallet', ['EUR'], { wantsDomainProof: true })
			]),
			tallybridge: connection('tallybridge', [
				ability('card', ['EUR', 'CHF']),
				ability('account-wallet', ['EUR', 'CHF'])
			])
		},
		offline: {
			own: {
				id: 'own',
				name: 'Credit transfer',
				method: 'credit-transfer',
				paused: false,
				currencies: ['EUR', 'CHF'],
				thresholds: []
			}
		},
		pausedMethods: [],
		rates: [{ day: '2026-11-20', from: 'CHF', to: 'EUR', rate: '1.0664', source: 'test' }],
		homeCurrency: 'EUR',
		provenDomains: {},
		pageCodes: {},
		...more
	}) as States;
const context = (more: Partial<Context> = {}): Context => ({
	mode: 'live',
	tillCurrencies: ['EUR', 'CHF'],
	currency: 'CHF',
	minor: 1_200,
	recurring: false,
	orderedBy: 'page',
	entry: 'online',
	day: '2026-11-24',
	domain: 'shop.example',
	...more
});
const by = (id: string) => ({ first: { kind: id === 'own' ? ('offline' as const) : ('connection' as const), id } });
const offer = (id: string, method: string, routes: object, conditions: object = {}, more: object = {}) =>
	Offer.parse({ id, method, name: id, routes, conditions, ...more });
const asked = (lineUp: LineUp, c = context(), s = states()): Standing => ({ lineUp, context: c, states: s });
const find = (standing: Standing, most = 3) => leastChanges(standing, (method) => `new-${method}`, { most });
const kinds = (standing: Standing) => find(standing).map((one) => [one.offer, one.acts.map((act) => act.kind)]);

describe('the least change', () => {
	it('adds a route where the currency has none, or lowers a limit, whichever is fewer acts', () => {
		const card = offer('card', 'card', { EUR: by('fernhall') });
		const transfer = offer(
			'transfer',
			'credit-transfer',
			{ CHF: by('own') },
			{ amounts: [{ currency: 'CHF', minimum: 2_000 }] }
		);
		expect(kinds(asked([card, transfer]))).toEqual([
			['card', ['add route']],
			['transfer', ['set limit']],
			['new-account-wallet', ['add offer']]
		]);
		const [first, second] = find(asked([card, transfer]));
		expect(first!.acts).toEqual([
			{ kind: 'add route', offer: 'card', currency: 'CHF', carrier: { kind: 'connection', id: 'tallybridge' } }
		]);
		expect(second!.acts).toEqual([
			{ kind: 'set limit', offer: 'transfer', currency: 'CHF', side: 'minimum', minor: 1_200 }
		]);
	});
	it('is told of one method alone, where the grid asks for it', () => {
		const card = offer('card', 'card', { EUR: by('fernhall') });
		const transfer = offer(
			'transfer',
			'credit-transfer',
			{ CHF: by('own') },
			{ amounts: [{ currency: 'CHF', minimum: 2_000 }] }
		);
		const standing = asked([card, transfer]);
		const of = (method: string) =>
			leastChanges(standing, (made) => `new-${made}`, { method }).map((one) => [one.offer, one.acts[0]!.kind]);
		expect(of('credit-transfer')).toEqual([['transfer', 'set limit']]);
		expect(of('account-wallet')).toEqual([['new-account-wallet', 'add offer']]);
		expect(of('cheque')).toEqual([]);
		// each of them is among all of them, and asked again it is offered
		const all = leastChanges(standing, (made) => `new-${made}`, { most: 99 });
		for (const method of ['card', 'credit-transfer', 'account-wallet'])
			for (const change of leastChanges(standing, (made) => `new-${made}`, { method })) {
				expect(all.map((one) => one.offer)).toContain(change.offer);
				const { lineUp, context: at, states: after } = change.after;
				expect(answer(lineUp, at, after).offered.map((one) => one.offer.id)).toContain(change.offer);
			}
	});
	it('is no act at all for an account that cannot: the offer is out', () => {
		const gone = offer('gone', 'pay-later', { CHF: by('nobody') });
		expect(find(asked([gone])).some((one) => one.offer === 'gone')).toBe(false);
	});
	it('counts a switch at the domain after an act of ours', () => {
		const wallet = offer('wallet', 'device-wallet', { EUR: by('fernhall') });
		const off = offer('off', 'card', { EUR: by('tallybridge') }, {}, { on: false });
		const found = find(asked([wallet, off], context({ currency: 'EUR' })));
		expect(found.map((one) => one.offer)).toEqual(['off', 'new-account-wallet', 'new-credit-transfer']);
		const all = find(asked([wallet, off], context({ currency: 'EUR' })), 9);
		expect(all.at(-1)).toMatchObject({ offer: 'wallet', acts: [{ kind: 'prove domain', domain: 'shop.example' }] });
	});
	it('goes by a limit in the home currency too: what it sets is in the payer’s own', () => {
		const transfer = offer(
			'transfer',
			'credit-transfer',
			{ CHF: by('own') },
			{ amounts: [{ currency: 'EUR', minimum: 2_000 }] }
		);
		const [change] = find(asked([transfer]));
		expect(change!.after.lineUp[0]!.conditions.amounts).toEqual([
			{ currency: 'EUR', minimum: 2_000 },
			{ currency: 'CHF', minimum: 1_200 }
		]);
	});
	it('names the payer’s country where a list asks for others, and drops what is not known of a payer', () => {
		const abroad = offer(
			'abroad',
			'credit-transfer',
			{ CHF: by('own') },
			{ countries: { rule: 'only', values: ['DE'] } }
		);
		expect(find(asked([abroad], context({ country: 'CH' })))[0]!.acts).toEqual([
			{ kind: 'include', offer: 'abroad', list: 'countries', value: 'CH' }
		]);
		expect(find(asked([abroad]))[0]!.acts).toEqual([
			{ kind: 'drop condition', offer: 'abroad', condition: 'countries' }
		]);
	});
	it('says what is wrong with the till and what is paused elsewhere, several acts together', () => {
		const transfer = offer('transfer', 'credit-transfer', { USD: by('own') });
		const found = find(asked([transfer], context({ currency: 'USD' }), states({ pausedMethods: ['credit-transfer'] })));
		expect(found.find((one) => one.offer === 'transfer')!.acts.map((act) => act.kind)).toEqual([
			'resume',
			'add offline currency',
			'take currency'
		]);
	});
	it('renames what meets a name, and never puts two processors together that exclude each other', () => {
		const card = offer('card', 'card', { CHF: by('tallybridge') });
		const twin = offer('twin', 'account-wallet', { CHF: by('tallybridge') }, {}, { name: 'card' });
		const [change] = find(asked([card, twin]));
		expect(change!.acts).toEqual([{ kind: 'rename', offer: 'twin', name: 'card, tallybridge' }]);
		const exclusive = states();
		const other = {
			...exclusive,
			connections: {
				...exclusive.connections,
				tallybridge: connection('tallybridge', [ability('account-wallet', ['EUR'])], { excludes: ['fernhall'] })
			}
		} as States;
		const lineUp = [
			offer('card', 'card', { EUR: by('fernhall') }),
			offer('wallet', 'account-wallet', { EUR: by('tallybridge') })
		];
		expect(find(asked(lineUp, context({ currency: 'EUR' }), other)).some((one) => one.offer === 'wallet')).toBe(false);
	});
});

// Random line-ups, states and payers.
const CURRENCIES = ['EUR', 'CHF', 'USD'];
const METHODS = ['card', 'device-wallet', 'account-wallet', 'credit-transfer', 'cash', 'pay-later'];
const IDS = ['c1', 'c2', 'c3'];
const some = <T>(list: readonly T[]) => fc.subarray([...list], { minLength: 1 });
const randomStates = fc
	.record({
		abilities: fc.array(
			fc.tuple(
				fc.constantFrom(...METHODS.filter((one) => one !== 'cash')),
				some(CURRENCIES),
				fc.option(fc.integer({ min: 1, max: 5_000 }), { nil: undefined }),
				fc.boolean()
			),
			{ minLength: 3, maxLength: 9 }
		),
		flags: fc.array(
			fc.record({
				verified: fc.boolean(),
				paused: fc.boolean(),
				failing: fc.boolean(),
				mode: fc.constantFrom('live', 'live', 'test')
			}),
			{ minLength: 3, maxLength: 3 }
		),
		excludes: fc.boolean(),
		offlineCurrencies: some(CURRENCIES),
		offlinePaused: fc.boolean(),
		threshold: fc.option(
			fc.record({
				currency: fc.constantFrom(...CURRENCIES),
				minimum: fc.integer({ min: 1, max: 5_000 }),
				common: fc.boolean()
			}),
			{ nil: undefined }
		),
		pausedMethods: fc.subarray(METHODS, { maxLength: 2 }),
		pausedSchemes: fc.subarray(['corvid', 'tessel']),
		pausedCurrencies: fc.subarray(CURRENCIES, { maxLength: 1 }),
		rate: fc.boolean()
	})
	.map(
		(r): States =>
			({
				connections: Object.fromEntries(
					IDS.map((id, n) => [
						id,
						connection(
							id,
							r.abilities
								.filter((_, at) => at % 3 === n)
								.filter(([method], at, all) => all.findIndex((one) => one[0] === method) === at)
								.map(([method, currencies, minimum, wants]) =>
									ability(method, currencies, {
										limits: minimum === undefined ? [] : [{ currency: currencies[0]!, minimum }],
										...(wants ? { wantsDomainProof: true } : {})
									})
								),
							{ ...r.flags[n], ...(n === 2 && r.excludes ? { excludes: ['c1'] } : {}) }
						)
					])
				),
				offline: {
					own: {
						id: 'own',
						name: 'Own',
						method: 'credit-transfer',
						paused: r.offlinePaused,
						currencies: r.offlineCurrencies,
						thresholds: r.threshold ? [r.threshold] : []
					},
					till: { id: 'till', name: 'Cash', method: 'cash', paused: false, currencies: ['EUR'], thresholds: [] }
				},
				pausedMethods: r.pausedMethods,
				pausedSchemes: r.pausedSchemes,
				pausedCurrencies: r.pausedCurrencies,
				rates: r.rate ? [{ day: '2026-11-20', from: 'CHF', to: 'EUR', rate: '1.0664', source: 'test' }] : [],
				homeCurrency: 'EUR',
				provenDomains: {},
				pageCodes: {}
			}) as unknown as States
	);
const choice = (values: string[]) => fc.record({ rule: fc.constantFrom('only', 'except'), values: some(values) });
const maybe = <T>(arbitrary: fc.Arbitrary<T>) => fc.option(arbitrary, { nil: undefined, freq: 3 });
const randomOffer = fc.record({
	on: fc.boolean(),
	method: fc.constantFrom(...METHODS),
	name: fc.constantFrom('Card', 'card ', 'Transfer', 'Wallet'),
	routes: fc.dictionary(fc.constantFrom(...CURRENCIES), fc.constantFrom('c1', 'c2', 'c3', 'own', 'till', 'gone'), {
		maxKeys: 3
	}),
	bounds: fc.array(
		fc.record({
			currency: fc.constantFrom(...CURRENCIES),
			minimum: maybe(fc.integer({ min: 1, max: 4_000 })),
			maximum: maybe(fc.integer({ min: 4_000, max: 9_000 }))
		}),
		{ maxLength: 2 }
	),
	countries: maybe(choice(['BE', 'CH'])),
	groups: maybe(choice(['g1', 'g2'])),
	recurrence: maybe(fc.constantFrom('one-time', 'recurring')),
	orderedBy: maybe(fc.constantFrom('page', 'interface')),
	cards: maybe(some(['corvid', 'tessel', 'mainsail']))
});
const randomLineUp = fc.array(randomOffer, { minLength: 1, maxLength: 5 }).map((list): LineUp =>
	list.map((one, n) =>
		Offer.parse({
			id: `o${n}`,
			on: one.on,
			method: one.method,
			name: one.name,
			routes: Object.fromEntries(
				Object.entries(one.routes).map(([code, id]) => [
					code,
					{ first: { kind: id === 'own' || id === 'till' ? 'offline' : 'connection', id } }
				])
			),
			...(one.cards ? { cardTypes: { schemes: one.cards, fundings: 'any', regions: 'any' } } : {}),
			conditions: {
				amounts: one.bounds,
				countries: one.countries,
				groups: one.groups,
				recurrence: one.recurrence,
				orderedBy: one.orderedBy
			}
		})
	)
);
const randomContext = fc
	.record({
		currency: fc.constantFrom(...CURRENCIES),
		minor: fc.integer({ min: 1, max: 9_500 }),
		country: maybe(fc.constantFrom('BE', 'CH', 'US')),
		groups: maybe(fc.subarray(['g1', 'g2', 'g3'])),
		orderedBy: fc.constantFrom('page' as const, 'interface' as const),
		domain: maybe(fc.constant('shop.example'))
	})
	.map((one) => context(one));

describe('every suggested change', () => {
	it('makes its offer offered when the line-up is asked again, and no act of it could be left out', () => {
		let suggested = 0;
		let several = 0;
		fc.assert(
			fc.property(randomLineUp, randomContext, randomStates, (lineUp, c, s) => {
				const standing = asked(lineUp, c, s);
				for (const change of find(standing, 20)) {
					suggested++;
					if (change.acts.length > 1) several++;
					const after = change.acts.reduce(applyAct, standing);
					expect(after).toEqual(change.after);
					const shown = answer(after.lineUp, after.context, after.states).offered;
					expect(shown.some((one) => one.offer.id === change.offer)).toBe(true);
					// each act is needed: without it the offer is withheld
					for (const [at, act] of change.acts.entries()) {
						if (act.kind === 'add offer') continue;
						const less = change.acts.filter((_, n) => n !== at).reduce(applyAct, standing);
						const left = answer(less.lineUp, less.context, less.states).offered;
						expect(left.some((one) => one.offer.id === change.offer)).toBe(false);
					}
				}
			}),
			{ seed: 111_126, numRuns: 3_000 }
		);
		expect(suggested).toBeGreaterThan(2_000);
		expect(several).toBeGreaterThan(300);
	});
	it('stands in order: fewest acts, then ours before others, and never more than are asked for', () => {
		fc.assert(
			fc.property(randomLineUp, randomContext, randomStates, (lineUp, c, s) => {
				const found = find(asked(lineUp, c, s));
				expect(found.length).toBeLessThanOrEqual(3);
				const weight = found.map((one) => one.acts.length * 100 + one.acts.filter(isOutside).length);
				expect(weight).toEqual([...weight].sort((a, b) => a - b));
				const all = find(asked(lineUp, c, s), 99);
				expect(all.slice(0, 3)).toEqual(found);
			}),
			{ seed: 261_126, numRuns: 400 }
		);
	});
	it('is found within a hundred milliseconds for forty offers', async () => {
		const lineUp = Array.from({ length: 40 }, (_, n) =>
			offer(
				`o${n}`,
				METHODS[n % 4]!,
				{ EUR: by(n % 2 ? 'fernhall' : 'tallybridge') },
				{ amounts: [{ currency: 'CHF', minimum: 100_000 + n }] },
				{ name: `Offer ${n}` }
			)
		);
		expect(await quickestOf(100, () => find(asked(lineUp)))).toBeLessThan(100);
	});
});
