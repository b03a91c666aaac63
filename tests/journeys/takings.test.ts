import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import AxeBuilder from '@axe-core/webdriverjs';
import { Browser } from '../world/browser.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS, signIn } from '../world/steps.ts';

// The administrator's day with what was taken: found, recorded at the door, and made possible where nothing was offered.

let world: World;
let hand: Desk;
let desk: Browser;
let phone: Browser;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	hand = new Desk(world);
	await hand.openWebShop();
	for (const [reference, sum] of [
		['JO-1', '84.50'],
		['JO-2', '12.00'],
		['JO-3', '219.00']
	] as const)
		await hand.giveCard(await hand.address(sum, reference), CARDS.approved);
	const byTransfer = await hand.address('312.00', 'JO-DOOR', 'EUR', {
		name: 'Bram Peeters',
		mail: 'bram@payer.example'
	});
	await hand.act(byTransfer, { way: await hand.way(byTransfer, 'Credit transfer') });
	desk = await Browser.open();
	phone = await Browser.open({ width: 390, height: 844 });
	for (const browser of [desk, phone]) {
		await signIn(browser, world);
		await browser.sees('Needs you', 'h1');
	}
});
afterAll(async () => {
	await desk?.close();
	await phone?.close();
	await world?.end();
});
afterEach(async () => {
	expect(await desk.complaints()).toEqual([]);
	expect(await phone.complaints()).toEqual([]);
});
const at = (path: string) => `${world.app.address}${path}`;
const axe = async (browser: Browser) => {
	const { violations } = await new AxeBuilder(browser.driver).exclude('iframe').analyze();
	expect(violations.map((one) => [one.id, one.nodes.map((node) => node.target)])).toEqual([]);
};

describe('takings', () => {
	it('finds a payment by its reference, by its payer and by filters together, and keeps the filter as a view', async () => {
		await desk.go(at('/takings'));
		for (const text of ['JO-3', 'bram']) {
			await desk.fill('Search payments', text);
			await desk.press('Search payments', 'button');
			// all of them stand there before: what was searched for is there once the others are gone
			await until(`only ${text} is shown`, async () => {
				const shown = await desk.text('tbody').catch(() => '');
				return shown.includes(text === 'bram' ? 'JO-DOOR' : 'JO-3') && !shown.includes('JO-1');
			});
		}
		await desk.go(at('/takings?least=50&most=100&stage=captured'));
		expect(await desk.sees('JO-1', 'tbody')).not.toContain('JO-3');
		await desk.press('Keep as a view…');
		await desk.fill('Name of this view', 'Middling');
		await desk.press('Keep this view');
		await desk.sees('Middling', '.index');
		await desk.press('Prove these sums');
		await desk.sees('Proven: payments and sums agree');
		await desk.sees('84.50', 'aside');
		await axe(desk);
	});
	it('records at the doorstep, on a phone, what was paid, in three taps, and takes a mistake back', async () => {
		await phone.go(at('/takings/receive'));
		await phone.press('Bram Peeters', 'a');
		await phone.sees('Bram Peeters', 'h1');
		await phone.press('Cash', 'button');
		await phone.press('Record receipt', 'button');
		await phone.sees('The order is paid in full.');
		const received = () =>
			rows<{ stage: string; taken: number }>(world, `SELECT stage, taken FROM payments WHERE reference = 'JO-DOOR'`);
		expect(await received()).toEqual([{ stage: 'received', taken: 31_200 }]);
		await axe(phone);
		await phone.press('Reverse it', 'button');
		await until('it is taken back', async () => (await received())[0]!.taken === 0);
	});
});

describe('a payer who is offered nothing', () => {
	it('leads by the least change to a draft, and on to a published line-up, with what changes shown before', async () => {
		await desk.go(at('/accept/tills/web-shop/ask?currency=EUR&amount=0.10&country=BE'));
		await desk.sees('Nothing: an empty checkout.');
		await desk.sees('The least change', '#least');
		await desk.sees(/would be offered something|No situation becomes empty/);
		await axe(desk);
		await desk.press('Make it a draft', 'button');
		await desk.sees('The draft offers this payer something now.');
		await desk.press('Look at the draft and publish it', 'a');
		await desk.sees('Web shop', 'h1');
		await desk.press('Publish line-up', 'button');
		await until('it is published', async () => {
			const [row] = await rows<{ n: number }>(
				world,
				`SELECT MAX(number) AS n FROM lineup_versions WHERE state = 'published'`
			);
			return row!.n === 2;
		});
		await desk.go(at('/accept/tills/web-shop/ask?currency=EUR&amount=0.10&country=BE'));
		await desk.sees('The payer sees', 'main');
		expect(await desk.text('main')).not.toContain('an empty checkout');
	});
});
