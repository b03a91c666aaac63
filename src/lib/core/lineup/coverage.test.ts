import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	answer,
	clashingSituations,
	coverage,
	detailsNotAsked,
	emptySituations,
	FACETS,
	facetClasses,
	lostSituations,
	Offer,
	offeredOnly,
	sayNotLooked,
	Stopped,
	saySituation,
	singleSituations,
	type Context,
	type LineUp,
	type States
} from '.';

const account = (currencies: string[]) => ({
	method: 'card',
	currencies,
	entries: ['online' as const, 'recurring' as const],
	cardTypes: { schemes: ['corvid', 'tessel'], fundings: 'any' as const, regions: 'any' as const },
	limits: [{ currency: 'EUR', minimum: 50 }]
});
const connection = (id: string, more: object = {}) => ({
	id,
	name: id,
	processor: id,
	mode: 'live' as const,
	verified: true,
	paused: false,
	failing: false,
	excludes: [] as string[],
	abilities: [account(['EUR', 'GBP', 'CHF'])],
	...more
});
const states: States = {
	connections: {
		fernhall: connection('fernhall'),
		halfpenny: connection('halfpenny', { excludes: ['fernhall'] })
	},
	offline: {
		own: {
			id: 'own',
			name: 'own',
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
const by = (id: string) => ({ first: { kind: id === 'own' ? ('offline' as const) : ('connection' as const), id } });
const card = Offer.parse({
	id: 'card',
	method: 'card',
	name: 'Card',
	routes: { EUR: by('fernhall'), CHF: by('fernhall') }
});
const transfer = Offer.parse({
	id: 'transfer',
	method: 'credit-transfer',
	name: 'Credit transfer',
	routes: { EUR: by('own'), CHF: by('own') },
	conditions: { amounts: [{ currency: 'EUR', minimum: 2_000 }] }
});
const ask = (lineUp: LineUp, s = states, domains: string[] = []) => coverage({ lineUp, states: s, base, domains });

describe('coverage', () => {
	it('tells the empty situations first, with the amounts at which they end', () => {
		const { situations } = ask([transfer]);
		const empty = emptySituations(situations);
		// 20.00 EUR is reached from 18.76 CHF on, at 1.0664
		expect(empty.map((one) => saySituation(one, 'en-GB'))).toEqual(['CHF, up to 18.75', 'EUR, up to 19.99']);
		expect(situations.slice(0, 2)).toEqual(empty);
		expect(singleSituations(situations)).toHaveLength(2);
	});
	it('parts payers where a condition does, and not known is a class of its own', () => {
		const local = {
			...card,
			conditions: { ...card.conditions, countries: { rule: 'only' as const, values: ['BE', 'NL'] } }
		};
		const says = emptySituations(ask([local]).situations).map((one) => saySituation(one, 'en-GB'));
		expect(says).toContain('CHF, any amount; payer’s country: another country; not known');
		expect(says).toContain('EUR, up to 0.49; payer’s country: BE or NL');
	});
	it('finds names that meet, with the situation, and not those that never do', () => {
		const twin = { ...transfer, id: 'twin', name: 'card' };
		expect(clashingSituations(ask([card, twin]).situations).map((one) => saySituation(one, 'en-GB'))).toEqual([
			'CHF, from 18.76 up',
			'EUR, from 20.00 up'
		]);
		const apart = {
			...twin,
			routes: { EUR: by('own') },
			conditions: { amounts: [{ currency: 'EUR', minimum: 10, maximum: 49 }] }
		};
		expect(clashingSituations(ask([card, apart]).situations)).toEqual([]);
	});
	it('names what buries an offer that never appears', () => {
		const never = {
			...transfer,
			id: 'never',
			name: 'Never',
			conditions: {
				amounts: [
					{ currency: 'CHF', maximum: 0 },
					{ currency: 'EUR', maximum: 0 }
				]
			}
		};
		const off = { ...card, id: 'off', name: 'Off', on: false };
		const beside = { ...card, id: 'beside', name: 'Cheap card', routes: { EUR: by('halfpenny') } };
		const { buried } = ask([card, never, off, beside]);
		expect(buried.map((one) => [one.name, one.rules])).toEqual([
			['Never', ['amount']],
			['Cheap card', ['account', 'beside']]
		]);
	});
	it('asks each domain of the till, and says which is not proven', () => {
		const wallet = {
			...states,
			connections: {
				fernhall: connection('fernhall', { abilities: [{ ...account(['EUR']), wantsDomainProof: true }] })
			},
			provenDomains: { 'a.example': ['fernhall'] }
		};
		const only = { ...card, routes: { EUR: by('fernhall') } };
		const says = emptySituations(ask([only], wallet, ['a.example', 'b.example']).situations).map((one) =>
			saySituation(one, 'en-GB')
		);
		expect(says).toContain('EUR, any amount; on: b.example or another domain; no domain');
		expect(says).toContain('EUR, up to 0.49; on: a.example');
	});
	it('tells payers whose payments recur apart where something is for one-time payments alone', () => {
		const once = { ...card, conditions: { ...card.conditions, recurrence: 'one-time' as const } };
		const says = emptySituations(ask([once]).situations).map((one) => saySituation(one, 'en-GB'));
		expect(says).toContain('CHF, any amount; payment: recurring');
		expect(says).toContain('EUR, any amount; payment: recurring');
		// where payments always recur, nobody comes otherwise
		const plan = coverage({ lineUp: [once], states, base: { ...base, recurring: true }, domains: [] });
		expect(emptySituations(plan.situations).map((one) => saySituation(one, 'en-GB'))).toContain('CHF, any amount');
	});
	it('knows every group, however many, and says which it means', () => {
		const groups = Array.from({ length: 40 }, (_, n) => `g${n}`);
		const offers = groups.slice(0, 20).map((group, n) => ({
			...transfer,
			id: group,
			name: group,
			conditions: { amounts: [], groups: { rule: 'only' as const, values: n === 0 ? groups.slice(20) : ['g1', 'g2'] } }
		}));
		const { situations } = ask([
			...offers,
			{ ...offers[0]!, id: 'x', name: 'x', conditions: { amounts: [], groups: { rule: 'only', values: ['g1'] } } }
		]);
		const all = situations.map((one) => saySituation(one, 'en-GB')).join('\n');
		expect(all).toContain(groups.slice(20).join(' or '));
		expect(all).toContain('g2');
		const both = { ...card, conditions: { amounts: [], groups: { rule: 'only' as const, values: ['g1', 'g2'] } } };
		expect(
			ask([both])
				.situations.map((one) => saySituation(one, 'en-GB'))
				.join()
		).toContain('group: g1 or g2');
	});
	it('tells what is lost by another line-up, or by other states, and nothing that was lost before', () => {
		const says = ({ situations }: ReturnType<typeof lostSituations>) =>
			situations.map((one) => saySituation(one, 'en-GB'));
		const up = (lineUp: LineUp, s = states) => ({ lineUp, states: s });
		const from30 = { ...transfer, conditions: { amounts: [{ currency: 'EUR', minimum: 3_000 }] } };
		expect(says(lostSituations(up([transfer]), up([from30]), base, []))).toEqual([
			'CHF, 18.76 to 28.13',
			'EUR, 20.00 to 29.99'
		]);
		const paused = { ...states, pausedMethods: ['card'] };
		expect(says(lostSituations(up([card, transfer]), up([card, transfer], paused), base, []))).toEqual([
			'CHF, up to 18.75',
			'EUR, 0.50 to 19.99'
		]);
		expect(lostSituations(up([card]), up([card, transfer]), base, [])).toEqual({ situations: [], notLooked: [] });
	});
	it('says which details a till should ask for', () => {
		const door = Offer.parse({ id: 'd', method: 'on-delivery', name: 'At the door', routes: { EUR: by('own') } });
		expect(detailsNotAsked([door], { asksAddress: 'no', delivers: true })).toHaveLength(2);
		expect(detailsNotAsked([door], { asksAddress: 'must', delivers: true })).toEqual([]);
	});
});

const choice = (values: string[]) =>
	fc.option(
		fc.record({
			rule: fc.constantFrom('only' as const, 'except' as const),
			values: fc.subarray(values, { minLength: 1 })
		}),
		{
			nil: undefined
		}
	);
const anyLineUp: fc.Arbitrary<LineUp> = fc
	.array(
		fc.record({
			method: fc.constantFrom('card' as const, 'credit-transfer' as const),
			name: fc.constantFrom('A', 'B', 'C', 'a'),
			amounts: fc.uniqueArray(
				fc.record({
					currency: fc.constantFrom('EUR', 'CHF'),
					minimum: fc.option(fc.integer({ min: 1, max: 4_000 }), { nil: undefined }),
					maximum: fc.option(fc.integer({ min: 4_000, max: 9_000 }), { nil: undefined })
				}),
				{ maxLength: 2, selector: (one) => one.currency }
			),
			countries: choice(['BE', 'NL', 'JP']),
			groups: choice(['g1', 'g2']),
			goods: choice(['strings', 'repairs']),
			orderedBy: fc.option(fc.constantFrom('page' as const, 'interface' as const), { nil: undefined }),
			withoutOnlineMethod: fc.boolean(),
			through: fc.constantFrom('fernhall', 'halfpenny')
		}),
		{ minLength: 1, maxLength: 4 }
	)
	.map((list) =>
		list.map(({ method, name, through, ...conditions }, at) =>
			Offer.parse({
				id: `o${at}`,
				method,
				name,
				routes: method === 'card' ? { EUR: by(through), CHF: by(through) } : { EUR: by('own'), CHF: by('own') },
				conditions: { ...conditions, withoutOnlineMethod: conditions.withoutOnlineMethod || undefined }
			})
		)
	);

describe('coverage is exact', () => {
	it('tells of any payer and amount what that payer is offered', { timeout: 240_000 }, () => {
		fc.assert(
			fc.property(
				anyLineUp,
				fc.array(fc.nat(), { minLength: FACETS.length + 2, maxLength: FACETS.length + 2 }),
				fc.integer({ min: 1, max: 10_000 }),
				(lineUp, picks, minor) => {
					const classes = facetClasses(lineUp, [states], base, []);
					let context: Context = { ...base, minor, currency: picks.at(-1)! % 2 ? 'EUR' : 'CHF' };
					const chosen = FACETS.map((facet, f) => {
						const one = classes[facet][picks[f]! % classes[facet].length]!;
						context = { ...context, ...one.set };
						return [facet, one.says] as const;
					});
					const fits = ask(lineUp).situations.filter(
						(one) =>
							one.currency === context.currency &&
							one.from <= minor &&
							(one.to === undefined || minor <= one.to) &&
							chosen.every(
								([facet, says]) => one.payers[facet] === undefined || one.payers[facet]!.split('; ').includes(says)
							)
					);
					expect(fits).toHaveLength(1);
					expect(fits[0]!.offers.map((one) => one.id)).toEqual(
						answer(lineUp, context, states).offered.map((one) => one.offer.id)
					);
				}
			),
			{ numRuns: 120, seed: 20417 }
		);
	});
	it('leaves out no offer that anyone meets, and buries none that is met', { timeout: 240_000 }, () => {
		fc.assert(
			fc.property(anyLineUp, (lineUp) => {
				const { situations, buried } = ask(lineUp);
				const met = new Set(situations.flatMap((one) => one.offers.map((offer) => offer.id)));
				expect(new Set([...met, ...buried.map((one) => one.id)])).toEqual(new Set(lineUp.map((one) => one.id)));
				for (const one of situations)
					expect(offeredOnly(lineUp, one.context, states).map((offer) => offer.offer.id)).toEqual(
						one.offers.map((offer) => offer.id)
					);
			}),
			{ numRuns: 80, seed: 20418 }
		);
	});
});

describe('coverage of very many conditions', () => {
	const letters = Array.from({ length: 26 }, (_, n) => String.fromCharCode(65 + n));
	/** A line-up of so many offers, each with conditions of its own in every facet. */
	const busy = (many: number, groups: (n: number) => string[]): LineUp =>
		Array.from({ length: many }, (_, n) =>
			Offer.parse({
				id: `b${n}`,
				method: n % 2 ? 'card' : 'credit-transfer',
				name: `B${n}`,
				routes: n % 2 ? { EUR: by('fernhall'), CHF: by('fernhall') } : { EUR: by('own'), CHF: by('own') },
				conditions: {
					amounts: [{ currency: 'EUR', minimum: 100 + 37 * n, maximum: 9_000 + 41 * n }],
					countries: {
						rule: n % 3 ? 'only' : 'except',
						values: letters.slice(0, 12).map((one) => `${one}${letters[n % 26]}`)
					},
					groups: { rule: n % 2 ? 'only' : 'except', values: groups(n) },
					goods: { rule: 'only', values: [`goods ${n % 9}`, `goods ${(n + 1) % 9}`] },
					delivery: { rule: 'except', values: [`way ${n % 7}`] },
					domains: { rule: 'except', values: [`d${n % 5}.example`] },
					...(n % 4 ? {} : { orderedBy: 'page' as const }),
					...(n % 5 ? {} : { withoutOnlineMethod: true })
				}
			})
		);
	it('answers ten offers with a condition in every facet, exactly, in two seconds', () => {
		const lineUp = busy(10, (n) => [`g${n % 8}`]);
		const begun = performance.now();
		const found = ask(lineUp, states, ['d0.example', 'd1.example']);
		expect(performance.now() - begun).toBeLessThan(30_000);
		expect(found.notLooked).toEqual([]);
		// each class by itself would have been asked this often
		expect(found.asked).toBeGreaterThan(10_000_000);
		const { situations } = found;
		const random = fc.sample(fc.nat(situations.length - 1), { numRuns: 400, seed: 20_419 });
		for (const at of random) {
			const one = situations[at]!;
			expect(offeredOnly(lineUp, one.context, states).map((offer) => offer.offer.id)).toEqual(
				one.offers.map((offer) => offer.id)
			);
		}
	}, 120_000);
	it('answers forty offers, or says which currencies it has not looked at, under a bound of time', () => {
		for (const groups of [(n: number) => [`g${n % 6}`], (n: number) => [`g${n}`, `g${(n * 7) % 40}`]]) {
			const begun = performance.now();
			const { situations, notLooked } = ask(busy(40, groups), states, ['d0.example']);
			expect(performance.now() - begun).toBeLessThan(60_000);
			const told = new Set([...situations.map((one) => one.currency), ...notLooked.map((one) => one.currency)]);
			expect([...told].sort()).toEqual(['CHF', 'EUR']);
			for (const one of notLooked) expect(sayNotLooked(one, 'en-GB')).toMatch(/^(EUR|CHF) was not looked at whole: /);
		}
	}, 180_000);
	it('is stopped on its way when nobody waits for it', () => {
		let asked = 0;
		const stop = () => ++asked > 100;
		const input = { lineUp: busy(10, (n) => [`g${n % 8}`]), states, base, domains: ['d0.example'] };
		expect(() => coverage(input, stop)).toThrow(Stopped);
		expect(asked).toBe(101);
		expect(() => lostSituations({ lineUp: [card], states }, input, base, [], () => true)).toThrow(Stopped);
	});
	it('proves of what is lost what it can, and names the rest', () => {
		const much = busy(40, (n) => [`g${n}`, `g${(n * 7) % 40}`]);
		const { situations, notLooked } = lostSituations({ lineUp: [card], states }, { lineUp: much, states }, base, []);
		expect(situations).toEqual([]);
		expect(notLooked.map((one) => one.currency)).toEqual(['EUR', 'CHF']);
	});
});
