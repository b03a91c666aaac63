import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { billing } from '../world/billing.ts';
import { makeWorld, until, type World } from '../world/index.ts';

// What the business received by its own methods before it came here, brought as a file from its books.

let world: World;
let desk: Desk;
let offline: string;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['mailbox', 'texts', 'fernhall'] });
	desk = new Desk(world);
	offline = (await desk.openWebShop()).offline;
});
afterAll(() => world.end());

const HEADER =
	'payment,captured_at,source,method,currency,amount_minor,entry,scheme,funding,issuer,fee_currency,fee_minor,base_minor,rate,refunded_minor,disputed_minor,ordered_at,outcome,reason';
const AT = Date.now() - 20 * 86_400_000;
interface Receipt {
	readonly id: string;
	readonly minor: number;
	readonly refunded?: number;
	readonly fee?: number;
	readonly method?: string;
	readonly outcome?: string;
}
const book = (receipts: readonly Receipt[]) =>
	[
		HEADER,
		...receipts.map(({ id, minor, refunded = 0, fee = 0, method = 'credit-transfer', outcome = 'captured' }) =>
			outcome === 'captured'
				? `${id},${new Date(AT).toISOString()},Web shop,${method},EUR,${minor},online,,,,EUR,${fee},${minor},,${refunded},0,${new Date(AT - 86_400_000).toISOString()},captured,`
				: `${id},,Web shop,${method},EUR,${minor},online,,,,EUR,0,,,,,${new Date(AT).toISOString()},${outcome},`
		),
		`total,,${receipts.length},,EUR,${receipts.reduce((sum, one) => sum + one.minor, 0)},,,,,EUR,${receipts.reduce((sum, one) => sum + (one.fee ?? 0), 0)},,,,,,captured,`
	].join('\n');
let names = 0;
const upload = (text: string, of = offline) =>
	desk.upload('/connect/files?/take', { processor: `offline:${of}` }, 'file', `books-${++names}.csv`, text);
const troublesOf = async (text: string) =>
	((await upload(text)).data as { troubles?: { line: number; says: string }[] }).troubles ?? [];
const usage = async () =>
	(await desk.data<{ use: { chosen: number; paid: number } }>(`/connect/offline/${offline}`)).use;

