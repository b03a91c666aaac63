import { createHmac } from 'node:crypto';
import type { Ask } from '../../core/references';
import { audit } from '../access';
import { db, write, type ActionRow, type OrderRow, type PaymentRow, type Tx } from '../db';
import { giveUp } from './record';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';

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

/** Whether an order can be paid no more: it was cancelled, or its time is over, and nothing was paid. */
export const hasEnded = (order: Pick<OrderRow, 'cancelledAt' | 'expiresAt' | 'paid'>, now = timeNow()): boolean =>
	order.cancelledAt !== null || (order.expiresAt !== null && order.expiresAt <= now && order.paid === 0);

/** Where an order stands, as the interface tells it. */
export const ORDER_STATES = [
	'open',
	'part paid',
	'paid',
	'part refunded',
	'refunded',
	'cancelled',
	'expired',
	'replaced'
] as const;
export type OrderState = (typeof ORDER_STATES)[number];
/** @param came what its payments brought, whatever went back since; what a bank took back did not come */
export function orderState(order: OrderRow, came: number, now = timeNow()): OrderState {
	if (order.replacedBy !== null) return 'replaced';
	if (order.cancelledAt !== null) return 'cancelled';
	if (order.paid >= order.minor) return 'paid';
	if (came >= order.minor) return order.paid > 0 ? 'part refunded' : 'refunded';
	if (order.paid > 0) return 'part paid';
	return hasEnded(order, now) ? 'expired' : 'open';
}

/**
 * Cancels an order that nothing was paid for: what is open for it is given up, and its address says so.
 * @returns what is wrong, if anything is
 */
export async function cancelOrder(orderId: number, by: string): Promise<string | undefined> {
	const problem = await write(async (tx) => {
		const order = await db.orders.one({ id: orderId }, tx);
		if (!order) return 'There is no such checkout.';
		if (order.cancelledAt !== null) return undefined;
		const payments = await db.payments.find({ orderId }, {}, tx);
		const charging = payments.length
			? await db.actions.count(
					{ paymentId: payments.map((one) => one.id), act: 'charge', state: ['unknown', 'stuck'] },
					tx
				)
			: 0;
		if (charging || payments.some(isBusy)) return 'It is paid, or its money is on its way. Refund it instead.';
		for (const payment of payments)
			if (payment.open && !payment.taken) await giveUp(payment, 'The order was cancelled.', tx);
		await db.orders.update({ id: orderId }, { cancelledAt: timeNow() }, tx);
		await audit({ by, kind: 'order', id: String(orderId), name: order.reference, act: 'cancelled' }, tx);
		return undefined;
	});
	tell('takings');
	return problem;
}

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
	| { readonly replaced: OrderRow }
	/** this order was cancelled, or its time is over */
	| { readonly ended: OrderRow };

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

/** What a shop told of an order through the interface; every part may be missing. */
export interface ToldByShop {
	readonly lines?: readonly { readonly name: string; readonly quantity: number; readonly amountMinor: number }[];
	readonly address?: {
		readonly name: string;
		readonly street: string;
		readonly postcode: string;
		readonly city: string;
		readonly country: string;
	};
	readonly phone?: string;
	readonly language?: string;
	readonly returnTo?: string;
	readonly cancelTo?: string;
	/** offers of the line-up that it is narrowed to */
	readonly ways?: readonly string[];
	/** the reference that a transfer for it must carry */
	readonly creditorReference?: string;
	/** what the payer gave in a link's own fields */
	readonly fields?: readonly { readonly label: string; readonly value: string }[];
	readonly taxNumber?: string;
	/** the token that made it, by whose digest what comes back to the shop is signed */
	readonly tokenId?: string;
}
export const readTold = (more = '{}'): ToldByShop => JSON.parse(more || '{}') as ToldByShop;

/**
 * Where a payer goes on to after paying, as the shop asked: with checkout, reference and state, and their HMAC-SHA-256 under
 * the hex SHA-256 of the token that made the checkout, base64url, so that the shop can check them.
 */
export async function returnAddress(order: OrderRow): Promise<string | undefined> {
	const { returnTo, tokenId } = readTold(order.more);
	if (!returnTo) return undefined;
	const token = tokenId ? await db.tokens.one({ id: tokenId }) : undefined;
	const address = new URL(returnTo);
	const values: [string, string][] = [
		['checkout', String(order.id)],
		['reference', order.reference],
		['state', orderState(order, order.paid)]
	];
	for (const [name, value] of values) address.searchParams.set(name, value);
	if (token)
		address.searchParams.set(
			'sign',
			createHmac('sha256', token.hash)
				.update(values.map(([, value]) => value).join('\n'))
				.digest('base64url')
		);
	return address.toString();
}

/** What a shop may tell of an order. */
export interface ToldOrder {
	readonly told?: object;
	/** milliseconds since 1970 */
	readonly expiresAt?: number | null;
}

/**
 * Finds or makes the order of a reference. A reference is one order at a till: another sum, currency or payer under it is a
 * conflict, unless it is said to replace the earlier one and nothing was paid or is on its way.
 * @param told what the shop told of the order beside what it asks, kept where it is new
 */
export async function openOrder(
	tillId: string,
	ask: Ask,
	sign: string,
	replace: boolean,
	tx: Tx,
	{ told = {}, expiresAt = null }: ToldOrder = {}
): Promise<Opened> {
	const signed = await db.orders.one({ tillId, sign }, tx);
	if (signed?.replacedBy) return { replaced: signed };
	if (signed && hasEnded(signed) && !replace) return { ended: signed };
	if (signed && !hasEnded(signed)) return { order: signed, isNew: false };
	const known = await db.orders.one({ tillId, reference: ask.reference, replacedBy: null }, tx);
	if (known && hasEnded(known) && !replace) return { ended: known };
	if (known && !hasEnded(known) && isSameOrder(known, ask)) return { order: known, isNew: false };
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
			// an order that ended keeps the address that told it all; this one is found by its number
			sign: signed ? `${sign}~${signed.id}` : sign,
			reference: ask.reference,
			currency,
			minor,
			name: ask.name,
			mail: ask.mail,
			country: ask.country,
			purpose: ask.purpose,
			more: JSON.stringify({ ...moreOf(ask), ...told }),
			expiresAt,
			createdAt: timeNow()
		},
		tx
	);
	if (known) await db.orders.update({ id: known.id }, { replacedBy: order.id }, tx);
	return { order: (await db.orders.one({ id: order.id }, tx))!, isNew: true };
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
