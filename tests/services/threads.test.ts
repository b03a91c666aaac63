import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { RateCard, kindAt, type Past, type PastKind } from '../../src/lib/core/fees/index.ts';
import { findRate } from '../../src/lib/core/money/index.ts';
import { inThread, plainKind, TASKS, type Asked, type FilePiece } from '../../src/lib/server/threads/index.ts';
import { unpackText } from '../../src/lib/server/packText.ts';
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

const folder = mkdtempSync(join(tmpdir(), 'purse-thread-'));
afterAll(() => rmSync(folder, { recursive: true }));
let files = 0;
function fileOf(content: string | Uint8Array): string {
	const path = join(folder, `${files++}.csv`);
	writeFileSync(path, content);
	return path;
}
const SOUND = history({ until: '2026-11-24', payments: 8_000 }).get('fernhall')!;

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
		const file = { path: fileOf(SOUND), timeZone: 'UTC', accountZone: 'Europe/Brussels' };
		const there: FilePiece[] = [];
		const here: FilePiece[] = [];
		const checked = await inThread('checkFile', file, async (piece) => void there.push(piece));
		expect(checked).toEqual(await TASKS.checkFile(file, async (piece) => void here.push(piece)));
		expect(there).toEqual(here);
		// every line is handed over once, in pieces of at most a thousand
		const pieces = there.filter(({ kind }) => kind === 'captured');
		expect(pieces.length).toBeGreaterThan(1);
		expect(Math.max(...there.map(({ lines }) => lines))).toBeLessThanOrEqual(1_000);
		expect('counts' in checked && checked.counts.captured).toBe(pieces.reduce((sum, one) => sum + one.lines, 0));
	});
	it('hands over the next piece only when the one before was taken, and ends when it was not', async () => {
		const file = { path: fileOf(SOUND), timeZone: 'UTC', accountZone: 'Europe/Brussels' };
		let [open, most] = [0, 0];
		await inThread('checkFile', file, async () => {
			most = Math.max(most, ++open);
			await new Promise((next) => setImmediate(next));
			open--;
		});
		expect(most).toBe(1);
		let pieces = 0;
		await expect(
			inThread('checkFile', file, async () => {
				pieces++;
				throw new Error('the disk is full');
			})
		).rejects.toThrow('the disk is full');
		expect(pieces).toBe(1);
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
		const zones = { timeZone: 'UTC', accountZone: 'Europe/Brussels' };
		await expect(inThread('checkFile', { ...zones, path: fileOf(SOUND), timeZone: 'Nowhere/Land' })).rejects.toThrow(
			/Nowhere/
		);
		await expect(inThread('checkFile', { ...zones, path: '/nowhere' })).rejects.toThrow(/ENOENT/);
		for (const [content, line, says] of [
			['nothing', 1, /must name the columns/],
			['', 0, /empty/],
			[Buffer.from([0x61, 0xff, 0x0a]), 0, /UTF-8/],
			['a,b\n"c,d\n', 2, /not CSV/]
		] as const)
			expect(await inThread('checkFile', { ...zones, path: fileOf(content) })).toMatchObject({
				troubles: [{ line, says: expect.stringMatching(says) }]
			});
	});
});

describe('the day of a line', () => {
	it('is that of its time zone, also where the clock changes and a day is left out', async () => {
		for (const [zone, moments] of [
			[
				'Europe/Brussels',
				[
					'2026-03-28T22:59:59Z',
					'2026-03-28T23:00:00Z',
					'2026-03-29T21:59:59Z',
					'2026-03-29T22:00:00Z',
					'2026-10-25T22:59:00Z',
					'2026-10-25T23:00:00Z'
				]
			],
			[
				'Pacific/Apia',
				['2011-12-30T09:59:00Z', '2011-12-30T10:00:00Z', '2026-11-20T10:59:00Z', '2026-11-20T11:00:00Z']
			],
			[
				'Pacific/Chatham',
				['2026-04-04T10:14:00Z', '2026-04-04T10:15:00Z', '2026-04-05T11:14:00Z', '2026-04-05T11:15:00Z']
			],
			[
				'America/St_Johns',
				['2026-11-01T02:29:00Z', '2026-11-01T02:30:00Z', '2026-11-02T03:29:00Z', '2026-11-02T03:30:00Z']
			]
		] as const) {
			const [header] = SOUND.split('\n');
			const names = header!.split(',');
			const line = SOUND.split('\n')
				.find((one) => one.includes(',EUR,') && one.includes('captured'))!
				.split(',');
			const lines = moments.map((moment, n) =>
				names
					.map((name, k) =>
						name === 'payment'
							? `D-${n}`
							: name === 'captured_at'
								? moment
								: name === 'ordered_at'
									? ''
									: ((
											{
												currency: 'EUR',
												fee_currency: 'EUR',
												amount_minor: '100',
												base_minor: '100',
												fee_minor: '1',
												rate: '',
												refunded_minor: '0',
												disputed_minor: '0'
											} as Record<string, string>
										)[name] ?? line[k])
					)
					.join(',')
			);
			const total = names
				.map(
					(name) =>
						(
							({
								payment: 'total',
								source: String(moments.length),
								currency: 'EUR',
								amount_minor: String(100 * moments.length),
								fee_minor: String(moments.length)
							}) as Record<string, string>
						)[name] ?? ''
				)
				.join(',');
			const days: string[] = [];
			const checked = await TASKS.checkFile(
				{ path: fileOf([header, ...lines, total].join('\n')), timeZone: zone, accountZone: zone },
				async ({ body }) => {
					for (const values of (JSON.parse(unpackText(body)) as { lines: unknown[][] }).lines)
						days.push(String(values[13]));
				}
			);
			expect('troubles' in checked && checked.troubles).toBe(false);
			expect(days).toEqual(
				moments.map((moment) => new Intl.DateTimeFormat('sv-SE', { timeZone: zone }).format(new Date(moment)))
			);
		}
	});
});
