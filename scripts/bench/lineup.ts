import {
	answer,
	coverage,
	gridEntries,
	Offer,
	offeredOnly,
	replay,
	type Context,
	type GridTill,
	type LineUp,
	type States
} from '../../src/lib/core/lineup/index.ts';
import type { Ratio } from './ratio.ts';

const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!;

/** A small generator with a seed, so that every run asks the same. */
function draws(seed: number): (most: number) => number {
	let state = seed;
	return (most) => {
		state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0;
		return Math.floor(((state >>> 8) / 16_777_216) * most);
	};
}

const CURRENCIES = ['EUR', 'GBP', 'USD', 'CHF', 'JPY'];
const connection = (n: number) => ({
	id: `c${n}`,
	name: `connection ${n}`,
	processor: `p${n}`,
	mode: 'live' as const,
	verified: true,
	paused: false,
	failing: false,
	excludes: [],
	abilities: ['card', 'bank-redirect', 'account-wallet'].map((method) => ({
		method,
		currencies: CURRENCIES,
		entries: ['online' as const],
		...(method === 'card'
			? {
					cardTypes: {
						schemes: ['corvid', 'mainsail', 'tessel'],
						fundings: ['debit' as const, 'credit' as const],
						regions: 'any' as const
					}
				}
			: {}),
		limits: [{ currency: 'EUR', minimum: 50, maximum: 2_500_000 }]
	}))
});
export const states: States = {
	connections: Object.fromEntries(Array.from({ length: 12 }, (_, n) => [`c${n}`, connection(n)])),
	offline: {},
	pausedMethods: [],
	rates: Array.from({ length: 40 }, (_, day) =>
		CURRENCIES.slice(1).map((from, n) => ({
			day: `2026-10-${String(1 + (day % 28)).padStart(2, '0')}`,
			from,
			to: 'EUR',
			rate: (0.8 + n / 10 + day / 1000).toFixed(4),
			source: 'bench'
		}))
	).flat(),
	homeCurrency: 'EUR',
	provenDomains: {},
	pageCodes: {}
};
/** Twelve offers with five conditions each: sixty. */
export const lineUp: LineUp = Array.from({ length: 12 }, (_, n) =>
	Offer.parse({
		id: `o${n}`,
		method: ['card', 'bank-redirect', 'account-wallet'][n % 3],
		name: `Way ${n}`,
		routes: Object.fromEntries(
			CURRENCIES.map((code) => [
				code,
				{ first: { kind: 'connection', id: `c${n}` }, standby: { kind: 'connection', id: `c${(n + 1) % 12}` } }
			])
		),
		conditions: {
			amounts: [{ currency: 'EUR', minimum: 100 * (n + 1), maximum: 100_000 * (n + 2) }],
			countries: { rule: n % 2 ? 'only' : 'except', values: ['BE', 'NL', 'DE'] },
			...(n % 4 === 0 ? { groups: { rule: 'except', values: ['dealers'] } } : {}),
			...(n % 4 === 1 ? { goods: { rule: 'only', values: ['strings', 'cases'] } } : {}),
			recurrence: 'one-time',
			orderedBy: 'page'
		}
	})
);
const base: Context = {
	mode: 'live',
	tillCurrencies: CURRENCIES,
	currency: 'EUR',
	minor: 1,
	recurring: false,
	orderedBy: 'page',
	entry: 'online',
	day: '2026-11-24'
};

export function oneAnswer(): Ratio {
	const draw = draws(20417);
	const contexts = Array.from({ length: 20_000 }, (): Context => ({
		...base,
		currency: CURRENCIES[draw(5)]!,
		minor: 1 + draw(300_000),
		country: ['BE', 'NL', 'FR', undefined][draw(4)],
		goods: ['strings', 'repairs', undefined][draw(3)],
		groups: draw(2) ? ['dealers'] : []
	}));
	let count = 0;
	const [ours, floor]: [number[], number[]] = [[], []];
	for (let run = 0; run < 9; run++) {
		const a = performance.now();
		for (const context of contexts) count += offeredOnly(lineUp, context, states).length;
		const b = performance.now();
		// the floor: every offer looked at once, one comparison each
		for (const context of contexts)
			for (const offer of lineUp) if (offer.conditions.amounts[0]!.minimum! <= context.minor) count++;
		const c = performance.now();
		if (run > 2) {
			ours.push(((b - a) * 1000) / contexts.length);
			floor.push(((c - b) * 1000) / contexts.length);
		}
	}
	const withWorkings = performance.now();
	for (const context of contexts.slice(0, 500)) count += answer(lineUp, context, states).offered.length;
	const full = ((performance.now() - withWorkings) * 1000) / 500;
	const took = median(ours);
	return {
		name: 'one answer without workings, 12 offers and 60 conditions, in microseconds',
		ratio: took,
		wanted: 'at most 20 µs',
		holds: took <= 20 && count > 0,
		detail: `${(took / median(floor)).toFixed(0)} times a bare look at every offer; with workings ${full.toFixed(0)} µs`
	};
}

