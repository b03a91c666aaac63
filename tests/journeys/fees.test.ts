import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Browser } from '../world/browser.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile } from '../world/settlement.ts';
import { signIn } from '../world/steps.ts';
import { shopMonth } from '../world/shopTime.ts';

// From a line on Needs you to the letter, and a change of fees opened down to one kind of payment.

let world: World;
let hand: Desk;
let desk: Browser;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall'] });
	hand = new Desk(world);
	const { connection } = await hand.openWebShop();
	const card = JSON.parse(
		(
			await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract' AND connection_id = ?`, [
				connection
			])
		)[0]!.card
	) as { lines: { when: Record<string, string>; percentage: number; fixed: number }[] };
	const fee = (minor: number, region: string) => {
		const line = card.lines.find((one) => one.when.region === region && Object.keys(one.when).length === 1);
		const { percentage, fixed } = line ?? card.lines.find((one) => !Object.keys(one.when).length)!;
		return Math.floor((minor * percentage + fixed * 1_000_000 + 500_000) / 1_000_000);
	};
	const month = (ago: number) => Date.parse(`${shopMonth(ago)}-10T12:00:00Z`);
	const lines = [1, 2].flatMap((ago) =>
		[8_450, 2_000, 12_345, 6_660].map((minor, n) => ({
			id: `J-${ago}-${n}`,
			at: month(ago) + n * 3_600_000,
			minor,
			// last month cards of neighbours were priced as if they came from far away
			fee: fee(minor, ago === 1 ? 'international' : 'regional'),
			issuer: 'NL',
			scheme: 'mainsail'
		}))
	);
	await hand.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', 'two-months.csv', settlementFile(lines));
	await until(
		'the fee check has found it',
		async () => (await rows(world, 'SELECT 1 FROM discrepancies')).length === 1
	);
	desk = await Browser.open();
	await signIn(desk, world);
	await desk.sees('Needs you', 'h1');
});
afterAll(async () => {
	await desk?.close();
	await world?.end();
});

describe('fees that were charged otherwise than agreed', () => {
	it(
		'lead from Needs you to the payments, the letter, and a case that somebody works on',
		{ timeout: 120_000 },
		async () => {
			await desk.sees('Charged otherwise than agreed. Fernhall: Charged as international cards.');
			await desk.press('See the letter', 'a');
			await desk.sees('Charged as international cards', 'h1');
			await desk.sees('It was all payments of these kinds in these days.');
			await desk.sees('Agreed is the line', 'main');
			await desk.sees('J-1-0', 'tbody');
			const letter = await (await desk.find('a[href$="/letter"]')).getAttribute('href');
			const pdf = await hand.get(new URL(letter!).pathname);
			expect([pdf.status, pdf.headers.get('content-type')]).toEqual([200, 'application/pdf']);
			await desk.fill('Note', 'Sent to their support by mail');
			await desk.press('It was sent to the processor', 'button');
			await desk.sees('It is sent now.');
			await desk.sees('Sent to the processor. Sent to their support by mail', 'ol');
			// nothing to decide is left of it on the first page
			await desk.go(`${world.app.address}/needs-you`);
			await desk.sees('Needs you', 'h1');
			await desk.seesNot('Charged otherwise than agreed');
		}
	);
	it(
		'show in the rate of the month: all of the change is price, opened down to its kind and its payments',
		{ timeout: 120_000 },
		async () => {
			await desk.go(`${world.app.address}/watch/fees`);
			await desk.sees(
				/You paid \d+\.\d\d per 100 in .* more than in .* because Fernhall charged more/,
				'[data-verdict]'
			);
			await desk.press('1 kind of payment behind it', 'summary');
			await desk.sees('Fernhall, Card, Mainsail, debit, NL', 'main');
			const table = await desk.text('[aria-label="The change"]');
			const figure = (name: string) =>
				Math.round(Number(new RegExp(`${name} ([+−]?\\d+\\.\\d\\d)`).exec(table)![1]!.replace('−', '-')) * 100);
			const [before, after] = [...table.matchAll(/20\d\d (\d+\.\d\d)/g)].map((one) => Math.round(Number(one[1]) * 100));
			// as it is displayed, the parts are the change
			expect(figure('Mix') + figure('Price') + figure('Account')).toBe(after! - before!);
			expect(figure('Price')).toBeGreaterThan(0);
			expect(figure('Mix')).toBe(0);
			await desk.press('Fernhall, Card, Mainsail, debit, NL', 'a');
			await desk.sees('J-1-0', 'tbody');
			await desk.sees('J-2-3', 'tbody');
			// and down to one payment, with what was charged and what was agreed
			await desk.press('J-1-2', 'a');
			await desk.sees('J-1-2', 'h1');
			await desk.sees('123.45 EUR', 'main');
			await desk.sees('≠ expected', 'main');
		}
	);
	it('are found by a check of days at will, and not in days before them', { timeout: 120_000 }, async () => {
		await desk.go(`${world.app.address}/watch/discrepancies`);
		await desk.press('Check a period', 'a');
		await desk.sees('Check a period', 'h1');
		await desk.sees('It prices every payment again and changes nothing.');
		const [reach] = await rows<{ last: string; before: string }>(
			world,
			`SELECT MAX(account_day) AS last, MIN(account_day) AS before FROM payments WHERE processor_id LIKE 'J-%'`
		);
		const check = async (from: string, to: string) => {
			await desk.fill('From', from);
			await desk.fill('to', to);
			await desk.press('Check', 'button');
		};
		await check(reach!.last, reach!.last);
		await desk.sees(
			/4 payments were held against the contracts of their days: 4 differ, .* EUR too much/,
			'[data-verdict]'
		);
		await desk.press('Charged as international cards', 'tbody a');
		await desk.sees('Sent to the processor. Sent to their support by mail', 'ol');
		await desk.go(`${world.app.address}/watch/discrepancies/check`);
		await check(reach!.before, reach!.before);
		await desk.sees(
			/4 payments were held against the contracts of their days: every one is as agreed/,
			'[data-verdict]'
		);
	});
});

