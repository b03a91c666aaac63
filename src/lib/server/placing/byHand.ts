import { formatAmount } from '../../core/money';
import { partGratuity } from '../../core/billing';
import { audit } from '../access';
import { db, placesOfPayment, write, type PaymentRow, type Tx } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { keepPlaces, noteUnplaced, settlePlaces, takeBack } from './itself';

export type PlacedByHand = { readonly says: string } | { readonly problem: string };

const note = (payment: PaymentRow, by: string, act: string, tx: Tx) =>
	audit(
		{
			by,
			kind: 'payment',
			id: String(payment.id),
			name: payment.reference || payment.creditorReference || String(payment.id),
			act
		},
		tx
	);
const done = <T>(answer: T): T => {
	tell('takings');
	tell('bill');
	return answer;
};

/**
 * Puts money on invoices, one or several, of one payer or more. Parts never exceed the money, nor what is open.
 * @param key made when the form was shown: the same form places once
 */
export async function placeByHand(
	paymentId: number,
	parts: readonly { readonly invoiceId: number; readonly minor: number }[],
	by: string,
	locale: string,
	why = 'placed by hand'
): Promise<PlacedByHand> {
	return done(
		await write(async (tx): Promise<PlacedByHand> => {
			const payment = await db.payments.one({ id: paymentId }, tx);
			if (!payment) return { problem: 'There is no such payment.' };
			const say = (minor: number) => formatAmount({ minor, currency: payment.currency }, locale);
			const whole = parts.filter((one) => one.minor > 0);
			if (!whole.length) return { problem: 'Say how much goes on which invoice.' };
			if (new Set(whole.map((one) => one.invoiceId)).size < whole.length)
				return { problem: 'One invoice stands there twice.' };
			const aside = await db.moneyDetails.one({ paymentId }, tx);
			if (aside?.setAsideAt) return { problem: 'This money is set aside. Take that back first.' };
			const placed = (await placesOfPayment(paymentId, tx)).reduce((all, one) => all + one.left, 0);
			const left = payment.mode === 'live' ? partGratuity(payment).goods - placed : 0;
			const sum = whole.reduce((all, one) => all + one.minor, 0);
			if (sum > left) return { problem: `${say(sum)} is more than is left of this money: ${say(Math.max(0, left))}.` };
			const payers = new Set<string>();
			for (const { invoiceId, minor } of whole) {
				const invoice = await db.invoices.one({ id: invoiceId }, tx);
				if (!invoice || invoice.kind !== 'invoice' || invoice.approvedAt === null)
					return { problem: 'There is no such invoice.' };
				if (invoice.currency !== payment.currency)
					return { problem: `${invoice.number} is in ${invoice.currency}, and this money in ${payment.currency}.` };
				if (minor > invoice.open)
					return { problem: `Only ${say(invoice.open)} is open on ${invoice.number}, not ${say(minor)}.` };
				if (invoice.payerId) payers.add(invoice.payerId);
			}
			const touched = await keepPlaces(
				payment,
				whole.map((one) => ({ invoice: String(one.invoiceId), minor: one.minor })),
				why,
				by,
				tx
			);
			if (payers.size === 1 && !payment.payerId)
				await db.payments.update({ id: paymentId }, { payerId: [...payers][0]! }, tx);
			await settlePlaces(touched, [paymentId], tx);
			await note(
				payment,
				by,
				`placed ${say(sum)} on ${whole.length === 1 ? 'one invoice' : `${whole.length} invoices`}`,
				tx
			);
			return { says: `${say(sum)} is placed.` };
		})
	);
}

/** Takes what was placed back, from one invoice or from all. It can be placed again. */
export async function takePlacesBack(
	paymentId: number,
	invoiceId: number | undefined,
	by: string,
	locale: string
): Promise<PlacedByHand> {
	return done(
		await write(async (tx): Promise<PlacedByHand> => {
			const payment = await db.payments.one({ id: paymentId }, tx);
			if (!payment) return { problem: 'There is no such payment.' };
			const standing = (await placesOfPayment(paymentId, tx)).filter(
				(one) => !invoiceId || one.invoiceId === invoiceId
			);
			const sum = standing.reduce((all, one) => all + one.left, 0);
			if (!sum) return { says: 'Nothing of it is placed there any more.' };
			const touched = await takeBack(payment, sum, 'taken back by hand', by, tx, invoiceId);
			await settlePlaces(touched, [paymentId], tx);
			const say = formatAmount({ minor: sum, currency: payment.currency }, locale);
			await note(payment, by, `took ${say} back from where it was placed`, tx);
			return { says: `${say} is not placed any more. The invoice is open again.` };
		})
	);
}

/** Sets money aside: it is ours, but for nothing here. Nothing changes at the processor. Can be taken back. */
export async function setAside(paymentId: number, isAside: boolean, reason: string, by: string): Promise<PlacedByHand> {
	return done(
		await write(async (tx): Promise<PlacedByHand> => {
			const payment = await db.payments.one({ id: paymentId }, tx);
			if (!payment) return { problem: 'There is no such payment.' };
			if (isAside && !reason.trim()) return { problem: 'Say why, so that whoever looks next knows.' };
			const changes = {
				setAsideAt: isAside ? timeNow() : null,
				setAsideBy: isAside ? by : '',
				setAsideReason: isAside ? reason.trim().slice(0, 300) : ''
			};
			if (!(await db.moneyDetails.update({ paymentId }, changes, tx)))
				await db.moneyDetails.insert({ paymentId, ...changes }, tx);
			await noteUnplaced(paymentId, payment.payerId !== null, tx);
			await note(payment, by, isAside ? `set aside: ${reason.trim()}` : 'took back that it was set aside', tx);
			return { says: isAside ? 'The money is set aside.' : 'The money waits to be placed again.' };
		})
	);
}
