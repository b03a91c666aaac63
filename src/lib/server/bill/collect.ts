import { z } from 'zod';
import { dayPattern, formatDay, readDay } from '../../core/calendar';
import { debitSum, hasAddress, purposeOf, type BillTo } from '../../core/billing';
import { AmountError, formatAmount, readTypedAmount } from '../../core/money';
import { audit } from '../access';
import { orderWithin, privateAddressOf } from '../accept/addresses';
import { ownAddress } from '../connect/connections';
import { today } from '../connect/business';
import {
	creditOf,
	db,
	openDuesOf,
	write,
	type InvoiceRow,
	type OfflineMethodRow,
	type OrderRow,
	type PayerRow,
	type TillRow,
	type Tx
} from '../db';
import { placeByHand } from '../placing';
import { receiveByHand } from '../payments/byHand';
import { isBusy } from '../payments/orders';
import { WAYS_RECEIVED } from '../payments/receipts';
import { recordEvent } from '../events';
import { queue, type Message } from '../messages';
import type { Channel, MessageEvent } from '../../core/billing';
import { timeNow } from '../signals/clock';
import { approveWithin, approvesOnSending, done, type Acted } from './approve';
import { contentOf, problemsOf } from './drafts';
import { nextNumber, seriesOf } from './settings';

/** What of an invoice is to be paid now: its first open due, or all of it. */
export async function dueNow(row: InvoiceRow, all: boolean, tx?: Tx): Promise<number> {
	if (all) return Math.max(0, row.open - row.promised);
	const dues = await db.invoiceDues.find(
		{ invoiceId: row.id },
		{
			order: [
				['day', 'ASC'],
				['n', 'ASC']
			]
		},
		tx
	);
	// what is on its way fills the first dues
	let coming = row.promised;
	for (const due of dues) {
		const left = Math.max(0, due.open - coming);
		coming = Math.max(0, coming - due.open);
		if (left > 0) return left;
	}
	return 0;
}

export type Collecting =
	| { readonly address: string; readonly order: OrderRow }
	| { readonly problem: 'nothing to pay' | 'gone' | 'no till' | 'on its way' };

interface OrderAsk {
	readonly till: TillRow;
	readonly minor: number;
	readonly currency: string;
	readonly reference: string;
	readonly payer?: PayerRow;
	readonly mail: string;
	readonly name: string;
	readonly country: string;
	readonly purpose: string;
	readonly told: object;
	readonly outside: string;
}
/**
 * The order of something to pay: the one that is there and asks the same, or a new one in place of one that was never paid;
 * after one that was paid, the next number.
 */
async function orderFor(asked: OrderAsk, tx: Tx): Promise<OrderRow> {
	for (let n = 1; n < 1_000; n++) {
		const reference = n === 1 ? asked.reference : `${asked.reference}-${n}`;
		const known = await db.orders.one({ tillId: asked.till.id, reference, replacedBy: null }, tx);
		if (known) {
			const payments = await db.payments.find({ orderId: known.id }, {}, tx);
			if (known.paid > 0 || payments.some(isBusy)) continue;
		}
		const opened = await orderWithin(
			asked.till,
			{
				till: asked.till.slug,
				amount: { minor: asked.minor, currency: asked.currency },
				reference,
				name: asked.name,
				mail: asked.mail,
				country: asked.country,
				purpose: asked.purpose
			},
			true,
			tx,
			{ told: asked.told }
		);
		if ('order' in opened) {
			if (asked.outside && opened.order.outsideReference !== asked.outside)
				await db.orders.update({ id: opened.order.id }, { outsideReference: asked.outside, outsideAt: timeNow() }, tx);
			return opened.order;
		}
	}
	throw new Error('no reference is left for this order');
}
/** What is known of a payer's address and phone: who pays an invoice does not type it again. */
function knownOf(to: Pick<BillTo, 'name' | 'company' | 'street' | 'postcode' | 'city' | 'country'>, phone = '') {
	const { street, postcode, city, country } = to;
	const isWhole = hasAddress(to) && postcode;
	return {
		...(isWhole ? { address: { name: oneLine(to.company || to.name), street, postcode, city, country } } : {}),
		...(phone ? { phone } : {})
	};
}
const cut = (text: string, most: number) =>
	[...text].length > most ? `${[...text].slice(0, most - 1).join('')}…` : text;
