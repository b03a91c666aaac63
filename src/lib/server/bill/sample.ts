import type { FillIn, MessageEvent } from '../../core/billing';
import { theBusiness } from '../connect/business';
import { db } from '../db';
import { languageOf, valuesFor } from '../messages';

/** What a message says of a real document: the newest one that fits the event; nothing where there is none yet. */
export async function sampleValues(event: MessageEvent, language: string): Promise<Partial<Record<FillIn, string>>> {
	const business = await theBusiness();
	const { locale } = languageOf(undefined, business, language);
	const [invoice] = await db.invoices.find(
		event === 'quote' ? { kind: 'quote' } : { kind: 'invoice', state: ['sent', 'part paid', 'approved', 'paid'] },
		{ order: [['id', 'DESC']], limit: 1 }
	);
	const place = invoice && (await db.places.one({ invoiceId: invoice.id }));
	const payment = place && (await db.payments.one({ id: place.paymentId }));
	const order = payment?.orderId ? await db.orders.one({ id: payment.orderId }) : undefined;
	const payer = invoice?.payerId ? await db.payers.one({ id: invoice.payerId }) : undefined;
	const values = await valuesFor({ invoice, payer, payment, order, name: payer?.name }, locale);
	return Object.fromEntries(Object.entries(values).filter(([, value]) => value));
}
