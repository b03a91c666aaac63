import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile, type FileLine } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';

// Payments that a settlement file tells under the number of an order: they are of that order, and of nothing else.

let world: World;
let desk: Desk;
let tillId: string;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall'] });
	desk = new Desk(world);
	await desk.openWebShop();
	tillId = (await rows<{ id: string }>(world, `SELECT id FROM tills WHERE slug = 'web-shop'`))[0]!.id;
});
afterAll(() => world.end());

const take = async (name: string, lines: readonly FileLine[]) => {
	await desk.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', name, settlementFile(lines));
	await until(`${name} is taken`, async () => {
		const [row] = await rows<{ state: string }>(world, 'SELECT state FROM settlement_files WHERE name = ?', [name]);
		return row?.state === 'taken';
	});
};
const orderOf = async (reference: string) =>
	(
		await rows<{ id: number; paid: number; minor: number }>(
			world,
			'SELECT id, paid, minor FROM orders WHERE reference = ? AND replaced_by IS NULL',
			[reference]
		)
	)[0]!;
const paymentsOf = (reference: string) =>
	rows<{
		id: number;
		order_id: number | null;
		origin: string;
		stage: string;
		taken: number;
		open: number;
		processor_id: string | null;
		payer_mail: string;
		charged_fee: number | null;
	}>(
		world,
		`SELECT id, order_id, origin, stage, taken, open, processor_id, payer_mail, charged_fee FROM payments WHERE reference = ? ORDER BY id`,
		[reference]
	);
const MINUTE = 60_000;

