import { inOrder, type PaymentEvent } from './events';

export type Stage =
	| 'requested'
	| 'authorised'
	| 'captured'
	| 'settled'
	| 'paid out'
	| 'part received'
	| 'received'
	| 'pending'
	| 'failed'
	| 'voided'
	| 'expired'
	| 'refunded'
	| 'part refunded'
	| 'disputed'
	| 'returned';

/** Where the money is: what the events of one payment add up to. Sums are minor units of its currency. */
export interface PaymentState {
	readonly stage: Stage;
	/** notches of the strip that are filled, 0 to 4 */
	readonly notches: 0 | 1 | 2 | 3 | 4;
	/** the notch at which trouble stopped the money, 1 to 4, or 0 */
	readonly broken: 0 | 1 | 2 | 3 | 4;
	readonly captured: number;
	readonly received: number;
	readonly refunded: number;
	readonly refundsPending: number;
	readonly disputed: number;
	/** what may still be refunded */
	readonly refundable: number;
	/** received beyond what was asked, or still missing when below zero (offline ways only) */
	readonly over: number;
	/** ids of events that the whole set makes impossible: kept, marked, and without effect */
	readonly impossible: readonly string[];
	readonly capturedAt?: number;
	/** true while a charge of this payment may still succeed, or has succeeded */
	readonly live: boolean;
}

/**
 * Computes a payment's state afresh from all its events.
 * @param asked what was asked, in minor units
 * @param offline whether money comes without a processor (part received → received)
 */
export function stateOf(events: readonly PaymentEvent[], asked: number, offline: boolean): PaymentState {
	const ordered = inOrder(events);
	const impossible: string[] = [];
	const refunds = new Map<string, { minor: number; state: 'pending' | 'done' | 'failed' }>();
	const disputes = new Map<string, { minor: number; state: 'open' | 'won' | 'lost' }>();
	let ended: 'failed' | 'voided' | 'expired' | undefined;
	let [captured, received, pending, authorised, settled, paidOut, returned] = [0, 0, false, false, false, false, false];
	let capturedAt: number | undefined;

	const mark = (event: PaymentEvent) => impossible.push(event.id);
	// first, what was taken: whether the money is there decides what else is possible, whenever it is said to have happened
	for (const event of ordered) {
		const { kind, minor = 0 } = event;
		switch (kind) {
			case 'pending':
				if (ended || captured) mark(event);
				else pending = true;
				break;
			case 'authorised':
				if (ended) mark(event);
				else authorised = true;
				break;
			case 'failed':
			case 'voided':
			case 'expired':
				if (captured || received || ended) mark(event);
				else ended = kind;
				break;
			case 'captured':
				if (offline || ended || captured) mark(event);
				else [captured, capturedAt, pending] = [minor || asked, event.at, false];
				break;
			case 'received':
			case 'part received':
				if (!offline || minor <= 0) mark(event);
				else [received, capturedAt] = [received + minor, capturedAt ?? event.at];
				break;
		}
	}
	const taken = offline ? received : captured;
	// then, what became of it
	for (const event of ordered) {
		const { kind, minor = 0, object = event.id } = event;
		switch (kind) {
			case 'settled':
				if (!taken) mark(event);
				else settled = true;
				break;
			case 'paid out':
				if (!taken) mark(event);
				else [settled, paidOut] = [true, true];
				break;
			case 'returned':
				if (!taken) mark(event);
				else returned = true;
				break;
			case 'refund pending':
			case 'refunded': {
				const before = refunds.get(object);
				const others = [...refunds].reduce(
					(all, [id, one]) => all + (id === object || one.state === 'failed' ? 0 : one.minor),
					0
				);
				if (others + minor > taken || before?.state === 'failed' || (before?.state === 'done' && kind === 'refunded'))
					mark(event);
				else if (before?.state !== 'done')
					refunds.set(object, { minor, state: kind === 'refunded' ? 'done' : 'pending' });
				break;
			}
			case 'refund failed': {
				const before = refunds.get(object);
				if (before?.state === 'done') mark(event);
				else refunds.set(object, { minor: before?.minor ?? minor, state: 'failed' });
				break;
			}
			case 'disputed':
				if (!taken) mark(event);
				else disputes.set(object, { minor: Math.min(minor || taken, taken), state: 'open' });
				break;
			case 'dispute won':
			case 'dispute lost': {
				const before = disputes.get(object);
				if (!before) mark(event);
				else before.state = kind === 'dispute won' ? 'won' : 'lost';
				break;
			}
		}
	}
	const sum = (state: string) =>
		[...refunds.values()].reduce((all, one) => all + (one.state === state ? one.minor : 0), 0);
	const refunded = sum('done');
	const refundsPending = sum('pending');
	const disputed = [...disputes.values()].reduce((all, one) => all + (one.state === 'won' ? 0 : one.minor), 0);
	const open = [...disputes.values()].some((one) => one.state !== 'won');
	const full = offline ? received >= asked : captured > 0;
	const reached: 1 | 2 | 3 | 4 = paidOut ? 4 : settled ? 3 : taken > 0 && full ? 2 : 1;

	let stage: Stage;
	let broken: PaymentState['broken'] = 0;
	let notches: PaymentState['notches'] = reached;
	if (returned) [stage, broken] = ['returned', Math.min(4, reached + (reached < 4 ? 1 : 0)) as 3 | 4];
	else if (open) [stage, broken] = ['disputed', reached];
	else if (taken > 0 && refunded >= taken) stage = 'refunded';
	else if (refunded > 0) stage = 'part refunded';
	else if (paidOut) stage = 'paid out';
	else if (settled) stage = 'settled';
	else if (offline && received >= asked && received > 0) stage = 'received';
	else if (offline && received > 0) stage = 'part received';
	else if (captured) stage = 'captured';
	else if (ended) [stage, broken, notches] = [ended, 2, 1];
	else if (pending) stage = 'pending';
	else if (authorised) stage = 'authorised';
	else stage = 'requested';
	return {
		stage,
		notches: broken ? (Math.max(0, broken - 1) as PaymentState['notches']) : notches,
		broken,
		captured,
		received,
		refunded,
		refundsPending,
		disputed,
		refundable: Math.max(0, taken - refunded - refundsPending - disputed),
		over: offline ? received - asked : 0,
		impossible,
		capturedAt,
		live: !ended && !returned
	};
}
