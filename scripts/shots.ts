// Makes the pictures in docs/screenshots from a fresh demo, driven by the same steps as the journeys.
// `npm run shots -- --to FOLDER --only NAME --dark` makes throwaway pictures elsewhere.
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Browser } from '../tests/world/browser.ts';
import { history } from '../standins/history/index.ts';
import { connectAt, NAMES, prepare } from '../tests/world/connections.ts';
import { rows } from '../tests/world/database.ts';
import { Desk } from '../tests/world/desk.ts';
import { makeWorld, until } from '../tests/world/index.ts';
import {
	addTransfer,
	buildAddress,
	CARDS,
	connectFernhall,
	giveCard,
	publish,
	setUpBusiness,
	setUpWebShop,
	signIn
} from '../tests/world/steps.ts';

const argument = (name: string) => {
	const at = process.argv.indexOf(`--${name}`);
	return at < 0 ? undefined : (process.argv[at + 1] ?? '');
};
const folder = argument('to') ?? 'docs/screenshots';
const only = argument('only');
const dark = process.argv.includes('--dark');
/** looked at while working, and not kept */
const EXTRA = ['set-up', 'trail', 'needs-you-later', 'record', 'address', 'payer-refused', 'find'];
mkdirSync(folder, { recursive: true });

const world = await makeWorld({ JUSTPURSE_ROUND_MS: '500' }, { with: NAMES });
const desk = await Browser.open();
const phone = await Browser.open({ width: 390, height: 844 });

async function shoot(browser: Browser, name: string): Promise<void> {
	if (only ? !name.includes(only) : !argument('to') && EXTRA.includes(name)) return;
	if (dark) await browser.driver.executeScript(`document.documentElement.dataset.theme = 'dark'`);
	await new Promise((next) => setTimeout(next, 350));
	writeFileSync(join(folder, `${name}.png`), await browser.picture());
	console.log(name);
}

