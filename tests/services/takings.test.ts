import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// Takings as the administrator reads them: the list, its sums, its file and the days are one figure; orders have states of
// their own.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	desk = new Desk(world);
	await desk.openWebShop();
	for (const [reference, sum] of [
		['TK-1', '84.50'],
		['TK-2', '12.00'],
		['TK-3', '219.00']
	] as const)
		await desk.giveCard(await desk.address(sum, reference), CARDS.approved);
	await desk.giveCard(await desk.address('55.00', 'TK-NO'), CARDS.declined);
	const transfer = await desk.address('240.00', 'TK-OWN');
	await desk.act(transfer, { way: await desk.way(transfer, 'Credit transfer') });
	const { id } = await payment('TK-1');
	await desk.act(`/takings/payments/${id}?/refund`, { amount: '30.00', key: 'tk-refund-1' });
});
afterAll(() => world.end());

interface Row {
	id: number;
	orderId: number;
	stage: string;
}
const payment = async (reference: string): Promise<Row> =>
	(await rows<Row>(world, 'SELECT id, order_id AS orderId, stage FROM payments WHERE reference = ?', [reference]))[0]!;
interface List {
	lines: { reference: string; stage: string }[];
	sums: { sums: { currency: string; count: string; taken: string; refunded: string; left: string }[] };
	chips: { says: string; without: string }[];
	wrong: Record<string, string>;
}
const list = (query = '') => desk.data<List>(`/takings${query}`);
const says = (answer: { data?: Record<string, unknown> }) => JSON.stringify(answer.data ?? {});

describe('one figure', () => {
	it('is the same in the list’s sums, in its file, in the takings by day and in the proof', async () => {
		const [sum] = (await list()).sums.sums;
		expect(sum).toMatchObject({ currency: 'EUR', taken: '315.50', refunded: '30.00', left: '285.50' });
		const file = await (await desk.get('/takings/csv')).text();
		expect(file.split('\r\n').length).toBe(7);
		const lines = parse(file, { bom: true, columns: true }) as Record<string, string>[];
		const cents = (name: string) => lines.reduce((all, line) => all + Math.round(Number(line[name]) * 100), 0);
		expect([lines.length, cents('captured'), cents('refunded')]).toEqual([5, 31_550, 3_000]);
		const days = await desk.data<{ sums: { count: number; taken: string; back: string; left: string } }>(
			'/takings/days'
		);
		expect(days.sums).toEqual({ count: 3, taken: '315.50', back: '30.00', left: '285.50' });
		for (const by of ['till', 'method', 'connection', 'currency'])
			expect((await desk.data<{ sums: object }>(`/takings/days?by=${by}`)).sums).toEqual(days.sums);
		const day = parse(await (await desk.get('/takings/days/csv')).text(), { bom: true, columns: true }) as Record<
			string,
			string
		>[];
		expect(day.map((line) => [line.till, line.captured, line.left])).toEqual([['Web shop', '315.50', '285.50']]);
		const proof = (await (await desk.get('/takings/proof')).json()) as {
			agrees: boolean;
			working: { end: { text: string } };
		};
		expect([proof.agrees, proof.working.end.text]).toEqual([true, 'Both agree, to the cent.']);
	});
	it('goes by what is filtered, and says what could not be read', async () => {
		const filtered = await list('?least=50&most=100&stage=part+refunded&stage=part+refunded');
		expect(filtered.lines.map((one) => one.reference)).toEqual(['TK-1']);
		expect(filtered.chips.map((one) => one.says)).toEqual(['part refunded', 'from 50', 'up to 100']);
		const wrong = await list('?least=much&from=someday&till=nowhere');
		expect(Object.keys(wrong.wrong).sort()).toEqual(['from', 'least', 'till']);
		expect(wrong.lines).toHaveLength(5);
		expect((await list('?stage=failed')).lines.map((one) => one.reference)).toEqual(['TK-NO']);
		expect((await desk.get('/takings?stage=&q=TK-2&till=')).headers.get('location')).toBe('/takings?q=TK-2');
	});
	it('is kept as a view of one name, which is replaced, removed, and put back', async () => {
		const save = (name: string, query: string) => desk.act('/takings?/save', { name, query });
		expect(says(await save('', '?stage=failed'))).toContain('Give the view a name');
		expect(says(await save('All', ''))).toContain('Filter the list first');
		await save('Declined', '?stage=failed');
		await save('declined', '?stage=failed&till=web-shop');
		const [view] = await rows<{ id: string; query: string }>(world, 'SELECT id, query FROM saved_views');
		expect(view!.query).toBe('?stage=failed&till=web-shop');
		const gone = await desk.act('/takings?/remove', { id: view!.id });
		expect(await rows(world, 'SELECT id FROM saved_views')).toEqual([]);
		const { name, query } = gone.data!.undo as { name: string; query: string };
		await desk.act('/takings?/restore', { name, query });
		expect(await rows(world, 'SELECT name FROM saved_views')).toEqual([{ name: 'declined' }]);
	});
});

