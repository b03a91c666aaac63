import { counted } from '../../src/lib/core/counted.ts';
import { parse } from 'csv-parse/sync';
import { mkdirSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { history } from '../../standins/history/index.ts';
import { connectAt, idOf, NAMES, prepare } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';

let world: World;
let desk: Desk;
const ids: Record<string, string> = {};
/** So many that each processor's file holds what is looked for here, declined attempts among it. */
const PAYMENTS = 2_200;
const files = history({ until: '2026-11-24', payments: PAYMENTS });
const page = async (path: string) => (await desk.get(path)).text();

beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: NAMES });
	desk = new Desk(world);
	await desk.setUp();
	for (const name of NAMES) {
		await prepare(desk, name);
		ids[name] = idOf(await connectAt(desk, name));
	}
});
afterAll(() => world.end());

/** Uploads a settlement file, as the page's form does. */
async function upload(name: string, processor: string, content: string | Uint8Array) {
	return desk.upload('/connect/files?/take', { processor }, 'file', name, content);
}
/** A comparison once it is done: a page that comes before tells how far it is. */
const compared = async (path: string): Promise<string> => {
	for (;;) {
		const shown = await page(path);
		if (!shown.includes('Pricing the payments')) return shown;
		await new Promise((next) => setTimeout(next, 100));
	}
};
const count = async () =>
	(await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM payments WHERE origin = 'file' AND taken > 0`))[0]!.n;

describe('settlement files', () => {
	it('are made alike from the same seed', () => {
		expect(history({ until: '2026-11-24', payments: PAYMENTS })).toEqual(files);
		const sources = new Set(
			[...files.values()].join('\n').match(/Web shop|Counter|Lessons|Bench|School accounts|Autumn fair/g)
		);
		expect(sources.size).toBe(6);
	});
	it('are taken whole or not at all, each fault named by its line', async () => {
		const sound = files.get('sundial')!;
		const lines = sound.trim().split('\n');
		const cases: [string, string | Uint8Array, RegExp][] = [
			['wrong total', sound.replace(/(total,,\d+,,EUR,)\d+/, '$11'), /The total of EUR/],
			['doubled line', [...lines.slice(0, 2), lines[1], ...lines.slice(2)].join('\n'), /stands in line 2 already/],
			['cut off', lines.slice(0, -1).join('\n'), /cut off/],
			['cut in a line', sound.slice(0, Math.floor(sound.length / 2)), /cut off/],
			['another encoding', Buffer.from(sound.replace('Web shop', 'Wéb shop'), 'latin1'), /not in UTF-8/],
			['no such method', sound.replace('pay-later', 'pay-maybe'), /method is no method/],
			['not CSV', '"unclosed\nquote,', /not CSV|first line must name/]
		];
		for (const [name, content, pattern] of cases) {
			const answer = await upload(`${name}.csv`, 'sundial', content);
			expect([name, answer.type, JSON.stringify(answer.data)]).toEqual([
				name,
				'failure',
				expect.stringMatching(pattern)
			]);
		}
		expect(await count()).toBe(0);
	});
	it('are taken once: the same file again changes nothing, another one with known payments adds only what is new', async () => {
		const sound = files.get('sundial')!;
		expect((await upload('sundial.csv', 'sundial', sound)).data?.says).toMatch(/payments are new/);
		const first = await count();
		expect(first).toBeGreaterThan(10);
		expect((await upload('again.csv', 'sundial', sound)).data?.says).toMatch(/was imported before/);
		// a file of a later day that repeats what is known, with one more line
		const lines = sound.trim().split('\n');
		const sample = lines.findIndex((line) => line.includes(',captured,'));
		const cells = lines[sample]!.split(',');
		const more = ['SU-LATER-1', ...cells.slice(1)].join(',');
		const totalAt = lines.findIndex((line) => line.startsWith('total') && line.includes(',captured,'));
		const body = lines.slice(
			0,
			lines.findIndex((line) => line.startsWith('total'))
		);
		const others = lines.slice(body.length).filter((line) => line !== lines[totalAt]);
		const total = lines[totalAt]!.split(',');
		total[2] = String(Number(total[2]) + 1);
		total[5] = String(Number(total[5]) + Number(cells[5]));
		total[11] = String(Number(total[11]) + Number(cells[11]));
		const later = [...body, more, total.join(','), ...others].join('\n');
		expect((await upload('later.csv', 'sundial', later)).data?.says).toMatch(/: 1 of its/);
		// one that tells another fee of a known payment corrects it: a fact beside the first, which stays to be seen
		const [id, fee] = [cells[0]!, Number(cells[11])];
		const change = (at: number, to: (cell: number) => number) => {
			const other = cells.map((cell, n) => (n === at ? String(to(Number(cell))) : cell)).join(',');
			const sum = lines[totalAt]!.split(',');
			if (at === 5 || at === 11) sum[at] = String(Number(sum[at]) - Number(cells[at]) + to(Number(cells[at])));
			return lines.map((line, n) => (n === sample ? other : n === totalAt ? sum.join(',') : line)).join('\n');
		};
		const known = async () =>
			(
				await rows<{ charged_fee: number; refunded: number; disputed: number; facts: number }>(
					world,
					`SELECT charged_fee, refunded, disputed, (SELECT COUNT(*) FROM payment_fees WHERE payment_id = payments.id) AS facts
					 FROM payments WHERE processor_id = ?`,
					[id]
				)
			)[0];
		expect(
			(
				await upload(
					'fee.csv',
					'sundial',
					change(11, (cell) => cell + 1)
				)
			).data?.says
		).toMatch(/0 of its .* 1 known payment changed/);
		expect(await known()).toMatchObject({ charged_fee: fee + 1, facts: 2 });
		// a later refund is added, and the same told once more changes nothing
		expect(
			(
				await upload(
					'refund.csv',
					'sundial',
					change(14, () => 200)
				)
			).data?.says
		).toMatch(/1 known payment changed/);
		expect(await known()).toMatchObject({ refunded: 200 });
		expect(
			(
				await upload(
					'more.csv',
					'sundial',
					change(14, () => 300)
				)
			).data?.says
		).toMatch(/1 known payment changed/);
		expect(await known()).toMatchObject({ refunded: 300 });
		// another amount of a known payment refuses the file
		expect(
			JSON.stringify(
				(
					await upload(
						'other.csv',
						'sundial',
						change(5, (cell) => cell + 1)
					)
				).data
			)
		).toMatch(/base_minor differs|is known already, with another amount or currency/);
		expect(await count()).toBe(first + 1);
	});
	it('keep declined attempts apart, and refuse one that was captured before', async () => {
		const declined = await rows<{ processor_id: string; fee: number }>(
			world,
			`SELECT processor_id, charged_fee AS fee FROM payments WHERE origin = 'file' AND stage = 'failed'`
		);
		const sound = files.get('sundial')!.trim().split('\n');
		expect(declined.length).toBe(sound.filter((line) => line.startsWith('SU-D')).length);
		// the attempt of a payment that is known as captured
		const captured = sound.find((line) => line.startsWith('SU-H'))!.split(',');
		const turned = sound.find((line) => line.startsWith('SU-D'))!.split(',');
		const one = [captured[0], ...turned.slice(1)].join(',');
		const total = [
			'total',
			'',
			1,
			'',
			'EUR',
			turned[5],
			'',
			'',
			'',
			'',
			'EUR',
			turned[11],
			'',
			'',
			'',
			'',
			'',
			'declined',
			'',
			''
		];
		const answer = await upload('turned.csv', 'sundial', [sound[0], one, total.join(',')].join('\n'));
		expect(JSON.stringify(answer.data)).toContain(`Payment ${captured[0]} is known already, as captured.`);
		expect(
			await rows(
				world,
				`SELECT processor_id, charged_fee AS fee FROM payments WHERE origin = 'file' AND stage = 'failed'`
			)
		).toHaveLength(declined.length);
	});
	it('may leave out attempts and times of order, as files without those columns do', async () => {
		const columns = (line: string) => line.split(',').slice(0, 16).join(',');
		const sound = files.get('ostrel')!.trim().split('\n');
		const plain = sound.filter((line) => !line.includes(',declined,')).map(columns);
		expect(JSON.stringify((await upload('plain.csv', 'ostrel', plain.slice(0, -1).join('\n'))).data)).toMatch(
			/cut off/
		);
		const some = plain.filter((line) => !line.startsWith('total')).slice(0, 4);
		const sum = (at: number) => some.slice(1).reduce((all, line) => all + Number(line.split(',')[at]), 0);
		const total = ['total', '', 3, '', 'EUR', sum(5), '', '', '', '', 'EUR', sum(11), '', '', '', ''].join(',');
		expect((await upload('short.csv', 'ostrel', [...some, total].join('\n'))).data?.says).toMatch(
			/3 of its 3 payments/
		);
	});
	it('are taken by themselves from the folder beside the database', async () => {
		const inbox = `${world.app.folder}/settlements`;
		mkdirSync(inbox, { recursive: true });
		for (const [name, text] of files) if (name !== 'sundial') writeFileSync(`${inbox}/${name}.csv`, text);
		await until(
			'all of them',
			async () =>
				(await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM settlement_files WHERE state = 'taken'`))[0]!.n ===
				11,
			40_000
		);
		// those of Ostrel that were known already are not taken twice
		expect(await count()).toBe(PAYMENTS + 1);
	}, 180_000);
});

