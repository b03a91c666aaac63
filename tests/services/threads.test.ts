import { resolve } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { Offer, type CoverageInput, type LineUp } from '../../src/lib/core/lineup';
import { inThread } from '../../src/lib/server/threads';

// The other thread, as it is built: what nobody waits for any more does not hold up what somebody waits for.

beforeAll(() => {
	process.env.JUSTPURSE_THREAD = resolve('build/thread/thread.js');
});

/** Offers whose classes multiply: each has a condition of its own in every facet. */
const offers = (many: number): LineUp =>
	Array.from({ length: many }, (_, n) =>
		Offer.parse({
			id: `o${n}`,
			method: 'cash',
			name: `O${n}`,
			routes: { EUR: { first: { kind: 'offline', id: 'till' } } },
			conditions: {
				amounts: [{ currency: 'EUR', minimum: 100 + 37 * n, maximum: 9_000 + 41 * n }],
				countries: { rule: 'except', values: ['BE', 'NL', 'FR', 'DE', 'LU'].slice(0, 1 + (n % 5)) },
				groups: { rule: n % 2 ? 'only' : 'except', values: [`g${n % 10}`, `g${(n * 7) % 10}`] },
				goods: { rule: 'only', values: [`goods ${n % 9}`, `goods ${(n + 1) % 9}`] },
				delivery: { rule: 'except', values: [`way ${n % 7}`] },
				domains: { rule: 'except', values: [`d${n % 5}.example`] }
			}
		})
	);
const ask = (lineUp: LineUp): CoverageInput => ({
	lineUp,
	states: {
		connections: {},
		offline: {
			till: { id: 'till', name: 'Cash', method: 'cash', paused: false, currencies: ['EUR'], thresholds: [] }
		},
		pausedMethods: [],
		rates: [],
		homeCurrency: 'EUR',
		provenDomains: {},
		pageCodes: {}
	},
	base: {
		mode: 'live',
		tillCurrencies: ['EUR'],
		currency: 'EUR',
		minor: 1,
		recurring: false,
		orderedBy: 'page',
		entry: 'online',
		day: '2026-11-26'
	},
	domains: ['d0.example', 'd1.example']
});

describe('a computation that nobody waits for', () => {
	it('is stopped on its way, and one that has not begun is not begun', async () => {
		const stop = new AbortController();
		const [large, queued] = [1, 2].map(() => inThread('coverage', ask(offers(40)), undefined, stop.signal));
		const ends = Promise.allSettled([large, queued]);
		const small = inThread('coverage', ask(offers(1)));
		await new Promise((next) => setTimeout(next, 50));
		const begun = performance.now();
		stop.abort();
		expect((await small).situations.length).toBeGreaterThan(0);
		const waited = performance.now() - begun;
		for (const end of await ends) {
			expect(end.status).toBe('rejected');
			expect(String((end as PromiseRejectedResult).reason)).toMatch(/Stopped|Nobody waits/);
		}
		// each of the large ones takes a second or more by itself
		const alone = performance.now();
		await inThread('coverage', ask(offers(40)));
		expect(waited).toBeLessThan(Math.max(300, 0.8 * (performance.now() - alone)));
	});
});
