import { inZone } from '../../core/calendar';
import { db, kindIdOf, type OfflineMethodRow, type OrderRow, type PaymentRow, type Tx } from '../db';
import { timeNow } from '../signals/clock';
import { keepFacts, recompute } from './record';

/** Money that somebody at the desk has received, or seen on a statement. */
export interface ReceivedByHand {
	readonly method: OfflineMethodRow;
	/** the order that it is for, where it is for one */
	readonly order?: OrderRow;
	readonly currency: string;
	/** what came, in minor units */
	readonly minor: number;
	/** what was asked, where that is another sum */
	readonly asked?: number;
	/** milliseconds since 1970 */
	readonly at: number;
	readonly reference: string;
	readonly creditorReference: string;
	readonly payerName: string;
	readonly payerMail: string;
	readonly payerId?: string;
	readonly how: string;
	readonly note: string;
	/** made when the form was shown: the same form records it once */
	readonly key: string;
	readonly by: string;
	/** what the bank tells of it */
	readonly details?: { readonly text: string; readonly payerName: string; readonly iban: string };
}

/** Records money as a payment by an offline method, in the transaction of whoever asks. It is placed in the same one. */
export async function receiveByHand(got: ReceivedByHand, tx: Tx): Promise<PaymentRow> {
	const { timeZone } = (await db.business.one({ id: 1 }, tx))!;
	const method = got.method.kind;
	const row = await db.payments.insert(
		{
			// without an order it is nobody's at a till: as if told at a console
			origin: got.order ? 'till' : 'console',
			mode: 'live',
			offlineId: got.method.id,
			orderId: got.order?.id ?? null,
			tillId: got.order?.tillId ?? null,
			kindId: await kindIdOf(
				{ method, currency: got.currency, entry: 'online', scheme: 'unknown', funding: 'unknown', issuer: 'unknown' },
				tx
			),
			method,
			currency: got.currency,
			minor: got.asked ?? got.minor,
			reference: got.reference,
			creditorReference: got.creditorReference,
			payerName: got.payerName,
			payerMail: got.payerMail,
			payerId: got.payerId ?? null,
			stage: 'requested',
			reachedStep: 1,
			day: inZone(new Date(got.at), timeZone).day,
			orderedAt: got.at,
			createdAt: got.at
		},
		tx
	);
	if (got.details) await db.moneyDetails.insert({ paymentId: row.id, ...got.details, recordedBy: got.by }, tx);
	await keepFacts(
		row.id,
		[
			{ kind: 'requested', at: got.at, minor: got.asked ?? got.minor, object: String(row.id) },
			{
				kind: 'received',
				at: Math.min(got.at + 1, Math.max(got.at, timeNow())),
				minor: got.minor,
				object: got.key,
				detail: { how: got.how, note: got.note }
			}
		],
		got.by,
		tx
	);
	await recompute(row.id, tx);
	return (await db.payments.one({ id: row.id }, tx))!;
}
