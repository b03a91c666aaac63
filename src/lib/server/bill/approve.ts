import { makeDues, planOf } from '../../core/billing';
import { formatAmount } from '../../core/money';
import { creditorReference, referenceFor, referencePart } from '../../core/references';
import { audit } from '../access';
import { theBusiness, today } from '../connect/business';
import { db, filePaymentsOf, write, type InvoiceRow, type Tx } from '../db';
import { recordEvent } from '../events';
import { placePayments, restandInvoice, settlePlaces } from '../placing';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { contentOf, insertDraft, newDraft, problemsOf, sumsOf } from './drafts';
import { billSettings, nextNumber, seriesOf } from './settings';

export type Acted = { readonly says: string } | { readonly problem: string };

const noteInvoice = (row: InvoiceRow, by: string, act: string, tx: Tx, number = row.number) =>
	audit({ by, kind: row.kind, id: String(row.id), name: number || row.payerName || 'a draft', act }, tx);
export const done = <T>(answer: T): T => {
	tell('bill');
	tell('takings');
	return answer;
};

/**
 * The creditor reference of an invoice: of its number, so that whoever pays by it pays this one. Two numbers may come to the
 * same letters and digits (`INV-1` and `INV/1`): the later one has its own id in it. ISO 11649.
 */
async function referenceOf(number: string, id: number, tx: Tx): Promise<string> {
	const plain = creditorReference(referencePart(number).slice(-21) || String(id));
	return (await db.invoices.one({ creditorReference: plain }, tx)) ? referenceFor(number, id) : plain;
}

/**
 * Approves a draft, in the transaction of whoever asks: it gets its number, its dues and its reference, and never changes
 * again. The number is taken in the very same transaction, so that none is lost or given twice.
 */
export async function approveWithin(row: InvoiceRow, by: string, day: string, tx: Tx): Promise<InvoiceRow> {
	const told = sumsOf(row);
	if ('problem' in told) throw new Error(told.problem);
	const { net, tax, total } = told.sums;
	const till = row.tillId ? await db.tills.one({ id: row.tillId }, tx) : undefined;
	const series = await seriesOf(till?.brandId ?? '', row.kind, tx);
	const number = row.number || (await nextNumber(series, day, tx));
	const at = timeNow();
	await db.invoices.update(
		{ id: row.id },
		{
			number,
			seriesId: series.id,
			day,
			net,
			tax,
			total,
			creditorReference: row.kind === 'invoice' ? await referenceOf(number, row.id, tx) : '',
			approvedAt: at,
			approvedBy: by,
			askedAt: null,
			state: 'approved',
			open: row.kind === 'invoice' ? total : 0,
			changedAt: at
		},
		tx
	);
	if (row.kind === 'invoice') {
		const dues = makeDues(total, planOf(contentOf(row)), day);
		await db.invoiceDues.insertMany(
			dues.map((due, n) => ({
				invoiceId: row.id,
				n,
				day: due.day,
				currency: row.currency,
				minor: due.minor,
				credited: 0,
				paid: 0,
				open: due.minor
			})),
			tx
		);
		await restandInvoice(row.id, tx);
		// a settlement file may have told of its payment before it was written down here
		await placePayments(await filePaymentsOf(number, tx), tx);
	}
	if (row.kind === 'credit note' && row.ofId !== null) await settlePlaces([row.ofId], [], tx);
	await recordEvent(
		{
			kind: row.kind === 'credit note' ? 'credit_note.approved' : 'invoice.approved',
			object: 'invoice',
			id: row.id,
			payload: { number, currency: row.currency, total, day, payer: row.payerId, of: row.ofId }
		},
		tx
	);
	await noteInvoice(row, by, 'approved', tx, number);
	return (await db.invoices.one({ id: row.id }, tx))!;
}