describe('side by side', () => {
	it('prices what each can carry, shows holes, and exports the same', async () => {
		const shown = await compared('/connect/compare');
		for (const text of ['Fernhall', 'Halfpenny', 'cannot carry it', 'leaves out', 'cheapest', 'In all', 'Break-even'])
			expect(shown).toContain(text);
		// the answer comes first, with what it saves
		expect(shown.replace(/<[^>]*>/g, '')).toMatch(
			/For what you take by card, [\w ]+ is cheapest:\s+€?[\d,.]+ ?(EUR|€)? a year less\s+than [\w ]+, the next/
		);
		const csv = await (await desk.get('/connect/compare/csv?from=2025-11-25&to=2026-11-24')).text();
		const quillon = csv.split('\n').filter((line) => line.startsWith('Quillon Direct'));
		const debit = quillon.find((line) => line.includes('Bank debit'))!.split(',');
		// Quillon charged its own debits by the card it hands over: what we compute is what it took
		const [charged] = await rows<{ n: number; fee: number }>(
			world,
			`SELECT COUNT(*) AS n, SUM(charged_fee) AS fee FROM payments WHERE taken > 0 AND method = 'bank-debit'
			 AND captured_at >= ${Date.parse('2025-11-24T23:00:00Z')} AND captured_at < ${Date.parse('2026-11-24T23:00:00Z')}`
		);
		expect([Number(debit[3]), debit[5]]).toEqual([charged!.n, (charged!.fee / 100).toFixed(2)]);
		expect(quillon.find((line) => line.includes(',Card,'))).toMatch(/not carried/);
	});
	it('counts what happened around the payments, and charges it by each card', async () => {
		const span = `>= ${Date.parse('2025-11-24T23:00:00Z')} AND created_at < ${Date.parse('2026-11-24T23:00:00Z')}`;
		const captured = span.replace('created_at <', 'captured_at <');
		const [told] = await rows<Record<string, number>>(
			world,
			`SELECT (SELECT COUNT(*) FROM payments WHERE stage = 'failed' AND created_at ${span}) AS declined,
			 (SELECT COUNT(*) FROM payments WHERE stage = 'failed' AND processor = 'brackwater' AND method = 'card' AND created_at ${span}) AS card,
			 (SELECT SUM(charged_fee) FROM payments WHERE stage = 'failed' AND processor = 'brackwater' AND created_at ${span}) AS charged,
			 (SELECT COUNT(*) FROM payments WHERE refunded > 0 AND captured_at ${captured}) AS refunded,
			 (SELECT COUNT(*) FROM payments WHERE disputed > 0 AND captured_at ${captured}) AS disputed,
			 (SELECT COUNT(*) FROM payments WHERE captured_at - ordered_at >= 14 * 86400000 AND captured_at ${captured}) AS late`
		);
		expect(Math.min(told!.declined!, told!.refunded!, told!.late!)).toBeGreaterThan(3);
		// the house charges by its own tariff for what it declined; the card that was read from it says the same
		expect(told!.charged).toBe(3 * told!.card!);
		const shown = (await compared('/connect/compare?from=2025-11-25&to=2026-11-24')).replace(/<!--.*?-->/g, '');
		for (const text of [
			`${told!.refunded} refunds`,
			counted(told!.disputed!, 'dispute', 'en-GB'),
			counted(told!.declined!, 'declined attempt', 'en-GB'),
			`${told!.late} that came 14 days or more`
		])
			expect(shown).toContain(text);
	});
	it('adds up: methods, payouts, monthly and waiting are the whole, and fees and what is around them the cost', async () => {
		const csv = await (await desk.get('/connect/compare/csv?from=2025-11-25&to=2026-11-24')).text();
		const [head, ...lines] = (parse(csv, { bom: true }) as string[][]).map((cells) => cells);
		expect(head).toEqual(
			'side,method,currency,payments,volume,fees,around,cost,cannot_carry,cannot_carry_volume,why,rank'.split(',')
		);
		const minor = (text: string) => Math.round(Number(text) * 100);
		for (const side of new Set(lines.map((line) => line[0]!))) {
			const mine = lines.filter((line) => line[0] === side);
			const whole = mine.find((line) => line[1] === 'in all')!;
			const parts = mine.filter((line) => line !== whole);
			expect([side, parts.reduce((sum, line) => sum + minor(line[7]!), 0)]).toEqual([side, minor(whole[7]!)]);
			for (const line of parts.filter((one) => one[3])) expect(minor(line[5]!) + minor(line[6]!)).toBe(minor(line[7]!));
		}
		// what a side leaves out and what it prices are together what all sides have before them
		const bankDebit = lines.filter(([, method]) => method === 'Bank debit');
		expect(new Set(bankDebit.map((line) => minor(line[4]!) + minor(line[9]!))).size).toBe(1);
		expect(bankDebit.filter((line) => minor(line[9]!) > 0).length).toBe(bankDebit.length - 1);
		// one that keeps all of its fee and charges nothing for refunds has nothing around it; one with charges has
		expect(lines.filter(([side]) => side === 'Ostrel').every((line) => minor(line[6]!) === 0)).toBe(true);
		expect(lines.some(([side, , , , , , around]) => side === 'Brackwater Acquiring' && minor(around!) > 0)).toBe(true);
		// a refund gives the percentage back: what is around lowers the cost
		expect(lines.some(([side, , , , , , around]) => side === 'Sundial Split' && minor(around!) < 0)).toBe(true);
	});
	it('leads to the payments and attempts behind each count, page by page', async () => {
		const shown = async (query: string) => (await compared(`/connect/compare?${query}`)).replace(/<!--.*?-->/g, '');
		expect(await shown('look=declined')).toMatch(/BR-D\d+|FE-D\d+|SU-D\d+/);
		expect(await shown('look=late')).toMatch(/QU-H\d+[\s\S]*days before/);
		expect(await shown('look=refunded')).toContain('Refunded payments');
		const first = await shown(`look=${ids.fernhall}~all`);
		const second = await shown(`look=${ids.fernhall}~all&skip=25`);
		expect(first).toContain('Earlier ones');
		expect(first).not.toContain('Later ones');
		expect(second).toContain('Later ones');
		const idsIn = (text: string) => new Set(text.match(/[A-Z]{2}-H\d{7}/g));
		expect(idsIn(first).size).toBe(25);
		for (const id of idsIn(second)) expect(idsIn(first).has(id)).toBe(false);
		expect(await shown(`look=${ids.quillon}~kind~Bank debit`)).toContain('Quillon Direct: Bank debit');
		// what is no such thing is as if nothing was asked
		expect(await shown('look=nobody~all&skip=-4')).not.toContain('Earlier ones');
	});
	it('opens a figure down to single payments', async () => {
		expect(await compared(`/connect/compare?look=${ids.fernhall}~method~card`)).toContain(
			'what its rate card takes of each'
		);
	});
	it('keeps what is chosen in the address', async () => {
		const shown = await compared(`/connect/compare?with=${ids.fernhall},${ids.halfpenny}&capital=0`);
		expect(shown).not.toContain(
			`href="/connect/connections/${ids.ostrel}">Ostrel</a>`.replace('connections', 'compare')
		);
		expect(shown).toMatch(/name="capital"[^>]*value="0"/);
	});
});

