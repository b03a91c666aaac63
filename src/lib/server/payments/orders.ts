import type { Ask } from '../../core/references';
import { db, type ActionRow, type OrderRow, type PaymentRow, type Tx } from '../db';
import { giveUp } from './record';
import { timeNow } from '../signals/clock';

/** The order of a payment that was begun at a till, and the charge whose outcome is being asked after, if there is one. */
export async function orderBehind(
	payment: Pick<PaymentRow, 'id' | 'orderId'>
): Promise<{ order: OrderRow; asking?: ActionRow }> {
	const [order, actions] = await Promise.all([
		db.orders.one({ id: payment.orderId! }),
		db.actions.find({ paymentId: payment.id, act: 'charge', state: ['unknown', 'stuck'] })
	]);
	return { order: order!, asking: actions[0] };
}

/** The order that a payment is of, if it is of one. */
export const orderOfPayment = async (paymentId: number): Promise<number | undefined> =>
	(await db.payments.one({ id: paymentId }))?.orderId ?? undefined;

/** What only some orders tell: kept, so that the order can be shown and paid again as it was. */
const moreOf = ({ goods, delivery, domain, recurring, ordered }: Ask) => ({
	goods,
	delivery,
	domain,
	recurring,
	ordered
});

export type Opened =
	| { readonly order: OrderRow; readonly isNew: boolean }
	/** the same reference stands for another order already */
	| { readonly conflict: OrderRow; readonly isBusy: boolean }
	/** this order was replaced by a later one */
	| { readonly replaced: OrderRow };

/** How a payer's name is compared: without case, width and doubled spaces. */
const plainName = (name: string): string => name.normalize('NFKC').toLowerCase().replace(/\s+/g, ' ').trim();

/** One payer: by the mail address where both orders tell one, else by the name. */
const samePayer = (a: Pick<Ask, 'name' | 'mail'>, b: Pick<Ask, 'name' | 'mail'>): boolean =>
	a.mail && b.mail
		? a.mail.trim().toLowerCase() === b.mail.trim().toLowerCase()
		: plainName(a.name) === plainName(b.name);

/** Whether an order asks for the same sum of the same payer. */
export const isSameOrder = (order: Pick<OrderRow, 'currency' | 'minor' | 'name' | 'mail'>, ask: Ask): boolean =>
	order.currency === ask.amount.currency && order.minor === ask.amount.minor && samePayer(order, ask);

/** Payments of an order that are paid, or whose money is on its way or not known: no other may begin beside them. */
export function isBusy(payment: Pick<PaymentRow, 'open' | 'taken' | 'stage'>): boolean {
	return payment.taken > 0 || (payment.open === 1 && payment.stage !== 'requested');
}

/**
 * Finds or makes the order of a reference. A reference is one order at a till: another sum, currency or payer under it is a
 * conflict, unless it is said to replace the earlier one and nothing was paid or is on its way.
 */
export async function openOrder(tillId: string, ask: Ask, sign: string, replace: boolean, tx: Tx): Promise<Opened> {
	const signed = await db.orders.one({ tillId, sign }, tx);
	if (signed?.replacedBy) return { replaced: signed };
	if (signed) return { order: signed, isNew: false };
	const known = await db.orders.one({ tillId, reference: ask.reference, replacedBy: null }, tx);
	if (known && isSameOrder(known, ask)) return { order: known, isNew: false };
	if (known) {
		const payments = await db.payments.find({ orderId: known.id }, {}, tx);
		const charging = payments.length
			? await db.actions.find(
					{ paymentId: payments.map((one) => one.id), act: 'charge', state: ['unknown', 'stuck'] },
					{},
					tx
				)
			: [];
		const busy = payments.some(isBusy) || charging.length > 0;
		if (!replace || busy) return { conflict: known, isBusy: busy };
		for (const payment of payments)
			if (payment.open && !payment.taken) await giveUp(payment, 'The order was replaced.', tx);
		// out of the way of the new one: which that is, is told below
		await db.orders.update({ id: known.id }, { replacedBy: known.id }, tx);
	}
	const { minor, currency } = ask.amount;
	const order = await db.orders.insert(
		{
			tillId,
			sign,
			reference: ask.reference,
			currency,
			minor,
			name: ask.name,
			mail: ask.mail,
			country: ask.country,
			purpose: ask.purpose,
			more: JSON.stringify(moreOf(ask)),
			createdAt: timeNow()
		},
		tx
	);
	if (known) await db.orders.update({ id: known.id }, { replacedBy: order.id }, tx);
	return { order: { ...order, paid: 0, replacedBy: null }, isNew: true };
}

/** The payment of an order that shows how it stands: what is paid or may be, else nothing. */
export async function standingPayment(orderId: number, tx?: Tx): Promise<PaymentRow | undefined> {
	const payments = await db.payments.find({ orderId, open: 1 }, { order: [['id', 'DESC']] }, tx);
	const unknown = payments.length
		? new Set(
				(
					await db.actions.find(
						{ paymentId: payments.map((one) => one.id), act: 'charge', state: ['unknown', 'stuck'] },
						{},
						tx
					)
				).map((one) => one.paymentId)
			)
		: new Set<number>();
	return payments.find((one) => isBusy(one)) ?? payments.find((one) => unknown.has(one.id));
}