/** What stands in the way of approving now, beside what is wrong with the document itself. */
async function obstacle(
	row: InvoiceRow | undefined,
	revision: number | undefined,
	tx: Tx
): Promise<string | undefined> {
	if (!row) return 'There is no such draft any more.';
	if (row.kind === 'quote') return 'A quote is not approved; it is sent.';
	if (row.state !== 'draft') return undefined;
	if (revision !== undefined && row.revision !== revision)
		return 'It was changed since you looked at it. Look at it again, then approve it.';
	const problems = await problemsOf(row, tx);
	if (problems.length) return problems.join(' ');
	if (row.kind === 'credit note') {
		const of = row.ofId === null ? undefined : await db.invoices.one({ id: row.ofId }, tx);
		if (!of) return 'The invoice that it corrects is gone.';
		const told = sumsOf(row);
		if ('sums' in told && told.sums.total > of.total - of.credited)
			return `A credit note takes at most what was asked: ${formatAmount({ minor: of.total - of.credited, currency: of.currency }, (await theBusiness()).locale || 'en-GB')} of ${of.number} is left.`;
	}
	return undefined;
}

/** Approves a draft. Approving twice is approving once. @param revision the one that was looked at */
export async function approve(id: number, revision: number | undefined, by: string): Promise<Acted> {
	const day = await today();
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.invoices.one({ id }, tx);
			const problem = await obstacle(row, revision, tx);
			if (problem) return { problem };
			if (row!.state !== 'draft') return { says: `It is approved already, as ${row!.number}.` };
			const { number } = await approveWithin(row!, by, day, tx);
			return { says: `Approved as ${number}.` };
		})
	);
}

/** Puts a draft before whoever approves. */
export async function askApproval(id: number, revision: number, by: string): Promise<Acted> {
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.invoices.one({ id }, tx);
			const problem = await obstacle(row, revision, tx);
			if (problem) return { problem };
			if (row!.state !== 'draft') return { says: `It is approved already, as ${row!.number}.` };
			await db.invoices.update({ id }, { askedAt: timeNow(), askedBy: by }, tx);
			await noteInvoice(row!, by, 'asked for approval', tx);
			return { says: 'It waits for approval now. Whoever approves finds it under Needs you.' };
		})
	);
}

/** Whether a draft may be approved by sending it. */
export const approvesOnSending = async (): Promise<boolean> => (await billSettings()).approval === 'on sending';

/** Voids an invoice: its number stays, nothing is asked any more. What was paid onto it must be taken back first. */
export async function voidInvoice(id: number, reason: string, by: string): Promise<Acted> {
	const why = reason.trim().slice(0, 300);
	if (!why) return { problem: 'Say why: the number stays, and somebody will ask.' };
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.invoices.one({ id }, tx);
			if (!row || row.kind !== 'invoice' || row.approvedAt === null) return { problem: 'There is no such invoice.' };
			if (row.voidAt !== null) return { says: `${row.number} is void already.` };
			if (row.placed > 0)
				return {
					problem:
						'Money is placed on it. Take that back or refund it first; or credit the invoice, which keeps the money as the payer’s credit.'
				};
			if (row.promised > 0)
				return { problem: 'Money for it is on its way. Wait for it, or cancel that payment first.' };
			if (row.credited > 0) return { problem: 'A credit note corrects it already.' };
			await db.invoices.update({ id }, { voidAt: timeNow(), voidReason: why, changedAt: timeNow() }, tx);
			await restandInvoice(id, tx);
			await recordEvent(
				{ kind: 'invoice.voided', object: 'invoice', id, payload: { number: row.number, reason: why } },
				tx
			);
			await noteInvoice(row, by, `voided: ${why}`, tx);
			return { says: `${row.number} is void. Its number stays.` };
		})
	);
}

