import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { billing, type Billing } from '../world/billing.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile, type FileLine } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';

// Settlement files in any order and number against orders of two tills: an independent, deliberately simple count says which
// payment is whose, and both agree. Then what is paid for an invoice: on it once, however it comes.

let world: World;
let desk: Desk;
let bill: Billing;
const tills = new Map<string, string>();
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall', 'mailbox', 'texts'] });
	desk = new Desk(world);
	await desk.openWebShop();
	await desk.act('/accept/tills/new', { name: 'Market', mode: 'live', currencies: ['EUR'], colour: '#5b2b4a' });
	bill = await billing(desk);
	for (const one of await rows<{ id: string; name: string }>(world, 'SELECT id, name FROM tills'))
		tills.set(one.name, one.id);
});
afterAll(() => world.end());

let files = 0;
const take = async (lines: readonly FileLine[]) => {
	const name = `lines-${++files}.csv`;
	// no file is the same as another, which would not be taken again
	const filler = { id: `OL-F${files}`, at: Date.now(), minor: 100, fee: 1 };
	const answer = await desk.upload(
		'/connect/files?/take',
		{ processor: 'fernhall' },
		'file',
		name,
		settlementFile([...lines, filler])
	);
	expect(answer.data?.says ?? JSON.stringify(answer.data)).toContain('new');
	await until(`${name} is taken`, async () => {
		const [row] = await rows<{ state: string }>(world, 'SELECT state FROM settlement_files WHERE name = ?', [name]);
		return row?.state === 'taken';
	});
};
const nothingMoves = () =>
	until('names have found their tills', async () => (await rows(world, 'SELECT 1 FROM payment_moves')).length === 0);

/** What a file may tell of an order, or of nothing. */
interface Told {
	readonly order: number;
	/** another sum than the order's */
	readonly isOff: boolean;
	/** the name of the place in the file */
	readonly source: 'Web shop' | 'Market' | 'Stall';
	/** in which of the files it stands first, and whether a later one tells it again */
	readonly file: number;
	readonly isTwice: boolean;
	/** in how many parts of a tenth it was refunded, as the last file that tells it says */
	readonly refunded: number;
}
interface Case {
	readonly orders: readonly { readonly till: 'Web shop' | 'Market'; readonly minor: number }[];
	readonly told: readonly Told[];
	/** until which file the stall's name belongs to nobody */
	readonly mapped: number;
}
const FILES = 4;
const cases: fc.Arbitrary<Case> = fc
	.array(
		fc.record({
			till: fc.constantFrom<'Web shop' | 'Market'>('Web shop', 'Market'),
			minor: fc.integer({ min: 1_000, max: 90_000 })
		}),
		{ minLength: 6, maxLength: 12 }
	)
	.chain((orders) =>
		fc.record({
			orders: fc.constant(orders),
			mapped: fc.integer({ min: 0, max: FILES }),
			told: fc.array(
				fc.record({
					order: fc.integer({ min: 0, max: orders.length - 1 }),
					isOff: fc.integer({ min: 0, max: 4 }).map((n) => n === 0),
					source: fc.constantFrom<Told['source']>('Web shop', 'Web shop', 'Market', 'Market', 'Stall'),
					file: fc.integer({ min: 0, max: FILES - 1 }),
					isTwice: fc.boolean(),
					refunded: fc.constantFrom(0, 0, 0, 3, 10)
				}),
				{ minLength: 10, maxLength: 24 }
			)
		})
	);

