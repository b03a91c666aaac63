import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';

// A business that writes 1.234,50 and 1,35 %: every desk screen does, whatever the browser is set to.

let world: World;
let desk: Desk;
let connection: string;
let offline: string;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	desk = new Desk(world);
	({ connection, offline } = await desk.openWebShop());
	const saved = await desk.act('/connect/business', {
		name: 'Wren & Alder Strings',
		country: 'BE',
		homeCurrency: 'EUR',
		timeZone: 'Europe/Brussels',
		locale: 'nl-BE'
	});
	if (saved.type === 'failure' || saved.type === 'error') throw new Error(JSON.stringify(saved));
	const at = Date.now() - 5 * 86_400_000;
	await desk.upload(
		'/connect/files?/take',
		{ processor: 'fernhall' },
		'file',
		'locale.csv',
		settlementFile(
			Array.from({ length: 1_200 }, (_, n) => ({ id: `LO-${n}`, at: at - n * 60_000, minor: 123_450 + n, fee: 1_684 }))
		)
	);
	await until('the file is merged and priced', async () => {
		const [row] = await rows<{ n: number }>(
			world,
			`SELECT (SELECT COUNT(*) FROM settlement_files WHERE state <> 'taken') + (SELECT COUNT(*) FROM repricings) AS n`
		);
		return row!.n === 0;
	});
	await desk.giveCard(await desk.address('1234,50', 'LO-PAY'), CARDS.approved);
});
afterAll(() => world.end());

const textOf = async (path: string) =>
	(await (await desk.get(path, { 'accept-language': 'en-US,en' })).text())
		.replace(/<(script|style)[\s\S]*?<\/\1>/g, ' ')
		.replace(/<[^>]+>/g, ' ')
		.replace(/&nbsp;|\u00a0/g, ' ')
		.replace(/\s+/g, ' ');
/** Sums and percentages that are written the other way. */
const POINTS = /\d[.]\d{2} (EUR|GBP)|\d[.]\d+ %/g;

describe('sums, shares and days', () => {
	it('are typed and shown as the business writes them', async () => {
		const [payment] = await rows<{ id: number; minor: number }>(
			world,
			`SELECT id, minor FROM payments WHERE reference = 'LO-PAY'`
		);
		expect(payment!.minor).toBe(123_450);
		expect(await textOf('/takings')).toContain('1.234,50');
		const page = await textOf(`/takings/payments/${payment!.id}`);
		expect(page).toContain('1.234,50 EUR');
		const refund = await desk.act(`/takings/payments/${payment!.id}?/refund`, {
			amount: '1.000,50',
			key: 'locale-key-1'
		});
		expect(refund.type).toBe('success');
		expect(await rows(world, 'SELECT refunded FROM payments WHERE id = ?', [payment!.id])).toEqual([
			{ refunded: 100_050 }
		]);
	});
	it('stand so in rate cards: lines, boxes of the editor, workings', async () => {
		expect(await textOf(`/connect/connections/${connection}`)).toMatch(/1,35 %/);
		const { card } = await desk.data<{ card: { lines: { percentage: number }[] } }>(
			`/connect/connections/${connection}/rates`
		);
		expect(card.lines.length).toBeGreaterThan(2);
		const html = await (await desk.get(`/connect/connections/${connection}/rates`)).text();
		expect(html).toMatch(/value="1,35"/);
		expect(html).not.toMatch(/value="1\.35"/);
		const [payment] = await rows<{ id: number }>(world, `SELECT id FROM payments WHERE reference = 'LO-PAY'`);
		const detail = JSON.stringify(await desk.data(`/takings/payments/${payment!.id}`));
		expect(detail).toMatch(/Percentage 1,35 %/);
		expect(detail).toMatch(/16,66575/);
		expect(detail).not.toMatch(/16\.66575/);
	});
	it('are never written the other way on any screen', async () => {
		const [payment] = await rows<{ id: number }>(world, `SELECT id FROM payments WHERE reference = 'LO-PAY'`);
		const found: string[] = [];
		for (const path of [
			'/needs-you',
			'/takings',
			`/takings/payments/${payment!.id}`,
			'/connect/business',
			`/connect/connections/${connection}`,
			`/connect/connections/${connection}/settings`,
			`/connect/offline/${offline}`,
			'/connect/abilities',
			'/connect/compare',
			'/connect/files',
			'/accept',
			'/accept/tills/web-shop',
			'/accept/tills/web-shop/situations',
			'/accept/tills/web-shop/history',
			'/accept/tills/web-shop/ask?amount=84,50&currency=EUR'
		]) {
			const text = await textOf(path);
			for (const [match] of text.matchAll(POINTS)) found.push(`${path}: ${match}`);
		}
		expect(found).toEqual([]);
	});
	it('count by thousands as the business does', async () => {
		expect(await textOf('/connect/files')).toContain('1.200');
	});
});

describe('a search by a processor’s id', () => {
	it('finds what begins so, at every account, and nothing else', async () => {
		const lines = async (text: string) =>
			JSON.stringify((await desk.data<{ lines: object[] }>(`/takings?q=${encodeURIComponent(text)}`)).lines);
		const many = await lines('LO-119');
		expect(many).toMatch(/LO-119\b/);
		expect(many).toMatch(/LO-1199/);
		expect(many).not.toMatch(/LO-118\b/);
		expect(await lines('LO-77777')).toBe('[]');
		// an id of the processor that took it here
		const [own] = await rows<{ processor_id: string }>(
			world,
			`SELECT processor_id FROM payments WHERE reference = 'LO-PAY'`
		);
		expect(await lines(own!.processor_id)).toContain('LO-PAY');
		expect(await lines(own!.processor_id.slice(0, 9))).toContain('LO-PAY');
	});
});
