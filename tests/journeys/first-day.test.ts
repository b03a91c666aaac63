import { AxeBuilder } from '@axe-core/webdriverjs';
import jsQR from 'jsqr';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { PNG } from 'pngjs';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { Browser } from '../world/browser.ts';
import { rows } from '../world/database.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import {
	addTransfer,
	buildAddress,
	CARDS,
	confirmPrices,
	connectFernhall,
	giveKeys,
	giveCard,
	publish,
	readKeys,
	setUpBusiness,
	setUpWebShop,
	signIn
} from '../world/steps.ts';

let world: World;
let desk: Browser;
let phone: Browser;
beforeAll(async () => {
	world = await makeWorld();
	[desk, phone] = await Promise.all([Browser.open(), Browser.open({ width: 390, height: 844 })]);
});
afterAll(async () => {
	await Promise.all([desk?.close(), phone?.close()]);
	await world?.end();
});
afterEach(async () => {
	expect(await desk.complaints()).toEqual([]);
	expect(await phone.complaints()).toEqual([]);
});

/** What axe finds on a page, by rule and place; the processor's own frame is not ours to mend. */
async function barriers(browser: Browser): Promise<string[]> {
	const { violations } = await new AxeBuilder(browser.driver)
		.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'])
		.exclude('iframe')
		.analyze();
	return violations.flatMap((one) =>
		one.nodes.map((node) => `${one.id}: ${node.target.join(' ')} ${node.failureSummary?.split('\n')[1] ?? ''}`)
	);
}