describe('use of methods', () => {
	it('counts every payment of the till once, and leads to a draft without a method and its replay', async () => {
		const { use } = await hand.data<{
			use: { revision: number; from: string; to: string; rows: { method: string; paid: string; offers: string[] }[] };
		}>('/watch/methods?till=web-shop');
		const [sum] = await rows<{ n: number }>(
			world,
			`SELECT SUM(d.count) AS n FROM day_sums d JOIN tills t ON t.id = d.till_id WHERE t.slug = 'web-shop' AND d.taken > 0
			 AND d.day >= ? AND d.day <= ?`,
			[`${use.from}-01`, `${use.to}-31`]
		);
		expect(use.rows.reduce((all, one) => all + Number(one.paid), 0)).toBe(sum!.n);
		const form = { till: 'web-shop', method: 'card', revision: String(use.revision) };
		const made = await hand.act('/watch/methods?/drop', form);
		expect(made).toMatchObject({ type: 'redirect', location: '/accept/tills/web-shop/replay' });
		const [draft] = await rows<{ offers: string }>(
			world,
			`SELECT v.offers FROM lineup_versions v JOIN tills t ON t.id = v.till_id WHERE t.slug = 'web-shop' AND v.state = 'draft'`
		);
		const offers = JSON.parse(draft!.offers) as { method: string; on: boolean }[];
		expect(offers.filter((one) => one.method === 'card').map((one) => one.on)).toEqual([false]);
		// pressed again from a page that is old by now
		expect((await hand.act('/watch/methods?/drop', form)).type).toBe('failure');
		await hand.act('/accept/tills/web-shop?/discard', { revision: String(use.revision + 1) });
	});
	it(
		'drops a method that nobody uses: replay, publish, and payers are not offered it',
		{ timeout: 120_000 },
		async () => {
			await desk.go(`${world.app.address}/watch/methods?till=web-shop`);
			await desk.sees(/Credit transfer is hardly worth it at Web shop: not used/, '[data-verdict]');
			await desk.press('Draft without it', '[aria-label="Draft without Credit transfer"]');
			await desk.sees('Replay', 'h1');
			await desk.sees('nobody who paid would have met nothing', '[data-verdict]');
			await desk.go(`${world.app.address}/accept/tills/web-shop`);
			// what only a transfer took is told before it is published
			await desk.fill('Why nothing in: EUR, from 25,000.01 up', 'Nobody has paid that much here');
			await desk.press('Publish line-up', 'button');
			await desk.sees('is in force');
			const address = await hand.address('84.50', 'DROPPED-1');
			const page = await (await hand.get(address)).text();
			expect(page).toContain('Card');
			expect(page).not.toContain('Credit transfer');
			await desk.go(`${world.app.address}/watch/methods?till=web-shop`);
			await desk.sees('Every method that Web shop offers is used enough for what it costs.', '[data-verdict]');
		}
	);
});