describe('an order', () => {
	const act = async (reference: string, form: Record<string, string>) =>
		desk.act(`/takings/payments/${(await payment(reference)).id}?/order`, form);
	it('is released before it is paid, not after, and completed, each taken back in one press', async () => {
		expect(says(await act('TK-2', { state: 'release', on: '1' }))).toContain('is paid');
		expect(says(await act('TK-OWN', { state: 'release', on: '1' }))).toContain('released unpaid');
		expect(says(await act('TK-OWN', { state: 'complete', on: '1' }))).toContain('completed');
		const state = () =>
			rows<{ r: number; c: number }>(
				world,
				`SELECT released_at IS NOT NULL AS r, completed_at IS NOT NULL AS c FROM orders WHERE reference = 'TK-OWN'`
			);
		expect(await state()).toEqual([{ r: 1, c: 1 }]);
		await act('TK-OWN', { state: 'release' });
		await act('TK-OWN', { state: 'complete' });
		expect(await state()).toEqual([{ r: 0, c: 0 }]);
		expect(await payment('TK-OWN')).toMatchObject({ stage: 'requested' });
	});
	it('takes references of an outside program from a file, whole or not at all', async () => {
		const take = (text: string) => desk.act('/takings/references?/take', { text });
		expect(says(await take('reference;outside_reference\nTK-1;BK-1\nNOBODY;BK-2'))).toContain('nothing was changed');
		expect(await rows(world, `SELECT id FROM orders WHERE outside_reference <> ''`)).toEqual([]);
		expect(says(await take('reference\nTK-1'))).toContain('outside_reference');
		expect(says(await take('reference,outside_reference\nTK-1,BK-1\nTK-1,BK-9'))).toContain('nothing was changed');
		expect(says(await take('reference,outside_reference\nTK-1,BK-1\nTK-2,BK-2'))).toContain('2 references were set');
		expect(says(await take('reference,outside_reference\nTK-1,BK-1\nTK-2,BK-3'))).toContain(
			'1 reference was set, 1 stood already'
		);
		expect((await list('?q=BK-3')).lines.map((one) => one.reference)).toEqual(['TK-2']);
	});
});

describe('money on its way', () => {
	it('stands by the day it is expected on, as a list and as a calendar', async () => {
		const { days } = await desk.data<{ days: { sums: string[]; payments: { reference: string }[] }[] }>(
			'/takings/awaited'
		);
		// of what was refunded in part, the rest is waited for
		expect(days.flatMap((day) => day.payments.map((one) => one.reference)).sort()).toEqual(['TK-1', 'TK-2', 'TK-3']);
		// one figure wherever it stands
		expect(days.flatMap((day) => day.sums)).toEqual(['285.50 EUR']);
		const { way } = await desk.data<{ way: object[] }>('/needs-you');
		expect(way).toMatchObject([{ currency: 'EUR', captured: '285.50 EUR' }]);
		const { ahead } = await desk.data<{ ahead: { says: string; figure: string }[] }>('/needs-you');
		expect(ahead.find((one) => /expected at the bank/.test(one.says))).toMatchObject({
			says: expect.stringMatching(/^3 payments are expected/),
			figure: '285.50 EUR'
		});
		const calendar = await (await desk.get('/takings/awaited/calendar')).text();
		expect(calendar).toMatch(/^BEGIN:VCALENDAR\r\n/);
		expect(calendar.match(/BEGIN:VEVENT/g)).toHaveLength(days.length);
	});
});