describe('the first day, by mouse', () => {
	it('signs in, and is asked for the business first', async () => {
		await signIn(desk, world, 'not the password');
		await desk.sees('do not fit together');
		expect(await (await desk.box('Mail address')).getAttribute('value')).toBe('ilse@wrenalder.example');
		await signIn(desk, world);
		await desk.sees('First, the business');
		expect(await barriers(desk)).toEqual([]);
		await setUpBusiness(desk);
		// from nothing, the checklist leads on
		await desk.sees('0 of 5 done');
		await desk.press('Choose a processor', 'a');
		await desk.sees('Catalogue', 'h1');
		await desk.go(`${world.app.address}/needs-you`);
		expect(await barriers(desk)).toEqual([]);
	});
	it('connects Fernhall with keys from its console, after pasting them into the wrong boxes', async () => {
		const keys = await readKeys(desk, world);
		await desk.go(`${world.app.address}/connect/processors/fernhall`);
		await giveKeys(desk, { publicKey: keys.secretKey, secretKey: keys.publicKey });
		await desk.sees('The two are swapped.');
		// what was typed stays
		expect(await (await desk.box('Public key')).getAttribute('value')).toBe(keys.secretKey);
		expect(await barriers(desk)).toEqual([]);
		await connectFernhall(desk, world);
		await desk.sees(`•••• ${keys.secretKey.slice(-4)}`);
		await desk.sees(/last heard \d/);
		expect(await barriers(desk)).toEqual([]);
	});
	it('confirms what Fernhall says its prices are', async () => {
		await confirmPrices(desk, world, 'Fernhall');
		expect(await barriers(desk)).toEqual([]);
	});
	it('adds a credit transfer, whose IBAN is checked as it is typed', async () => {
		await desk.go(`${world.app.address}/connect/offline/new`);
		await desk.fill('IBAN', 'BE69 5390 0754 7034');
		await desk.sees('check digits do not fit');
		await addTransfer(desk, world);
		expect(await barriers(desk)).toEqual([]);
	});
	it('sets up the Web shop with two offers, turns their order, and publishes', async () => {
		await setUpWebShop(desk, world);
		expect(await barriers(desk)).toEqual([]);
		await (await desk.named('[data-row]', 'Credit transfer')).sendKeys('\uE00A', '\uE013');
		await until(
			'the order turned',
			async () => (await desk.text('ol')).indexOf('Credit transfer') < (await desk.text('ol')).indexOf('Card')
		);
		await desk.sees('Credit transfer', '[data-row]');
		await (await desk.named('[data-row]', 'Card')).sendKeys('\uE00A', '\uE013');
		await until('and back', async () => (await desk.text('ol')).startsWith('1\nCard'));
		await publish(desk);
		await desk.sees('version 1, published');
		await desk.go(`${world.app.address}/needs-you`);
		await desk.sees('4 of 5 done');
		await desk.press('Try a payment', 'a');
		await desk.sees('Trial payment', 'h1');
		await desk.go(`${world.app.address}/accept/tills/web-shop`);
	});
	it('asks what a payer would see: offered and withheld, every reason', async () => {
		await desk.press('See it as a payer');
		await desk.fill('Amount', '12.50');
		await desk.fill('Currency', 'EUR');
		await desk.fill('Payer’s country', 'Switzerland');
		await desk.press('Ask the line-up');
		await desk.sees('Offered at 12.50 EUR: 1 of 2', '.workings');
		await desk.sees('Only from 20.00 EUR, set on this offer.', '.workings');
		expect(await barriers(desk)).toEqual([]);
		await desk.press('Change the offer');
		await desk.sees('Credit transfer', 'h1');
	});

	let address: string;
	it('a payer pays: refused for its type, declined, approved', async () => {
		address = await buildAddress(desk, world, { amount: '84.50', reference: 'WA-20417' });
		await phone.go(address);
		expect(await barriers(phone)).toEqual([]);
		await giveCard(phone, CARDS.commercial);
		await phone.sees('does not take this kind of card');
		await phone.sees('Or another way');
		expect((await world.control<unknown[]>('payments')).length).toBe(0);
		await giveCard(phone, CARDS.declined);
		await phone.sees('declined: there was not enough money');
		await giveCard(phone, CARDS.approved);
		await phone.sees('Paid, thank you');
		await phone.sees('WREN ALDER STRINGS');
		expect(await barriers(phone)).toEqual([]);
		await phone.go(address);
		await phone.sees('Paid, thank you');
	});
	it('an altered address is told so', async () => {
		await phone.go(address.replace('84.50', '8.45'));
		await phone.sees('The address was changed after it was made');
		await phone.complaints();
	});
	it('two things that say the same stand on Needs you, each with its own figure', async () => {
		for (const currency of ['EUR', 'GBP']) {
			await phone.go(await buildAddress(desk, world, { amount: '0.10', currency, reference: `EMPTY-${currency}` }));
			await phone.sees('0.10');
		}
		await phone.complaints();
		await desk.go(`${world.app.address}/needs-you`);
		const shown = await desk.sees('together 0.10 GBP', 'tbody');
		expect(shown).toContain('together 0.10 EUR');
		// everything was tried once: the checklist is gone
		expect(await desk.text('main')).not.toContain('To the first payment');
		expect(shown.match(/Payers met an empty checkout at Web shop/g)).toHaveLength(2);
		expect(await desk.complaints()).toEqual([]);
	});
	it('the strip moves on the open screen as Fernhall tells', async () => {
		await desk.go(`${world.app.address}/takings`);
		await desk.press('WA-20417', '[data-row]');
		await desk.sees('What happened');
		const strip = async () => (await desk.driver.findElements({ css: '.sheet .strip .in' })).length;
		expect(await strip()).toBe(2);
		await desk.driver.executeScript('window.here = true');
		await world.control('night', { mode: 'live', step: 'settle' });
		await until('three notches', async () => (await strip()) === 3);
		await world.control('night', { mode: 'live', step: 'pay out' });
		await until(
			'the last notch',
			async () => (await desk.driver.findElements({ css: '.sheet .strip .home' })).length === 1
		);
		expect(await desk.driver.executeScript('return window.here')).toBe(true);
		expect(await barriers(desk)).toEqual([]);
	});
	it('shows how the fee came about, and refunds a part', async () => {
		await desk.press('1.32 EUR');
		await desk.sees('1.32075, rounded once, halves up', '.workings');
		await desk.press('Refund…');
		await desk.fill('Refund, in EUR', '85.00');
		await desk.press('Refund through Fernhall');
		await desk.sees('At most 84.50 EUR is left to refund.');
		await desk.fill('Refund, in EUR', '30,00');
		await desk.press('Refund through Fernhall');
		await desk.sees('30.00 EUR refunded through Fernhall.');
		await desk.sees('Expected after refunds', '.workings');
		const [made] = await world
			.control<{ refunds: { minor: number }[] }[]>('payments')
			.then((all) => all.filter((one) => one.refunds.length));
		expect(made!.refunds[0]!.minor).toBe(3_000);
	});
	it('shows a refund that was made at Fernhall’s console', async () => {
		const id = await desk.path();
		await desk.go(`${world.fernhall.address}/console/payments`);
		const box = await desk.find('input[name=sum]');
		await box.clear();
		await box.sendKeys('10.00');
		await desk.press('Give back');
		await desk.sees('back 10.00 EUR');
		await desk.go(world.app.address + id);
		await desk.sees('40.00 EUR', '.sheet');
	});
	it('a payer transfers: reference, QR, and what came is recorded in parts', async () => {
		await phone.go(await buildAddress(desk, world, { amount: '240.00', reference: 'WA-20418' }));
		await phone.press('Choose Credit transfer', 'a');
		await phone.press('Show me how to transfer 240.00 EUR', 'button');
		const text = await phone.sees('Account holder');
		const reference = /RF\d\d[ A-Z0-9]+/.exec(text)![0].trim();
		expect(await barriers(phone)).toEqual([]);
		// the picture on the payer's screen, read by another library
		const source = await (await phone.find('#transfer-code')).getAttribute('src');
		const png = PNG.sync.read(Buffer.from(source!.split(',')[1]!, 'base64'));
		const code = jsQR(new Uint8ClampedArray(png.data), png.width, png.height)!;
		expect(code.data.split('\n')).toEqual([
			'BCD',
			'002',
			'1',
			'SCT',
			'',
			'Wren & Alder Strings',
			'BE68539007547034',
			'EUR240.00',
			'',
			reference.replace(/ /g, '')
		]);
		await desk.go(`${world.app.address}/takings`);
		await desk.press('WA-20418', '[data-row]');
		await desk.press('Record what was received…');
		await desk.fill('Amount, in EUR', '100.00');
		await desk.fill('Note', 'statement 12');
		await desk.press('Record receipt');
		await desk.sees('140.00 EUR is still missing.');
		expect(await barriers(desk)).toEqual([]);
		await phone.go(await phone.driver.getCurrentUrl());
		await phone.sees('140.00 EUR is still missing');
		await desk.press('Reverse it');
		await desk.sees('The receipt is reversed.');
		await desk.press('Record what was received…');
		await desk.fill('Amount, in EUR', '250.00');
		await desk.press('Record receipt');
		await desk.sees('10.00 EUR more than asked has come.');
	});
	it('an answer lost on its way is asked after while the payer waits', async () => {
		await phone.go(await buildAddress(desk, world, { amount: '70.00', reference: 'WA-20419' }));
		await world.faults({ loseAnswer: true, silent: true });
		await giveCard(phone, CARDS.approved);
		await phone.sees(/whether you were charged|Paid, thank you/);
		await world.faults({ loseAnswer: false, silent: false });
		await phone.sees('Paid, thank you');
		expect((await world.control<{ minor: number }[]>('payments')).filter((one) => one.minor === 7_000)).toHaveLength(1);
	});
	it('keeps the trail of it all', async () => {
		await desk.go(`${world.app.address}/watch/trail`);
		await desk.sees('published version 1');
		expect(await barriers(desk)).toEqual([]);
		await desk.go(`${world.app.address}/watch`);
		await desk.sees('money.settled');
		expect(await barriers(desk)).toEqual([]);
		expect((await rows(world, `SELECT id FROM arrivals WHERE state != 'done'`)).length).toBe(0);
	});
	it('never let a card number, typed in a real browser, come near the application', async () => {
		const files = ['purse.sqlite', 'purse.sqlite-wal']
			.map((name) => readFileSync(join(world.app.folder, name), 'latin1'))
			.join('');
		for (const number of [CARDS.approved, CARDS.declined, CARDS.commercial])
			for (const form of [number, number.replace(/(.{4})(?=.)/g, '$1 ')]) {
				expect(files).not.toContain(form);
				expect(world.app.output).not.toContain(form);
			}
		// the boxes stand in a frame of another origin: no script of the payer's page can read them
		await phone.go(await buildAddress(desk, world, { amount: '12.00', reference: 'WA-20430' }));
		const frame = await phone.find('iframe[title^="Card fields"]');
		expect(new URL((await frame.getAttribute('src'))!).origin).toBe(world.fernhall.address);
		expect(
			await phone.driver.executeScript(
				'try { return arguments[0].contentDocument === null } catch { return true }',
				frame
			)
		).toBe(true);
	});
	it('reads well in the dark too', async () => {
		await desk.go(`${world.app.address}/accept/tills/web-shop`);
		await desk.press('Ilse Verhaeren: theme, keys, sign out', 'button');
		await desk.press('Dark', '[role=menuitemradio]');
		await desk.keys('\uE00C');
		for (const path of [
			'/needs-you',
			'/accept/tills/web-shop',
			'/takings',
			'/connect/processors',
			'/takings/payments/3'
		]) {
			await desk.go(world.app.address + path);
			expect(await desk.driver.executeScript('return document.documentElement.dataset.theme')).toBe('dark');
			expect([path, await barriers(desk)]).toEqual([path, []]);
		}
	});
});
