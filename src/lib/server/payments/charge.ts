import { cardTypeOf, refusedParts, type CardTypes, type ReportedCard } from '../../core/cards';
import { inZone } from '../../core/calendar';
import type { Consent } from '../../core/billing';
import { hasCard, type Offered } from '../../core/lineup';
import { referenceFor, type Ask } from '../../core/references';
import { randomId } from '../access';
import { areasOf } from '../ratecards';
import { speak } from '../speak/speak';
import { ConnectorError, type Connector, type Credentials, type Outcome } from '../connectors';
import {
	db,
	kindIdOf,
	write,
	type ConnectionRow,
	type OfflineMethodRow,
	type OrderRow,
	type PaymentRow,
	type StoredMethodRow,
	type TillRow,
	type Tx
} from '../db';
import { tell } from '../signals/live';
import { cancelling, performAction, refetch } from './actions';
import { recordEvent } from '../events';
import { beginAction } from './begin';
import { isBusy, openOrder, standingPayment } from './orders';
import { giveUp, keepFacts, voidHere } from './record';
import { cardOf, tokenOf } from './stored';
import { timeNow } from '../signals/clock';

/** What a payer chose at a till's page. */
export interface Chosen {
	readonly till: TillRow;
	readonly timeZone: string;
	readonly mode: 'test' | 'live';
	readonly ask: Ask;
	/** the signature of the address: it names the order */
	readonly sign: string;
	/** number of the published line-up, 0 where there is none */
	readonly version: number;
	readonly trial?: string;
	readonly offered: Offered;
	readonly details?: Details;
	/** what the payer adds for whoever served them, in minor units */
	readonly gratuity?: number;
	/** the reference that a transfer must carry, where the order has one of its own */
	readonly creditorReference?: string;
	/** the payer agreed that the processor keeps what they pay by */
	readonly keep?: { readonly payerId: string; readonly consent: Consent };
}

/** What is charged: a token of the processor's card fields, empty for what is no card, or a method that it keeps. */
export type Means = { readonly token: string } | { readonly stored: StoredMethodRow };

/** What a till asked and the payer told. */
export type Details = Readonly<Partial<Record<'address' | 'phone' | 'note', string>>>;

export type Choice =
	| { readonly payment: PaymentRow }
	/** refused before any charge */
	| { readonly notTaken: ReportedCard; readonly parts: string[] }
	/** the processor does not answer, or its card fields were open too long; nothing was charged */
	| { readonly trouble: 'silent' | 'too long'; readonly processor: string }
	/** the reference stands for another order, or this order was replaced */
	| { readonly trouble: 'conflict' | 'replaced' | 'ended' }
	/** the stored method ended while it was being chosen; nothing was charged */
	| { readonly trouble: 'stored over' };

/** Thrown to leave the transaction: the order cannot be paid so. */
class OrderTrouble extends Error {
	constructor(readonly trouble: 'conflict' | 'replaced' | 'ended') {
		super(trouble);
	}
}

/** Thrown to leave the transaction: what is stored cannot be charged any more. */
class StoredOver extends Error {}

async function orderOf({ till, ask, sign }: Chosen, tx: Tx): Promise<OrderRow> {
	const opened = await openOrder(till.id, ask, sign, false, tx);
	if ('order' in opened) return opened.order;
	throw new OrderTrouble('conflict' in opened ? 'conflict' : 'ended' in opened ? 'ended' : 'replaced');
}

/** How a payer comes to a till of a kind, as rate cards tell it. */
const ENTRY: Readonly<Record<string, string>> = { counter: 'present', plan: 'recurring' };

async function newPayment(
	chosen: Chosen,
	order: OrderRow,
	fields: Partial<PaymentRow>,
	card: ReportedCard | undefined,
	tx: Tx,
	storedId?: number
): Promise<PaymentRow> {
	const { till, ask, offered, mode, trial, gratuity = 0 } = chosen;
	const { offer, carrier } = offered;
	const at = timeNow();
	const row = await db.payments.insert(
		{
			origin: 'till',
			mode,
			trialId: trial ?? null,
			connectionId: carrier.kind === 'connection' ? carrier.id : null,
			offlineId: carrier.kind === 'offline' ? carrier.id : null,
			orderId: order.id,
			tillId: till.id,
			kindId: await kindIdOf(
				{
					method: offer.method,
					currency: ask.amount.currency,
					entry: ENTRY[till.kind] ?? 'online',
					scheme: card?.scheme || 'unknown',
					funding: card?.funding || 'unknown',
					issuer: card?.issuerCountry || 'unknown'
				},
				tx
			),
			method: offer.method,
			currency: ask.amount.currency,
			minor: ask.amount.minor + gratuity,
			gratuity,
			reference: ask.reference,
			payerName: ask.name,
			payerMail: ask.mail,
			card: card ? JSON.stringify(card) : null,
			stage: 'requested',
			reachedStep: 1,
			day: inZone(new Date(at), chosen.timeZone).day,
			orderedAt: at,
			createdAt: at,
			...fields
		},
		tx
	);
	await db.paymentRequests.insert(
		{
			paymentId: row.id,
			token: randomId(),
			version: chosen.version,
			offerId: offer.id,
			offerName: offer.name,
			standby: Number(offered.standby),
			details: JSON.stringify(chosen.details ?? {}),
			keep: chosen.keep ? JSON.stringify(chosen.keep.consent) : null,
			keepPayer: chosen.keep?.payerId ?? null,
			storedId: storedId ?? null
		},
		tx
	);
	if (storedId) await db.storedMethods.update({ id: storedId }, { usedAt: at }, tx);
	if (trial) await db.trials.update({ id: trial }, { paymentId: row.id }, tx);
	await keepFacts(row.id, [{ kind: 'requested', at, minor: row.minor, object: String(row.id) }], 'payer', tx);
	return (await db.payments.one({ id: row.id }, tx))!;
}

