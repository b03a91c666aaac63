import { cardTypeOf, refusedParts, type CardTypes, type ReportedCard } from '../../core/cards';
import { hasCard, offeredOnly, type Offered } from '../../core/lineup';
import { readAddress, type AddressProblem, type Ask } from '../../core/references';
import { randomId } from '../access';
import { contextOf, payerFacts, type Asking } from '../accept/ask';
import { lineUpsOf } from '../accept/lineups';
import { snapshot, type OpenTill, type Snapshot } from '../accept/snapshot';
import { openTrial } from '../accept/trials';
import { ownAddress } from '../connect/connections';
import { referenceFor } from '../connect/offline';
import { speak } from '../connect/speak';
import { ConnectorError, type Outcome } from '../connectors';
import { db, write, type PaymentRow, type Tx } from '../db';
import { tell } from '../live';
import { wake } from '../work/wake';
import { keepReport, recompute } from './record';
import { rateCardAreas } from './areas';

/** What a payer's page needs: what is asked, and what is offered. */
export interface Visit {
	readonly till: OpenTill;
	readonly ask: Ask;
	readonly asking: Asking;
	readonly sign: string;
	readonly offered: Offered[];
	readonly held: Snapshot;
	readonly mode: 'test' | 'live';
	/** the trial payment that this is, if it is one */
	readonly trial?: string;
}

export type Arrival =
	| { readonly visit: Visit }
	| { readonly unknownTill: true }
	| { readonly till: OpenTill; readonly problems: AddressProblem[] };

/** What an administrator sees at a payer's page beside what is published. */
export type Preview =
	| { readonly trial: string }
	| { readonly draft: boolean; readonly groups?: readonly string[]; readonly hasOnlineMethod?: boolean };

/** Reads the address a payer came by, and works out what they are offered. Keeps nothing. */
export async function visit(slug: string, query: string, preview?: Preview): Promise<Arrival> {
	const held = await snapshot();
	const till = held.tills.get(slug);
	if (!till) return { unknownTill: true };
	const read = readAddress(slug, query, [till.key]);
	if ('problems' in read) return { till, problems: read.problems };
	const { ask, sign } = read;
	if (!till.currencies.includes(ask.amount.currency))
		return { till, problems: [{ field: 'currency', says: `${till.row.name} does not take ${ask.amount.currency}.` }] };
	let asking = await askingOf(ask);
	if (preview && 'draft' in preview) {
		const { groups, hasOnlineMethod } = preview;
		asking = {
			...asking,
			...(groups ? { groups } : {}),
			...(hasOnlineMethod === undefined ? {} : { hasOnlineMethod })
		};
	}
	let lineUp = till.published?.lineUp;
	let { mode } = till.row;
	let trial: string | undefined;
	if (preview && 'trial' in preview) {
		const open = await openTrial(preview.trial, till.row.id);
		if (!open || !query.startsWith(open.row.query))
			return {
				till,
				problems: [{ field: 'address', says: 'This trial payment is over. Begin a new one at the till.' }]
			};
		lineUp = open.lineUp;
		mode = 'test';
		trial = open.row.id;
	} else if (preview?.draft) lineUp = (await lineUpsOf(till.row.id)).draft?.offers ?? lineUp;
	const context = { ...contextOf(till, asking, held, new Date()), mode };
	const offered = lineUp ? offeredOnly(lineUp, context, held.states) : [];
	return { visit: { till, ask, asking, sign, offered, held, mode, trial } };
}

/** What an order tells of its payer, with what is known of them by their mail address. What the order says counts first. */
export async function askingOf(ask: Ask): Promise<Asking> {
	const facts = await payerFacts(ask.mail);
	return {
		...facts,
		currency: ask.amount.currency,
		minor: ask.amount.minor,
		country: ask.country || facts.country,
		goods: ask.goods,
		delivery: ask.delivery,
		domain: ask.domain,
		...(ask.recurring ? { recurring: true } : {}),
		orderedBy: ask.ordered ?? 'page'
	};
}

/** Counts what was lost: a payer who met nothing, or whose card was not taken. The same visit counts once. */
export async function noteUnmet(
	{ till, ask, asking }: Visit,
	kind: 'nothing offered' | 'card type',
	card?: ReportedCard
): Promise<void> {
	const { currency: _, minor: __, ...known } = asking;
	const context = JSON.stringify({
		...known,
		...(card ? { scheme: card.scheme, funding: card.funding, issuerCountry: card.issuerCountry } : {})
	});
	await write((tx) =>
		db.unmet.insertMany(
			[
				{
					tillId: till.row.id,
					at: Date.now(),
					kind,
					currency: ask.amount.currency,
					minor: ask.amount.minor,
					reference: ask.reference,
					context
				}
			],
			tx,
			{ keepOld: true }
		)
	);
}