/** Writes off what is open: nobody waits for it any more. Can be taken back. */
export async function writeOff(id: number, isOn: boolean, by: string, locale: string): Promise<Acted> {
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.invoices.one({ id }, tx);
			if (!row || row.kind !== 'invoice' || row.approvedAt === null || row.voidAt !== null)
				return { problem: 'There is no such invoice.' };
			if ((row.writtenOffAt !== null) === isOn)
				return { says: isOn ? 'It is written off already.' : 'It is not written off.' };
			const open = row.total - row.placed - row.credited;
			if (isOn && open <= 0) return { problem: 'Nothing is open: there is nothing to write off.' };
			await db.invoices.update({ id }, { writtenOffAt: isOn ? timeNow() : null }, tx);
			await restandInvoice(id, tx);
			const say = formatAmount({ minor: open, currency: row.currency }, locale);
			if (isOn)
				await recordEvent(
					{ kind: 'invoice.written_off', object: 'invoice', id, payload: { number: row.number, minor: open } },
					tx
				);
			await noteInvoice(row, by, isOn ? `wrote off ${say}` : `took back that ${say} was written off`, tx);
			return { says: isOn ? `${say} is written off.` : `${say} is open again.` };
		})
	);
}

/** Holds everything that would be sent for an invoice by itself, or lets it go on. */
export async function holdInvoice(id: number, isOn: boolean, by: string): Promise<Acted> {
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.invoices.one({ id }, tx);
			if (!row) return { problem: 'There is no such invoice.' };
			await db.invoices.update({ id }, { heldAt: isOn ? timeNow() : null }, tx);
			await noteInvoice(row, by, isOn ? 'held' : 'not held any more', tx);
			return { says: isOn ? 'Held: nothing is sent for it by itself.' : 'Not held any more.' };
		})
	);
}

/** What an outside program calls it: a field of its own, never the number. Its open order gets it, too. */
export async function setOutside(id: number, text: string, by: string): Promise<Acted> {
	const outside = text.trim().slice(0, 80);
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.invoices.one({ id }, tx);
			if (!row) return { problem: 'There is no such invoice.' };
			if (row.outsideReference === outside)
				return { says: outside ? `It is ${outside} there.` : 'It has no outside reference.' };
			await db.invoices.update({ id }, { outsideReference: outside, outsideAt: outside ? timeNow() : null }, tx);
			for (const { orderId } of await db.orderClaims.find({ invoiceId: id }, {}, tx)) {
				await db.orders.update(
					{ id: orderId },
					{ outsideReference: outside, outsideAt: outside ? timeNow() : null },
					tx
				);
				if (outside)
					await recordEvent(
						{ kind: 'order.referenced', object: 'order', id: orderId, payload: { outside, invoice: row.number } },
						tx
					);
			}
			await noteInvoice(
				row,
				by,
				outside ? `set the outside reference ${outside}` : 'took the outside reference away',
				tx
			);
			return { says: outside ? `It is ${outside} there.` : 'It has no outside reference any more.' };
		})
	);
}

/**
 * Begins a credit note: the same lines, to be changed for a part.
 * @returns its number here, or why there is none
 */
export async function beginCreditNote(id: number, by: string): Promise<{ id: number } | { problem: string }> {
	const row = await db.invoices.one({ id });
	if (!row || row.kind !== 'invoice' || row.approvedAt === null) return { problem: 'There is no such invoice.' };
	if (row.voidAt !== null) return { problem: `${row.number} is void: there is nothing to credit.` };
	if (row.credited >= row.total) return { problem: `${row.number} is credited whole already.` };
	const open = await db.invoices.one({ ofId: id, kind: 'credit note', approvedAt: null });
	if (open) return { id: open.id };
	const content = contentOf(row);
	return {
		id: await newDraft(
			{
				kind: 'credit note',
				payerId: row.payerId ?? undefined,
				tillId: row.tillId ?? undefined,
				currency: row.currency,
				ofId: id,
				content: { ...content, dues: { kind: 'all at once', days: 0 }, noteTop: '', noteFoot: '', terms: '' }
			},
			by
		)
	};
}

/** A document that is approved and told as such at once: for quotes that were accepted. */
export async function approveCopy(of: InvoiceRow, by: string, day: string, tx: Tx): Promise<InvoiceRow> {
	const draft = await insertDraft(
		{
			kind: 'invoice',
			payerId: of.payerId,
			payerName: of.payerName,
			tillId: of.tillId,
			currency: of.currency,
			content: of.content,
			ofId: of.id,
			createdBy: by
		},
		tx
	);
	return approveWithin(draft, by, day, tx);
}