describe('a comparison on paper', () => {
	it('is a PDF of the same period, with fonts of its own', async () => {
		const answer = await desk.get('/connect/compare/pdf?from=2025-11-25&to=2026-11-24');
		expect(answer.headers.get('content-type')).toBe('application/pdf');
		expect(answer.headers.get('content-disposition')).toContain('side-by-side-2025-11-25-2026-11-24.pdf');
		const bytes = Buffer.from(await answer.arrayBuffer());
		expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
		expect(bytes.subarray(-32).toString('latin1')).toContain('%%EOF');
		expect(bytes.toString('latin1')).toMatch(/IBMPlexSans/);
		// it says its language, and is tagged for those who have it read aloud
		expect(bytes.toString('latin1')).toMatch(/\/Lang \(en\)/);
		expect(bytes.toString('latin1')).toMatch(/\/MarkInfo <<\s*\/Type \/MarkInfo\s*\/Marked true|\/Marked true/);
		expect(bytes.toString('latin1')).toMatch(/\/S \/TH/);
		expect(bytes.toString('latin1')).toMatch(/\/Title/);
	});
	it('tells how far it is, and nothing of one that is not known', async () => {
		const told = (await (await desk.get('/connect/compare/progress?key=nobody')).json()) as { ended: boolean };
		expect(told.ended).toBe(true);
	});
});

