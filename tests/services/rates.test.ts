import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { addDays } from '../../src/lib/core/calendar';

// The rate that a payment of a day is converted by: read for many days at once it is what it is read for each by itself.

const folder = mkdtempSync(join(tmpdir(), 'purse-rates-'));
process.env.JUSTPURSE_DATA = folder;
const store = await import('../../src/lib/server/db');
const { rateFinderOf, rateOn } = await import('../../src/lib/server/payments/fees');

let state = 8_113;
const random = (below: number): number => {
	state = (Math.imul(state, 1_103_515_245) + 12_345) >>> 0;
	return Math.floor((state / 4_294_967_296) * below);
};
const PAIRS = [
	['USD', 'EUR'],
	['EUR', 'USD'],
	['CHF', 'EUR'],
	['EUR', 'JPY']
] as const;
const SOURCES = ['Fernhall Payments', 'The central bank', 'Brackwater Acquiring'] as const;

beforeAll(async () => {
	await store.open();
	const rates: { day: string; fromCurrency: string; toCurrency: string; source: string; rate: string }[] = [];
	for (let day = '2026-01-02'; day < '2026-05-01'; day = addDays(day, 1)) {
		// gaps of days and of weeks, several sources of one day, both directions
		if (random(4) === 0 || (day > '2026-03-03' && day < '2026-03-28')) continue;
		for (const [fromCurrency, toCurrency] of PAIRS)
			for (const source of SOURCES)
				if (random(3) > 0)
					rates.push({ day, fromCurrency, toCurrency, source, rate: (0.5 + random(9_000) / 10_000).toFixed(4) });
	}
	await store.write((tx) => store.addRates(rates, tx));
});
afterAll(async () => {
	await store.close();
	rmSync(folder, { recursive: true, force: true });
});

it.each(['2026-01-01', '2026-02-01', '2026-03-20', '2026-06-01'])('from %s on', async (from) => {
	const to = addDays(from, 30);
	for (const processor of ['fernhall', 'quillon']) {
		const rateOf = await rateFinderOf(processor, from, to);
		for (let n = 0; n < 60; n++) {
			const day = addDays(from, random(31));
			const [one, other] = PAIRS[random(PAIRS.length)]!;
			for (const [currency, settlement] of [
				[one, other],
				[other, one],
				['EUR', 'EUR'],
				['SEK', 'EUR']
			] as const)
				expect(await rateOf(currency, settlement, day)).toEqual(await rateOn(currency, settlement, day, processor));
		}
	}
});
