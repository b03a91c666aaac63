import { inZone } from '../../core/calendar';
import { referenceIn } from '../../core/references';
import type { Report } from '../connectors';
import { db, kindIdOf, type ConnectionRow, type PaymentRow, type Tx } from '../db';
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