const oneLine = (text: string) => text.replace(/\p{Cc}+/gu, ' ').trim();

/**
 * The address at which an invoice is paid, at its till, for its first open due or for all of it.
 * @param insists also while money for it is on its way
 * @param atMost what is left and not on its way, but no more than this, in minor units
 */
export async function payInvoice(
	id: number,
	{ all = false, insists = false, atMost }: { all?: boolean; insists?: boolean; atMost?: number } = {}
): Promise<Collecting> {
	return done(
		await write(async (tx): Promise<Collecting> => {
			const row = await db.invoices.one({ id }, tx);
			if (!row || row.kind !== 'invoice' || row.approvedAt === null) return { problem: 'gone' };
			const till = row.tillId ? await db.tills.one({ id: row.tillId }, tx) : undefined;
			if (!till) return { problem: 'no till' };
			if (row.open <= 0) return { problem: 'nothing to pay' };
			if (row.promised > 0 && !insists && atMost === undefined) return { problem: 'on its way' };
			// worked out here, so that what comes at this very moment is not asked for again
			const minor =
				atMost === undefined
					? (await dueNow(row, all, tx)) || row.open
					: debitSum({ announced: atMost, open: row.open, promised: row.promised });
			if (minor <= 0) return { problem: 'on its way' };
			const content = contentOf(row);
			const payer = row.payerId ? await db.payers.one({ id: row.payerId }, tx) : undefined;
			const { billTo } = content;
			const order = await orderFor(
				{
					till,
					minor,
					currency: row.currency,
					reference: cut(row.number, 36),
					mail: payer?.mail ?? billTo.mail,
					name: cut(oneLine(billTo.company || billTo.name || payer?.name || ''), 100),
					country: billTo.country || payer?.country || '',
					purpose: cut(oneLine(purposeOf(content.lines)), 120),
					told: {
						creditorReference: row.creditorReference,
						...knownOf(billTo, payer?.phone),
						...(payer?.language ? { language: payer.language } : {}),
						cancelTo: `${ownAddress()}/invoice/${row.token}`,
						returnTo: `${ownAddress()}/invoice/${row.token}`
					},
					outside: row.outsideReference
				},
				tx
			);
			await claim(order.id, { kind: 'invoice', invoiceId: id, payerId: row.payerId, payerMail: payer?.mail ?? '' }, tx);
			return { order, address: privateAddressOf(till, order) };
		})
	);
}

/** Notes what an order is for; the same order again is for the same. */
export async function claim(
	orderId: number,
	what: {
		readonly kind: 'invoice' | 'owed' | 'link';
		readonly invoiceId?: number;
		readonly invoiceIds?: readonly number[];
		readonly payerId?: string | null;
		readonly linkId?: string;
		readonly code?: string;
		readonly payerMail?: string;
	},
	tx: Tx
): Promise<void> {
	const row = {
		kind: what.kind,
		invoiceId: what.invoiceId ?? null,
		invoiceIds: JSON.stringify(what.invoiceIds ?? []),
		payerId: what.payerId ?? null,
		linkId: what.linkId ?? null,
		code: what.code ?? '',
		payerMail: what.payerMail ?? ''
	};
	if (!(await db.orderClaims.update({ orderId }, row, tx))) await db.orderClaims.insert({ orderId, ...row }, tx);
}

/**
 * The address at which a payer pays several invoices, or all that they owe in a currency. It is worked out now, not when the
 * message was sent.
 */
