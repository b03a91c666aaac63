import type { Channel } from '../../core/billing';
import { db, type EventRow, type OrderClaimRow, type OrderRow, type PaymentRow, type Tx } from '../db';
import { snapshot } from '../accept/snapshot';
import { nameOfStored } from '../accept/storedWays';
import { readEvents } from '../events';
import { certaintyOfPayment } from '../payments/certain';
import { readTold } from '../payments/orders';
import { requestOfPayment } from '../payments/requests';
import { timeNow } from '../signals/clock';
import type { About } from './compose';
import { queue } from './outbox';

// What happened is told to whom it concerns: receipts, refunds, instructions, references; and to the business, what was paid.

interface Case {
	readonly payment: PaymentRow;
	readonly order?: OrderRow;
	readonly claim?: OrderClaimRow;
	readonly about: About;
	readonly language?: string;
	readonly to?: string;
}

/** Everything that a message about a payment can tell. Payments that nobody billed for are told by the shop itself. */
async function caseOf(paymentId: number, tx: Tx): Promise<Case | undefined> {
	const payment = await db.payments.one({ id: paymentId }, tx);
	if (!payment || payment.mode !== 'live' || payment.trialId !== null) return undefined;
	const order = payment.orderId === null ? undefined : await db.orders.one({ id: payment.orderId }, tx);
	const claim = order && (await db.orderClaims.one({ orderId: order.id }, tx));
	const payerId = claim?.payerId ?? payment.payerId;
	const payer = payerId ? await db.payers.one({ id: payerId }, tx) : undefined;
	const place = claim?.invoiceId ?? (await db.places.one({ paymentId }, tx))?.invoiceId;
	const invoice = place ? await db.invoices.one({ id: place }, tx) : undefined;
	const method = payment.offlineId ? await db.offlineMethods.one({ id: payment.offlineId }, tx) : undefined;
	return {
		payment,
		order,
		claim,
		language: readTold(order?.more).language,
		to: payer ? undefined : order?.mail || payment.payerMail || undefined,
		about: {
			payer,
			invoice,
			payment,
			order,
			method,
			token: (await requestOfPayment(paymentId))?.token,
			name: order?.name
		}
	};
}

/** Whether whoever pays a link gets a receipt, and whether the business is told. */
async function rulesOf(claim: OrderClaimRow | undefined, tx: Tx): Promise<{ receipt: boolean; told: boolean }> {
	if (!claim) return { receipt: false, told: false };
	if (claim.kind !== 'link') return { receipt: true, told: true };
	const link = await db.payLinks.one({ id: claim.linkId! }, tx);
	if (!link) return { receipt: false, told: false };
	const { sendsReceipt, tellsBusiness } = db.payLinks.json.settings(link.settings);
	return { receipt: sendsReceipt, told: tellsBusiness };
}

/** The channel by which a payer is written to. */
export const channelOf = ({ payer }: Pick<About, 'payer'>): Channel =>
	payer && payer.channel === 'text' && payer.phone
		? 'text'
		: payer?.channel === 'page' && !payer.mail
			? 'page'
			: 'mail';

const OLD_NEWS_MS = 7 * 86_400_000;

async function tellCaptured(event: EventRow, tx: Tx): Promise<void> {
	const of = await caseOf(Number(event.objectId), tx);
	if (!of) return;
	const { minor, taken } = db.events.json.payload(event.payload) as { minor: number; taken: number };
	// what a settlement file tells of long ago is no news to its payer
	if (of.payment.origin === 'file' && timeNow() - (of.payment.capturedAt ?? 0) > OLD_NEWS_MS) return;
	const rules = await rulesOf(of.claim, tx);
	const about = { ...of.about, paidMinor: minor };
	if (rules.receipt || (!of.claim && of.payment.placed > 0))
		await queue(
			{
				event: 'receipt',
				cause: `receipt ${of.payment.id} ${taken}`,
				about,
				channel: channelOf(about),
				to: of.to,
				language: of.language,
				by: 'itself'
			},
			tx
		);
	if (rules.told) {
		const { billing } = (await db.business.one({ id: 1 }, tx))!;
		for (const to of db.business.json.billing(billing).tellPaid)
			await queue(
				{
					event: 'told paid',
					cause: `told ${of.payment.id} ${taken} ${to}`,
					about,
					channel: 'mail',
					to,
					toName: '',
					language: 'en',
					by: 'itself'
				},
				tx
			);
	}
	if (of.order?.outsideReference) await tellReference(of.order, tx);
}