describe('a payment that a file tells under the number of an order', () => {
	it('is of that order, which is paid then: its address asks for nothing more', async () => {
		const address = await desk.address('84.50', 'OF-1');
		await take('one.csv', [{ id: 'F-OF-1', at: Date.now(), minor: 8_450, fee: 120, reference: 'OF-1' }]);
		const order = await orderOf('OF-1');
		expect(order).toMatchObject({ paid: 8_450 });
		expect(await paymentsOf('OF-1')).toMatchObject([
			{ order_id: order.id, origin: 'file', taken: 8_450, payer_mail: 'ana@payer.example', charged_fee: 120 }
		]);
		const payer = new Desk(world);
		const shown = await payer.get(address);
		expect(shown.status).toBe(303);
		const page = await (await payer.get(shown.headers.get('location')!)).text();
		expect(page).toContain('84.50');
		expect(page).toContain('Paid');
		expect(page).not.toContain('name="way"');
		const told = () =>
			rows<{ payload: string }>(
				world,
				`SELECT e.payload FROM events e JOIN payments p ON e.object_id = p.id WHERE e.kind = 'payment.captured' AND p.reference = 'OF-1'`
			);
		expect((await told()).map((one) => JSON.parse(one.payload) as object)).toMatchObject([
			{ order: order.id, minor: 8_450, taken: 8_450, mode: 'live' }
		]);
		// told again, also in another file, it is the same payment
		await take('again.csv', [{ id: 'F-OF-1', at: Date.now(), minor: 8_450, fee: 120, reference: 'OF-1' }]);
		expect(await orderOf('OF-1')).toMatchObject({ paid: 8_450 });
		expect(await paymentsOf('OF-1')).toHaveLength(1);
		expect(await told()).toHaveLength(1);
	});
	it('gives back what the order has, when a later file tells its refund', async () => {
		await take('refund.csv', [
			{ id: 'F-OF-1', at: Date.now(), minor: 8_450, fee: 120, refunded: 3_000, reference: 'OF-1' }
		]);
		expect(await orderOf('OF-1')).toMatchObject({ paid: 5_450 });
	});
	it('is not of an order of another sum, of another till, or of one that was made long after it', async () => {
		for (const reference of ['OF-2', 'OF-3', 'OF-4']) await desk.address('84.50', reference);
		await take('others.csv', [
			{ id: 'F-OF-2', at: Date.now(), minor: 8_400, fee: 120, reference: 'OF-2' },
			{ id: 'F-OF-3', at: Date.now(), minor: 8_450, fee: 120, reference: 'OF-3', source: 'Elsewhere' },
			{ id: 'F-OF-4', at: Date.now() - 3 * 86_400_000, minor: 8_450, fee: 120, reference: 'OF-4' }
		]);
		for (const reference of ['OF-2', 'OF-3', 'OF-4']) {
			expect([reference, (await orderOf(reference)).paid]).toEqual([reference, 0]);
			expect((await paymentsOf(reference)).map((one) => one.order_id)).toEqual([null]);
		}
	});
	it('is of it as soon as the name in the file is said to be of its till', async () => {
		await desk.act('/connect/files?/map', { source: 'Elsewhere', till: tillId });
		await until('it is the order’s', async () => (await orderOf('OF-3')).paid === 8_450);
		// and stays of it when the name is given to no till
		await desk.act('/connect/files?/map', { source: 'Elsewhere', till: '' });
		await until('the name is nobody’s', async () => (await rows(world, `SELECT 1 FROM payment_moves`)).length === 0);
		expect(await orderOf('OF-3')).toMatchObject({ paid: 8_450 });
		expect((await paymentsOf('OF-3'))[0]!.order_id).not.toBe(null);
	});
	it('ends what else was open for the order', async () => {
		const address = await desk.address('84.50', 'OF-5');
		await desk.act(address, { way: await desk.way(address, 'Credit transfer') });
		expect((await paymentsOf('OF-5')).map((one) => one.open)).toEqual([1]);
		await take('five.csv', [{ id: 'F-OF-5', at: Date.now(), minor: 8_450, fee: 120, reference: 'OF-5' }]);
		const [waited, came] = await paymentsOf('OF-5');
		expect(waited).toMatchObject({ stage: 'voided', open: 0 });
		expect(came).toMatchObject({ taken: 8_450 });
	});
	it('stands as paid twice where the order was paid before', async () => {
		await desk.giveCard(await desk.address('84.50', 'OF-6'), CARDS.approved);
		await take('six.csv', [{ id: 'F-OF-6', at: Date.now(), minor: 8_450, fee: 120, reference: 'OF-6' }]);
		expect(await orderOf('OF-6')).toMatchObject({ paid: 16_900 });
		expect(await (await desk.get('/needs-you')).text()).toContain('OF-6');
	});
});

describe('a charge whose answer was lost', () => {
	it('is the payment that a file tells of it: it is there once, and its outcome is learned all the same', async () => {
		const address = await desk.address('84.50', 'OF-7');
		await world.faults({ loseAnswer: true, silent: true });
		await desk.giveCard(address, CARDS.approved);
		await world.faults({ loseAnswer: false, errors: true });
		const [unknown] = await paymentsOf('OF-7');
		expect(unknown).toMatchObject({ origin: 'till', taken: 0, processor_id: null });
		const made = (await world.control<{ id: string; reference?: string }[]>('payments')).at(-1)!;
		await take('seven.csv', [{ id: made.id, at: Date.now() + MINUTE, minor: 8_450, fee: 120, reference: 'OF-7' }]);
		expect(await paymentsOf('OF-7')).toMatchObject([
			{ id: unknown!.id, origin: 'till', taken: 8_450, processor_id: made.id, charged_fee: 120 }
		]);
		expect(await orderOf('OF-7')).toMatchObject({ paid: 8_450 });
		await world.faults({ errors: false, silent: false });
		await until('its outcome is learned', async () =>
			(await rows<{ state: string }>(world, `SELECT state FROM actions WHERE payment_id = ${unknown!.id}`)).every(
				(one) => one.state === 'done'
			)
		);
		expect(await paymentsOf('OF-7')).toHaveLength(1);
		expect(await orderOf('OF-7')).toMatchObject({ paid: 8_450 });
	});
});