export async function payOwed(payerId: string, currency: string, chosen: readonly number[]): Promise<Collecting> {
	return done(
		await write(async (tx): Promise<Collecting> => {
			const payer = await db.payers.one({ id: payerId, removedAt: null }, tx);
			if (!payer) return { problem: 'gone' };
			const dues = await openDuesOf(payerId, currency, chosen, tx);
			const open = [...new Set(dues.map((one) => Number(one.invoice)))];
			if (!open.length) return { problem: 'nothing to pay' };
			// what is on its way whole is not paid again: none of this money is placed on it
			const rows = (await db.invoices.find({ id: open }, {}, tx)).filter((row) => row.open > row.promised);
			if (!rows.length) return { problem: 'on its way' };
			const minor = rows.reduce((all, row) => all + row.open - row.promised, 0);
			const ids = open.filter((id) => rows.some((row) => row.id === id));
			const oldest = rows.find((row) => row.id === ids[0])!;
			const till = oldest.tillId ? await db.tills.one({ id: oldest.tillId }, tx) : undefined;
			if (!till) return { problem: 'no till' };
			const numbers = rows.map((row) => row.number).sort();
			const order = await orderFor(
				{
					till,
					minor,
					currency,
					reference: cut(rows.length === 1 ? numbers[0]! : `${numbers[0]} +${rows.length - 1}`, 36),
					mail: payer.mail,
					name: cut(oneLine(payer.company || payer.name), 100),
					country: payer.country,
					purpose: cut(numbers.join(', '), 120),
					told: { ...knownOf(payer, payer.phone), ...(payer.language ? { language: payer.language } : {}) },
					outside: ''
				},
				tx
			);
			await claim(order.id, { kind: 'owed', invoiceIds: ids, payerId, payerMail: payer.mail }, tx);
			return { order, address: privateAddressOf(till, order) };
		})
	);
}

/** Uses what a payer holds as credit for an invoice, the oldest money first. */
export async function useCredit(id: number, by: string, locale: string): Promise<Acted> {
	const row = await db.invoices.one({ id });
	if (!row?.payerId || row.open <= 0) return { problem: 'Nothing is open on it.' };
	const held = (await creditOf(row.payerId)).find((one) => one.currency === row.currency);
	if (!held) return { problem: `The payer holds no credit in ${row.currency}.` };
	const payments = (
		await db.payments.find({ payerId: row.payerId, currency: row.currency }, { order: [['id', 'ASC']] })
	).filter((one) => one.unplaced > 0);
	let left = row.open;
	let placed = 0;
	for (const payment of payments) {
		const minor = Math.min(left, payment.unplaced);
		if (minor <= 0) break;
		const answer = await placeByHand(payment.id, [{ invoiceId: id, minor }], by, locale, 'credit used');
		if ('problem' in answer) return answer;
		left -= minor;
		placed += minor;
	}
	return {
		says: `${formatAmount({ minor: placed, currency: row.currency }, locale)} of the payer’s credit is placed on ${row.number}.`
	};
}

// Sending

export interface SendAsked {
	readonly channels: readonly Channel[];
	readonly event?: MessageEvent;
	/** the revision that was looked at, of a draft */
	readonly revision?: number;
}
/**
 * Sends an invoice or a quote, or reminds of it. A draft is approved by it, unless the business wants that to be done first.
 * What is sent is the cause: the same act twice sends once.
 */
