import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { billing, type Billing } from '../world/billing.ts';
import { Browser, By } from '../world/browser.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS, giveCard, publish, signIn } from '../world/steps.ts';

// What practitioners do in a week: bill, send, be paid, and place what came.

let world: World;
let hand: Desk;
let bill: Billing;
let desk: Browser;
let phone: Browser;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall', 'mailbox', 'texts'] });
	hand = new Desk(world);
	await hand.openWebShop();
	bill = await billing(hand);
	desk = await Browser.open();
	phone = await Browser.open({ width: 390, height: 844 });
	await signIn(desk, world);
	await desk.sees('Needs you', 'h1');
});
afterAll(async () => {
	await desk?.close();
	await phone?.close();
	await world?.end();
});
const open = (path: string) => desk.go(world.app.address + path);
/** Opens the newest mail to somebody at the mailbox, and follows its link. */
async function followMail(browser: Browser, to: string, subject: RegExp): Promise<void> {
	const mail = await bill.mail(to, subject);
	await browser.go(`${world.addressOf('mailbox')}/mail/${mail.id}`);
	await (await browser.find('pre a')).click();
}

describe('an invoice', () => {
	it('goes from the price list to paid, by the link of the mail', { timeout: 180_000 }, async () => {
		await open('/bill/prices/new');
		await desk.fill('Name', 'Amber rosin');
		await desk.fill('Code', 'ROSIN');
		await desk.fill('EUR', '12.10');
		await desk.press('Add to the price list');
		await desk.sees('ROSIN', '.sub');
		await open('/bill/payers/new');
		await desk.fill('Name', 'Lotte de Wit');
		await desk.fill('Mail', 'lotte@payer.example');
		await desk.press('Add payer');
		await desk.sees('Lotte de Wit is added.');
		await desk.press('Write an invoice', 'button');
		await desk.sees('New invoice', 'h1');
		// a code of the price list fills the line in; the sum stands beside it at once
		const what = await desk.find('[data-line="0"] input');
		await what.sendKeys('ROSIN');
		await (await desk.find('[aria-label="Quantity, line 1"]')).click();
		await until(
			'the line is filled in',
			async () => (await (await desk.find('[aria-label="Price, line 1"]')).getAttribute('value')) === '12.10'
		);
		const quantity = await desk.find('[aria-label="Quantity, line 1"]');
		await quantity.clear();
		await quantity.sendKeys('3');
		await desk.sees('36.30 EUR', '[data-total]');
		await desk.find('[data-stored]');
		await desk.press('Approve and send by mail', 'button');
		await desk.sees(/Invoice INV-\d{4}-0001/, 'h1');
		await followMail(phone, 'lotte@payer.example', /Invoice/);
		await phone.sees('36.30');
		await phone.press('Pay 36.30 EUR', 'button');
		await giveCard(phone, CARDS.approved);
		await phone.sees(/thank you/i);
		await until(
			'it is paid',
			async () =>
				(await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM invoices WHERE state = 'paid'`))[0]!.n === 1
		);
		await desk.sees('is paid', '[data-verdict]');
		await open('/bill');
		await desk.sees('Nothing is owed');
	});
});

describe('a quote', () => {
	it('is accepted by its payer, and its deposit is paid', { timeout: 180_000 }, async () => {
		const payer = await bill.payer({ name: 'Bram Peeters', mail: 'bram@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'New bridge', price: '385.00' }], {
			kind: 'quote',
			content: { dues: { kind: 'deposit', deposit: { ppm: 300_000 }, days: 0, rest: 30 } }
		});
		await open(`/bill/invoices/${id}`);
		await desk.find('[data-stored]');
		await desk.press('Send quote by mail', 'button');
		await desk.sees(/Quote Q-/, 'h1');
		await followMail(phone, 'bram@payer.example', /Quote/);
		await phone.press('Accept for 385.00 EUR', 'button');
		await phone.sees(/Invoice INV-/);
		await phone.press('Pay 115.50 EUR', 'button');
		await giveCard(phone, CARDS.approved);
		await phone.sees(/thank you/i);
		const { madeId } = await bill.row(id);
		await until('the deposit is placed', async () => (await bill.row(madeId!)).placed === 11_550);
		await open(`/bill/invoices/${madeId}`);
		await desk.sees('115.50 EUR of 385.00 EUR is paid.');
		await desk.sees('adds up');
	});
});

describe('money that nobody claims', () => {
	it('is placed by its suggestion, and taken back', { timeout: 180_000 }, async () => {
		const payer = await bill.payer({ name: 'Collège Sainte-Cécile', mail: 'compta@cecile-school.example' });
		const id = await bill.invoice(payer, [{ text: 'Setup', price: '640.05' }]);
		await bill.act(id, 'approve');
		await open('/takings/unplaced/new');
		await desk.fill('Amount', '640.05');
		await desk.fill('From', 'College Sainte Cecile');
		await desk.fill('It says', `facture ${(await bill.row(id)).number}`);
		await desk.press('Record money', 'button');
		await desk.sees('640.05 EUR to place', 'h1');
		await desk.sees('exactly what is open');
		await desk.press('Place it so', 'button');
		await desk.sees('640.05 EUR is placed.');
		expect((await bill.row(id)).state).toBe('paid');
		await desk.press('Take back', 'button');
		await desk.sees('The invoice is open again.');
		expect((await bill.row(id)).open).toBe(64_005);
	});
});

describe('a pay link', () => {
	it('is built beside its preview, with a single method, and paid on a phone', { timeout: 180_000 }, async () => {
		await open('/bill/links/new');
		await desk.fill('What is paid for', 'A gift');
		await desk.fill('Sum, in EUR', '25');
		await desk.sees('25.00', '.preview');
		await (await desk.driver.findElements(By.css('details summary')))[1]!.click();
		await desk.tick('Credit transfer');
		await desk.press('Make pay link', 'button');
		await desk.sees('Made.');
		const [{ slug }] = (await rows<{ slug: string }>(world, 'SELECT slug FROM pay_links')) as [{ slug: string }];
		await phone.go(`${world.app.address}/link/${slug}`);
		await phone.fill('Name', 'Ana Müller');
		await phone.fill('Mail address', 'ana@payer.example');
		await phone.press('Go on to pay', 'button');
		await phone.sees('Credit transfer');
		await phone.press('Show me how to transfer 25.00 EUR', 'button');
		await phone.sees('BE68');
		// the instructions come by mail as well, and the money is recorded when it came
		await bill.mail('ana@payer.example', /How to pay/);
		const [{ id }] = (await rows<{ id: number }>(
			world,
			`SELECT id FROM payments WHERE payer_mail = 'ana@payer.example' ORDER BY id DESC LIMIT 1`
		)) as [{ id: number }];
		await hand.act(`/takings/payments/${id}?/receive`, {
			amount: '25.00',
			how: 'credit transfer',
			day: new Intl.DateTimeFormat('en-GB').format(Date.now()),
			note: '',
			key: 'journey-link-1'
		});
		await bill.mail('ana@payer.example', /Received/);
		await open('/bill/links');
		await desk.sees('25.00 EUR');
	});
});

describe('a payer on a phone', () => {
	it('signs in by a code and pays all that is owed', { timeout: 180_000 }, async () => {
		const payer = await bill.payer({ name: 'Noor Claes', mail: 'noor@payer.example' });
		for (const price of ['10.00', '20.00'])
			await bill.act(await bill.invoice(payer, [{ text: 'Lesson', price }]), 'approve');
		await phone.go(`${world.app.address}/owed`);
		await phone.fill('Mail address', 'noor@payer.example');
		await phone.press('Send me a code', 'button');
		await phone.sees('a code is on its way');
		const code = /\d{3} \d{3}/.exec((await bill.mail('noor@payer.example', /code/)).text)![0];
		await phone.fill('Code of six digits', code);
		await phone.press('Go to my payments', 'button');
		await phone.sees('30.00 EUR');
		await phone.press('Pay all of it, 30.00 EUR', 'button');
		await giveCard(phone, CARDS.approved);
		await phone.sees(/thank you/i);
		await until(
			'all of it is placed',
			async () =>
				(await rows<{ open: number }>(world, 'SELECT SUM(open) AS open FROM invoices WHERE payer_id = ?', [payer]))[0]!
					.open === 0
		);
		await phone.go(`${world.app.address}/owed/mine`);
		await phone.sees('You owe nothing just now.');
	});
});

describe('a card that a payer lets the processor keep', () => {
	it('is agreed to once, paid by in one press, seen at the desk, and removed', { timeout: 240_000 }, async () => {
		// the till allows it first
		await open('/accept/tills/web-shop');
		await desk.press('Card', 'main a');
		await desk.tick('The payer may have it stored for the next time');
		await desk.press('Save offer in the draft', 'button');
		await desk.sees('Publish line-up');
		await publish(desk, 'Cards can be kept');
		const payer = await bill.payer({ name: 'Sien Maes', mail: 'sien@payer.example' });
		const owe = async (price: string) => {
			const id = await bill.invoice(payer, [{ text: 'Rehair', price }]);
			await bill.act(id, 'send', { mail: 'on' });
			return id;
		};
		const paid = (id: number) => until('it is paid', async () => (await bill.row(id)).state === 'paid');
		const { view } = await hand.data<{ view: { link: string } }>(`/bill/payers/${payer}`);
		await phone.driver.manage().deleteAllCookies();
		const first = await owe('64.00');
		await phone.go(view.link);
		await phone.press('Pay all of it, 64.00 EUR', 'button');
		await phone.sees('You are signed in as Sien Maes.');
		await phone.tick(
			'Keep this card for my next payments to Wren & Alder Strings. Fernhall keeps it, not the shop, and I can end it at any time.'
		);
		await giveCard(phone, CARDS.approved);
		await phone.sees(/thank you/i);
		await paid(first);
		await bill.mail('sien@payer.example', /Corvid 0007 is kept/);
		const second = await owe('21.40');
		await phone.go(view.link);
		await phone.sees('Corvid 0007', 'main');
		await phone.press('Pay all of it, 21.40 EUR', 'button');
		await phone.sees('Kept at Fernhall, good until 30/09/2029');
		await phone.press('Pay 21.40 EUR with Corvid 0007', 'button');
		await phone.sees(/thank you/i);
		await paid(second);
		await open(`/bill/payers/${payer}`);
		await desk.sees('Corvid 0007, stands first');
		await desk.sees('Web shop', '[aria-label="Stored methods"]');
		await phone.go(view.link);
		await phone.press('Remove', 'button');
		await phone.sees('Corvid 0007 is removed.');
		// the open desk tells it by itself
		await desk.sees('Ended: 1');
	});
});
