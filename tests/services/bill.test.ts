import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { billing, type Billing } from '../world/billing.ts';
import { CARDS } from '../world/steps.ts';

// Billing from end to end: a thing of the price list, an invoice, its number, the link in the mail, paid.

let world: World;
let desk: Desk;
let bill: Billing;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall', 'mailbox', 'texts'] });
	desk = new Desk(world);
	await desk.openWebShop();
	bill = await billing(desk);
});
afterAll(async () => {
	if (process.env.SHOW)
		console.log(
			world.app.output
				.split('\n')
				.filter((line) => /"level":50/.test(line))
				.join('\n')
				.slice(0, 3000)
		);
	await world.end();
});

describe('an invoice', () => {
	it('goes from the price list to paid, by the link in the mail', async () => {
		const item = await bill.item({ code: 'ROSIN', name: 'Amber rosin', tax: 'standard 210000', price_EUR: '12.10' });
		const payer = await bill.payer({ name: 'Bram Peeters', mail: 'bram@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Amber rosin', quantity: '2', price: '12.10', item }]);
		expect(await bill.act(id, 'send', { mail: 'on' })).toMatchObject({ type: 'success' });
		const row = await bill.row(id);
		expect(row).toMatchObject({
			number: `INV-${bill.year}-0001`,
			total: 2420,
			net: 2000,
			tax: 420,
			open: 2420,
			state: 'sent'
		});
		const mail = await bill.mail('bram@payer.example', /Invoice/);
		expect(mail.subject).toContain(row.number);
		const link = /https?:\/\/\S+\/invoice\/\S+/.exec(mail.text)![0];
		const page = await (await new Desk(world).get(link)).text();
		expect(page).toContain('24.20');
		const paying = await new Desk(world).act(`${link}?/pay`, {});
		expect(paying.type).toBe('redirect');
		await desk.giveCard(paying.location!, CARDS.approved);
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		expect(await bill.row(id)).toMatchObject({ placed: 2420, open: 0, nextDue: '' });
		const receipt = await bill.mail('bram@payer.example', /Received/);
		expect(receipt.text).toContain('24.20 EUR');
		// one figure wherever it stands
		expect(await bill.proof()).toEqual({ agrees: true });
		expect(await rows(world, 'SELECT SUM(minor) AS sum FROM places')).toEqual([{ sum: 2420 }]);
	});
});
