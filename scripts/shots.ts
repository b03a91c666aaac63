// Makes the pictures in docs/screenshots from the demo's own business, in a world of its own.
// `npm run shots -- --to FOLDER --only NAME --dark` makes throwaway pictures elsewhere; `--of FOLDER` takes them from the demo
// that runs in that folder, with the five weeks of notifications that only a demo has.
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beginsBefore } from '../demo/billing.ts';
import { prepareDemo } from '../demo/prepare.ts';
import { writeHistory } from '../standins/history/write.ts';
import { Browser } from '../tests/world/browser.ts';
import { NAMES } from '../tests/world/connections.ts';
import { rows } from '../tests/world/database.ts';
import { makeWorld, openWorld, until } from '../tests/world/index.ts';
import { STANDINS } from '../standins/main.ts';
import { buildAddress, CARDS, giveCard, signIn } from '../tests/world/steps.ts';

const argument = (name: string) => {
	const at = process.argv.indexOf(`--${name}`);
	return at < 0 ? undefined : (process.argv[at + 1] ?? '');
};
const folder = argument('to') ?? 'docs/screenshots';
const only = argument('only');
const dark = process.argv.includes('--dark');
mkdirSync(folder, { recursive: true });

const demo = argument('of');
/** The demo that runs, or a world made for the pictures. */
async function worldOf() {
	if (demo)
		return openWorld(
			'http://127.0.0.1:5230',
			join(demo, 'purse'),
			Object.fromEntries(Object.values(STANDINS).map((one) => [one.name, `http://127.0.0.1:${one.port}`]))
		);
	return freshWorld();
}
async function freshWorld() {
	const past = mkdtempSync(join(tmpdir(), 'purse-past-'));
	const settlements = join(past, 'settlements');
	const remembered = join(past, 'remembered');
	writeHistory(settlements, 10_000, remembered);
	const made = await makeWorld(
		{ JUSTPURSE_ROUND_MS: '500', JUSTPURSE_DEMO_BEGINS: String(beginsBefore(remembered)) },
		{ with: [...NAMES, 'mailbox', 'texts'], movesClock: true }
	);
	await prepareDemo(made, remembered, (line) => console.log(`… ${line}`), settlements);
	return made;
}
const world = await worldOf();
const desk = await Browser.open();
const phone = await Browser.open({ width: 390, height: 844 });

async function shoot(browser: Browser, name: string): Promise<void> {
	if (only && !name.includes(only)) return;
	if (dark) await browser.driver.executeScript(`document.documentElement.dataset.theme = 'dark'`);
	await new Promise((next) => setTimeout(next, 400));
	writeFileSync(join(folder, `${name}.png`), await browser.picture());
	console.log(name);
}