describe('files that tell payments of orders', () => {
	it('give every order what is its own and nothing else, in whatever file and however often it is told', async () => {
		let round = 0;
		await fc.assert(
			fc.asyncProperty(cases, async ({ orders, told, mapped }) => {
				const mark = `${++round}-${files}`;
				// the stall is nobody's until it is said to be the market's
				await desk.act('/connect/files?/map', { source: 'Stall', till: '' });
				await nothingMoves();
				for (const [at, one] of orders.entries()) {
					const slug = one.till === 'Market' ? 'market' : 'web-shop';
					const made = await desk.act(`/accept/tills/${slug}/address`, {
						amount: (one.minor / 100).toFixed(2),
						currency: 'EUR',
						reference: `OL-${mark}-${at}`,
						name: 'Ana Müller',
						mail: 'ana@payer.example'
					});
					expect(made.data?.address).toBeTruthy();
				}
				const now = Date.now();
				const lineOf = (one: Told, at: number, isLast: boolean): FileLine => {
					const minor = orders[one.order]!.minor + (one.isOff ? 10 : 0);
					return {
						id: `OL-${mark}-P${at}`,
						at: now + at * 1_000,
						minor,
						fee: 30,
						source: one.source,
						reference: `OL-${mark}-${one.order}`,
						refunded: isLast ? Math.floor((minor * one.refunded) / 10) : 0
					};
				};
				for (let file = 0; file <= FILES; file++) {
					if (file === mapped && told.some((one) => one.source === 'Stall' && one.file < file)) {
						await desk.act('/connect/files?/map', { source: 'Stall', till: tills.get('Market')! });
						await nothingMoves();
					}
					const lines = told.flatMap((one, at) => {
						const last = one.isTwice ? Math.min(FILES, one.file + 1) : one.file;
						return one.file === file || last === file ? [lineOf(one, at, last === file)] : [];
					});
					if (lines.length) await take(lines);
				}
				await desk.act('/connect/files?/map', { source: 'Stall', till: tills.get('Market')! });
				await nothingMoves();

				// the simple count: a payment is an order's when sum and till are the order's
				for (const [at, order] of orders.entries()) {
					const mine = told
						.map((one, n) => ({ ...one, n }))
						.filter(
							(one) => one.order === at && !one.isOff && (one.source === 'Stall' ? 'Market' : one.source) === order.till
						);
					const paid = mine.reduce((sum, one) => sum + order.minor - Math.floor((order.minor * one.refunded) / 10), 0);
					const [row] = await rows<{ id: number; paid: number }>(
						world,
						'SELECT id, paid FROM orders WHERE reference = ?',
						[`OL-${mark}-${at}`]
					);
					const given = await rows<{ id: string }>(
						world,
						'SELECT processor_id AS id FROM payments WHERE order_id = ? ORDER BY id',
						[row!.id]
					);
					expect(given.map((one) => one.id).sort()).toEqual(mine.map((one) => `OL-${mark}-P${one.n}`).sort());
					expect([at, row!.paid]).toEqual([at, paid]);
				}
				// and every payment is there once
				const [all] = await rows<{ n: number; taken: number }>(
					world,
					`SELECT COUNT(*) AS n, SUM(taken) AS taken FROM payments WHERE processor_id LIKE ?`,
					[`OL-${mark}-P%`]
				);
				expect(all).toEqual({
					n: told.length,
					taken: told.reduce((sum, one) => sum + orders[one.order]!.minor + (one.isOff ? 10 : 0), 0)
				});
			}),
			{ numRuns: Number(process.env.JUSTPURSE_SEEDS ?? 5), endOnFailure: true }
		);
	}, 240_000);
});

