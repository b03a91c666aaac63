import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { history } from '../../standins/history/index.ts';
import { Browser } from '../world/browser.ts';
import { connectAt, NAMES } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { signIn } from '../world/steps.ts';

let world: World;
let desk: Browser;
const files = history({ until: '2026-11-24', payments: 1_200 });
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: NAMES });
	const hand = new Desk(world);
	await hand.setUp();
	for (const name of ['fernhall', 'brackwater']) await connectAt(hand, name);
	// a mix is priced by the latest rates: what the day's bring comes before any of it is looked at
	await until('the rates of today are there', async () => {
		const day = new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/Brussels' }).format(Date.now());
		return (await rows(world, 'SELECT DISTINCT source FROM exchange_rates WHERE day = ?', [day])).length >= 2;
	});
	desk = await Browser.open();
	await signIn(desk, world);
	await desk.sees('Needs you', 'h1');
});
afterAll(async () => {
	await desk?.close();
	await world?.end();
});
const open = (path: string) => desk.go(world.app.address + path);
const give = async (name: string, processor: string, content: string) => {
	const file = join(world.folder, name);
	writeFileSync(file, content);
	await open('/connect/files');
	await desk.fill('Whose file', processor);
	await (await desk.find('input[type=file]')).sendKeys(file);
	await desk.press('Import settlement file', 'button');
};

it('takes a broken settlement file not at all, and a sound one whole', { timeout: 180_000 }, async () => {
	const sound = files.get('fernhall')!;
	await give('broken.csv', 'Fernhall', sound.replace(/(total,,\d+,,EUR,)\d+/, '$11'));
	await desk.sees('was not imported');
	await desk.sees('The total of EUR');
	await desk.sees('None yet.');
	await give('sound.csv', 'Fernhall', sound);
	await desk.sees('payments are new');
	await give('brackwater.csv', 'Brackwater Acquiring', files.get('brackwater')!);
	await desk.sees('payments are new');
});

it('writes a candidate’s rate card, tries it, and puts it side by side', { timeout: 180_000 }, async () => {
	await open('/connect/candidates/new');
	await desk.fill('Name', 'A quote of May');
	const percentage = await desk.find('input[aria-label^="Percentage of line 1"]');
	await percentage.clear();
	await percentage.sendKeys('two');
	await desk.sees('Line 1, percentage');
	await percentage.clear();
	await percentage.sendKeys('0.82');
	const fixed = await desk.find('input[aria-label^="Fixed of line 1"]');
	await fixed.clear();
	await fixed.sendKeys('0.11');
	await desk.fill('A month', '39.00');
	// 0.82 % of 84.50 is 0.6929, and 0.11
	await desk.sees('0.80 EUR', '[aria-label="Try it"]');
	// in another currency it asks for the rate of the day, and what it adds
	await desk.fill('Currency', 'usd');
	await desk.sees('Type what 1 USD is in EUR', '[aria-label="Try it"]');
	await desk.fill('1 USD in EUR', '0.9213');
	await desk.fill('Another currency, %', '1.75');
	// 84.50 USD is 77.85 EUR: 0.63837 and 1.362375 and 0.11
	await desk.sees('2.11 EUR', '[aria-label="Try it"]');
	// with a cost table, a payment of a card type that it lacks has no price
	await desk.press('Add a row of costs', 'button');
	await desk.fill('Scheme of cost 1', 'corvid');
	await desk.fill('Interchange of cost 1, domestic, percent', '0.2');
	await desk.fill('Scheme fee of cost 1, domestic, percent', '0.03');
	// 0.15570 and 0.023355 more
	await desk.sees('2.29 EUR', '[aria-label="Try it"]');
	await desk.fill('Region', 'regional');
	await desk.sees('cost', '[aria-label="Try it"] .text-clay');
	await desk.fill('Region', 'domestic');
	await desk.fill('Interchange of cost 1, domestic, percent', 'much');
	await desk.sees('Cost table, corvid debit, domestic, interchange');
	await desk.press('✕', '[aria-label="Cost table"] button');
	await desk.fill('Another currency, %', '0');
	await desk.press('Add candidate', 'button');
	await desk.sees('Added.');
	await desk.press('put it side by side', 'a');
	await desk.sees('Side by side', 'h1');
	const shown = await desk.sees('What the cost is made of');
	for (const text of ['A quote of May', 'Fernhall', 'cheapest', 'In all']) expect(shown).toContain(text);
	await desk.driver.executeScript(`document.querySelector('.sides tbody td .why').click()`);
	await desk.sees('Effective rate', '.workings');
});

