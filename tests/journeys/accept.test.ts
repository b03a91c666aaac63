import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import AxeBuilder from '@axe-core/webdriverjs';
import { connectAt, idOf } from '../world/connections.ts';
import { Browser } from '../world/browser.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS, giveCard, signIn } from '../world/steps.ts';

let world: World;
let desk: Browser;
let payer: Browser;
let hand: Desk;
let fernhall: string;

beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall', 'brackwater'] });
	hand = new Desk(world);
	({ connection: fernhall } = await hand.openWebShop());
	idOf(await connectAt(hand, 'brackwater'));
	await hand.connect(await world.keys('test'), 'test');
	desk = await Browser.open();
	payer = await Browser.open({ width: 390, height: 844 });
	await signIn(desk, world);
	await desk.sees('Needs you', 'h1');
});
afterAll(async () => {
	await desk?.close();
	await payer?.close();
	await world?.end();
});
afterEach(async () => {
	expect(await desk.complaints()).toEqual([]);
	expect(await payer.complaints()).toEqual([]);
});

const at = (path: string) => `${world.app.address}${path}`;
const axe = async () => {
	const { violations } = await new AxeBuilder(desk.driver).analyze();
	expect(violations.map((one) => [one.id, one.nodes.map((node) => node.target)])).toEqual([]);
};
const version = async (slug: string) =>
	(
		await rows<{ n: number }>(
			world,
			`SELECT number AS n FROM lineup_versions WHERE state = 'published' AND till_id = (SELECT id FROM tills WHERE slug = ?)`,
			[slug]
		)
	)[0]?.n;

it('builds a line-up from nothing, finds an empty situation while typing, and mends it', async () => {
	await desk.go(at('/accept/tills/new'));
	await desk.fill('Name', 'Lessons');
	await desk.fill('Kind', 'invoice sheet');
	for (const code of ['EUR', 'GBP']) await desk.tick(code);
	await desk.press('Set up till');
	await desk.sees('No offers yet.');
	await desk.press('Add an offer');
	await desk.sees('New offer', 'h1');
	await desk.fill('Carried by', 'Fernhall: card');
	await desk.fill('Offered from', '30.00');
	// the margin tells every situation as it is typed, before anything is saved
	await desk.sees('EUR, up to 29.99', '.workings');
	await desk.fill('Offered from', '');
	await desk.sees('EUR, up to 0.49', '.workings');
	await desk.fill('Offered from', '30.00');
	await desk.press('Add offer to the draft');
	await desk.sees('Card is new.', '.note');
	await desk.press('Situations', 'nav a');
	await desk.sees('situations with nothing to pay by');
	await desk.sees('EUR, up to 29.99', 'table');
	await axe();
	// straight from the situation to the payer who is in it, and why
	await desk.press('EUR, up to 29.99', 'a');
	await desk.sees('Why nothing at', '.workings');
	await desk.sees('Only from 30.00 EUR', '.workings');
	await desk.press('Change the offer', '.workings a');
	await desk.sees('Carried by');
	await desk.fill('Offered from', '');
	await desk.press('Save offer in the draft');
	await desk.sees('Card is new.', '.note');
	await desk.fill('Why (kept in the history)', 'Lessons begin');
	await desk.press('Publish line-up');
	await desk.sees('is in force');
	expect(await version('lessons')).toBe(1);
	await desk.go(at('/accept'));
	await desk.sees('Lessons', 'thead');
	await desk.sees('Fernhall', 'tbody');
	await axe();
});

