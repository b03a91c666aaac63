import { partGratuity, placeOldestFirst, takeBackLatest, type OpenDue } from '../../core/billing';
import { isCreditorReference } from '../../core/references';
import {
	db,
	invoiceByReference,
	openDuesOf,
	placesOfPayment,
	type OrderClaimRow,
	type PaymentRow,
	type Tx
} from '../db';
import { recordEvent } from '../events';
import { timeNow } from '../signals/clock';
import { placeAtOnce } from './atOnce';
import { restandInvoice, restandOwed } from './standing';

/** Whether money of a payment can be placed at all: live money that is no trial's. */
const isRealMoney = (payment: PaymentRow): boolean => payment.mode === 'live' && payment.trialId === null;

/** What a payment is for: told by its order, or by the reference it carries. */
async function claimOf(
	payment: PaymentRow,
	tx: Tx
): Promise<Pick<OrderClaimRow, 'kind' | 'invoiceId' | 'invoiceIds' | 'payerId'> | undefined> {
	if (payment.orderId !== null) return db.orderClaims.one({ orderId: payment.orderId }, tx);
	const invoice = await invoiceByReference(payment, tx);
	if (!invoice) return undefined;
	// a number in a file of the till's own is ours; a transfer is placed by itself where its reference proves it
	const { billing } = (await db.business.one({ id: 1 }, tx))!;
	const isProven = payment.tillId !== null || isCreditorReference(payment.creditorReference);
	if (!isProven || (payment.tillId === null && !db.business.json.billing(billing).placesSure)) return undefined;
	return { kind: 'invoice', invoiceId: invoice.id, invoiceIds: '[]', payerId: invoice.payerId };
}

/** Puts parts of a payment on invoices. @returns the invoices that it touched */
export async function keepPlaces(
	payment: Pick<PaymentRow, 'id' | 'currency'>,
	parts: readonly { readonly invoice: string; readonly minor: number }[],
	why: string,
	by: string,
	tx: Tx
): Promise<number[]> {
	for (const part of parts) {
		const invoiceId = Number(part.invoice);
		await db.places.insert(
			{ paymentId: payment.id, invoiceId, minor: part.minor, ofId: null, why, byUser: by, at: timeNow() },
			tx
		);
		await recordEvent(
			{
				kind: 'payment.placed',
				object: 'payment',
				id: payment.id,
				payload: { invoice: invoiceId, minor: part.minor, currency: payment.currency, why }
			},
			tx
		);
	}
	return parts.map((part) => Number(part.invoice));
}

/** Takes a sum of a payment back from where it was placed, the latest first. @returns the invoices that it touched */
export async function takeBack(
	payment: Pick<PaymentRow, 'id' | 'currency'>,
	minor: number,
	why: string,
	by: string,
	tx: Tx,
	only?: number
): Promise<number[]> {
	const standing = (await placesOfPayment(payment.id, tx)).filter((one) => !only || one.invoiceId === only);
	const { taken } = takeBackLatest(
		minor,
		standing.map((one) => ({ invoice: String(one.invoiceId), minor: one.left }))
	);
	for (const { at, minor: part } of taken) {
		const { id, invoiceId } = standing[at]!;
		await db.places.insert(
			{ paymentId: payment.id, invoiceId, minor: -part, ofId: id, why, byUser: by, at: timeNow() },
			tx
		);
		await recordEvent(
			{
				kind: 'payment.unplaced',
				object: 'payment',
				id: payment.id,
				payload: { invoice: invoiceId, minor: part, currency: payment.currency, why }
			},
			tx
		);
	}
	return taken.map(({ at }) => standing[at]!.invoiceId);
}

/** What of a payment is placed, and what of it nobody claims. */
export async function noteUnplaced(paymentId: number, isClaimed: boolean, tx: Tx): Promise<void> {
	const payment = (await db.payments.one({ id: paymentId }, tx))!;
	const placed = (await placesOfPayment(paymentId, tx)).reduce((all, one) => all + one.left, 0);
	const { goods } = partGratuity(payment);
	const aside = (await db.moneyDetails.one({ paymentId }, tx))?.setAsideAt ?? null;
	// money at a till's own order belongs to that order, and what a file told under a till's name to that till; what else came
	// by itself, or is for an invoice, is placed
	// what somebody gave a payer as credit stays theirs
	const isNamed = payment.tillId !== null && payment.source !== '' && payment.payerId === null;
	const isTills = payment.orderId !== null || isNamed;
	const isLoose = isClaimed || placed > 0 || (payment.origin === 'console' && !isTills);
	const unplaced = isRealMoney(payment) && isLoose && aside === null ? Math.max(0, goods - placed) : 0;
	if (payment.placed !== placed || payment.unplaced !== unplaced)
		await db.payments.update({ id: paymentId }, { placed, unplaced }, tx);
}