async function tellRefunded(event: EventRow, tx: Tx): Promise<void> {
	const of = await caseOf(Number(event.objectId), tx);
	if (!of || !(await rulesOf(of.claim, tx)).receipt) return;
	const { minor, refunded } = db.events.json.payload(event.payload) as { minor: number; refunded: number };
	const about = { ...of.about, refundMinor: minor };
	await queue(
		{
			event: 'refund',
			cause: `refund ${of.payment.id} ${refunded}`,
			about,
			channel: channelOf(about),
			to: of.to,
			language: of.language,
			by: 'itself'
		},
		tx
	);
}

async function tellChosen(event: EventRow, tx: Tx): Promise<void> {
	const of = await caseOf(Number(event.objectId), tx);
	if (!of?.claim || !of.about.method) return;
	await queue(
		{
			event: 'offline chosen',
			cause: `offline ${of.payment.id}`,
			about: of.about,
			channel: channelOf(of.about),
			to: of.to,
			language: of.language,
			by: 'itself'
		},
		tx
	);
}

/** Whoever pays by bank debit has sum and day in writing before the bank collects, with the mandate that it does it by. */
async function tellDebit(event: EventRow, tx: Tx): Promise<void> {
	const of = await caseOf(Number(event.objectId), tx);
	if (!of || of.payment.method !== 'bank-debit' || !(of.claim || of.about.payer)) return;
	// what was announced was told already, as long before as the payer agreed to
	if (of.order && (await db.announcedDebits.one({ orderId: of.order.id }, tx))) return;
	const request = await db.paymentRequests.one({ paymentId: of.payment.id }, tx);
	const mandate = request?.mandate ? db.paymentRequests.json.mandate(request.mandate) : undefined;
	const connection = (await snapshot()).connections.get(of.payment.connectionId ?? '');
	if (!mandate || !connection) return;
	const { expected } = certaintyOfPayment(of.payment, connection, 'when settled', 'en-GB');
	if (!expected) return;
	const about = { ...of.about, debit: { day: expected, mandate } };
	await queue(
		{
			event: 'bank debit',
			cause: `bank debit ${of.payment.id}`,
			about,
			channel: channelOf(about),
			to: of.to,
			language: of.language,
			by: 'itself'
		},
		tx
	);
}

/** What an outside program calls an order is told by the rule of its till: never, at once, or once it is paid. */
async function tellReference(order: OrderRow, tx: Tx): Promise<void> {
	const till = await db.tills.one({ id: order.tillId }, tx);
	const rule = till ? db.tills.json.settings(till.settings).tellsOutside : 'never';
	if (rule === 'never' || (rule === 'once it is paid' && order.paid < order.minor) || !order.outsideReference) return;
	const claim = await db.orderClaims.one({ orderId: order.id }, tx);
	const payer = claim?.payerId ? await db.payers.one({ id: claim.payerId }, tx) : undefined;
	const invoice = claim?.invoiceId ? await db.invoices.one({ id: claim.invoiceId }, tx) : undefined;
	const about: About = { payer, invoice, order, name: order.name };
	await queue(
		{
			event: 'reference set',
			cause: `reference ${order.id} ${order.outsideReference}`,
			about,
			channel: channelOf(about),
			to: payer ? undefined : order.mail || undefined,
			language: readTold(order.more).language,
			by: 'itself'
		},
		tx
	);
}

/** A payer is told that a method is kept, and asked to renew a card before it ends. */
async function tellStored(event: EventRow, name: 'method stored' | 'card ends', tx: Tx): Promise<void> {
	const row = await db.storedMethods.one({ id: Number(event.objectId) }, tx);
	const payer = row && (await db.payers.one({ id: row.payerId, removedAt: null }, tx));
	if (!payer || row.state === 'ended' || row.mode !== 'live') return;
	const { schemeNames } = await snapshot();
	const { noticeDays } = db.storedMethods.json.consent(row.consent);
	const about: About = { payer, stored: { name: nameOfStored(row, schemeNames), expires: row.expires, noticeDays } };
	await queue(
		{ event: name, cause: `${name} ${row.id} ${row.expires}`, about, channel: channelOf(about), by: 'itself' },
		tx
	);
}

/** Which events are told by messages, and how. */
const TOLD: Partial<Record<string, (event: EventRow, tx: Tx) => Promise<void>>> = {
	'payment.captured': tellCaptured,
	'payment.refunded': tellRefunded,
	'payment.pending': tellDebit,
	'payment.offline_chosen': tellChosen,
	'stored_method.stored': (event, tx) => tellStored(event, 'method stored', tx),
	'stored_method.ending': (event, tx) => tellStored(event, 'card ends', tx),
	'order.referenced': async (event, tx) => {
		const order = await db.orders.one({ id: Number(event.objectId) }, tx);
		if (order) await tellReference(order, tx);
	}
};

/** Makes messages of what happened since it was looked at last. @returns how much that was */
export const tellEvents = (): Promise<number> =>
	readEvents('messages', (event) => {
		const act = TOLD[event.kind];
		return act && ((tx) => act(event, tx));
	});
