import { Consent, Mandate } from '../../../core/billing';
import { ReportedCard } from '../../../core/cards';
import { freeJson, freeText, jsonOrNull, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// Orders, payments, and everything that happened to them. Flags are 0 or 1; what holds JSON names what it may hold, and is read by `json` of its table.

export const orders = table(
	'orders',
	{
		id: whole,
		tillId: text,
		sign: text,
		reference: text,
		currency: text,
		minor: whole,
		name: freeText,
		mail: text,
		country: text,
		purpose: freeText,
		more: freeJson,
		paid: whole,
		replacedBy: orNull(whole),
		/** what an outside program calls it, and since when */
		outsideReference: freeText,
		outsideAt: orNull(whole),
		/** goods given out before they were paid, on account */
		releasedAt: orNull(whole),
		releasedBy: text,
		/** nothing is left to do for it */
		completedAt: orNull(whole),
		completedBy: text,
		cancelledAt: orNull(whole),
		expiresAt: orNull(whole),
		createdAt: whole
	},
	['id'],
	true
);
export type OrderRow = RowOf<typeof orders>;

export const payments = table(
	'payments',
	{
		id: whole,
		origin: oneOf('till', 'file', 'console'),
		mode: oneOf('test', 'live'),
		trialId: orNull(text),
		processor: text,
		connectionId: orNull(text),
		accountId: text,
		processorId: orNull(text),
		offlineId: orNull(text),
		orderId: orNull(whole),
		tillId: orNull(text),
		source: text,
		kindId: whole,
		method: text,
		currency: text,
		minor: whole,
		reference: text,
		creditorReference: text,
		payerName: freeText,
		payerMail: text,
		card: jsonOrNull(ReportedCard),
		stage: text,
		reachedStep: whole,
		brokenStep: whole,
		open: whole,
		taken: whole,
		refunded: whole,
		disputed: whole,
		refundable: whole,
		failure: freeText,
		contradiction: text,
		feeCurrency: orNull(text),
		baseMinor: orNull(whole),
		expectedFee: orNull(whole),
		chargedFee: orNull(whole),
		feeDifference: orNull(whole),
		net: orNull(whole),
		rateCardId: orNull(whole),
		payout: text,
		orderedAt: orNull(whole),
		capturedAt: orNull(whole),
		day: text,
		accountDay: orNull(text),
		/** what the payer added to what was asked */
		gratuity: whole,
		/** what placing on invoices has looked at, what is placed, and what nobody claims */
		considered: whole,
		placed: whole,
		unplaced: whole,
		payerId: orNull(text),
		/** what went back for good: refunds, returns, disputes that were lost */
		gone: whole,
		createdAt: whole
	},
	['id'],
	true
);
export type PaymentRow = RowOf<typeof payments>;

export const paymentRequests = table(
	'payment_requests',
	{
		paymentId: whole,
		token: text,
		version: whole,
		offerId: text,
		offerName: text,
		standby: whole,
		next: orNull(text),
		details: freeJson,
		/** the payer lets the processor keep the method: what they agreed to, and whose it then is */
		keep: jsonOrNull(Consent),
		keepPayer: orNull(text),
		/** paid by a method that was stored before */
		storedId: orNull(whole),
		mandate: jsonOrNull(Mandate)
	},
	['paymentId']
);
export type PaymentRequestRow = RowOf<typeof paymentRequests>;

export const paymentKinds = table(
	'payment_kinds',
	{
		id: whole,
		method: text,
		currency: text,
		entry: text,
		scheme: text,
		funding: text,
		issuer: text
	},
	['id'],
	true
);
export type PaymentKindRow = RowOf<typeof paymentKinds>;

export const paymentEvents = table(
	'payment_events',
	{
		id: whole,
		paymentId: whole,
		kind: text,
		at: whole,
		minor: orNull(whole),
		object: text,
		source: text,
		detail: freeJson,
		heardAt: whole
	},
	['id'],
	true
);
export type PaymentEventRow = RowOf<typeof paymentEvents>;

export const paymentFees = table(
	'payment_fees',
	{
		id: whole,
		paymentId: whole,
		currency: text,
		fee: whole,
		returned: whole,
		base: whole,
		rateDay: orNull(text),
		rateValue: orNull(text),
		label: text,
		source: text,
		heardAt: whole
	},
	['id'],
	true
);
export type PaymentFeeRow = RowOf<typeof paymentFees>;

export const factClashes = table(
	'fact_clashes',
	{
		id: whole,
		paymentId: whole,
		kind: text,
		object: text,
		knownMinor: orNull(whole),
		toldMinor: orNull(whole),
		source: text,
		heardAt: whole,
		seenAt: orNull(whole)
	},
	['id'],
	true
);
export type FactClashRow = RowOf<typeof factClashes>;

/** A payout or a charge of an account that was told twice, with different sums. */
export const accountClashes = table(
	'account_clashes',
	{
		id: whole,
		processor: text,
		accountId: text,
		kind: text,
		object: text,
		knownCurrency: text,
		knownMinor: whole,
		toldCurrency: text,
		toldMinor: whole,
		source: text,
		heardAt: whole,
		seenAt: orNull(whole)
	},
	['id'],
	true
);
export type AccountClashRow = RowOf<typeof accountClashes>;

export const seenContradictions = table(
	'seen_contradictions',
	{
		paymentId: whole,
		contradiction: text,
		byUser: text,
		at: whole
	},
	['paymentId']
);
export type SeenContradictionRow = RowOf<typeof seenContradictions>;

export const actions = table(
	'actions',
	{
		key: text,
		paymentId: whole,
		act: oneOf('charge', 'capture', 'cancel', 'refund'),
		content: text,
		minor: whole,
		state: oneOf('planned', 'unknown', 'stuck', 'done', 'refused'),
		says: freeText,
		nextAt: whole,
		tries: whole,
		createdAt: whole
	},
	['key']
);
export type ActionRow = RowOf<typeof actions>;

export const payouts = table(
	'payouts',
	{
		id: whole,
		processor: text,
		connectionId: orNull(text),
		accountId: text,
		object: text,
		at: whole,
		currency: text,
		minor: orNull(whole)
	},
	['id'],
	true
);
export type PayoutRow = RowOf<typeof payouts>;

export const waitingFacts = table(
	'waiting_facts',
	{
		id: whole,
		connectionId: text,
		processorId: text,
		kind: text,
		at: whole,
		minor: orNull(whole),
		object: text,
		source: text,
		tries: whole,
		nextAt: whole,
		heardAt: whole
	},
	['id'],
	true
);
export type WaitingFactRow = RowOf<typeof waitingFacts>;
