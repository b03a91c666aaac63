import { methodName } from '../../core/lineup';
import { randomId } from '../access';
import { db, type OrderedPayment, type Tx } from '../db';
import { recordEvent } from '../events';
import { placePayment } from '../placing';
import { giveUpOthers, sumOrder } from './record';

/**
 * Payments that a settlement file told under the number of an order are of that order: it is paid by them, what else is open
 * for it is given up, and what it was paid for gets the money.
 */
export async function giveToOrders(list: readonly OrderedPayment[], tx: Tx): Promise<void> {
	for (const { paymentId, orderId } of list) {
		const order = (await db.orders.one({ id: orderId }, tx))!;
		const claim = await db.orderClaims.one({ orderId }, tx);
		// an invoice may be paid in parts under one number: what comes after its order was paid is no second payment of it
		const isInvoiced = claim?.kind === 'invoice' || claim?.kind === 'owed';
		if (isInvoiced && order.paid >= order.minor) {
			await placePayment(paymentId, tx);
			continue;
		}
		await db.payments.update(
			{ id: paymentId },
			{ orderId, payerName: order.name, payerMail: order.mail, payerId: claim?.payerId ?? null },
			tx
		);
		const payment = (await db.payments.one({ id: paymentId }, tx))!;
		// its payer finds the receipt at the order's own address; no line-up is known to have offered it
		await db.paymentRequests.insert(
			{
				paymentId,
				token: randomId(),
				version: 0,
				offerId: '',
				offerName: methodName(payment.method as never),
				standby: 0,
				details: '{}'
			},
			tx
		);
		await giveUpOthers(payment, tx);
		await sumOrder(orderId, tx);
		await placePayment(paymentId, tx);
		// whoever waits for the order hears of it as of any other capture
		const { mode, currency, method, taken } = payment;
		await recordEvent(
			{
				kind: 'payment.captured',
				object: 'payment',
				id: paymentId,
				payload: { order: orderId, mode, currency, method, minor: taken, taken }
			},
			tx
		);
	}
}
