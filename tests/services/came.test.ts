import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { STANDINS } from '../../standins/main.ts';
import { billing, type Billing } from '../world/billing.ts';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { ConsoleHand } from '../world/console.ts';
import { settlementFile, type FileLine } from '../world/settlement.ts';

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

describe('a transfer that pays for two payers', () => {
	it('keeps the name it came with when one of them is removed', async () => {
		const payers = [
			await bill.payer({ name: 'Una Un', mail: 'una@payer.example' }),
			await bill.payer({ name: 'Duo Deux', mail: 'duo@payer.example' })
		];
		const invoices: number[] = [];
		for (const payer of payers) {
			const id = await bill.invoice(payer, [{ text: 'Half', price: '20.00' }]);
			await bill.act(id, 'approve');
			invoices.push(id);
		}
		await world.at('quillon', 'came', { minor: 4_000, words: 'both', from: 'A. Club', iban: 'BE68 5390 0754 7034' });
		const { id } = await came(4_000);
		await desk.act(`/takings/unplaced/${id}?/place`, {
			[`part-${invoices[0]}`]: '20.00',
			[`part-${invoices[1]}`]: '20.00'
		});
		const name = async () =>
			(await rows(world, 'SELECT payer_name AS name, placed FROM payments WHERE id = ?', [id]))[0];
		expect((await desk.act(`/bill/payers/${payers[0]}?/remove`, {})).type).toBe('redirect');
		expect(await name()).toEqual({ name: 'A. Club', placed: 4_000 });
		expect((await desk.act(`/bill/payers/${payers[1]}?/remove`, {})).type).toBe('redirect');
		expect(await name()).toEqual({ name: expect.stringMatching(/^Removed payer/), placed: 4_000 });
		expect(await bill.proof()).toEqual({ agrees: true });
	});
});