describe('a file of an offline method', () => {
	it('brings what was received: in Takings, in the use of the method and in the sums of its days, each once', async () => {
		const text = book([
			{ id: 'OLD-1', minor: 24_000 },
			{ id: 'OLD-2', minor: 9_900, refunded: 900 }
		]);
		expect((await upload(text)).data?.says).toMatch(/2 of its 2 payments are new/);
		expect((await upload(`${text}\n`)).data?.says).toMatch(/0 of its 2 payments are new/);
		const { lines } = await desk.data<{ lines: { reference: string; stage: string; route: string }[] }>('/takings');
		expect(lines.map((one) => [one.reference, one.stage, one.route]).sort()).toEqual([
			['OLD-1', 'received', 'Credit transfer'],
			['OLD-2', 'part refunded', 'Credit transfer']
		]);
		expect(await usage()).toMatchObject({ chosen: 2, paid: 2 });
		expect(
			await rows(
				world,
				`SELECT p.reference, p.taken, p.net, p.charged_fee, p.account_day, t.name AS till, e.kind, e.minor,
				 (SELECT COUNT(*) FROM payment_fees f WHERE f.payment_id = p.id) AS fees
				 FROM payments p JOIN tills t ON t.id = p.till_id JOIN payment_events e ON e.payment_id = p.id AND e.kind = 'received' ORDER BY p.id`
			)
		).toEqual(
			(
				[
					['OLD-1', 24_000, 24_000],
					['OLD-2', 9_900, 9_000]
				] as const
			).map(([reference, taken, net]) => ({
				reference,
				taken,
				net,
				charged_fee: null,
				account_day: null,
				till: 'Web shop',
				kind: 'received',
				minor: taken,
				fees: 0
			}))
		);
		expect(
			await rows(world, `SELECT SUM(count) AS count, SUM(taken) AS taken FROM day_sums WHERE carrier = '${offline}'`)
		).toEqual([{ count: 2, taken: 33_900 }]);
	});
	it('adds what a later file knows more of, and refuses another sum', async () => {
		expect((await upload(book([{ id: 'OLD-1', minor: 24_000, refunded: 4_000 }]))).data?.says).toMatch(
			/1 known payment changed/
		);
		expect(await rows(world, `SELECT stage, net FROM payments WHERE reference = 'OLD-1'`)).toEqual([
			{ stage: 'part refunded', net: 20_000 }
		]);
		expect(await troublesOf(book([{ id: 'OLD-1', minor: 24_100 }]))).toEqual([
			{ line: 2, says: 'Payment OLD-1 is known already, with another amount or currency.' }
		]);
	});
	it('is refused where it tells an order that a till took here: its receipt would count twice', async () => {
		const address = await desk.address('50.00', 'HERE-1');
		await desk.act(address, { way: await desk.way(address, 'Credit transfer') });
		const [trouble] = await troublesOf(book([{ id: 'HERE-1', minor: 5_000 }]));
		expect(trouble).toEqual({
			line: 2,
			says: 'HERE-1 is an order that was taken here by Credit transfer. Record what was received at its payment.'
		});
		expect(await rows(world, `SELECT COUNT(*) AS n FROM payments WHERE reference = 'HERE-1'`)).toEqual([{ n: 1 }]);
	});
	it('is refused with a fee, another method or a declined attempt, and for a method that is gone', async () => {
		expect((await troublesOf(book([{ id: 'N-1', minor: 100, fee: 3 }]))).map((one) => one.says)).toEqual([
			'fee_minor is not 0: an offline method has no fee.'
		]);
		expect((await troublesOf(book([{ id: 'N-1', minor: 100, method: 'cash' }]))).map((one) => one.says)).toEqual([
			'method is not credit-transfer (Credit transfer).'
		]);
		expect((await troublesOf(book([{ id: 'N-1', minor: 100, outcome: 'declined' }])))[0]!.says).toBe(
			'A file of an offline method tells what was received, and nothing else.'
		);
		expect((await upload(book([{ id: 'N-1', minor: 100 }]), 'nobody')).data?.trouble).toBe('Choose whose file it is.');
		expect(await rows(world, `SELECT COUNT(*) AS n FROM payments WHERE reference = 'N-1'`)).toEqual([{ n: 0 }]);
	});
	it('that tells a number or a creditor reference of an invoice is placed on it, once, also when the invoice comes later', async () => {
		const bill = await billing(desk);
		const payer = await bill.payer({ name: 'Hanna Aerts', mail: 'hanna@payer.example' });
		const sold = async () => {
			const id = await bill.invoice(payer, [{ text: 'Bow rehaired', price: '60.50' }]);
			await bill.act(id, 'approve');
			return id;
		};
		const [byNumber, byReference] = [await sold(), await sold()];
		const [first, second] = [await bill.row(byNumber), await bill.row(byReference)];
		const lines = (told: readonly (readonly [string, number, string])[]) =>
			[
				`${HEADER},reference`,
				...told.map(
					([id, minor, reference]) =>
						`${id},${new Date(AT).toISOString()},Web shop,credit-transfer,EUR,${minor},online,,,,EUR,0,${minor},,0,0,,captured,,${reference}`
				),
				`total,,${told.length},,EUR,${told.reduce((sum, [, minor]) => sum + minor, 0)},,,,,EUR,0,,,,,,captured,,`
			].join('\n');
		const later = first.number.replace(/\d+$/, (n) => String(Number(n) + 2).padStart(n.length, '0'));
		const text = lines([
			['BANK-1', first.total, first.number],
			['BANK-2', second.total - 50, second.creditorReference.replace(/(.{4})/g, '$1 ').trim()],
			['BANK-3', 1_000, later],
			['BANK-4', 2_000, 'nobody knows']
		]);
		expect((await upload(text)).data?.says).toMatch(/4 of its 4 payments are new/);
		await until('placed', async () => (await bill.row(byReference)).placed > 0 || undefined);
		expect(await bill.row(byNumber)).toMatchObject({ state: 'paid', open: 0, placed: first.total });
		expect(await bill.row(byReference)).toMatchObject({ open: 50, placed: second.total - 50 });
		const third = await bill.row(await sold());
		expect([third.number, third.placed]).toEqual([later, 1_000]);
		await upload(`${text}\n`);
		const [sum] = await rows<{ sum: number; n: number }>(world, 'SELECT SUM(minor) AS sum, COUNT(*) AS n FROM places');
		expect(sum).toEqual({ sum: first.total + second.total - 50 + 1_000, n: 3 });
		expect((await bill.proof()).agrees).toBe(true);
	});
});