it('finds the break-even of two, told in words', { timeout: 180_000 }, async () => {
	await desk.fill('From when on is', 'A quote of May');
	await desk.fill('against', 'Fernhall');
	const told = await desk.sees(/payment of a month on, A quote of May is cheaper/);
	expect(told).toMatch(/From the \d+(st|nd|rd|th) payment of a month on/);
	expect(await desk.complaints()).toEqual([]);
});

it(
	'keeps a mix that was set with the sliders in the address, and answers while they move',
	{ timeout: 180_000 },
	async () => {
		const total = async () =>
			String(
				await desk.driver.executeScript(
					`return document.querySelector('[data-by-hand] tbody tr td:nth-child(4)').textContent`
				)
			).trim();
		const sum = async () => Number((await total()).replace(/[^0-9.]/g, ''));
		const before = await total();
		const began = await sum();
		const slide = (label: string, value: number, event: string) =>
			desk.driver.executeScript(
				`const [label, value, event] = arguments;
			const slider = [...document.querySelectorAll('input[type=range]')].find((one) => one.parentElement.textContent.includes(label));
			slider.value = value;
			slider.dispatchEvent(new Event(event, { bubbles: true }));`,
				label,
				value,
				event
			);
		// while it moves nothing is sent: the worker of the page answers
		await slide('Volume a month', 10_000_000, 'input');
		await until('another total', async () => (await sum()) > began * 2);
		expect(await desk.driver.getCurrentUrl()).not.toContain('volume=');
		const moved = await total();
		await slide('Volume a month', 10_000_000, 'change');
		await until('the address', async () => (await desk.driver.getCurrentUrl()).includes('volume=10000000'));
		// sent to a partner, it shows the same
		await desk.go(await desk.driver.getCurrentUrl());
		await until('it shows the same', async () => (await total()) === moved);
		// and the page, asked for what it shows, answers what the server did
		await slide('Volume a month', 5_000_000, 'input');
		await until('another', async () => (await total()) !== moved);
		await slide('Volume a month', 10_000_000, 'input');
		await until('the same again', async () => (await total()) === moved);
		await desk.press('Set it back to the period', 'button');
		await until('as it was', async () => (await total()) === before);
	}
);

it('opens what happened around the payments down to single ones', { timeout: 180_000 }, async () => {
	await open('/connect/compare');
	await desk.sees('Beside the payments');
	await desk.driver.executeScript(`document.querySelectorAll('[data-happened] .why')[2].click()`);
	await desk.sees('not enough money', '.workings');
	await desk.press('Look at them', '.workings a');
	await desk.sees('Declined attempts', 'section.note');
	await desk.sees(/(FE|BR)-D\d+/, 'section.note');
	await desk.press('Close', 'section.note a');
	await until('closed', async () => !(await desk.text('main')).includes('Declined attempts'));
	expect(await desk.complaints()).toEqual([]);
});

it(
	'finds one payment of eighteen months by its id, by its reference, and by what is remembered of it',
	{ timeout: 180_000 },
	async () => {
		// one of the first, which no first page shows
		const [id = '', at = '', , , , minor = '', , , , , , , , , , , , , , reference = ''] = files
			.get('brackwater')!
			.split('\n')
			.find((line) => /,INV-\d{4}-\d+$/.test(line) && line.includes(',captured,'))!
			.split(',');
		const sum = `${minor.slice(0, -2)}.${minor.slice(-2)}`;
		const isAlone = (text: string) =>
			until(`${text} alone is shown`, async () => {
				const shown = await desk.text('tbody').catch(() => '');
				return (
					shown.includes(sum) &&
					(await desk.driver.findElements({ css: 'main tbody a[href^="/takings/payments/"]' })).length === 1
				);
			});
		const opens = async () => {
			await desk.press(reference, 'main tbody a');
			await desk.sees(id, 'main');
			await desk.sees(reference, 'main h1');
			await open('/takings');
			await desk.sees('Older payments');
		};
		await open('/takings');
		expect(await desk.sees('Older payments')).not.toContain(reference);
		for (const text of [id, reference]) {
			await desk.fill('Search payments', text);
			await desk.press('Search payments', 'button');
			await isAlone(text);
			await opens();
		}
		await desk.press('Filter and columns…', 'summary');
		const day = new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/Brussels' }).format(new Date(at));
		await desk.fill('Day from', day);
		await desk.fill('Day to', day);
		await desk.fill('Amount from', sum);
		await desk.fill('Amount to', sum);
		await desk.press('Show these payments');
		await isAlone('what is remembered');
		await opens();
		expect(await desk.complaints()).toEqual([]);
	}
);