describe('past payments as columns', () => {
	it('are packed by month, as many as there are, and packed anew when a file comes', async () => {
		const packed = async () =>
			rows<{ month: string; count: number; bytes: number; n: number }>(
				world,
				`SELECT month, count, LENGTH(columns) AS bytes,
				 (SELECT COUNT(*) FROM payments WHERE captured_at IS NOT NULL AND strftime('%Y-%m', captured_at / 1000, 'unixepoch') = month) AS n
				 FROM packed_months ORDER BY month`
			);
		// the month that is under way is packed when somebody reads it
		await compared('/connect/compare?capital=1');
		await until('all are packed', async () => (await packed()).every((one) => one.bytes !== null));
		const months = await packed();
		expect(months.length).toBeGreaterThan(15);
		for (const one of months) expect([one.month, one.count, one.bytes]).toEqual([one.month, one.n, one.n * 34]);
	});
	it('come by browser in files of any size that a business has', async () => {
		const large = history({ until: '2026-11-20', payments: 18_000, months: 2, seed: 7 });
		const text = [...large].find(([name]) => name === 'fernhall')![1].replaceAll(/FE-([HD])/g, 'FE-L$1');
		expect(text.length).toBeGreaterThan(600_000);
		expect(JSON.stringify((await upload('large.csv', 'fernhall', text)).data)).toMatch(/payments are new/);
	}, 180_000);
});

