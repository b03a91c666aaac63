import fc from 'fast-check';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Tx } from '../../src/lib/server/db';

const folder = mkdtempSync(join(tmpdir(), 'purse-placing-'));
process.env.JUSTPURSE_DATA = folder;
// bound to the folder above as it is imported
const store = await import('../../src/lib/server/db');
const { placePayment, placePayments } = await import('../../src/lib/server/placing');
const { creditorReference } = await import('../../src/lib/core/references');

// Money that a file brings is placed for many payments in one go. The result is what one after the other gives.

const AT = Date.UTC(2026, 10, 1);
/** Some have one due, some three; one in six has a credit note, is void, or has an order open on it. */
const SPECIALS = ['', '', '', 'credit note', 'void', 'order', '', '', 'written off'] as const;
const INVOICES = 18;
let kindId = 0;

beforeAll(async () => {
	await store.open();
	const { db, write } = store;
	await write(async (tx) => {
		await db.business.insert(
			{ id: 1, name: 'Wren & Alder', country: 'BE', homeCurrency: 'EUR', timeZone: 'Europe/Brussels', updatedAt: AT },
			tx
		);
		const till = {
			kind: 'web checkout' as const,
			mode: 'live' as const,
			currencies: '["EUR"]',
			colour: '#2f4b3c',
			fulfil: 'on promise' as const,
			signingKeySealed: 'x',
			createdAt: AT
		};
		await db.tills.insert({ id: 'shop', slug: 'web-shop', name: 'Web shop', ...till }, tx);
		await db.tills.insert({ id: 'fair', slug: 'fair', name: 'Autumn fair', ...till }, tx);
		await db.payers.insert({ id: 'hanna', name: 'Hanna Aerts', createdAt: AT }, tx);
		await db.orders.insert(
			{
				tillId: 'shop',
				sign: 's',
				reference: 'r',
				currency: 'EUR',
				minor: 1,
				name: '',
				mail: '',
				country: '',
				purpose: '',
				createdAt: AT
			},
			tx
		);
		kindId = await store.kindIdOf(
			{ method: 'credit-transfer', currency: 'EUR', entry: 'online', scheme: '', funding: '', issuer: '' },
			tx
		);
		for (let n = 0; n < INVOICES; n++) {
			const special = SPECIALS[n % SPECIALS.length]!;
			const total = 3_000 + n * 100;
			const day = (late: number) => new Date(AT + late * 86_400_000).toISOString().slice(0, 10);
			const count = n % 3 === 0 ? 3 : 1;
			const dues = Array.from({ length: count }, (_, at) => ({ day: day(30 - at * 10 + n), minor: total / count }));
			const credited = special === 'credit note' ? 500 : 0;
			const ends = special === 'void' || special === 'written off';
			const first = [...dues].sort((a, b) => (a.day < b.day ? -1 : 1))[0]!;
			const id = n + 1;
			const paper = {
				payerId: 'hanna',
				payerName: 'Hanna Aerts',
				tillId: 'shop',
				currency: 'EUR',
				content: '{"lines":[]}'
			};
			const made = { approvedAt: AT, createdBy: 'a', createdAt: AT, changedAt: AT, day: day(0) };
			await db.invoices.insert(
				{
					id,
					kind: 'invoice',
					token: `t${id}`,
					number: `INV-${String(id)}`,
					creditorReference: creditorReference(`INV${String(id)}`),
					total,
					credited,
					state: special === 'void' || special === 'written off' ? special : 'approved',
					open: ends ? 0 : total - credited,
					nextDue: ends ? '' : first.day,
					voidAt: special === 'void' ? AT : null,
					writtenOffAt: special === 'written off' ? AT : null,
					...paper,
					...made
				},
				tx
			);
			if (credited)
				await db.invoices.insert(
					{
						id: 100 + id,
						kind: 'credit note',
						token: `c${id}`,
						ofId: id,
						total: credited,
						number: `CN-${id}`,
						...paper,
						...made
					},
					tx
				);
			for (const [at, due] of dues.entries())
				await db.invoiceDues.insert(
					{ invoiceId: id, n: at, currency: 'EUR', credited: 0, paid: 0, open: ends ? 0 : due.minor, ...due },
					tx
				);
			if (special === 'order' && n < SPECIALS.length)
				await db.orderClaims.insert({ orderId: 1, kind: 'invoice', invoiceId: id, payerId: 'hanna' }, tx);
		}
	});
});
afterAll(async () => {
	await store.close();
	rmSync(folder, { recursive: true, force: true });
});