it('replays a draft on past payments, publishes it with a reason, and takes it back', async () => {
	const address = await hand.address('12.00', 'REPLAY-1');
	await payer.go(address);
	await giveCard(payer, CARDS.approved);
	await payer.sees('Paid, thank you');
	await desk.go(at('/accept/tills/web-shop'));
	await desk.press('Card', '[data-row]');
	await desk.sees('Carried by');
	await desk.fill('Offered from', '15.00');
	await desk.press('Save offer in the draft');
	await desk.sees('EUR is no longer taken from 0.50 to 14.99 at Web shop.', '.note');
	await desk.press('Replay', 'nav a');
	await desk.sees('Nothing offered');
	await desk.sees('12.00 EUR', 'tbody');
	await axe();
	await desk.press('Line-up', 'nav a');
	await desk.sees('Draft,', '.note');
	// a situation becomes empty: it is not published without a reason
	expect(await desk.text('.note')).toMatch(/Why nothing in/);
	await (await desk.find('input[name=reason]')).sendKeys('Small sums cost more than they bring');
	await desk.press('Publish line-up');
	await desk.sees('Version 2 is in force');
	await payer.go(await hand.address('12.00', 'REPLAY-2'));
	await payer.sees('There is no way to pay 12.00 EUR here just now.');
	await desk.press('History', 'nav a');
	await desk.sees('Small sums cost more than they bring');
	await desk.press('Go back to version 1', 'button');
	await desk.sees('Version 3 is in force');
	await payer.go(await hand.address('12.00', 'REPLAY-3'));
	await payer.sees('Pay by card');
});

it('pauses a processor everywhere, and the standby carries at the payer’s page', async () => {
	await desk.go(at('/accept/tills/web-shop'));
	await desk.press('Card', '[data-row]');
	await desk.sees('Carried by');
	await desk.fill('Standby', 'Brackwater Acquiring: card');
	await desk.press('Save offer in the draft');
	await desk.sees('standing by', '.note');
	await desk.press('Publish line-up');
	await desk.sees('is in force');
	await desk.go(at('/accept/pauses'));
	await desk.fill('What to pause', 'Fernhall');
	await desk.sees('Card in EUR goes through Brackwater Acquiring, which stands by.');
	await desk.sees('Some payers would meet nothing in');
	await axe();
	await desk.press('Pause Fernhall everywhere', 'button');
	await desk.sees('Paused at every till.');
	const address = await hand.address('84.50', 'PAUSED-1');
	await payer.go(address);
	await payer.sees('These boxes belong to Brackwater Acquiring');
	await desk.press('Resume Fernhall', 'button');
	await desk.sees('Nothing is paused.');
	await payer.go(address);
	await payer.sees('These boxes belong to Fernhall');
	expect(await rows(world, `SELECT value FROM pauses WHERE ended_at IS NOT NULL`)).toEqual([{ value: fernhall }]);
});

it('tries a payment end to end in test mode, and says at the till what was tried', async () => {
	await desk.go(at('/accept/tills/web-shop/trial'));
	await desk.fill('Amount', '25.00');
	await desk.press('Begin a trial payment');
	await desk.sees('Open the payer’s page of this trial');
	const card = (await desk.text('#trial-card')).replace(/\s/g, '');
	const link = await (await desk.find('a[href*="trial="][target=_blank]')).getAttribute('href');
	await payer.go(link!);
	await payer.sees('Test: nothing is really charged');
	await giveCard(payer, card);
	await payer.sees('Paid, thank you');
	await desk.sees('Heard of it');
	await axe();
	await desk.press('Line-up', 'nav a');
	await desk.sees('Last tried: version');
	await until(
		'no figure counts it',
		async () => (await rows(world, `SELECT id FROM payments WHERE trial_id IS NOT NULL AND mode = 'test'`)).length === 1
	);
});

it('does all of it by keyboard: finds the pause, the payers and the tokens, and makes a token', async () => {
	await desk.go(at('/needs-you'));
	await desk.find('html[data-ready]');
	const { Key } = await import('../world/browser.ts');
	await desk.chord(Key.CONTROL, 'k');
	await until('the box has focus', async () =>
		desk.driver.executeScript<boolean>(
			`return document.activeElement.tagName === 'INPUT' && !!document.activeElement.closest('[role=dialog]')`
		)
	);
	await desk.keys('tokens');
	await until('it stands first', async () => /API tokens/.test(await desk.text('[role=dialog] [data-selected]')));
	await desk.keys(Key.ENTER);
	await desk.sees('API tokens', 'h1');
	await desk.fill('What it is for', 'Shop');
	await desk.press('Make token');
	expect(await desk.text('#token')).toMatch(/^jpt_/);
	await axe();
});
