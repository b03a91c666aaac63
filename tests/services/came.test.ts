import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { STANDINS } from '../../standins/main.ts';
import { billing, type Billing } from '../world/billing.ts';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { ConsoleHand } from '../world/console.ts';

// Transfers that come to an account at a processor and that nobody asked for here: placed by what their payer wrote, or by hand.

let world: World;
let desk: Desk;
let bill: Billing;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall', 'quillon', 'mailbox', 'texts'] });
	desk = new Desk(world);
	await desk.openWebShop();
	await prepare(desk, 'quillon');
	const connection = idOf(await connectAt(desk, 'quillon'));
	const [{ key }] = (await rows<{ key: string }>(world, 'SELECT hook_key AS key FROM connections WHERE id = ?', [
		connection
	])) as [{ key: string }];
	await world.at('quillon', 'listener', {
		id: 'by-hand',
		account: STANDINS.quillon!.account,
		mode: 'live',
		address: `${world.app.address}/hooks/${key}`,
		topics: STANDINS.quillon!.tickedByHand,
		secret: ''
	});
	bill = await billing(desk);
});
afterAll(async () => {
	if (process.env.SHOW) {
		console.log(
			world.app.output
				.split('\n')
				.filter((line) => /"level":[45]0/.test(line))
				.join('\n')
				.slice(0, 3000)
		);
		console.log(JSON.stringify(await rows(world, 'SELECT * FROM waiting_facts')));
	}
	await world.end();
});

interface Came {
	id: number;
	minor: number;
	placed: number;
	unplaced: number;
	creditorReference: string;
	text: string;
	iban: string;
	fee: number;
}
const came = (minor: number) =>
	until(`${minor} came`, async () =>
		(
			await rows<Came>(
				world,
				`SELECT p.id, p.minor, p.placed, p.unplaced, p.creditor_reference AS creditorReference, d.text, d.iban, p.charged_fee AS fee
				 FROM payments p JOIN money_details d ON d.payment_id = p.id WHERE p.minor = ? AND p.taken > 0`,
				[minor]
			)
		).at(0)
	);

describe('a transfer that came to the account at a processor', () => {
	it('is placed by the reference that its payer wrote, with what it cost', async () => {
		const payer = await bill.payer({ name: 'Greet Aerts', mail: 'greet@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Setup', price: '120.00' }]);
		await bill.act(id, 'approve');
		const { creditorReference } = await bill.row(id);
		const hand = await new ConsoleHand(world.addressOf('quillon'), 'quillon').signIn();
		await hand.press('came/book', {
			sum: '120.00',
			currency: 'EUR',
			from: 'G. Aerts',
			iban: 'BE68 5390 0754 7034',
			words: `for your work, ${creditorReference.replace(/(.{4})/g, '$1 ')}`
		});
		expect(await came(12_000)).toMatchObject({ placed: 12_000, unplaced: 0, creditorReference, fee: 30 });
		expect(await bill.row(id)).toMatchObject({ state: 'paid', open: 0 });
		expect(await bill.proof()).toEqual({ agrees: true });
	});

	it('waits with its words, name and account where they do not prove whose it is, and is known by the account next time', async () => {
		const payer = await bill.payer({ name: 'Pol Martens', mail: 'pol@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Six violins', price: '85.00' }]);
		await bill.act(id, 'approve');
		await world.at('quillon', 'came', {
			minor: 8_501,
			words: 'thank you',
			from: 'P. Martens',
			iban: 'BE43 0689 9999 9501'
		});
		const waiting = await came(8_501);
		expect(waiting).toMatchObject({ placed: 0, unplaced: 8_501, text: 'thank you', iban: 'BE43068999999501' });
		const page = await (await desk.get('/takings/unplaced')).text();
		expect(page).toContain('thank you');
		expect(page).toContain('P. Martens');
		await desk.act(`/takings/unplaced/${waiting.id}?/place`, { [`part-${id}`]: '85.00' });
		await until('it is placed', async () => (await bill.row(id)).state === 'paid');
		// the next one from the same account leads to the same payer
		const next = await bill.invoice(payer, [{ text: 'Rosin', price: '12.00' }]);
		await bill.act(next, 'approve');
		await world.at('quillon', 'came', { minor: 1_200, words: '', from: '', iban: 'BE43 0689 9999 9501' });
		const second = await came(1_200);
		expect(second.unplaced).toBe(1_200);
		const { number } = await bill.row(next);
		expect(await (await desk.get(`/takings/unplaced/${second.id}`)).text()).toContain(number);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
});