interface Came {
	readonly invoice: number;
	/** how it names the invoice */
	readonly by: 'number' | 'number of the books' | 'creditor reference' | 'nothing';
	readonly tillId: 'shop' | 'fair' | null;
	readonly currency: 'EUR' | 'CHF';
	readonly minor: number;
	readonly refunded: number;
	readonly mode: 'live' | 'test';
}
const came: fc.Arbitrary<Came> = fc.record({
	invoice: fc.integer({ min: 1, max: INVOICES }),
	by: fc.constantFrom('number', 'number', 'number of the books', 'creditor reference', 'nothing'),
	tillId: fc.constantFrom('shop', 'shop', 'shop', 'fair', null),
	currency: fc.constantFrom('EUR', 'EUR', 'EUR', 'EUR', 'CHF'),
	minor: fc.oneof(fc.integer({ min: 1, max: 6_000 }), fc.constantFrom(3_000, 3_100, 1_000, 1_100)),
	refunded: fc.constantFrom(0, 0, 0, 400),
	mode: fc.constantFrom('live', 'live', 'live', 'test')
});

/** What is stored after money came and was placed by one of the two ways; nothing of it is kept. */
async function storedAfter(money: readonly Came[], place: (ids: number[], tx: Tx) => Promise<void>) {
	const { db } = store;
	let found: unknown;
	const undone = new Error('undone');
	await store
		.write(async (tx) => {
			const ids: number[] = [];
			for (const [at, one] of money.entries()) {
				const gone = Math.min(one.refunded, one.minor);
				const reference = creditorReference(`INV${String(one.invoice)}`);
				await db.payments.insert(
					{
						origin: 'file',
						tillId: one.tillId,
						kindId,
						method: 'credit-transfer',
						mode: one.mode,
						reference: one.by === 'number' ? `INV-${one.invoice}` : `BANK-${at}`,
						creditorReference:
							one.by === 'creditor reference'
								? reference
								: one.by === 'number of the books'
									? `INV-${one.invoice}`
									: '',
						payerName: '',
						payerMail: '',
						currency: one.currency,
						minor: one.minor,
						taken: one.minor,
						refunded: gone,
						gone,
						stage: gone ? 'part refunded' : 'captured',
						reachedStep: 2,
						day: '2026-11-02',
						createdAt: AT + at
					},
					tx
				);
				ids.push((await db.payments.find({}, { order: [['id', 'DESC']], limit: 1 }, tx))[0]!.id);
			}
			await place(ids, tx);
			const first = ids[0]!;
			const places = await db.places.find({}, { order: [['id', 'ASC']] }, tx);
			const events = await db.events.find({}, { order: [['id', 'ASC']] }, tx);
			found = {
				payments: (await db.payments.find({ id: ids }, { order: [['id', 'ASC']] }, tx)).map(
					({ placed, unplaced, considered, payerId }) => ({ placed, unplaced, considered, payerId })
				),
				places: places
					.map((one) => [one.paymentId - first, one.invoiceId, one.minor, one.why, one.byUser].join(' '))
					.sort(),
				invoices: await db.invoices.find({}, { order: [['id', 'ASC']] }, tx),
				dues: await db.invoiceDues.find(
					{},
					{
						order: [
							['invoiceId', 'ASC'],
							['n', 'ASC']
						]
					},
					tx
				),
				events: events
					.map((one) =>
						[one.kind, one.objectKind === 'payment' ? Number(one.objectId) - first : one.objectId, one.payload].join(
							' '
						)
					)
					.sort()
			};
			throw undone;
		})
		.catch((error: unknown) => {
			if (error !== undone) throw error;
		});
	return found as { payments: { placed: number; unplaced: number }[]; places: string[] };
}

describe('money of a file', () => {
	it('is placed for many payments in one go as it is for one after the other', async () => {
		await fc.assert(
			fc.asyncProperty(fc.array(came, { minLength: 1, maxLength: 30 }), async (money) => {
				const one = await storedAfter(money, async (ids, tx) => {
					for (const id of ids) await placePayment(id, tx);
				});
				expect(await storedAfter(money, placePayments)).toEqual(one);
			}),
			{ numRuns: 25 }
		);
	});
	it('on an invoice with three dues and too much: the oldest is paid first, and what is left is the payer’s credit', async () => {
		const money = (minor: number): Came => ({
			invoice: 1,
			by: 'number',
			tillId: 'shop',
			currency: 'EUR',
			minor,
			refunded: 0,
			mode: 'live'
		});
		const { payments, places } = await storedAfter([money(1_200), money(1_500), money(900)], placePayments);
		expect(payments.map((one) => [one.placed, one.unplaced])).toEqual([
			[1_200, 0],
			[1_500, 0],
			[300, 600]
		]);
		expect(places).toHaveLength(3);
	});
});