export async function send(id: number, { channels, event, revision }: SendAsked, by: string): Promise<Acted> {
	const [day, approves] = await Promise.all([today(), approvesOnSending()]);
	return done(
		await write(async (tx): Promise<Acted> => {
			let row = await db.invoices.one({ id }, tx);
			if (!row) return { problem: 'It is gone.' };
			const isQuote = row.kind === 'quote';
			const payer = row.payerId ? await db.payers.one({ id: row.payerId }, tx) : undefined;
			if (!payer || payer.removedAt) return { problem: 'Choose the payer first: nobody could be written to.' };
			if (!channels.length) return { problem: 'Choose how it is sent.' };
			if (channels.includes('mail') && !payer.mail) return { problem: `${payer.name} has no mail address.` };
			if (channels.includes('text') && !payer.phone) return { problem: `${payer.name} has no phone to send texts to.` };
			if (row.state === 'draft') {
				if (revision !== undefined && revision !== row.revision)
					return { problem: 'It was changed since you looked at it. Look at it again, then send it.' };
				const problems = await problemsOf(row, tx);
				if (problems.length) return { problem: problems.join(' ') };
				if (isQuote) row = await numberQuote(row, day, tx);
				else if (approves) row = await approveWithin(row, by, day, tx);
				else return { problem: 'It must be approved first. Ask for approval.' };
			}
			if (row.voidAt !== null) return { problem: `${row.number} is void.` };
			const what: MessageEvent = event ?? (isQuote ? 'quote' : 'invoice');
			if (what === 'reminder' && row.open <= 0) return { problem: `Nothing is open on ${row.number}.` };
			const till = row.tillId ? await db.tills.one({ id: row.tillId }, tx) : undefined;
			const told: string[] = [];
			for (const channel of channels) {
				const message: Message = {
					event: what,
					// a reminder by hand is one a day; an invoice is sent once, and again from the outbox
					cause: what === 'reminder' ? `reminder ${row.id} ${day}` : `${what} ${row.id}`,
					about: { payer, invoice: row },
					channel,
					brandId: till?.brandId ?? '',
					by
				};
				const answer = await queue(message, tx);
				if (answer)
					told.push(answer.isNew ? `by ${channel}` : `by ${channel} (was sent already; send it again from Messages)`);
			}
			if (row.sentAt === null) {
				const at = timeNow();
				await db.invoices.update(
					{ id },
					{
						sentAt: at,
						changedAt: at,
						...(row.state === 'approved' ? { state: 'sent' } : isQuote && !row.answer ? { state: 'sent' } : {})
					},
					tx
				);
				await recordEvent(
					{
						kind: isQuote ? 'quote.sent' : 'invoice.sent',
						object: 'invoice',
						id,
						payload: { number: row.number, channels }
					},
					tx
				);
			}
			await audit(
				{
					by,
					kind: row.kind,
					id: String(id),
					name: row.number,
					act: `${what === 'reminder' ? 'reminded' : 'sent'} ${told.join(', ')}`
				},
				tx
			);
			return { says: `${row.number} ${what === 'reminder' ? 'is reminded of' : 'is sent'} ${told.join(' and ')}.` };
		})
	);
}

/** A quote gets its number when it is sent. */
async function numberQuote(row: InvoiceRow, day: string, tx: Tx): Promise<InvoiceRow> {
	const till = row.tillId ? await db.tills.one({ id: row.tillId }, tx) : undefined;
	const series = await seriesOf(till?.brandId ?? '', 'quote', tx);
	const number = await nextNumber(series, day, tx);
	await db.invoices.update({ id: row.id }, { number, seriesId: series.id, day, state: 'sent' }, tx);
	return (await db.invoices.one({ id: row.id }, tx))!;
}

/** The payer has opened their document. Told once, and counted. */
export async function noteOpened(row: InvoiceRow): Promise<void> {
	await write(async (tx) => {
		const now = (await db.invoices.one({ id: row.id }, tx))!;
		await db.invoices.update(
			{ id: row.id },
			{
				opened: now.opened + 1,
				openedAt: now.openedAt ?? timeNow(),
				...(now.kind === 'quote' && now.state === 'sent' ? { state: 'opened' } : {})
			},
			tx
		);
		if (now.openedAt === null)
			await recordEvent({ kind: 'invoice.opened', object: 'invoice', id: row.id, payload: { number: row.number } }, tx);
	});
}

// Offline money

export const MoneyForm = z.object({
	amount: z.string().trim().min(1, 'Give the amount that came.'),
	how: z.enum(WAYS_RECEIVED).default('cash'),
	day: z.string().trim().min(1, 'Give the day it came.'),
	note: z.string().trim().max(300, 'At most 300 characters.').default(''),
	key: z.string().regex(/^[\w-]{8,60}$/)
});
export type MoneyForm = z.infer<typeof MoneyForm>;