try {
	const { address } = world.app;
	const open = (path: string) => desk.go(address + path);
	await signIn(desk, world);
	await desk.sees('Needs you', 'h1');
	await until(
		'the history is taken in',
		async () => (await rows<{ n: number }>(world, 'SELECT COUNT(*) AS n FROM settlement_files'))[0]!.n === 9,
		60_000
	);
	await open('/needs-you');
	await shoot(desk, 'needs-you');
	await open('/connect/compare');
	await desk.sees('What the cost is made of');
	await shoot(desk, 'side-by-side');
	await desk.press('Brackwater Acquiring', '.index a');
	await desk.press('Rate card', 'nav a');
	await desk.sees('What else there is');
	await open('/connect/abilities?method=card');
	await shoot(desk, 'abilities');
	await desk.press('Quillon Direct', '.index a');
	await (await desk.find('nav a[href$="/notifications"]')).click();
	await desk.sees('Needed and subscribed');
	await desk.press('Fernhall', '.index a');
	await desk.sees('Fernhall', 'h1');
	await shoot(desk, 'connection');
	await desk.press('Credit transfer', '.index a');
	await desk.sees('Credit transfer', 'h1');
	await open('/accept');
	await desk.sees('Web shop', 'thead');
	await shoot(desk, 'grid');
	await open('/accept/tills/web-shop/situations');
	await desk.sees('situations with nothing to pay by');
	await shoot(desk, 'situations');
	await open('/accept/tills/web-shop');
	await desk.press('Card', '[data-row]');
	await desk.sees('Carried by');
	await desk.fill('Carried by', 'Tallybridge: card');
	await desk.fill('Offered from', '2.00');
	await desk.sees('classes of payers and amounts asked', '.workings');
	await desk.press('Save offer in the draft');
	await desk.sees('Draft,', '.note');
	await shoot(desk, 'till');
	await open('/accept/tills/web-shop/replay?days=365');
	await until('the replay is done', async () => (await desk.text()).includes('Payers who met nothing'), 90_000).catch(
		async (error: unknown) => {
			console.error(await desk.text());
			throw error;
		}
	);
	await shoot(desk, 'replay');
	await open('/accept/tills/web-shop');
	await desk.press('Throw the draft away');
	await open('/accept/tills/web-shop/ask?amount=12.50&currency=CHF&country=CH');
	await desk.sees('Why nothing', '.workings');

	const tellAddress = async () => {
		for (const [box, text] of [
			['Name', 'Ana Müller'],
			['Street and number', 'Bowstraat 12'],
			['Postcode', '9000'],
			['City', 'Gent']
		] as const)
			await phone.fill(box, text);
	};
	const pay = async (number: string, order: Parameters<typeof buildAddress>[2]) => {
		await phone.go(await buildAddress(desk, world, order));
		await tellAddress();
		await giveCard(phone, number);
	};
	await phone.go(await buildAddress(desk, world, { amount: '84.50', reference: 'WA-20417' }));
	await until('the card fields', async () => (await phone.driver.findElements({ css: 'iframe' })).length > 0);
	await shoot(phone, 'payer');
	await tellAddress();
	await giveCard(phone, CARDS.approved);
	await phone.sees('Paid, thank you');
	for (const [number, amount, currency, reference, name] of [
		[CARDS.declined, '31.00', 'EUR', 'WA-20419', 'Bram Peeters'],
		[CARDS.regional, '129.00', 'EUR', 'WA-20420', 'Lotte de Wit'],
		['9931300000000009', '46.20', 'GBP', 'WA-20421', 'Moira Kerr'],
		['9901400000000003', '12800', 'JPY', 'WA-20422', 'Hana Sato']
	] as const) {
		await pay(number, {
			amount,
			currency,
			reference,
			name,
			mail: 'payer@payer.example',
			purpose: 'Rosin and a case'
		});
		await phone.sees(number === CARDS.declined ? 'declined' : 'Paid, thank you');
	}
	await world.control('night', { mode: 'live', step: 'settle' });
	await open('/takings');
	await until('settled', async () => (await desk.text()).includes('settled'));
	await shoot(desk, 'takings');
	await desk.press('WA-20417', '[data-row]');
	await desk.sees('What happened');
	await desk.press('Refund…');
	await desk.fill('Refund, in EUR', '30.00');
	await desk.press('Refund through Fernhall');
	await desk.sees('30,00 EUR refunded');
	await until('told by a notification too', async () => (await desk.text()).includes('Notifications:'));
	await shoot(desk, 'payment');
	await open('/bill');
	await desk.sees('is owed', '[data-verdict]');
	await shoot(desk, 'owed');
	const [part] = await rows<{ id: number; token: string }>(
		world,
		`SELECT id, token FROM invoices WHERE state = 'part paid' ORDER BY id DESC LIMIT 1`
	);
	await open(`/bill/invoices/${part!.id}`);
	await desk.sees('Paid, and on its way');
	await shoot(desk, 'invoice');
	await open('/bill/links');
	await desk.press('Workshop: care of your bow', '[data-row]');
	await desk.sees('places are left');
	await shoot(desk, 'pay-link');
	await phone.go(`${address}/invoice/${part!.token}`);
	await shoot(phone, 'payer-invoice');
	await open('/watch/fees');
	await desk.sees('You paid', '[data-verdict]');
	await shoot(desk, 'fees');
	await open('/watch/discrepancies');
	await desk.press('Charged as international cards', '[data-row]');
	await desk.sees('Agreed is the line');
	await shoot(desk, 'discrepancy');
	await open('/watch/routing');
	await desk.sees('The cheapest arrangement', '[data-verdict]');
	await shoot(desk, 'routing');
	await open('/watch/pulse');
	await desk.sees('Pulse', 'h1');
	await shoot(desk, 'pulse');
	for (const [name, browser] of [
		['desk', desk],
		['phone', phone]
	] as const)
		for (const says of await browser.complaints()) console.error(`${name}: ${says}`);
} finally {
	await Promise.all([desk.close(), phone.close()]);
	if (!demo) await world.end();
	if (world.app.output.includes('"level":50')) console.error(world.app.output);
}