describe('an invoice', () => {
	const invoice = async (mail: string, price: string, content: object = {}) => {
		const payer = await bill.payer({ name: 'Paid by File', mail });
		const id = await bill.invoice(payer, [{ text: 'Cello, setup', price }], { content });
		await bill.act(id, 'send', { mail: 'on' });
		return { id, row: await bill.row(id), link: `${world.app.address}/invoice/${(await bill.row(id)).token}` };
	};
	it('whose payer had begun to pay is paid once by the line of a file that carries its number', async () => {
		const { id, row, link } = await invoice('begun@payer.example', '210.00');
		const begun = await new Desk(world).act(`${link}?/pay`, {});
		expect(begun.type).toBe('redirect');
		await take([{ id: 'OI-1', at: Date.now(), minor: 21_000, fee: 30, reference: row.number }]);
		expect(await bill.row(id)).toMatchObject({ state: 'paid', placed: 21_000, open: 0 });
		expect(await rows(world, `SELECT placed, unplaced FROM payments WHERE processor_id = 'OI-1'`)).toEqual([
			{ placed: 21_000, unplaced: 0 }
		]);
		// told again it is the same money
		await take([{ id: 'OI-1', at: Date.now(), minor: 21_000, fee: 30, reference: row.number }]);
		expect(await bill.row(id)).toMatchObject({ placed: 21_000, open: 0 });
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it.each([
		['was approved before the file came', false],
		['is approved after it', true]
	])(
		'whose money a file tells under a name of no till is paid once that name has its till, where it %s',
		async (_, isLate) => {
			const place = isLate ? 'Late kiosk' : 'Kiosk';
			const payer = await bill.payer({ name: 'Paid at a kiosk', mail: `kiosk${Number(isLate)}@payer.example` });
			const id = await bill.invoice(payer, [{ text: 'Viola, setup', price: isLate ? '130.00' : '120.00' }]);
			const minor = isLate ? 13_000 : 12_000;
			const next = await bill.invoice(payer, [{ text: 'Bow', price: '10.00' }]);
			// its number is known before it is approved: it follows the last one
			if (isLate) await bill.act(next, 'approve');
			else await bill.act(id, 'send', { mail: 'on' });
			const number = isLate
				? (await bill.row(next)).number.replace(/\d+$/, (n) => String(Number(n) + 1).padStart(n.length, '0'))
				: (await bill.row(id)).number;
			await take([{ id: `OI-K${Number(isLate)}`, at: Date.now(), minor, fee: 30, source: place, reference: number }]);
			if (isLate) await bill.act(id, 'approve');
			expect(await bill.row(id)).toMatchObject({ number, placed: 0, open: minor });
			// not by a till that is not the invoice's, and not lost by having been given to it
			await desk.act('/connect/files?/map', { source: place, till: tills.get('Market')! });
			await nothingMoves();
			expect(await bill.row(id)).toMatchObject({ placed: 0, open: minor });
			await desk.act('/connect/files?/map', { source: place, till: tills.get('Web shop')! });
			await nothingMoves();
			expect(await bill.row(id)).toMatchObject({ state: 'paid', placed: minor, open: 0 });
			// once: also when the name is given to it again
			await desk.act('/connect/files?/map', { source: place, till: '' });
			await nothingMoves();
			await desk.act('/connect/files?/map', { source: place, till: tills.get('Web shop')! });
			await nothingMoves();
			expect(await bill.row(id)).toMatchObject({ placed: minor, open: 0 });
			expect(await bill.proof()).toEqual({ agrees: true });
		}
	);
	it('in equal parts of which one was paid here has the next from a file, and nothing counts as paid twice', async () => {
		const { id, row, link } = await invoice('parts@payer.example', '300.00', {
			dues: { kind: 'instalments', count: 3, days: 0, every: 30 }
		});
		const begun = await new Desk(world).act(`${link}?/pay`, {});
		await desk.giveCard(begun.location!, CARDS.approved);
		await until('the first part is paid', async () => (await bill.row(id)).placed === 10_000);
		await take([{ id: 'OI-2', at: Date.now(), minor: 10_000, fee: 30, reference: row.number }]);
		expect(await bill.row(id)).toMatchObject({ placed: 20_000, open: 10_000, state: 'part paid' });
		expect(await rows(world, 'SELECT id FROM orders WHERE paid > minor AND reference = ?', [row.number])).toEqual([]);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it('that is paid and is paid once more by a file leaves that sum as the payer’s credit', async () => {
		const { id, row, link } = await invoice('again@payer.example', '45.00');
		const begun = await new Desk(world).act(`${link}?/pay`, {});
		await desk.giveCard(begun.location!, CARDS.approved);
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		await take([{ id: 'OI-3', at: Date.now(), minor: 4_500, fee: 30, reference: row.number }]);
		expect(await bill.row(id)).toMatchObject({ placed: 4_500, open: 0 });
		expect(await rows(world, `SELECT placed, unplaced FROM payments WHERE processor_id = 'OI-3'`)).toEqual([
			{ placed: 0, unplaced: 4_500 }
		]);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
});
