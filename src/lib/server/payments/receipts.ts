import { z } from 'zod';
import { AmountError, formatAmount, readTypedAmount } from '../../core/money';
import { dayPattern, formatDay, readDay } from '../../core/calendar';
import { maskCardNumbers } from '../../core/cards';
import { audit } from '../access';
import { db, write } from '../db';
import { tell } from '../signals/live';
import { keepFacts, recompute } from './record';
import { timeNow } from '../signals/clock';

export const WAYS_RECEIVED = ['cash', 'card at the door', 'credit transfer', 'cheque', 'other'] as const;

export const ReceiptForm = z.object({
	amount: z.string().trim().min(1, 'Give the amount that came.'),
	how: z.enum(WAYS_RECEIVED).default('credit transfer'),
	day: z.string().trim().min(1, 'Give the day it came.'),
	note: z.string().trim().max(300, 'At most 300 characters.').default(''),
	key: z.string().regex(/^[\w-]{8,60}$/)
});
export type ReceiptForm = z.infer<typeof ReceiptForm>;

export type Recorded = { readonly says: string; readonly eventId?: number } | { readonly problem: string };

/** Records what was received for an offline payment. Part and over-payment are taken as they are. */
export async function recordReceipt(
	paymentId: number,
	form: ReceiptForm,
	today: string,
	by: string,
	locale: string
): Promise<Recorded> {
	const payment = await db.payments.one({ id: paymentId });
	if (!payment?.offlineId) return { problem: 'Only offline payments are recorded by hand.' };
	const day = readDay(form.day, locale);
	if (!day) return { problem: `“${form.day}” is no day. Write it as ${dayPattern(locale)}.` };
	if (day > today) return { problem: `${formatDay(day, locale)} has not come yet.` };
	let minor: number;
	try {
		minor = readTypedAmount(form.amount, payment.currency, { locale }).amount.minor;
	} catch (error) {
		if (error instanceof AmountError) return { problem: error.message };
		throw error;
	}
	// recorded at noon of its day, or now when that is still to come
	const at = Math.min(Date.parse(`${day}T12:00:00Z`), timeNow());
	const result = await write(async (tx) => {
		const added = await keepFacts(
			paymentId,
			[
				{
					kind: 'received',
					at: Math.max(at, payment.createdAt),
					minor,
					object: form.key,
					detail: { how: form.how, note: maskCardNumbers(form.note) }
				}
			],
			by,
			tx
		);
		if (!added) return undefined;
		const event = (await db.paymentEvents.one({ paymentId, kind: 'received', object: form.key }, tx))!;
		const state = await recompute(paymentId, tx);
		await audit(
			{
				by,
				kind: 'payment',
				id: String(paymentId),
				name: payment.reference,
				act: `recorded ${formatAmount({ minor, currency: payment.currency }, locale)} received, ${form.how}`
			},
			tx
		);
		return { state, eventId: event.id };
	});
	tell('takings');
	if (!result) return { says: 'This receipt is recorded already; it was not recorded twice.' };
	const shown = (value: number) => formatAmount({ minor: value, currency: payment.currency }, locale);
	const { over } = result.state;
	return {
		eventId: result.eventId,
		says: `${shown(minor)} recorded. ${over === 0 ? 'The order is paid in full.' : over > 0 ? `${shown(over)} more than asked has come.` : `${shown(-over)} is still missing.`}`
	};
}

/** Reverses a receipt that was recorded by mistake: it stays to be seen, and counts no more. */
export async function reverseReceipt(paymentId: number, eventId: number, by: string): Promise<boolean> {
	const done = await write(async (tx) => {
		const event = await db.paymentEvents.one({ id: eventId, paymentId, kind: 'received' }, tx);
		if (!event) return false;
		const at = Math.max(timeNow(), event.at);
		const added = await keepFacts(paymentId, [{ kind: 'receipt reversed', at, object: event.object }], by, tx);
		if (!added) return false;
		await recompute(paymentId, tx);
		const payment = (await db.payments.one({ id: paymentId }, tx))!;
		await audit(
			{
				by,
				kind: 'payment',
				id: String(paymentId),
				name: payment.reference,
				act: 'reversed a recorded receipt',
				before: { minor: event.minor, at: event.at, detail: event.detail }
			},
			tx
		);
		return true;
	});
	tell('takings');
	return done;
}
