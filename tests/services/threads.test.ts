import { resolve } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { RateCard, kindAt, type Past, type PastKind } from '../../src/lib/core/fees/index.ts';
import { findRate } from '../../src/lib/core/money/index.ts';
import { inThread, plainKind, TASKS, type Asked } from '../../src/lib/server/threads/index.ts';
import { history } from '../../standins/history/index.ts';

const COUNT = 20_000;
const kinds: PastKind[] = ['EUR', 'USD'].flatMap((currency) =>
	(['debit', 'credit'] as const).map((funding) => ({
		method: 'card',
		currency,
		entry: 'online' as const,
		scheme: 'corvid',
		funding,
		issuer: funding === 'debit' ? 'BE' : 'NL'
	}))
);
const shared = <T>(make: (place: SharedArrayBuffer) => T, bytes: number) => make(new SharedArrayBuffer(COUNT * bytes));
const past: Past = {
	count: COUNT,
	kinds,
	days: Array.from({ length: 28 }, (_, n) => `2026-02-${String(n + 1).padStart(2, '0')}`),
	kind: shared((place) => new Uint16Array(place), 2).map((_, n) => n % kinds.length),
	minor: shared((place) => new Float64Array(place), 8).map((_, n) => 100 + ((n * 7919) % 40_000)),
	day: shared((place) => new Uint16Array(place), 2).map((_, n) => Math.floor((n * 28) / COUNT)),
	month: shared((place) => new Uint16Array(place), 2).fill(24_313),
	refunded: shared((place) => new Float64Array(place), 8).map((_, n) => (n % 25 ? 0 : 100))
};
const card = RateCard.parse({
	settlement: 'EUR',
	rounding: 'each',
	mode: 'half-up',
	areas: [['BE', 'NL']],
	lines: [{ when: {}, percentage: 13_500, fixed: 18 }],
	conversion: 17_500,
	refund: { keeps: 'fixed', fee: 10 },
	declined: 3
});
const rates = new Map(
	past.days.map((day) => [
		`USD ${day}`,
		findRate([{ day, from: 'USD', to: 'EUR', rate: '0.9213', source: 'test' }], 'USD', 'EUR', day)!
	])
);
const asked: Asked<'price'> = {
	past,
	range: [0, COUNT],
	side: {
		id: 'one',
		card,
		country: 'BE',
		bankDays: 2,
		carried: kinds.slice(0, 3).map((kind) => plainKind(kindAt(kind, card, 'BE')))
	},
	rates,
	capitalPpm: 40_000,
	happened: { disputes: [1], declined: [5, 0, 2] }
};

describe('what is worked out in another thread', () => {
	beforeAll(() => {
		process.env.JUSTPURSE_THREAD = resolve('build/thread/thread.js');
	});
	it('is what it would be here: a side’s cost, with rates, refunds and holes', async () => {
		const there = await inThread('price', asked);
		const here = TASKS.price(asked);
		expect(there).toEqual(here);
		expect(there.kinds[3]).toMatchObject({ count: 0, hole: 'not carried' });
		expect(there.around).toMatchObject({ declined: { count: 7, fee: 21 }, disputes: { count: 1 } });
	});
	it('so is the spread of a mix, and a file that is checked', async () => {
		const spread: Asked<'spread'> = {
			past,
			range: [100, COUNT - 100],
			worth: [1, 1, 0.9213, 0],
			names: ['domestic', 'regional', 'domestic', 'regional'],
			alike: [0, 1, 2, 3]
		};
		const told = await inThread('spread', spread);
		expect(told).toEqual(TASKS.spread(spread));
		// what no rate is known of is in no group
		expect(told.groups.map(({ name, count, kinds: of }) => [name, count, of.length])).toEqual([
			['domestic', (COUNT - 200) / 2, 2],
			['regional', (COUNT - 200) / 4, 1]
		]);
		const file = {
			bytes: Buffer.from(history({ until: '2026-11-24', payments: 300 }).get('fernhall')!),
			timeZone: 'UTC',
			accountZone: 'Europe/Brussels'
		};
		const checked = await inThread('checkFile', file);
		expect(checked).toEqual(TASKS.checkFile(file));
		expect('counts' in checked && checked.counts.captured).toBeGreaterThan(50);
	});
	it('leaves this thread to others meanwhile', async () => {
		let turns = 0;
		const counting = setInterval(() => turns++, 1);
		const many = Array.from({ length: 12 }, () => inThread('price', asked));
		await Promise.all(many);
		clearInterval(counting);
		expect(turns).toBeGreaterThan(5);
	});
	it('tells what went wrong, and goes on with the next', async () => {
		const bytes = Buffer.from(history({ until: '2026-11-24', payments: 300 }).get('fernhall')!);
		await expect(
			inThread('checkFile', { bytes, timeZone: 'Nowhere/Land', accountZone: 'Europe/Brussels' })
		).rejects.toThrow(/Nowhere/);
		expect(
			await inThread('checkFile', { bytes: Buffer.from('nothing'), timeZone: 'UTC', accountZone: 'Europe/Brussels' })
		).toMatchObject({
			troubles: [{ line: 1 }]
		});
	});
});
