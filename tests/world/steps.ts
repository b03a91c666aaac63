import { Browser, By, Key } from './browser.ts';
export { CARDS } from './cards.ts';
import { SIGN_IN, until, type World } from './index.ts';

/** What an administrator and a payer do, step by step, as journeys and pictures need it. */
export async function signIn(
	browser: Browser,
	{ app }: Pick<World, 'app'>,
	password = SIGN_IN.password
): Promise<void> {
	await browser.go(`${app.address}/`);
	await browser.fill('Mail address', SIGN_IN.mail);
	await browser.fill('Password', password);
	await browser.press('Sign in');
}

export async function setUpBusiness(browser: Browser): Promise<void> {
	await browser.sees('First, the business');
	await browser.fill('Name of the business', 'Wren & Alder Strings');
	await browser.fill('Country', 'Belgium');
	await browser.fill('Home currency', 'EUR');
	await browser.fill('Time zone', 'Europe/Brussels');
	await browser.press('Keep these details');
	await browser.sees('Needs you', 'h1');
}

/** Reads the keys where an administrator does: at Fernhall's own console. */
export async function readKeys(
	browser: Browser,
	{ fernhall }: Pick<World, 'fernhall'>,
	mode = 'live'
): Promise<{ publicKey: string; secretKey: string }> {
	await browser.go(`${fernhall.address}/console`);
	if ((await browser.path()).endsWith('/sign-in')) {
		await (await browser.find('input[name=mail]')).sendKeys('ilse@wrenalder.example');
		await (await browser.find('input[name=password]')).sendKeys('ferns-and-hall', Key.ENTER);
	}
	await browser.sees('Account and keys');
	return {
		publicKey: await browser.text(`#FH-20417-${mode}-public`),
		secretKey: await browser.text(`#FH-20417-${mode}-secret`)
	};
}

export async function giveKeys(browser: Browser, keys: { publicKey: string; secretKey: string }): Promise<void> {
	await browser.fill('Public key', keys.publicKey);
	await browser.fill('Secret key', keys.secretKey);
	await browser.press('Connect Fernhall', 'button');
}

export async function connectFernhall(browser: Browser, world: World): Promise<void> {
	const keys = await readKeys(browser, world);
	await browser.go(`${world.app.address}/connect/processors/fernhall`);
	await giveKeys(browser, keys);
	await browser.sees('Connected and verified.');
}

/** Confirms what a processor says its prices are, so that fees are held against them. */
export async function confirmPrices(browser: Browser, { app }: Pick<World, 'app'>, processor: string): Promise<void> {
	await browser.go(`${app.address}/connect`);
	await browser.press(processor, '.index a');
	await browser.press('Rate card', 'nav a');
	await browser.press('Confirm this rate card', 'button');
	await browser.sees('Confirmed as agreed by Ilse Verhaeren');
}

export async function addTransfer(browser: Browser, { app }: Pick<World, 'app'>): Promise<void> {
	await browser.go(`${app.address}/connect/offline/new`);
	await browser.fill('IBAN', 'BE68 5390 0754 7034');
	await browser.press('Add Credit transfer');
	await browser.sees('Added.');
}

export async function setUpWebShop(browser: Browser, { app }: Pick<World, 'app'>): Promise<void> {
	await browser.go(`${app.address}/accept/tills/new`);
	await browser.fill('Name', 'Web shop');
	for (const code of ['EUR', 'GBP', 'JPY']) await browser.tick(code);
	await browser.press('Set up till');
	await browser.sees('No offers yet.');
	await browser.press('Add an offer');
	await browser.sees('New offer', 'h1');
	await browser.fill('Carried by', 'Fernhall: card');
	await browser.fill('Name for payers', 'Card');
	await browser.fill('What happens next, for the payer', 'Sure at once. We pack tomorrow.');
	await browser.fill('After paying', 'Your strings leave us tomorrow.');
	await browser.tick('Commercial', false);
	await browser.press('Add offer to the draft');
	await browser.sees('new.', '.note');
	await browser.press('Add an offer');
	await browser.sees('New offer', 'h1');
	await browser.fill('Carried by', 'Credit transfer');
	await browser.fill('Name for payers', 'Credit transfer');
	await browser.fill('What happens next, for the payer', 'We hold the order for ten days.');
	await browser.fill('Offered from', '20.00');
	await browser.press('Add offer to the draft');
	await browser.sees('Credit transfer is new.', '.note');
}

export async function publish(browser: Browser, reason = 'First line-up'): Promise<void> {
	await browser.fill('Why (kept in the history)', reason);
	await browser.press('Publish line-up');
	await browser.sees('is in force');
}

export interface Order {
	amount: string;
	currency?: string;
	reference: string;
	purpose?: string;
	name?: string;
	mail?: string;
}

/** Builds a signed address at the till's sheet. */
export async function buildAddress(browser: Browser, { app }: Pick<World, 'app'>, order: Order): Promise<string> {
	await browser.go(`${app.address}/accept/tills/web-shop/address`);
	await browser.fill('Amount', order.amount);
	await browser.fill('Currency', order.currency ?? 'EUR');
	await browser.fill('Reference', order.reference);
	await browser.fill('What for', order.purpose ?? 'Viola strings, one set');
	await browser.fill('Payer’s name', order.name ?? 'Ana Müller');
	await browser.fill('Payer’s mail', order.mail ?? 'ana@payer.example');
	await browser.press('Build address');
	return browser.text('#built');
}

/** Gives a card in the processor's own boxes, and pays. */
export async function giveCard(browser: Browser, number: string): Promise<void> {
	const frame = await browser.find('iframe[title^="Card fields"]');
	await browser.driver.switchTo().frame(frame);
	await until(
		'the card fields are there',
		async () => (await browser.driver.findElements(By.css('#number'))).length > 0
	);
	await (await browser.find('#number')).sendKeys(number);
	await (await browser.find('#expiry')).sendKeys('09/29');
	await (await browser.find('#code')).sendKeys('123');
	await browser.driver.switchTo().defaultContent();
	await browser.press('Pay by card');
}
