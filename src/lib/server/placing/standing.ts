import { inZone } from '../../core/calendar';
import { lifeOf, placeOldestFirst, standOfDues, takeBackLatest } from '../../core/billing';
import { db, openDuesOf, placesOfInvoice, promisedFor, sumPlaced, type InvoiceRow, type Tx } from '../db';
import { recordEvent } from '../events';
import { timeNow } from '../signals/clock';

/** What is placed on an invoice beyond what it asks is taken back, the latest first: it is the payer's credit then. */
async function takeSurplusBack(invoice: InvoiceRow, surplus: number, tx: Tx): Promise<number[]> {
	const standing = await placesOfInvoice(invoice.id, tx);
	const { taken } = takeBackLatest(
		surplus,
		standing.map((one) => ({ invoice: String(invoice.id), minor: one.left }))
	);
	const payments = new Set<number>();
	for (const { at, minor } of taken) {
		const { id, paymentId } = standing[at]!;
		await db.places.insert(
			{
				paymentId,
				invoiceId: invoice.id,
				minor: -minor,
				ofId: id,
				why: 'more than it asks for',
				byUser: 'itself',
				at: timeNow()
			},
			tx
		);
		payments.add(paymentId);
	}
	return [...payments];
}

/**
 * Works an invoice out afresh from what is placed on it, credited and on its way: its dues, its state, what is open.
 * @returns payments of which something was taken back, since it asks for less now
 */
export async function restandInvoice(invoiceId: number, tx: Tx): Promise<number[]> {
	const invoice = (await db.invoices.one({ id: invoiceId }, tx))!;
	if (invoice.kind !== 'invoice' || invoice.approvedAt === null) return [];
	const dues = await db.invoiceDues.find({ invoiceId }, { order: [['n', 'ASC']] }, tx);
	const credited = (await db.invoices.find({ ofId: invoiceId, kind: 'credit note' }, {}, tx)).reduce(
		(all, one) => all + (one.approvedAt === null ? 0 : one.total),
		0
	);
	let placed = await sumPlaced(invoiceId, tx);
	let standing = standOfDues(dues, placed, credited);
	let touched: number[] = [];
	if (standing.surplus > 0) {
		touched = await takeSurplusBack(invoice, standing.surplus, tx);
		placed = await sumPlaced(invoiceId, tx);
		standing = standOfDues(dues, placed, credited);
	}
	const ends = invoice.voidAt !== null || invoice.writtenOffAt !== null;
	for (const due of standing.dues) {
		const row = dues.find((one) => one.day === due.day && one.minor === due.minor && !('seen' in one))!;
		Object.assign(row, { seen: true });
		const open = ends ? 0 : due.open;
		if (row.credited !== due.credited || row.paid !== due.paid || row.open !== open)
			await db.invoiceDues.update({ invoiceId, n: row.n }, { credited: due.credited, paid: due.paid, open }, tx);
	}
	const promised = ends ? 0 : Math.min(standing.open, await promisedOf(invoice, standing.open, tx));
	const business = (await db.business.one({ id: 1 }, tx))!;
	const today = inZone(new Date(timeNow()), business.timeZone).day;
	const life = lifeOf(
		{
			isApproved: true,
			isSent: invoice.sentAt !== null,
			isVoid: invoice.voidAt !== null,
			isWrittenOff: invoice.writtenOffAt !== null,
			placed,
			promised
		},
		standing,
		today
	);
	const open = ends ? 0 : standing.open;
	await db.invoices.update(
		{ id: invoiceId },
		{ placed, credited, promised, open, nextDue: life.next?.day ?? '', state: life.state },
		tx
	);
	const told = { number: invoice.number, currency: invoice.currency, total: invoice.total, open };
	if (life.state === 'paid' && invoice.state !== 'paid')
		await recordEvent({ kind: 'invoice.paid', object: 'invoice', id: invoiceId, payload: told }, tx);
	if (invoice.state === 'paid' && life.state !== 'paid')
		await recordEvent({ kind: 'invoice.reopened', object: 'invoice', id: invoiceId, payload: told }, tx);
	return touched;
}

/** Money on its way for an invoice, payment by payment: those for it alone, and its part of those for several or all that is owed. */
export async function comingFor(
	invoice: Pick<InvoiceRow, 'id' | 'payerId' | 'currency'>,
	tx?: Tx
): Promise<{ readonly paymentId: number; readonly minor: number }[]> {
	const parts: { paymentId: number; minor: number }[] = [];
	for (const one of await promisedFor(invoice.id, invoice.payerId, invoice.currency, tx)) {
		if (one.kind === 'invoice') parts.push(one);
		else {
			const chosen = db.orderClaims.json.invoiceIds(one.invoiceIds);
			if (chosen.length && !chosen.includes(invoice.id)) continue;
			const dues = await openDuesOf(invoice.payerId!, invoice.currency, chosen, tx);
			const mine = placeOldestFirst(one.minor, dues).parts.find((part) => part.invoice === String(invoice.id));
			if (mine) parts.push({ paymentId: one.paymentId, minor: mine.minor });
		}
	}
	return parts;
}
const promisedOf = async (invoice: InvoiceRow, open: number, tx: Tx): Promise<number> =>
	Math.min(
		open,
		(await comingFor(invoice, tx)).reduce((all, one) => all + one.minor, 0)
	);

/** Works out afresh all open invoices of a payer in a currency: money for all that is owed is on its way, or is not any more. */
export async function restandOwed(payerId: string, currency: string, tx: Tx): Promise<void> {
	for (const { id } of await db.invoices.find({ payerId, currency, kind: 'invoice' }, {}, tx))
		await restandInvoice(id, tx);
}