try {
	const { address } = world.app;
	await signIn(desk, world);
	await desk.sees('First, the business');
	await shoot(desk, 'set-up');
	await setUpBusiness(desk);
	await shoot(desk, 'needs-you');
	await desk.go(`${address}/connect/processors/fernhall`);
	const { secretKey } = await world.keys();
	await desk.fill('Public key', secretKey);
	await desk.fill('Secret key', secretKey.slice(0, -5));
	await desk.press('Connect Fernhall', 'button');
	await desk.sees('cut short');
	await (await desk.box('Secret key')).click();
	await shoot(desk, 'connect-keys');
	await connectFernhall(desk, world);
	await until('the test notification', async () => /last heard \d/.test(await desk.text()));
	await shoot(desk, 'connection');
	// the others are connected as quickly as the pages allow
	const hand = new Desk(world);
	await hand.signIn();
	await hand.act('/connect/business', {
		name: 'Wren & Alder Strings',
		country: 'BE',
		homeCurrency: 'EUR',
		timeZone: 'Europe/Brussels',
		legalName: 'Wren & Alder Strings BV',
		legalForm: 'BV',
		taxNumber: 'BE 0123.456.749',
		street: 'Bowstraat 12',
		postcode: '9000',
		city: 'Gent',
		representative: 'Ilse Verhaeren'
	});
	await hand.act('/connect/domains?/add', { domain: 'shop.wrenalder.example', page: '/' });
	for (const name of NAMES.slice(1)) {
		await prepare(hand, name);
		await connectAt(hand, name);
	}
	await desk.go(`${address}/connect/processors`);
	await shoot(desk, 'catalogue');
	const settlements = join(world.app.folder, 'settlements');
	mkdirSync(settlements, { recursive: true });
	for (const [name, text] of history({ until: '2026-11-24', payments: 24_000 }))
		writeFileSync(join(settlements, `${name}.csv`), text);
	await until(
		'the history is taken in',
		async () => (await rows<{ n: number }>(world, 'SELECT COUNT(*) AS n FROM settlement_files'))[0]!.n === 6,
		60_000
	);
	await desk.go(`${address}/connect/compare`);
	await desk.sees('What the cost is made of');
	await shoot(desk, 'side-by-side');
	await desk.driver.executeScript(`document.querySelector('#break-even').scrollIntoView()`);
	await shoot(desk, 'break-even');
	await desk.press('Brackwater Acquiring', '.index a');
	await desk.press('Rate card', 'nav a');
	await desk.sees('Tiers by the month');
	await shoot(desk, 'rate-card');
	await desk.go(`${address}/connect/abilities?method=card`);
	await shoot(desk, 'abilities');
	await desk.press('Quillon Direct', 'th a');
	await (await desk.find('nav a[href$="/notifications"]')).click();
	await desk.sees('Needed and subscribed');
	await shoot(desk, 'notifications');
	await addTransfer(desk, world);
	await shoot(desk, 'offline-method');
	await setUpWebShop(desk, world);
	await publish(desk);
	await desk.press('Credit transfer', '[data-row]');
	await desk.sees('Carried by');
	await desk.fill('Offered from', '25.00');
	await desk.press('Save offer in the draft');
	await desk.sees('Draft, 1 change.');
	await shoot(desk, 'till');
	await desk.press('Throw the draft away');
	await desk.go(`${address}/accept/tills/web-shop/offers/new`);
	await shoot(desk, 'offer');
	await desk.go(`${address}/accept/tills/web-shop/ask?amount=12.50&currency=GBP&country=CH`);
	await shoot(desk, 'ask');
	const first = await buildAddress(desk, world, { amount: '84.50', reference: 'WA-20417' });
	await shoot(desk, 'address');

	await phone.go(first);
	await until('the card fields', async () => (await phone.driver.findElements({ css: 'iframe' })).length > 0);
	await new Promise((next) => setTimeout(next, 500));
	await shoot(phone, 'payer');
	await giveCard(phone, CARDS.commercial);
	await phone.sees('does not take');
	await shoot(phone, 'payer-refused');
	await giveCard(phone, CARDS.approved);
	await phone.sees('Paid, thank you');
	await shoot(phone, 'payer-receipt');
	await phone.go(
		await buildAddress(desk, world, {
			amount: '240.00',
			reference: 'WA-20418',
			name: 'Zoë Okafor',
			mail: 'zoe@payer.example',
			purpose: 'Cello strings, two sets'
		})
	);
	await phone.press('Choose Credit transfer', 'a');
	await phone.press('Show me how to transfer 240.00 EUR', 'button');
	await phone.sees('Account holder');
	await shoot(phone, 'payer-transfer');
	for (const [number, amount, currency, reference, name] of [
		[CARDS.declined, '31.00', 'EUR', 'WA-20419', 'Bram Peeters'],
		[CARDS.regional, '129.00', 'EUR', 'WA-20420', 'Lotte de Wit'],
		['9931300000000009', '46.20', 'GBP', 'WA-20421', 'Moira Kerr'],
		['9901400000000003', '12800', 'JPY', 'WA-20422', 'Hana Sato']
	] as const) {
		await phone.go(
			await buildAddress(desk, world, {
				amount,
				currency,
				reference,
				name,
				mail: 'payer@payer.example',
				purpose: 'Rosin and a case'
			})
		);
		await giveCard(phone, number);
		await phone.sees(number === CARDS.declined ? 'declined' : 'Paid, thank you');
	}
	await world.control('night', { mode: 'live', step: 'settle' });
	await desk.go(`${address}/takings`);
	await until('settled', async () => (await desk.text()).includes('settled'));
	await shoot(desk, 'takings');
	await desk.press('WA-20417', '[data-row]');
	await desk.sees('What happened');
	await desk.press('Refund…');
	await desk.fill('Refund, in EUR', '30.00');
	await desk.press('Refund through Fernhall');
	await desk.sees('30.00 EUR refunded');
	await until('told by a notification too', async () => (await desk.text()).includes('Notifications:'));
	await shoot(desk, 'payment');
	await desk.go(`${address}/takings`);
	await desk.press('WA-20418', '[data-row]');
	await desk.press('Record what was received…');
	await desk.fill('Amount, in EUR', '100.00');
	await shoot(desk, 'record');
	await desk.go(`${address}/watch`);
	await desk.sees('Arrivals');
	await shoot(desk, 'arrivals');
	await desk.go(`${address}/watch/trail`);
	await shoot(desk, 'trail');
	await desk.go(`${address}/needs-you`);
	await shoot(desk, 'needs-you-later');
	await desk.chord('\uE009', 'k');
	await desk.sees('Needs you');
	await desk.keys('WA-2042');
	await until('payments found', async () => (await desk.text('[role=dialog]')).includes('WA-20422'));
	await shoot(desk, 'find');
	for (const [name, browser] of [
		['desk', desk],
		['phone', phone]
	] as const)
		for (const says of await browser.complaints()) console.error(`${name}: ${says}`);
} finally {
	await Promise.all([desk.close(), phone.close()]);
	await world.end();
	if (world.app.output.includes('"level":50')) console.error(world.app.output);
}
