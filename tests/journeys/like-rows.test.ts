import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Browser } from '../world/browser.ts';
import { connectAt } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile } from '../world/settlement.ts';
import { CARDS, signIn } from '../world/steps.ts';

// Two rows that say the same, in every list: a page that tells rows apart by their text goes blank where they meet.

let world: World;
let hand: Desk;
let browser: Browser;
let connection: string;
const folder = mkdtempSync(join(tmpdir(), 'purse-like-'));
beforeAll(async () => {
	world = await makeWorld({}, { with: ['brackwater'] });
	hand = new Desk(world);
	({ connection } = await hand.openWebShop());
	await connectAt(hand, 'brackwater');
	browser = await Browser.open();
	await signIn(browser, world);
	await browser.sees('Needs you', 'h1');
});
afterAll(async () => {
	await browser?.close();
	await world?.end();
	rmSync(folder, { recursive: true, force: true });
});

/** Opens a page and sees a text on it so many times; nothing on it may have gone wrong. */
async function seesTwice(path: string, text: string | RegExp, times = 2): Promise<void> {
	await browser.go(`${world.app.address}${path}`);
	await until(`${String(text)} stands ${times} times at ${path}`, async () => {
		const body = await browser.text('body');
		return body.split(text).length - 1 >= times;
	});
	expect(await browser.complaints()).toEqual([]);
	// it goes on: the page hears keys, and its heading stands
	expect((await browser.text('h1')).length).toBeGreaterThan(0);
}
const withDatabase = async (act: (db: Awaited<ReturnType<typeof openDatabase>>) => Promise<void>) => {
	const db = await openDatabase(world);
	await act(db);
	await db.close();
};