describe('a candidate', () => {
	const card = {
		settlement: 'EUR',
		rounding: 'total',
		mode: 'half-up',
		lines: [{ when: {}, percentage: 5_000, fixed: 5 }]
	};
	const give = (change: object, more: object = {}) =>
		desk.act('/connect/candidates/new', {
			name: 'A quote of May',
			processor: '',
			methods: ['card'],
			currencies: 'EUR GBP',
			paysOutDays: '2',
			card: JSON.stringify({ ...card, ...change }),
			...more
		});
	it('is refused with a card that is wrong, and keeps nothing', async () => {
		for (const [change, pattern] of [
			[{ lines: [] }, /The lines/],
			[{ lines: [{ when: {}, percentage: -1, fixed: 0 }] }, /Line 1, percentage/],
			[{ lines: [{ when: {}, percentage: 1, fixed: 0, minimum: 9, maximum: 3 }] }, /minimum is over the maximum/],
			[{ tiers: { way: 'band', steps: [{ from: 0, lines: card.lines }] } }, /Tier 1, from/]
		] as const) {
			const answer = await give(change);
			expect([answer.type, JSON.stringify(answer.data)]).toEqual(['failure', expect.stringMatching(pattern)]);
		}
		expect(await rows(world, 'SELECT id FROM candidates')).toEqual([]);
	});
	it('stands beside what is connected, priced on the same payments', async () => {
		const made = await give({});
		const id = /candidates\/([^?]+)/.exec(made.location!)![1]!;
		const csv = await (await desk.get(`/connect/compare/csv?with=${id}&from=2025-11-25&to=2026-11-24`)).text();
		const line = csv
			.split('\n')
			.find((one) => one.startsWith('A quote of May,Card'))!
			.split(',');
		const own = await rows<{ minor: number; base: number }>(
			world,
			`SELECT minor, base_minor AS base FROM payments WHERE taken > 0 AND method = 'card' AND currency = 'EUR'
			 AND captured_at >= ${Date.parse('2025-11-24T23:00:00Z')} AND captured_at < ${Date.parse('2026-11-24T23:00:00Z')}`
		);
		expect(Number(line[3])).toBeGreaterThanOrEqual(own.length);
		expect(Number(line[5])).toBeGreaterThan(
			own.reduce((sum, one) => sum + Math.floor(one.minor * 0.005 + 5.5), 0) / 100 - 1
		);
	});
});

