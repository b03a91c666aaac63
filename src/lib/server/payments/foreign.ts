import { inZone } from '../../core/calendar';
import { referenceIn } from '../../core/references';
import type { Report } from '../connectors';
import {
	countSource,
	db,
	kindIdOf,
	paymentsOfOrders,
	type ConnectionRow,
	type ForeignLine,
	type PaymentRow,
	type Tx
} from '../db';
import { placePayment } from '../placing';
import { giveToOrders } from './ordered';
import { keepReport } from './record';
import { timeNow } from '../signals/clock';

/**
 * Keeps a payment that was made at its processor's own console and not through us. It stands in the books like any other;
 * what only a till knows of a payment is not there.
 * @returns undefined where the report does not tell a sum or a currency: it cannot be kept then
 */
export async function keepForeign(
	connection: ConnectionRow,
	report: Report,
	source: 'notification' | 'asked',
	tx: Tx
): Promise<PaymentRow | undefined> {
	const { paid, transfer } = report;
	if (!paid) return undefined;
	const business = (await db.business.one({ id: 1 }, tx))!;
	const first = report.facts.reduce((least, fact) => Math.min(least, fact.at), timeNow());
	const row = await db.payments.insert(
		{
			origin: 'console',
			mode: connection.mode,
			processor: connection.processor,
			connectionId: connection.id,
			accountId: connection.accountId,
			processorId: report.processorId,
			kindId: await kindIdOf(
				{
					method: paid.method,
					currency: paid.amount.currency,
					entry: 'online',
					scheme: report.card?.scheme || 'unknown',
					funding: report.card?.funding || 'unknown',
					issuer: report.card?.issuerCountry || 'unknown'
				},
				tx
			),
			method: paid.method,
			currency: paid.amount.currency,
			minor: paid.amount.minor,
			creditorReference: transfer ? referenceIn(transfer.text) : '',
			payerName: transfer?.from ?? '',
			stage: 'requested',
			reachedStep: 1,
			day: inZone(new Date(first), business.timeZone).day,
			createdAt: first,
			orderedAt: first
		},
		tx
	);
	// what its payer wrote is there before the money is: by it the money is placed
	if (transfer)
		await db.moneyDetails.insert(
			{ paymentId: row.id, text: transfer.text, payerName: transfer.from, iban: transfer.iban.replace(/\s/g, '') },
			tx
		);
	const payment = (await db.payments.one({ id: row.id }, tx))!;
	await keepReport(payment, report, source, tx);
	return db.payments.one({ id: row.id }, tx);
}

/**
 * Gives a payment that came by itself the place and the number that a settlement file tells of it. It is the till's then, as
 * if the file had told it first; an order or an invoice of that number is paid by it, unless somebody has placed it already.
 * @returns whether that was news
 */
export async function nameForeign({ id, source, tillId, reference }: ForeignLine, tx: Tx): Promise<boolean> {
	const payment = (await db.payments.one({ id }, tx))!;
	// two lines of one file may tell it
	if (payment.source) return false;
	const isSetAside = ((await db.moneyDetails.one({ paymentId: id }, tx))?.setAsideAt ?? null) !== null;
	const isPlaced = (await db.places.find({ paymentId: id }, { limit: 1 }, tx)).length > 0;
	const isFree = !isSetAside && !isPlaced && payment.payerId === null;
	await db.payments.update(
		{ id },
		{
			source,
			tillId,
			reference: payment.reference || reference,
			creditorReference: payment.creditorReference || reference.replace(/^RF.*$/, (one) => one.replaceAll(' ', '')),
			...(isFree ? { considered: 0 } : {})
		},
		tx
	);
	await countSource(source, tx);
	if (isFree) await giveToOrders(await paymentsOfOrders(id - 1, id, tx), tx);
	await placePayment(id, tx);
	return true;
}
