/**
 * Something that happened to a payment, in the order of its stages. What it is worth is in minor units of the payment's
 * currency. `refunded so far` and `disputed so far` tell a sum of all that happened until then, as settlement files do;
 * every other kind tells one happening.
 */
export const EVENT_KINDS = [
	'requested',
	'pending',
	'authorised',
	'failed',
	'voided',
	'expired',
	'part received',
	'received',
	'receipt reversed',
	'captured',
	'settled',
	'paid out',
	'refund pending',
	'refund failed',
	'refunded',
	'refunded so far',
	'disputed',
	'disputed so far',
	'dispute won',
	'dispute lost',
	'returned'
] as const;
export type EventKind = (typeof EVENT_KINDS)[number];
export const isEventKind = (kind: string): kind is EventKind => (EVENT_KINDS as readonly string[]).includes(kind);

export interface PaymentEvent {
	readonly id: string;
	readonly kind: EventKind;
	/** milliseconds since 1970: when it happened, not when we heard of it */
	readonly at: number;
	/** minor units; for `captured`, `received`, refunds and disputes */
	readonly minor?: number;
	/** the processor's object: ties a pending refund to its end, a dispute to its outcome, a reversal to its receipt */
	readonly object?: string;
}

export const stageRank = (kind: EventKind): number => EVENT_KINDS.indexOf(kind);

/** By the time they happened, then by stage, then by id: the order in which they came makes no difference. */
export const inOrder = (events: readonly PaymentEvent[]): PaymentEvent[] =>
	[...events].sort(
		(a, b) => a.at - b.at || stageRank(a.kind) - stageRank(b.kind) || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0)
	);