/** The open payment of an order by the same way: asked for again, it gives its next step again. */
const openByThisWay = (open: readonly PaymentRow[], { offered: { offer, carrier } }: Chosen): PaymentRow | undefined =>
	open.find((one) => one.method === offer.method && (one.connectionId ?? one.offlineId) === carrier.id);

/** A payer chooses an offline way: the order waits for the money, where it is a transfer under a reference of its own. */
export async function chooseOffline(chosen: Chosen, method: OfflineMethodRow | undefined): Promise<Choice> {
	try {
		const payment = await write(async (tx) => {
			const order = await orderOf(chosen, tx);
			const standing = await standingPayment(order.id, tx);
			if (standing) return standing;
			const open = await db.payments.find({ orderId: order.id, open: 1, taken: 0 }, {}, tx);
			const again = openByThisWay(open, chosen);
			if (again) return again;
			for (const one of open) await giveUp(one, 'Another way was chosen.', tx);
			const creditorReference =
				chosen.creditorReference ||
				(method?.referenceStyle === 'structured' ? referenceFor(chosen.ask.reference, order.id) : '');
			const made = await newPayment(chosen, order, { creditorReference }, undefined, tx);
			await recordEvent(
				{
					kind: 'payment.offline_chosen',
					object: 'payment',
					id: made.id,
					payload: { order: order.id, mode: made.mode, minor: made.minor, currency: made.currency, method: made.method }
				},
				tx
			);
			return made;
		});
		tell('takings');
		return { payment };
	} catch (error) {
		if (error instanceof OrderTrouble) return { trouble: error.trouble };
		throw error;
	}
}

/**
 * Begins a payment through a processor: a card by the token that its card fields gave, any other way as the processor
 * asks. A card's type is asked of the processor, not of the page, and refused before any charge when the offer does not
 * take it. There is one open payment of an order: another way's is cancelled at its processor before this one begins.
 */
export async function payThrough(
	chosen: Chosen,
	connection: ConnectionRow,
	means: Means,
	pausedSchemes: readonly string[],
	returnTo: (token: string) => string
): Promise<Choice> {
	const { offered } = chosen;
	const { method } = offered.offer;
	let card: ReportedCard | undefined;
	if (hasCard(method)) {
		if ('stored' in means) card = cardOf(means.stored);
		else
			try {
				card = await speak(connection, async (connector, credentials) =>
					connector.readToken?.(credentials, means.token)
				);
			} catch (error) {
				if (!(error instanceof ConnectorError)) throw error;
				return { trouble: 'silent', processor: connection.name };
			}
		if (!card) return { trouble: 'too long', processor: connection.name };
		const parts = await partsRefused(offered, card, connection, pausedSchemes);
		if (parts.length) return { notTaken: card, parts };
	}
	try {
		const before = await clearTheWay(chosen, 'stored' in means);
		if (before) return { payment: before };
		return { payment: await beginCharge(chosen, connection, means, card, returnTo) };
	} catch (error) {
		if (error instanceof StoredOver) return { trouble: 'stored over' };
		if (error instanceof OrderTrouble) return { trouble: error.trouble };
		throw error;
	}
}

/** The parts of a card's type that an offer does not take, if any. */
export const partsRefused = async (
	offered: Offered,
	card: ReportedCard,
	connection: ConnectionRow,
	pausedSchemes: readonly string[]
): Promise<string[]> =>
	pausedSchemes.includes(card.scheme)
		? ['scheme']
		: typesRefuse(offered.types, card, connection.accountCountry, await areasOf(connection.id));
const typesRefuse = (types: CardTypes | undefined, card: ReportedCard, country: string, areas: string[][]): string[] =>
	types ? refusedParts(types, cardTypeOf(card, country, areas)) : [];

/**
 * Sees to it that no other payment of the order is open.
 * @returns the payment that stands in the way: paid, on its way, not known, or begun by the very same way
 */
