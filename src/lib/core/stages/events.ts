/** Something that happened to a payment. What it is worth is in minor units of the payment's currency. */
export const EVENT_KINDS = [
	'requested',
	'pending',
	'failed',
	'authorised',
	'voided',
	'expired',
	'part received',
	'received',
	'captured',
	'refund pending',
	'refund failed',
	'refunded',
	'disputed',
	'dispute won',
	'dispute lost',
	'settled',
	'paid out',
	'returned'
] as const;
export type EventKind = (typeof EVENT_KINDS)[number];

export interface PaymentEvent {
	readonly id: string;
	readonly kind: EventKind;
	/** milliseconds since 1970: when it happened, not when we heard of it */
	readonly at: number;
	/** minor units; for `captured`, `received`, refunds and disputes */
	readonly minor?: number;
	/** ties a pending or failed refund to its end, and a dispute to its outcome */
	readonly object?: string;
}

export const stageRank = (kind: EventKind): number => EVENT_KINDS.indexOf(kind);

/** By the time they happened, then by stage, then by id: the order in which they came makes no difference. */
export const inOrder = (events: readonly PaymentEvent[]): PaymentEvent[] =>
	[...events].sort(
		(a, b) => a.at - b.at || stageRank(a.kind) - stageRank(b.kind) || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0)
	);