/** Something of this order is paid, or may be: no second payment begins. */
export async function standing(visit: Visit, tx?: Tx): Promise<PaymentRow | undefined> {
	const checkout = await db.checkouts.one({ tillId: visit.till.row.id, sign: visit.sign }, tx);
	if (!checkout) return undefined;
	const payments = await db.payments.find({ checkoutId: checkout.id, live: 1 }, { order: [['id', 'DESC']] }, tx);
	// a page of a processor that the payer left, or a transfer never made, does not keep them from another way
	return payments.find((one) => hasCard(one.method) || one.taken > 0 || one.stage !== 'requested');
}

/** What only some orders tell: kept, so that the order can be shown and paid again as it was. */
const moreOf = ({ goods, delivery, domain, recurring, ordered }: Ask) => ({
	goods,
	delivery,
	domain,
	recurring,
	ordered
});

async function checkoutId({ till, ask, sign }: Visit, tx: Tx): Promise<number> {
	const known = await db.checkouts.one({ tillId: till.row.id, sign }, tx);
	if (known) return known.id;
	const { minor, currency } = ask.amount;
	const row = await db.checkouts.insert(
		{
			tillId: till.row.id,
			sign,
			reference: ask.reference,
			currency,
			minor,
			name: ask.name,
			mail: ask.mail,
			country: ask.country,
			purpose: ask.purpose,
			more: JSON.stringify(moreOf(ask)),
			createdAt: Date.now()
		},
		tx
	);
	return row.id;
}

async function newPayment(visit: Visit, offered: Offered, fields: Partial<PaymentRow>, tx: Tx): Promise<PaymentRow> {
	const { till, ask } = visit;
	const now = Date.now();
	const row = await db.payments.insert(
		{
			token: randomId(),
			checkoutId: await checkoutId(visit, tx),
			tillId: till.row.id,
			version: till.published?.number ?? 0,
			trialId: visit.trial ?? null,
			offerId: offered.offer.id,
			offerName: offered.offer.name,
			method: offered.offer.method,
			mode: visit.mode,
			connectionId: offered.carrier.kind === 'connection' ? offered.carrier.id : null,
			offlineId: offered.carrier.kind === 'offline' ? offered.carrier.id : null,
			standby: Number(offered.standby),
			reference: ask.reference,
			payerName: ask.name,
			payerMail: ask.mail,
			currency: ask.amount.currency,
			minor: ask.amount.minor,
			stage: 'requested',
			notches: 1,
			createdAt: now,
			...fields
		},
		tx
	);
	if (visit.trial) await db.trials.update({ id: visit.trial }, { paymentId: row.id }, tx);
	await db.paymentEvents.insert(
		{
			paymentId: row.id,
			kind: 'requested',
			at: now,
			minor: row.minor,
			object: String(row.id),
			source: 'payer',
			dedupe: `here:${row.id}:requested`,
			heardAt: now
		},
		tx
	);
	return row;
}

/** What a till asked and the payer told. */
export type Details = Readonly<Partial<Record<'address' | 'phone' | 'note', string>>>;

export type Choice =
	| { readonly payment: PaymentRow }
	/** refused before any charge */
	| { readonly notTaken: ReportedCard; readonly parts: string[] }
	/** the processor does not answer, or its card fields were open too long; nothing was charged */
	| { readonly trouble: 'silent' | 'too long'; readonly processor: string };

/** A payer chooses an offline way: the order waits for the money, where it is a transfer under a reference of its own. */
export async function chooseOffline(visit: Visit, offered: Offered, details: Details = {}): Promise<Choice> {
	const payment = await write(async (tx) => {
		const paid = await standing(visit, tx);
		if (paid) return paid;
		const checkout = await checkoutId(visit, tx);
		const before = (
			await db.payments.find({ checkoutId: checkout, live: 1, offlineId: offered.carrier.id }, {}, tx)
		)[0];
		if (before) return before;
		const made = await newPayment(visit, offered, { details: JSON.stringify(details) }, tx);
		const method = await db.offlineMethods.one({ id: offered.carrier.id }, tx);
		const creditorReference = method?.referenceStyle === 'structured' ? referenceFor(visit.ask.reference, made.id) : '';
		await db.payments.update({ id: made.id }, { creditorReference }, tx);
		return { ...made, creditorReference };
	});
	tell('takings');
	return { payment };
}

/**
 * Begins a payment through a processor: a card by the token that its card fields gave, any other way as the processor
 * asks. A card's type is asked of the processor, not of the page, and refused before any charge when the offer does not
 * take it.
 */
