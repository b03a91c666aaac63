import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { Browser } from '../world/browser.ts';
import { ACCOUNTS, connectAt, idOf, prepare } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS, giveCard, signIn } from '../world/steps.ts';

// Money that is held first, and money that comes back: what an administrator sees and does, from the order to the end.

let world: World;
let hand: Desk;
let desk: Browser;
let payer: Browser;
const ids: Record<string, string> = {};
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall', 'brackwater', 'quillon'] });
	hand = new Desk(world);
	await hand.openWebShop();
	for (const name of ['brackwater', 'quillon']) {
		await prepare(hand, name);
		ids[name] = idOf(await connectAt(hand, name));
	}
	const [row] = await rows<{ hook_key: string }>(world, `SELECT hook_key FROM connections WHERE id = '${ids.quillon}'`);
	await world.at('quillon', 'listener', {
		id: 'by-hand',
		account: ACCOUNTS.quillon,
		mode: 'live',
		address: `${world.app.address}/hooks/${row!.hook_key}`,
		topics: ['mandate_signed', 'money_collected', 'mandate_refused', 'money_certain', 'debit_bounced'],
		secret: ''
	});
	await hand.act('/accept/tills/new', { name: 'Bench', mode: 'live', currencies: ['EUR'], colour: '#2f4b3c' });
	const offer = { on: 'on', currencies: ['EUR'], boundCurrency: 'EUR', countryRule: 'any' };
	await hand.act('/accept/tills/bench/offers/new?/save', {
		...offer,
		revision: '0',
		carrier: `connection:${ids.brackwater}:card`,
		name: 'Card',
		schemes: ['corvid', 'mainsail', 'tessel'],
		fundings: ['debit', 'credit', 'prepaid', 'commercial'],
		regions: ['domestic', 'regional', 'international']
	});
	await hand.act('/accept/tills/bench/offers/new?/save', {
		...offer,
		revision: '1',
		carrier: `connection:${ids.quillon}:bank-debit`,
		name: 'Bank debit'
	});
	await hand.act('/accept/tills/bench?/publish', { revision: '2', reason: 'for the journey' });
	await hand.act(`/connect/connections/${ids.brackwater}/settings?/money`, { capture: 'later' });
	desk = await Browser.open();
	payer = await Browser.open({ width: 390, height: 844 });
	await signIn(desk, world);
	await desk.sees('Needs you', 'h1');
}, 120_000);
afterAll(async () => {
	await desk?.close();
	await payer?.close();
	await world?.end();
});
afterEach(async () => {
	expect(await desk.complaints()).toEqual([]);
	expect(await payer.complaints()).toEqual([]);
});

const addressOf = async (amount: string, reference: string) =>
	String(
		(
			await hand.act('/accept/tills/bench/address', {
				amount,
				currency: 'EUR',
				reference,
				name: 'Ana Müller',
				mail: 'ana@payer.example'
			})
		).data!.address
	);
const paymentOf = async (reference: string) =>
	(
		await rows<{ id: number; stage: string; taken: number; refunded: number; processor_id: string }>(
			world,
			'SELECT id, stage, taken, refunded, processor_id FROM payments WHERE reference = ? ORDER BY id DESC',
			[reference]
		)
	)[0];
const reaches = (reference: string, stage: string) =>
	until(`${reference} is ${stage}`, async () => {
		const row = await paymentOf(reference);
		return row?.stage === stage ? row : undefined;
	});

describe('money that is held first', () => {
	it(
		'is captured in part before its last day, and the rest of that refunded, by hand',
		{ timeout: 180_000 },
		async () => {
			await payer.go(await addressOf('120.00', 'HELD-1'));
			await giveCard(payer, CARDS.approved);
			await payer.sees('Agreed, thank you');
			await reaches('HELD-1', 'authorised');
			// found by its reference, as the payer would tell it
			await desk.go(`${world.app.address}/takings`);
			await desk.fill('Search payments', 'HELD-1');
			await desk.press('Search payments', 'button');
			// it stands there before too: a link that is pressed while the search is on its way leads nowhere
			await until('the search is answered', async () => (await desk.driver.getCurrentUrl()).includes('HELD-1'));
			await desk.press('HELD-1', 'tbody a');
			await desk.sees('is held and not captured yet');
			await desk.sees(/Capture it by \d/);
			await desk.fill('Capture, in EUR', '80.00');
			await desk.press('Capture through Brackwater Acquiring', 'button');
			await desk.sees('80.00 EUR captured');
			await reaches('HELD-1', 'captured');
			await desk.press('Refund…', 'button');
			await desk.fill('Refund, in EUR', '80.00');
			await desk.press('Refund through Brackwater Acquiring', 'button');
			const back = await reaches('HELD-1', 'refunded');
			expect([back.taken, back.refunded]).toEqual([8_000, 8_000]);
			await desk.sees('refunded', '.strip + *, main');
			// nothing is left to give back, and the page says so
			await desk.seesNot('Refund…');
		}
	);
});

describe('a bank debit', () => {
	it('is expected on a day, collected, and comes back: what it paid is open again', { timeout: 180_000 }, async () => {
		const address = await addressOf('64.00', 'DEBIT-1');
		const chosen = await hand.act(address, { way: await hand.way(address, 'Bank debit') });
		await fetch(chosen.location!, {
			method: 'POST',
			body: new URLSearchParams({ act: 'approve', iban: 'BE68539007547034', holder: 'Ana Müller', name: 'Ana Müller' }),
			redirect: 'manual'
		});
		const pending = await reaches('DEBIT-1', 'pending');
		await desk.go(`${world.app.address}/takings/awaited`);
		await desk.sees('DEBIT-1', 'main');
		await desk.press('DEBIT-1', 'main a');
		await desk.sees('pending', 'main');
		await world.at('quillon', `act/${pending.processor_id}`, { act: 'submit' });
		await reaches('DEBIT-1', 'captured');
		await desk.sees('captured', 'main');
		await world.at('quillon', `act/${pending.processor_id}`, { act: 'bounce' });
		await reaches('DEBIT-1', 'returned');
		// the page that is open tells it by itself
		await desk.sees('returned', 'main');
		const [order] = await rows<{ paid: number; minor: number }>(
			world,
			`SELECT paid, minor FROM orders WHERE reference = 'DEBIT-1'`
		);
		expect(order).toEqual({ paid: 0, minor: 6_400 });
		// and the payer may pay it another way
		await payer.go(address);
		await payer.sees('Pay by card');
	});
});