describe('two rows that say the same', () => {
	it('stand in what has changed at a connection', async () => {
		await withDatabase(async (db) => {
			for (const at of [1, 2])
				await db.run('INSERT INTO ability_changes (connection_id, at, says) VALUES (?, ?, ?)', [
					connection,
					at,
					'Card: no longer in GBP.'
				]);
		});
		await seesTwice(`/connect/connections/${connection}`, 'Card: no longer in GBP.');
		await withDatabase((db) => db.run('UPDATE ability_changes SET seen_at = 3'));
	});
	it('stand in the trail, of acts of the same moment', async () => {
		await withDatabase(async (db) => {
			for (let n = 0; n < 2; n++)
				await db.run(
					`INSERT INTO audit (at, user_name, object_kind, object_id, object_name, act, before, after)
					 SELECT 5000000000000, 'Ilse Verhaeren', 'till', 'x', 'Web shop', 'renamed twice over', before, after FROM audit LIMIT 1`
				);
		});
		// what one person did twice in a row stands in one line, and both are behind it
		await browser.go(`${world.app.address}/watch/trail`);
		await browser.sees('renamed twice over');
		await browser.sees('2 tills', 'summary');
		await browser.press('2 tills', 'summary');
		expect((await browser.sees('Web shop', 'details')).match(/Web shop/g)).toHaveLength(2);
	});
	it('stand among the wrong lines of a settlement file', async () => {
		const at = Date.UTC(2026, 9, 1);
		const text = settlementFile([
			{ id: 'LI-1', at, minor: 1_000, fee: 20 },
			{ id: 'LI-2', at, minor: 1_000, fee: 20 }
		]).replaceAll(',card,EUR,1000,', ',barter,EUR,1000,');
		const path = join(folder, 'wrong.csv');
		writeFileSync(path, text);
		await browser.go(`${world.app.address}/connect/files`);
		await browser.fill('Whose file', 'Fernhall');
		await (await browser.find('input[type=file]')).sendKeys(path);
		await browser.press('Import settlement file');
		await browser.sees(/method is no method[\s\S]*method is no method/);
		expect(await browser.complaints()).toEqual([]);
	});
	it('stand among takings: two payments of one sum, one day and one payer', async () => {
		for (const reference of ['LIKE-1', 'LIKE-2'])
			await hand.giveCard(await hand.address('33.30', reference), CARDS.approved);
		await seesTwice('/takings', /33[.,]30/);
		await seesTwice('/takings?q=LIKE-', /33[.,]30/);
	});
	it('stand in what happened to one payment: two refunds of one sum, and what is still open', async () => {
		await hand.giveCard(await hand.address('50.00', 'LIKE-3'), CARDS.approved);
		const [row] = await rows<{ id: number }>(world, `SELECT id FROM payments WHERE reference = 'LIKE-3'`);
		for (const key of ['like-refund-1', 'like-refund-2'])
			await hand.act(`/takings/payments/${row!.id}?/refund`, { amount: '10.00', key });
		await seesTwice(`/takings/payments/${row!.id}`, /10[.,]00/);
		await withDatabase(async (db) => {
			for (const key of ['like-open-1', 'like-open-2'])
				await db.run(
					`INSERT INTO actions (key, payment_id, act, content, minor, state, says, next_at, tries, created_at)
					 VALUES (?, ?, 'refund', ?, 500, 'stuck', 'No answer.', 9000000000000, 20, 1)`,
					[key, row!.id, key]
				);
		});
		await seesTwice(`/takings/payments/${row!.id}`, 'No answer.');
		await seesTwice('/needs-you', 'The outcome of a refund for LIKE-3 could not be learned');
		await withDatabase((db) => db.run(`DELETE FROM actions WHERE state = 'stuck'`));
	});
	it('stand in what disconnecting would hurt: two offers of one name', async () => {
		const { revision: first } = await hand.data<{ revision: number }>('/accept/tills/web-shop');
		for (const [revision, bound] of [
			[String(first), '100.00'],
			[String(first + 1), '200.00']
		] as const) {
			const answer = await hand.act('/accept/tills/web-shop/offers/new?/save', {
				on: 'on',
				boundCurrency: 'EUR',
				countryRule: 'any',
				revision,
				carrier: `connection:${connection}:card`,
				name: 'Card again',
				currencies: ['EUR'],
				minimum: bound,
				schemes: ['corvid'],
				fundings: ['debit'],
				regions: ['domestic']
			});
			if (answer.type !== 'redirect') throw new Error(JSON.stringify(answer));
		}
		await browser.go(`${world.app.address}/connect/connections/${connection}/keys`);
		await browser.press('See what disconnecting would hurt');
		await browser.sees(/“Card again”[\s\S]*“Card again”/);
		expect(await browser.complaints()).toEqual([]);
		await seesTwice('/accept/tills/web-shop', 'Card again');
		await seesTwice('/accept/tills/web-shop/situations', 'Card again', 1);
	});
	it('stand in what files told twice', async () => {
		await withDatabase(async (db) => {
			for (const told of [1_100, 1_200])
				await db.run(
					`INSERT INTO account_clashes (processor, account_id, kind, object, known_currency, known_minor, told_currency, told_minor, source, heard_at)
					 VALUES ('fernhall', 'FH-20417', 'payout', 'PO-LIKE', 'EUR', 1000, 'EUR', ?, 'file 1', 1)`,
					[told]
				);
		});
		await seesTwice('/connect/files', 'payout PO-LIKE');
		await seesTwice('/needs-you', 'payout PO-LIKE twice');
	});
	it('stand among arrivals: two notifications of one topic in one moment', async () => {
		const [one] = await rows<{ event_id: string }>(world, `SELECT event_id FROM arrivals WHERE state = 'done' LIMIT 1`);
		expect(one).toBeTruthy();
		await withDatabase((db) =>
			db.run(
				`INSERT INTO arrivals (connection_id, event_id, received_at, headers, body, checks, state, tries, next_at, topic, says, payment_id, done_at)
				 SELECT connection_id, event_id || '-again', received_at, headers, body, checks, state, tries, next_at, topic, says, payment_id, done_at
				 FROM arrivals WHERE event_id = ?`,
				[one!.event_id]
			)
		);
		await seesTwice('/watch', /payment\.taken|listener\.hello/);
	});
});