describe('money that came by itself, and that a settlement file tells afterwards', () => {
	interface Told extends Came {
		processorId: string;
		source: string;
		till: string | null;
		orderId: number | null;
		count: number;
	}
	/** The one payment of an id of the processor's. */
	const payment = async (processorId: string) => {
		const all = await rows<Told>(
			world,
			`SELECT p.id, p.minor, p.placed, p.unplaced, p.charged_fee AS fee, p.processor_id AS processorId, p.source, t.name AS till, p.order_id AS orderId
			 FROM payments p LEFT JOIN tills t ON t.id = p.till_id WHERE p.processor_id = ?`,
			[processorId]
		);
		expect(all).toHaveLength(1);
		return all[0]!;
	};
	/** A transfer comes; its id of the processor's. */
	const transfer = async (minor: number) => {
		await world.at('quillon', 'came', { minor, words: 'thanks', from: 'N. Noels', iban: 'BE62 5100 0754 7061' });
		const { id } = await came(minor);
		const [{ processorId }] = (await rows<{ processorId: string }>(
			world,
			'SELECT processor_id AS processorId FROM payments WHERE id = ?',
			[id]
		)) as [{ processorId: string }];
		return processorId;
	};
	let files = 0;
	const take = async (line: Omit<FileLine, 'at' | 'fee' | 'method'>) => {
		const name = `came-${++files}.csv`;
		const file = settlementFile([
			{ at: Date.now(), fee: 30, method: 'credit-transfer', scheme: '', funding: '', issuer: '', ...line }
		]);
		await desk.upload('/connect/files?/take', { processor: 'quillon' }, 'file', name, file);
		await until(`${name} is taken`, async () => {
			const [row] = await rows<{ state: string }>(world, 'SELECT state FROM settlement_files WHERE name = ?', [name]);
			return row?.state === 'taken';
		});
	};
	const unplacedPage = async () => (await desk.get('/takings/unplaced')).text();
	/** What is kept by till and day is what the payments are. */
	const expectDays = async () => {
		const sums = `SELECT till_id AS till, SUM(count) AS count, SUM(taken) AS taken FROM`;
		expect(await rows(world, `${sums} day_sums GROUP BY 1 HAVING SUM(count) <> 0 ORDER BY 1`)).toEqual(
			await rows(
				world,
				`${sums} (SELECT COALESCE(till_id, '') AS till_id, 1 AS count, taken FROM payments WHERE mode = 'live') GROUP BY 1 ORDER BY 1`
			)
		);
		expect(await rows(world, `SELECT source, count FROM file_sources WHERE count > 0 ORDER BY 1`)).toEqual(
			await rows(world, `SELECT source, COUNT(*) AS count FROM payments WHERE source <> '' GROUP BY 1 ORDER BY 1`)
		);
		expect(await bill.proof()).toEqual({ agrees: true });
	};

	it('is its till’s, and waits no more', async () => {
		const id = await transfer(3_300);
		expect(await payment(id)).toMatchObject({ unplaced: 3_300, till: null });
		expect(await unplacedPage()).toContain('33.00');
		await take({ id, minor: 3_300 });
		expect(await payment(id)).toMatchObject({ unplaced: 0, till: 'Web shop', source: 'Web shop', fee: 30 });
		expect(await unplacedPage()).not.toContain('33.00');
		await expectDays();
	});
	it('pays the order whose number the file tells', async () => {
		const address = await desk.address('84.50', 'CM-1');
		const id = await transfer(8_450);
		await take({ id, minor: 8_450, reference: 'CM-1' });
		const told = await payment(id);
		expect(told).toMatchObject({ unplaced: 0, till: 'Web shop' });
		expect(await rows(world, `SELECT id, paid FROM orders WHERE reference = 'CM-1'`)).toEqual([
			{ id: told.orderId, paid: 8_450 }
		]);
		const payer = new Desk(world);
		const shown = await payer.get(address);
		expect(await (await payer.get(shown.headers.get('location')!)).text()).toContain('Paid');
		await expectDays();
	});
	it('is placed on the invoice whose number the file tells', async () => {
		const payer = await bill.payer({ name: 'Nand Noels', mail: 'nand@payer.example' });
		const invoice = await bill.invoice(payer, [{ text: 'Bow', price: '47.00' }]);
		await bill.act(invoice, 'approve');
		const { number } = await bill.row(invoice);
		const id = await transfer(4_700);
		await take({ id, minor: 4_700, reference: number });
		expect(await payment(id)).toMatchObject({ placed: 4_700, unplaced: 0 });
		expect(await bill.row(invoice)).toMatchObject({ state: 'paid', open: 0 });
		await expectDays();
	});
	it('stays where somebody placed it', async () => {
		const payer = await bill.payer({ name: 'Oda Nys', mail: 'oda@payer.example' });
		const [first, second] = [
			await bill.invoice(payer, [{ text: 'Case', price: '61.00' }]),
			await bill.invoice(payer, [{ text: 'Another case', price: '61.00' }])
		];
		for (const one of [first, second]) await bill.act(one, 'approve');
		const id = await transfer(6_100);
		await desk.act(`/takings/unplaced/${(await payment(id)).id}?/place`, { [`part-${first}`]: '61.00' });
		await take({ id, minor: 6_100, reference: (await bill.row(second)).number });
		expect(await payment(id)).toMatchObject({ placed: 6_100, unplaced: 0, till: 'Web shop' });
		expect(await bill.row(first)).toMatchObject({ open: 0 });
		expect(await bill.row(second)).toMatchObject({ open: 6_100 });
		await expectDays();
	});
	it('stays the credit of the payer whom somebody gave it to', async () => {
		const payer = await bill.payer({ name: 'Cas Credit', mail: 'cas@payer.example' });
		const invoice = await bill.invoice(payer, [{ text: 'Pegs', price: '53.00' }]);
		await bill.act(invoice, 'approve');
		const id = await transfer(5_300);
		await desk.act(`/takings/unplaced/${(await payment(id)).id}?/credit`, { payer });
		await take({ id, minor: 5_300, reference: (await bill.row(invoice)).number });
		expect(await payment(id)).toMatchObject({ placed: 0, unplaced: 5_300, till: 'Web shop' });
		expect(await bill.row(invoice)).toMatchObject({ open: 5_300 });
		expect(await (await desk.get(`/bill/payers/${payer}`)).text()).toContain('53.00');
		// and pays, by one press, what they owe
		expect((await bill.act(invoice, 'credit')).type).toBe('success');
		expect(await payment(id)).toMatchObject({ placed: 5_300, unplaced: 0 });
		expect(await bill.row(invoice)).toMatchObject({ state: 'paid', open: 0 });
		await expectDays();
	});
	it('waits on under a name of no till, until that is said to be one', async () => {
		const address = await desk.address('19.00', 'CM-2');
		const [plain, ordered] = [await transfer(1_700), await transfer(1_900)];
		await take({ id: plain, minor: 1_700, source: 'Market stall' });
		await take({ id: ordered, minor: 1_900, source: 'Market stall', reference: 'CM-2' });
		expect(await payment(plain)).toMatchObject({ unplaced: 1_700, source: 'Market stall' });
		expect(await payment(ordered)).toMatchObject({ unplaced: 1_900, source: 'Market stall' });
		await expectDays();
		const [{ id: till }] = (await rows<{ id: string }>(world, `SELECT id FROM tills WHERE slug = 'web-shop'`)) as [
			{ id: string }
		];
		await desk.act('/connect/files?/map', { source: 'Market stall', till });
		await until('it is the order’s', async () => (await payment(ordered)).orderId !== null);
		expect(await payment(plain)).toMatchObject({ unplaced: 0, till: 'Web shop' });
		expect(await payment(ordered)).toMatchObject({ unplaced: 0, till: 'Web shop' });
		expect((await new Desk(world).get(address)).status).toBe(303);
		await expectDays();
	});
});
