import { addDays } from '../../src/lib/core/calendar/index.ts';
import { cheapestRouting, RateCard, routeCosts, type Past, type PastKind } from '../../src/lib/core/fees/index.ts';
import { generator } from '../../tests/world/simplePricing.ts';
import type { Ratio } from './ratio.ts';

const TILLS = 20;
const METHODS = [
	'card',
	'device-wallet',
	'bank-redirect',
	'bank-app',
	'bank-debit',
	'credit-transfer',
	'account-wallet',
	'pay-later'
];
const CURRENCIES = ['EUR', 'GBP', 'CHF', 'USD', 'SEK'];
const CONNECTIONS = 8;
const PAYMENTS = 400_000;
const SECONDS = 10;

/** The cheapest routing of 20 tills, 8 methods, 5 currencies and 8 connections, with tiers, minimums and monthly fees. */
export function routing(): Ratio {
	const random = generator(4_711);
	const kinds: PastKind[] = [];
	const groupOf: number[] = [];
	const groups: { till: string }[] = [];
	for (let till = 0; till < TILLS; till++)
		for (const method of METHODS)
			for (const currency of CURRENCIES) {
				groupOf.push(groups.push({ till: `till ${till}` }) - 1);
				kinds.push({ method, currency, entry: 'online', scheme: 'corvid', funding: 'debit', issuer: 'BE' });
			}
	const days = Array.from({ length: 365 }, (_, n) => addDays('2026-01-01', n));
	const day = Uint16Array.from({ length: PAYMENTS }, (_, n) => Math.floor((n * 365) / PAYMENTS));
	const past: Past = {
		count: PAYMENTS,
		kinds,
		days,
		day,
		kind: Uint16Array.from({ length: PAYMENTS }, () => random.whole(0, kinds.length - 1)),
		minor: Float64Array.from({ length: PAYMENTS }, () => random.whole(300, 30_000)),
		month: Uint16Array.from(day, (one) => Number(days[one]!.slice(5, 7)))
	};
	const sides = Array.from({ length: CONNECTIONS }, (_, n) => {
		const lines = (less: number) =>
			METHODS.map((method) => ({
				when: { method },
				percentage: Math.max(0, random.whole(4_000, 24_000) - less),
				fixed: random.whole(0, 25)
			}));
		const methods = METHODS.filter(() => random.chance(0.7));
		const first = lines(0);
		return {
			id: `c${n}`,
			card: RateCard.parse({
				settlement: 'EUR',
				rounding: 'total',
				mode: 'half-up',
				lines: first,
				conversion: 20_000,
				monthly: { fee: random.whole(0, 3_000), minimum: n % 3 === 0 ? 5_000 : 0 },
				...(n % 2
					? {
							tiers: {
								way: 'whole',
								steps: [
									{
										from: 5_000_000,
										lines: first.map((line) => ({ ...line, percentage: Math.max(0, line.percentage - 400) }))
									}
								]
							}
						}
					: {})
			}),
			country: 'BE',
			bankDays: 2,
			carries: ({ method }: { method: string }) => methods.includes(method) || n === 0
		};
	});
	const rate = { perMinor: { top: 1n, bottom: 1n }, day: '2026-01-01', rate: '1', source: 'bench' };
	const begun = performance.now();
	const costs = routeCosts({
		past,
		range: [0, PAYMENTS],
		groupOf,
		groups: groups.length,
		sides,
		rateOf: () => rate as never,
		happened: { disputes: [], declined: [] }
	});
	const priced = performance.now() - begun;
	const found = cheapestRouting({
		groups: groups.map(({ till }, at) => ({
			key: String(at),
			till,
			today: 0,
			least: sides.map((_, side) => (costs.carries(side, at) ? costs.least(side, at) : undefined))
		})),
		connections: CONNECTIONS,
		monthly: sides.map((_, side) => costs.monthly(side)),
		apart: [[1, 2]],
		cost: costs.cost
	})!;
	const seconds = (performance.now() - begun) / 1000;
	const gap = (found.cost - found.bound) / found.bound;
	return {
		name: `cheapest routing of ${groups.length} groups over ${CONNECTIONS} connections, in seconds`,
		ratio: seconds,
		wanted: `at most ${SECONDS}, with a bound within 1 %`,
		holds: seconds <= SECONDS && gap <= 0.01,
		detail: `${PAYMENTS.toLocaleString('en-GB')} payments priced in ${(priced / 1000).toFixed(1)} s; ${(gap * 100).toFixed(2)} % above the bound`
	};
}