describe('a rate card of a connection', () => {
	it('is kept as a version when it prices everything the account carries, else the pair of lines is named', async () => {
		const path = `/connect/connections/${ids.ostrel}/rates`;
		const card = (lines: object[]) => JSON.stringify({ settlement: 'EUR', rounding: 'total', mode: 'half-up', lines });
		const line = (when: object) => ({ when, percentage: 4_500, fixed: 5 });
		const keep = (lines: object[], validFrom = '2026-06-01') =>
			desk.act(`${path}?/keep`, { card: card(lines), validFrom });
		expect(JSON.stringify((await keep([line({ entry: 'online' })])).data)).toMatch(/no line covers it/);
		expect(JSON.stringify((await keep([line({ currency: 'EUR' }), line({ method: 'bank-app' })])).data)).toMatch(
			/two lines fit equally well/
		);
		expect(JSON.stringify((await keep([line({})], 'June')).data)).toMatch(/day from which/);
		expect((await keep([line({})])).type).toBe('success');
		expect(
			await rows(world, `SELECT valid_from FROM rate_cards WHERE connection_id = '${ids.ostrel}' ORDER BY valid_from`)
		).toEqual([{ valid_from: '2026-01-01' }, { valid_from: '2026-06-01' }]);
		expect(await page(path)).toContain('from 01/06/2026');
	});
	it('that was read is a proposal until it is confirmed, and nothing is expected by it', async () => {
		await prepare(desk, 'sundial');
		const id = idOf(await connectAt(desk, 'sundial', { mode: 'test', isConfirmed: false }));
		const path = `/connect/connections/${id}/rates`;
		const shown = await page(path);
		expect(shown).toContain('No contract yet');
		expect(shown).toContain('nothing is expected by it');
		const version = /proposal-(\d{4}-\d{2}-\d{2})/.exec(shown)![1]!;
		expect((await desk.act(`${path}?/confirm`, { version })).type).toBe('success');
		expect(await page(path)).toContain('Confirmed as agreed by Ilse Verhaeren');
		expect(await rows(world, `SELECT role, confirmed_by FROM rate_cards WHERE connection_id = ?`, [id])).toEqual([
			{ role: 'contract', confirmed_by: 'Ilse Verhaeren' }
		]);
		// it is confirmed once
		expect((await desk.act(`${path}?/confirm`, { version })).type).toBe('failure');
	});
	it('that the administrator typed stays the contract whatever the processor says, which is told once', async () => {
		const path = `/connect/connections/${ids.fernhall}/rates`;
		const contract = async () =>
			rows<{ card: string; valid_from: string }>(
				world,
				`SELECT card, valid_from FROM rate_cards WHERE connection_id = ? AND role = 'contract' ORDER BY valid_from`,
				[ids.fernhall]
			);
		const [read] = await contract();
		const typed = JSON.parse(read!.card) as { lines: { percentage: number }[] };
		typed.lines.forEach((line) => (line.percentage -= 500));
		expect((await desk.act(`${path}?/keep`, { card: JSON.stringify(typed), validFrom: '2026-05-01' })).type).toBe(
			'success'
		);
		const before = await contract();
		// a price of a day to come: each reading sees it
		await world.control('account', { terms: { home: '1.45', since: '2026-12-25' } });
		const told: string[] = [];
		for (let n = 0; n < 3; n++) {
			told.push(JSON.stringify((await desk.act(`/connect/connections/${ids.fernhall}?/reread`, {})).data));
			expect(await contract()).toEqual(before);
		}
		// the processor also notifies of the change: whichever reading came first has reported it
		const needs = await page('/needs-you');
		expect(told[0]! + needs).toMatch(/its prices are others from 2026-12-25 on; until you confirm them/);
		expect(told[0]! + needs).toMatch(/1\.45 % \+ 0\.18, was/);
		expect(told.slice(1).join()).not.toContain('its prices are others');
		const changes = await rows<{ n: number }>(
			world,
			`SELECT COUNT(*) AS n FROM ability_changes WHERE connection_id = ? AND says LIKE '%prices are others%'`,
			[ids.fernhall]
		);
		expect(changes[0]!.n).toBe(1);
		// turned down, it is not told again either
		expect((await desk.act(`${path}?/decline`, { version: '2026-12-25' })).type).toBe('success');
		await desk.act(`/connect/connections/${ids.fernhall}?/reread`, {});
		expect(await page(path)).not.toContain('proposal-2026-12-25');
		await world.control('account', { terms: {} });
	});
	it('tells what a contract changes against the one before', async () => {
		const path = `/connect/connections/${ids.ostrel}/rates`;
		expect((await page(path)).replace(/<!--.*?-->/g, '').replace(/\s+/g, ' ')).toMatch(
			/differences? against the contract of 01\/01\/2026/
		);
	});
	it('has a published schema', async () => {
		const schema = (await (await desk.get('/connect/rate-card-schema')).json()) as { properties: object };
		expect(Object.keys(schema.properties)).toContain('tiers');
	});
});
