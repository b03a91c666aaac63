import { db, paymentByToken, type PaymentRequestRow, type PaymentRow } from '../db';

/** What the payer's page knows of a payment; undefined for one that did not begin at a till of ours. */
export const requestOfPayment = (paymentId: number): Promise<PaymentRequestRow | undefined> =>
	db.paymentRequests.one({ paymentId });

/** A payment by the token of its payer's page. */
export const paymentOfToken = (
	token: string
): Promise<{ payment: PaymentRow; request: PaymentRequestRow } | undefined> => paymentByToken(token);