async function clearTheWay(chosen: Chosen, byStored: boolean): Promise<PaymentRow | undefined> {
	const found = await write(async (tx) => {
		const order = await orderOf(chosen, tx);
		const standing = await standingPayment(order.id, tx);
		if (standing) return { standing };
		const open = await db.payments.find({ orderId: order.id, open: 1, taken: 0 }, {}, tx);
		// a card is given anew each time; what waits for the payer elsewhere is gone on with, unless they now pay by what is
		// stored, or agree to something else
		const again = byStored || hasCard(chosen.offered.offer.method) ? undefined : openByThisWay(open, chosen);
		if (again) {
			const request = await db.paymentRequests.one({ paymentId: again.id }, tx);
			if (((request?.keep ?? null) !== null) === (chosen.keep !== undefined)) return { standing: again };
		}
		const cancels: { payment: PaymentRow; key: string }[] = [];
		for (const payment of open)
			if (payment.connectionId === null || !payment.processorId) await giveUp(payment, 'Another way was begun.', tx);
			else {
				const key = `jp-${randomId()}`;
				await beginAction({ key, payment, act: 'cancel', minor: payment.minor }, tx);
				cancels.push({ payment, key });
			}
		return { cancels };
	});
	for (const { payment, key } of found.cancels ?? []) {
		const stays = await cancelFirst(payment, key);
		if (stays) return stays;
	}
	return found.standing;
}

/** Cancels a payment before another begins. @returns it, where the payer was faster and it is paid or on its way */
async function cancelFirst(payment: PaymentRow, key: string): Promise<PaymentRow | undefined> {
	const connection = (await db.connections.one({ id: payment.connectionId! }))!;
	const ended = await performAction(
		{ key, act: 'cancel', paymentId: payment.id },
		payment,
		connection,
		cancelling(key, payment)
	);
	let now = (await db.payments.one({ id: payment.id }))!;
	if (ended.state === 'refused')
		try {
			now = await refetch(now, connection);
		} catch (error) {
			if (!(error instanceof ConnectorError)) throw error;
		}
	if (isBusy(now)) return now;
	// whatever became of the cancelling, this payment is not open here any more; the worker goes on asking
	if (now.open) await write((tx) => voidHere(now.id, 'Another way was begun.', tx));
	return undefined;
}

async function beginCharge(
	chosen: Chosen,
	connection: ConnectionRow,
	means: Means,
	card: ReportedCard | undefined,
	returnTo: (token: string) => string
): Promise<PaymentRow> {
	const stored = 'stored' in means ? means.stored : undefined;
	const token = 'token' in means ? means.token : '';
	const { ask, offered, keep } = chosen;
	const { method } = offered.offer;
	const key = `jp-${randomId()}`;
	const begun = await write(async (tx) => {
		const order = await orderOf(chosen, tx);
		const standing = await standingPayment(order.id, tx);
		if (standing) return { payment: standing };
		// somebody else may have begun meanwhile, in another tab
		const open = await db.payments.find({ orderId: order.id, open: 1, taken: 0 }, {}, tx);
		if (open[0]) return { payment: open[0] };
		// nor may what is stored have ended meanwhile: at the desk, or by its payer in another tab
		if (stored && !(await db.storedMethods.one({ id: stored.id, state: 'active' }, tx))) throw new StoredOver();
		const payment = await newPayment(
			chosen,
			order,
			{ processor: connection.processor, accountId: connection.accountId },
			card,
			tx,
			stored?.id
		);
		const more = stored ? `stored ${stored.id}` : token;
		await beginAction({ key, payment, act: 'charge', minor: payment.minor, more }, tx);
		return { payment, isNew: true };
	});
	const { payment } = begun;
	if (!begun.isNew) return payment;
	tell('takings');
	const request = (await db.paymentRequests.one({ paymentId: payment.id }))!;
	const charge = (connector: Connector, credentials: Credentials): Promise<Outcome> =>
		connector.charge(credentials, {
			key,
			method,
			token: card && !stored ? token : undefined,
			stored: stored && tokenOf(stored),
			keep: keep !== undefined,
			amount: { minor: payment.minor, currency: ask.amount.currency },
			ours: request.token,
			descriptor: connection.descriptor,
			shortDescriptor: connection.shortDescriptor || undefined,
			capture: offered.offer.capture === 'as the account' ? connection.capture : offered.offer.capture,
			returnTo: returnTo(request.token),
			payer: { name: ask.name, mail: ask.mail, country: ask.country }
		});
	await performAction({ key, act: 'charge', paymentId: payment.id }, payment, connection, charge);
	return (await db.payments.one({ id: payment.id }))!;
}

const askedAfter = new Map<string, number>();

/**
 * Asks the processor how a payment stands whose payer has just come back, so that they need not wait for the
 * notification. At most every two seconds.
 */
export async function askAfter(payment: PaymentRow, token: string, isWaiting: boolean): Promise<PaymentRow> {
	if (!payment.connectionId || !payment.processorId || !isWaiting) return payment;
	const now = timeNow();
	if (now - (askedAfter.get(token) ?? 0) < 2_000) return payment;
	if (askedAfter.size > 5_000) askedAfter.clear();
	askedAfter.set(token, now);
	const connection = await db.connections.one({ id: payment.connectionId });
	if (!connection || connection.removedAt) return payment;
	try {
		return await refetch(payment, connection);
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return payment;
	}
}