export async function payThrough(
	visit: Visit,
	offered: Offered,
	token: string,
	details: Details = {}
): Promise<Choice> {
	const connection = visit.held.connections.get(offered.carrier.id)!;
	const { method } = offered.offer;
	let card: ReportedCard | undefined;
	if (hasCard(method)) {
		try {
			card = await speak(connection, async (connector, credentials) => connector.readToken?.(credentials, token));
		} catch (error) {
			if (!(error instanceof ConnectorError)) throw error;
			return { trouble: 'silent', processor: connection.name };
		}
		if (!card) return { trouble: 'too long', processor: connection.name };
		const parts = visit.held.states.pausedSchemes?.includes(card.scheme)
			? ['scheme']
			: typesRefuse(offered.types, card, connection.accountCountry, await rateCardAreas(connection.id));
		if (parts.length) {
			await noteUnmet(visit, 'card type', card);
			return { notTaken: card, parts };
		}
	}
	const key = `jp-${randomId()}`;
	const begun = await write(async (tx) => {
		const paid = await standing(visit, tx);
		if (paid) return { payment: paid, new: false };
		const payment = await newPayment(
			visit,
			offered,
			{
				...(card ? { card: JSON.stringify(card) } : {}),
				accountId: connection.accountId,
				details: JSON.stringify(details)
			},
			tx
		);
		await db.actions.insert(
			{
				key,
				paymentId: payment.id,
				act: 'charge',
				content: `${payment.currency} ${payment.minor} ${token}`,
				minor: payment.minor,
				state: 'unknown',
				nextAt: Date.now() + 30_000,
				createdAt: Date.now()
			},
			tx
		);
		return { payment, new: true };
	});
	if (!begun.new) return { payment: begun.payment };
	const { payment } = begun;
	tell('takings');
	try {
		const outcome = await speak(connection, (connector, credentials) =>
			connector.charge(credentials, {
				key,
				method,
				token: card ? token : undefined,
				amount: visit.ask.amount,
				ours: payment.token,
				descriptor: connection.descriptor,
				shortDescriptor: connection.shortDescriptor || undefined,
				capture: offered.offer.capture === 'as the account' ? connection.capture : offered.offer.capture,
				returnTo: `${ownAddress()}/paid/${payment.token}`,
				payer: { name: visit.ask.name, mail: visit.ask.mail, country: visit.ask.country }
			})
		);
		return { payment: await endCharge(payment, key, outcome, 'answer') };
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		// the charge may have happened: it is asked after before anything else is tried
		await write((tx) => db.actions.update({ key }, { says: error.message, nextAt: Date.now() + 1_000 }, tx));
		wake();
		return { payment };
	}
}

const askedAfter = new Map<string, number>();

/**
 * Asks the processor how a payment stands whose payer has just come back, so that they need not wait for the
 * notification. At most every two seconds.
 */
export async function askAfter(payment: PaymentRow): Promise<PaymentRow> {
	if (!payment.connectionId || !payment.processorId || !payment.next) return payment;
	const now = Date.now();
	if (now - (askedAfter.get(payment.token) ?? 0) < 2_000) return payment;
	if (askedAfter.size > 5_000) askedAfter.clear();
	askedAfter.set(payment.token, now);
	const connection = await db.connections.one({ id: payment.connectionId });
	if (!connection || connection.removedAt) return payment;
	try {
		const report = await speak(
			connection,
			(connector, credentials) => connector.fetch(credentials, payment.processorId!),
			{ account: payment.accountId }
		);
		if (!report) return payment;
		return await write(async (tx) => {
			const before = (await db.payments.one({ id: payment.id }, tx))!;
			const state = await keepReport(before, report, 'asked', tx);
			if (state.stage !== before.stage) tell('takings');
			return (await db.payments.one({ id: payment.id }, tx))!;
		});
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		return payment;
	}
}

function typesRefuse(types: CardTypes | undefined, card: ReportedCard, country: string, areas: string[][]): string[] {
	return types ? refusedParts(types, cardTypeOf(card, country, areas)) : [];
}

/** Keeps what became of a charge: told at once, or found out later. */
export async function endCharge(
	payment: PaymentRow,
	key: string,
	outcome: Outcome | { outcome: 'never came' },
	source: string
): Promise<PaymentRow> {
	const after = await write(async (tx) => {
		const now = Date.now();
		if (outcome.outcome === 'done') {
			await keepReport(payment, outcome.report, source, tx);
			await db.actions.update({ key }, { state: 'done' }, tx);
		} else {
			const says =
				outcome.outcome === 'refused' ? outcome.says : 'The charge never reached the processor. Nothing was taken.';
			await db.paymentEvents.insertMany(
				[
					{
						paymentId: payment.id,
						kind: 'failed',
						at: now,
						object: String(payment.id),
						source,
						detail: JSON.stringify({ says }),
						dedupe: `here:${payment.id}:failed`,
						heardAt: now
					}
				],
				tx,
				{ keepOld: true }
			);
			await db.payments.update({ id: payment.id }, { failure: says }, tx);
			await db.actions.update({ key }, { state: 'refused', says }, tx);
			await recompute(payment.id, tx);
		}
		return (await db.payments.one({ id: payment.id }, tx))!;
	});
	tell('takings');
	return after;
}