/** Works out afresh what changed by a step of placing, until nothing changes any more. */
export async function settlePlaces(invoices: Iterable<number>, payments: Iterable<number>, tx: Tx): Promise<void> {
	const touched = new Set(payments);
	for (const id of new Set(invoices)) for (const one of await restandInvoice(id, tx)) touched.add(one);
	for (const id of touched) await noteUnplaced(id, true, tx);
}

/**
 * Places what came for a payment, in the transaction that tells of it: what is new goes on what it was paid for; what went
 * back is taken from where it was placed, the latest first. What somebody has taken back by hand is not placed again.
 */
export async function placePayment(paymentId: number, tx: Tx): Promise<void> {
	const payment = (await db.payments.one({ id: paymentId }, tx))!;
	if (!isRealMoney(payment)) return;
	const claim = await claimOf(payment, tx);
	const isInvoiced = claim?.kind === 'invoice' || claim?.kind === 'owed';
	if (!isInvoiced && payment.placed === 0 && payment.orderId !== null) {
		// until it was known whose it is, it waited
		if (payment.unplaced) await noteUnplaced(paymentId, false, tx);
		return;
	}
	const { goods } = partGratuity(payment);
	const touched = new Set<number>();
	const placed = (await placesOfPayment(paymentId, tx)).reduce((all, one) => all + one.left, 0);
	if (placed > goods)
		for (const id of await takeBack(payment, placed - goods, 'the money went back', 'itself', tx)) touched.add(id);
	const fresh = goods - Math.min(payment.considered, goods);
	if (fresh > 0 && claim && isInvoiced) {
		const dues = await duesFor(claim, payment.currency, tx);
		const { parts } = placeOldestFirst(Math.min(fresh, goods - Math.min(placed, goods)), dues);
		for (const id of await keepPlaces(payment, parts, 'paid for it', 'itself', tx)) touched.add(id);
	}
	// what a file tells under a name of no till, or of another, waits until that is put right: nothing says yet whose it is
	const isOfFile = payment.origin === 'file' || payment.source !== '';
	const isWaiting = !claim && isOfFile && payment.orderId === null;
	await db.payments.update(
		{ id: paymentId },
		{
			considered: isWaiting ? payment.considered : goods,
			...(claim?.payerId ? { payerId: claim.payerId } : {})
		},
		tx
	);
	await settlePlaces(touched, [], tx);
	await noteUnplaced(paymentId, isInvoiced, tx);
	// what is on its way, or is not any more, changes what is promised
	if (claim?.kind === 'invoice' && claim.invoiceId !== null && !touched.has(claim.invoiceId))
		await restandInvoice(claim.invoiceId, tx);
	if (claim?.kind === 'owed' && claim.payerId) await restandOwed(claim.payerId, payment.currency, tx);
}

async function duesFor(
	claim: Pick<OrderClaimRow, 'kind' | 'invoiceId' | 'invoiceIds' | 'payerId'>,
	currency: string,
	tx: Tx
): Promise<OpenDue[]> {
	if (claim.kind === 'owed')
		return claim.payerId
			? openDuesOf(claim.payerId, currency, db.orderClaims.json.invoiceIds(claim.invoiceIds), tx)
			: [];
	const invoice = claim.invoiceId === null ? undefined : await db.invoices.one({ id: claim.invoiceId }, tx);
	if (!invoice || invoice.currency !== currency || invoice.open <= 0) return [];
	return (await db.invoiceDues.find({ invoiceId: invoice.id }, {}, tx)).map((due) => ({
		invoice: String(invoice.id),
		number: invoice.number,
		day: due.day,
		open: due.open
	}));
}

/** Payments of a file that carry the number of an invoice of their till are placed on it. */
export async function placePayments(paymentIds: readonly number[], tx: Tx): Promise<void> {
	const done = await placeAtOnce(paymentIds, tx);
	for (const id of paymentIds) if (!done.has(id)) await placePayment(id, tx);
}