export function manyReplayed(): Ratio {
	const count = 1_000_000;
	const draw = draws(7);
	const kinds = CURRENCIES.flatMap((currency) =>
		['corvid', 'mainsail', 'tessel'].flatMap((scheme) =>
			['debit', 'credit', 'commercial'].flatMap((funding) =>
				['BE', 'NL', 'FR', 'US'].map((issuer) => ({
					method: 'card',
					currency,
					entry: 'online' as const,
					scheme,
					funding,
					issuer
				}))
			)
		)
	);
	const days = Array.from({ length: 365 }, (_, n) =>
		new Date(Date.UTC(2025, 10, 25) + n * 86_400_000).toISOString().slice(0, 10)
	);
	const past = {
		kinds,
		days,
		kind: Uint16Array.from({ length: count }, () => draw(kinds.length)),
		minor: Float64Array.from({ length: count }, () => 1 + draw(200_000)),
		day: Uint16Array.from({ length: count }, (_, n) => Math.floor((n * 365) / count))
	};
	const draft = lineUp.map((offer, n) => (n === 0 ? { ...offer, on: false } : offer));
	const begun = performance.now();
	const steps = replay({ past, published: lineUp, draft, states, base, areas: {}, countries: {} }, [0, count]);
	let progress = 0;
	for (;;) {
		const step = steps.next();
		if (step.done) break;
		progress++;
	}
	const took = performance.now() - begun;
	const bareBegun = performance.now();
	let sum = 0;
	for (let n = 0; n < count; n++) sum += past.minor[n]! >= 100 ? past.kind[n]! : past.day[n]!;
	const bare = performance.now() - bareBegun;
	const memory = process.memoryUsage().rss / 1e6;
	return {
		name: 'a million past payments answered under two line-ups, in seconds',
		ratio: took / 1000,
		wanted: 'at most 5 s and 600 MB',
		holds: took <= 5_000 && memory < 600 && progress > 5 && sum > 0,
		detail: `${(took / bare).toFixed(0)} times a bare pass over the columns; ${memory.toFixed(0)} MB in all; progress told ${progress} times`
	};
}

export async function demoCoverage(): Promise<Ratio> {
	const { TILLS } = await import('../../demo/lineups.ts');
	const largest = TILLS[0]!.versions.at(-1)!.offers.map((offer, n) =>
		Offer.parse({
			...offer,
			id: `o${n}`,
			method: 'card',
			routes: Object.fromEntries(
				Object.keys(offer.routes as object).map((code) => [code, { first: { kind: 'connection', id: `c${n}` } }])
			)
		})
	);
	const times: number[] = [];
	let asked = 0;
	for (let run = 0; run < 12; run++) {
		const begun = performance.now();
		// a new object each time: nothing is remembered from the run before
		({ asked } = coverage({ lineUp: [...largest], states: { ...states }, base, domains: ['a.example', 'b.example'] }));
		if (run > 1) times.push(performance.now() - begun);
	}
	const big: number[] = [];
	let bigAsked = 0;
	for (let run = 0; run < 5; run++) {
		const begun = performance.now();
		({ asked: bigAsked } = coverage({ lineUp: [...lineUp], states: { ...states }, base, domains: [] }));
		big.push(performance.now() - begun);
	}
	const took = median(times);
	return {
		name: 'coverage of the largest line-up of the demo, in milliseconds',
		ratio: took,
		wanted: 'under 150 ms',
		holds: took < 150,
		detail: `${asked} classes, ${((took * 1000) / asked).toFixed(1)} µs each; of 12 offers and 60 conditions ${bigAsked} classes in ${median(big).toFixed(0)} ms`
	};
}

export function wholeGrid(): Ratio {
	const tills: GridTill[] = Array.from({ length: 40 }, (_, n) => ({
		slug: `t${n}`,
		name: `Till ${n}`,
		currencies: CURRENCIES,
		lineUp,
		base
	}));
	const times: number[] = [];
	let entries = 0;
	for (let run = 0; run < 12; run++) {
		const begun = performance.now();
		entries = gridEntries(tills, states).length;
		if (run > 1) times.push(performance.now() - begun);
	}
	const took = median(times);
	return {
		name: 'the grid’s entries of 40 tills and 12 connections, in milliseconds',
		ratio: took,
		wanted: 'under 150 ms',
		holds: took < 150,
		detail: `${entries} entries, ${((took * 1000) / entries).toFixed(2)} µs each`
	};
}