const KIND_OF: Readonly<Record<(typeof WAYS_RECEIVED)[number], string>> = {
	cash: 'cash',
	'card at the door': 'card-elsewhere',
	'credit transfer': 'credit-transfer',
	cheque: 'cheque',
	other: 'own'
};
/** The offline method that money of a kind is booked under; any of ours where there is none of it. */
export async function methodFor(how: (typeof WAYS_RECEIVED)[number], tx: Tx): Promise<OfflineMethodRow | undefined> {
	const methods = await db.offlineMethods.find({ removedAt: null }, { order: [['createdAt', 'ASC']] }, tx);
	return methods.find((one) => one.kind === KIND_OF[how]) ?? methods[0];
}

/** Records money that came for an invoice outside of any processor. Part and over-payment are taken as they are. */
export async function takeOffline(id: number, form: MoneyForm, by: string, locale: string): Promise<Acted> {
	const now = await today();
	const day = readDay(form.day, locale);
	if (!day) return { problem: `“${form.day}” is no day. Write it as ${dayPattern(locale)}.` };
	if (day > now) return { problem: `${formatDay(day, locale)} has not come yet.` };
	return done(
		await write(async (tx): Promise<Acted> => {
			const row = await db.invoices.one({ id }, tx);
			if (!row || row.kind !== 'invoice' || row.approvedAt === null) return { problem: 'There is no such invoice.' };
			let minor: number;
			try {
				minor = readTypedAmount(form.amount, row.currency, { locale }).amount.minor;
			} catch (error) {
				if (error instanceof AmountError) return { problem: error.message };
				throw error;
			}
			if (await db.paymentEvents.one({ object: form.key, kind: 'received' }, tx))
				return { says: 'This is recorded already; it was not recorded twice.' };
			const method = await methodFor(form.how, tx);
			if (!method) return { problem: 'Add an offline method under Connect first: money is booked under one.' };
			const till = row.tillId ? await db.tills.one({ id: row.tillId }, tx) : undefined;
			if (!till) return { problem: 'The invoice has no till.' };
			const payer = row.payerId ? await db.payers.one({ id: row.payerId }, tx) : undefined;
			const order = await orderFor(
				{
					till,
					minor,
					currency: row.currency,
					reference: cut(row.number, 36),
					mail: payer?.mail ?? '',
					name: cut(oneLine(row.payerName), 100),
					country: payer?.country ?? '',
					purpose: cut(oneLine(purposeOf(contentOf(row).lines)), 120),
					told: { creditorReference: row.creditorReference },
					outside: row.outsideReference
				},
				tx
			);
			await claim(order.id, { kind: 'invoice', invoiceId: id, payerId: row.payerId, payerMail: payer?.mail ?? '' }, tx);
			await receiveByHand(
				{
					method,
					order,
					currency: row.currency,
					minor,
					at: Math.min(Date.parse(`${day}T12:00:00Z`), timeNow()),
					reference: order.reference,
					creditorReference: row.creditorReference,
					payerName: row.payerName,
					payerMail: payer?.mail ?? '',
					payerId: row.payerId ?? undefined,
					how: form.how,
					note: form.note,
					key: form.key,
					by
				},
				tx
			);
			const say = (sum: number) => formatAmount({ minor: sum, currency: row.currency }, locale);
			await audit(
				{ by, kind: 'invoice', id: String(id), name: row.number, act: `recorded ${say(minor)} received, ${form.how}` },
				tx
			);
			const left = (await db.invoices.one({ id }, tx))!.open;
			return {
				says: `${say(minor)} recorded. ${left > 0 ? `${say(left)} is still open.` : `${row.number} is paid.`}${minor > row.open ? ` ${say(minor - row.open)} stands as the payer’s credit.` : ''}`
			};
		})
	);
}
