import { afterAll, beforeAll, expect, it } from 'vitest';
import { Browser, Key } from '../world/browser.ts';
import { makeWorld, SIGN_IN, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

let world: World;
let desk: Browser;
beforeAll(async () => {
	world = await makeWorld();
	desk = await Browser.open();
});
afterAll(async () => {
	await desk?.close();
	await world?.end();
});

/** What has focus, as a person would call it. */
const focused = (): Promise<string> =>
	desk.driver.executeScript(`const one = document.activeElement; if (!one || one === document.body) return '';
		if (one.getAttribute('aria-label')) return one.getAttribute('aria-label');
		const label = one.labels && one.labels[0];
		if (label) return (label.querySelector('.legend, .sub, span')?.textContent.trim() || label.textContent).trim();
		return (one.title && one.tagName === 'IFRAME' ? one.title : one.textContent).trim().replace(/\\s+/g, ' ');`);

/** Presses Tab until something is reached, and sees that focus is visible there. */
async function reach(name: string | RegExp): Promise<void> {
	const seen: string[] = [];
	for (let i = 0; i < 90; i++) {
		await desk.keys(Key.TAB);
		const now = await focused();
		seen.push(now);
		if (typeof name === 'string' ? now === name : name.test(now)) return;
	}
	throw new Error(`Tab never came to ${String(name)}; it came to: ${[...new Set(seen)].join(' | ')}`);
}
const type = async (label: string | RegExp, text: string) => {
	await reach(label);
	await desk.chord(Key.CONTROL, 'a');
	await desk.keys(text);
};
const press = async (name: string | RegExp) => {
	await reach(name);
	await desk.keys(Key.ENTER);
};
/** Ctrl K, a text, and Enter once the wanted kind of thing stands first. */
const findAndGo = async (text: string, kind: string) => {
	await desk.find('html[data-ready]');
	await desk.chord(Key.CONTROL, 'k');
	await until('the box has focus', async () =>
		desk.driver.executeScript<boolean>(
			`return !!document.activeElement.closest('[role=dialog]') && document.activeElement.tagName === 'INPUT'`
		)
	);
	await desk.keys(text);
	await until(`${kind} ${text} stands first`, async () =>
		new RegExp(`${kind}\\s+${text}`).test((await desk.text('[role=dialog] [data-selected]')).replace(/\n/g, ' '))
	);
	await desk.keys(Key.ENTER);
	await until('the dialog closed', async () => (await desk.driver.findElements({ css: '[role=dialog]' })).length === 0);
};

it('does the whole first day by keyboard alone', { timeout: 240_000 }, async () => {
	await desk.go(`${world.app.address}/`);
	await type('Mail address', SIGN_IN.mail);
	await type('Password', SIGN_IN.password);
	await desk.keys(Key.ENTER);
	await desk.sees('First, the business');
	await type('Name of the business', 'Wren & Alder Strings');
	await reach('Country');
	await desk.keys('Belgium');
	await reach('Home currency');
	await desk.keys('EUR');
	await reach('Time zone');
	await desk.keys('Europe/Brussels');
	await press('Keep these details');
	await desk.sees('To the first payment');

	// connect
	const keys = await world.keys();
	await desk.keys('g', 'c');
	await desk.sees('Business details', 'h1');
	await findAndGo('Connect Fern', 'Do');
	await desk.sees('Connect Fernhall', 'h1');
	await type('Public key', keys.publicKey);
	await type('Secret key', keys.secretKey);
	await press('Connect Fernhall');
	await desk.sees('Connected and verified.');
	await press('Rate card');
	await press('Confirm this rate card');
	await desk.sees('Confirmed as agreed by');

	// offline method
	await press(/^\+ Add an offline method/);
	await desk.sees('Add an offline method', 'h1');
	await type('IBAN', 'BE68 5390 0754 7034');
	await press('Add Credit transfer');
	await desk.sees('Added.');

	// till
	await desk.keys('g', 'a');
	await desk.sees('All tills', 'h1');
	await press('Set up a till');
	await desk.sees('Set up a till', 'h1');
	await type('Name', 'Web shop');
	await reach('GBP');
	await desk.keys(' ');
	await press('Set up till');
	await desk.sees('No offers yet.');
	for (const name of ['Card', 'Credit transfer']) {
		await press('Add an offer');
		await desk.sees('New offer', 'h1');
		await reach('Carried by');
		await desk.keys(name === 'Card' ? 'Fernhall: card' : name);
		await press('Add offer to the draft');
		await desk.sees(`${name} is new.`, '.note');
	}
	await reach('Credit transfer');
	await desk.chord(Key.ALT, Key.ARROW_UP);
	await until('moved up', async () => /1\nCredit transfer/.test(await desk.text('ol')));
	await until('focus stays on it', async () => (await focused()) === 'Credit transfer');
	// quick keys, the later ones while the first move is still being stored: focus never leaves the offer
	for (const key of [Key.ARROW_DOWN, Key.ARROW_UP, Key.ARROW_DOWN, Key.ARROW_UP]) {
		await desk.chord(Key.ALT, key);
		expect(await focused()).toBe('Credit transfer');
	}
	await until('where it was', async () => /1\nCredit transfer/.test(await desk.text('ol')));
	await desk.chord(Key.ALT, Key.ARROW_DOWN);
	await until('moved down', async () => /1\nCard/.test(await desk.text('ol')));
	await type('Why (kept in the history)', 'First line-up');
	await desk.keys(Key.ENTER);
	await desk.sees('is in force');

	// as a payer
	await desk.driver.executeScript('document.activeElement.blur()');
	await desk.keys('p');
	await desk.sees('What a payer would see', 'h1');
	await type('Amount', '84.50');
	await desk.keys(Key.ENTER);
	await desk.sees('Offered at 84.50 EUR: 2 of 2');
	await press('Back to the line-up');
	await desk.sees('Web shop', 'h1');
	await press('Build an address');
	await desk.sees('Build an address', 'h1');
	await type('Amount', '84.50');
	await type('Reference', 'WA-20417');
	await press('Build address');
	await desk.go(await desk.text('#built'));
	await reach(/^Card fields/);
	await desk.keys(CARDS.approved, Key.TAB, '0929', Key.TAB, '123', Key.ENTER);
	await desk.sees('Paid, thank you');

	// back at the desk, everything by Ctrl K
	await desk.go(`${world.app.address}/needs-you`);
	await findAndGo('Web shop', 'Till');
	await desk.sees('Web shop', 'h1');
	await findAndGo('Fernhall', 'Connection');
	await desk.sees('Fernhall', 'h1');
	await findAndGo('WA-20417', 'Payment');
	await desk.sees('What happened');
	await press('1.32 EUR');
	await desk.sees('1.32075, rounded once', '.workings');
	await press('Refund…');
	await type('Refund, in EUR', '30.00');
	await desk.keys(Key.ENTER);
	await desk.sees('30.00 EUR refunded');

	// the transfer
	await desk.go(`${world.app.address}/accept/tills/web-shop/address`);
	await type('Amount', '240.00');
	await type('Reference', 'WA-20418');
	await press('Build address');
	await desk.go(await desk.text('#built'));
	await press('Choose Credit transfer');
	await press(/^Show me how to transfer/);
	await desk.sees('Account holder');
	await desk.go(`${world.app.address}/takings`);
	await desk.keys('j', Key.ENTER);
	await desk.sees('WA-20418', 'h1');
	await press('Record what was received…');
	await type('Amount, in EUR', '240.00');
	await desk.keys(Key.ENTER);
	await desk.sees('The order is paid in full.');

	// the rest of the keys
	await desk.driver.executeScript('document.activeElement.blur()');
	await desk.keys('w');
	await until(
		'the workings folded',
		async () => (await desk.driver.findElements({ css: '.desk.folded' })).length === 1
	);
	await desk.keys('w', '/');
	await until('the filter', async () => (await focused()) === 'Filter takings');
	await desk.driver.executeScript('document.activeElement.blur()');
	await desk.keys('?');
	await desk.sees('Fold or unfold the workings');
	await desk.keys(Key.ESCAPE);
	expect(await desk.complaints()).toEqual([]);
});
