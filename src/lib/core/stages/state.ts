import { inOrder, type PaymentEvent } from './events';

export const STAGES = [
	'requested',
	'pending',
	'authorised',
	'failed',
	'voided',
	'expired',
	'part received',
	'received',
	'captured',
	'settled',
	'paid out',
	'part refunded',
	'refunded',
	'disputed',
	'returned'
] as const;
export type Stage = (typeof STAGES)[number];
/** Stages of a payment that brought money, whatever became of it after. */
export const PAID_STAGES: readonly Stage[] = STAGES.slice(STAGES.indexOf('part received'));

/** What cannot be true together, though money moved by it: counted, and put before the administrator. */
export const CONTRADICTIONS = [
	'captured after it had ended',
	'captured more than authorised',
	'refunded more than captured',
	'disputed what was refunded'
] as const;
export type Contradiction = (typeof CONTRADICTIONS)[number];

/** Where the money is: what the events of one payment add up to. Sums are minor units of its currency. */
export interface PaymentState {
	readonly stage: Stage;
	/** steps of the strip that are reached, 0 to 4: requested, captured, settled, paid out */
	readonly reachedStep: 0 | 1 | 2 | 3 | 4;
	/** the step at which trouble stopped the money, 1 to 4, or 0 */
	readonly brokenStep: 0 | 1 | 2 | 3 | 4;
	readonly captured: number;
	readonly received: number;
	readonly refunded: number;
	readonly refundsPending: number;
	readonly disputed: number;
	/** of what is disputed, what was lost: it will not come back */
	readonly lost: number;
	/** taken back by the payer's bank after it had come: all that was left of it */
	readonly returned: number;
	/** what may still be refunded */
	readonly refundable: number;
	/** received beyond what was asked, or still missing when below zero (offline ways only) */
	readonly over: number;
	/** ids of events that the whole set makes impossible: kept, marked, and without effect */
	readonly impossible: readonly string[];
	readonly contradictions: readonly Contradiction[];
	readonly capturedAt?: number;
	/** true while a charge of this payment may still succeed, or has succeeded */
	readonly open: boolean;
}

type Refund = { minor: number; state: 'pending' | 'done' | 'failed' };
type Dispute = { minor: number; state: 'open' | 'won' | 'lost' };

/** What came in: whether the money is there decides what else is possible, whenever it is said to have happened. */
function takenOf(ordered: readonly PaymentEvent[], asked: number, offline: boolean, mark: (one: PaymentEvent) => void) {
	const captures = new Map<string, number>();
	const receipts = new Map<string, PaymentEvent>();
	const reversed = new Set(ordered.filter((one) => one.kind === 'receipt reversed').map((one) => one.object ?? ''));
	const contradictions = new Set<Contradiction>();
	let ended: 'failed' | 'voided' | 'expired' | undefined;
	let [pending, authorised] = [false, false];
	let capturedAt: number | undefined;
	for (const event of ordered) {
		const { kind, minor = 0, object = event.id } = event;
		switch (kind) {
			case 'pending':
				if (ended || captures.size) mark(event);
				else pending = true;
				break;
			case 'authorised':
				if (ended) mark(event);
				else authorised = true;
				break;
			case 'failed':
			case 'voided':
			case 'expired':
				if (captures.size || receipts.size || ended) mark(event);
				else ended = kind;
				break;
			case 'captured':
				if (offline || captures.has(object)) mark(event);
				else {
					// money that moved counts, whatever was said before
					if (ended) contradictions.add('captured after it had ended');
					captures.set(object, minor || asked);
					capturedAt ??= event.at;
					pending = false;
				}
				break;
			case 'received':
			case 'part received':
				if (!offline || minor <= 0 || receipts.has(object)) mark(event);
				else {
					receipts.set(object, event);
					if (!reversed.has(object)) capturedAt ??= event.at;
				}
				break;
			case 'receipt reversed':
				if (!receipts.has(object)) mark(event);
				break;
		}
	}
	const sum = (list: Iterable<number>) => [...list].reduce((all, one) => all + one, 0);
	const captured = sum(captures.values());
	const received = sum([...receipts].map(([object, one]) => (reversed.has(object) ? 0 : (one.minor ?? 0))));
	if (captured > asked) contradictions.add('captured more than authorised');
	return { captured, received, capturedAt, ended, pending, authorised, contradictions };
}

/** What went back: refunds by their objects, or the sum that a file tells of all of them, whichever is more. */
function refundsOf(ordered: readonly PaymentEvent[], mark: (one: PaymentEvent) => void) {
	const refunds = new Map<string, Refund>();
	let told = 0;
	for (const event of ordered) {
		const { kind, minor = 0, object = event.id } = event;
		const before = refunds.get(object);
		if (kind === 'refund pending' || kind === 'refunded') {
			if ((before?.state === 'failed' && kind === 'refund pending') || before?.state === 'done') mark(event);
			else refunds.set(object, { minor, state: kind === 'refunded' ? 'done' : 'pending' });
		} else if (kind === 'refund failed') {
			if (before?.state === 'done') mark(event);
			else refunds.set(object, { minor: before?.minor ?? minor, state: 'failed' });
		} else if (kind === 'refunded so far') told = minor;
	}
	const sum = (state: Refund['state']) =>
		[...refunds.values()].reduce((all, one) => all + (one.state === state ? one.minor : 0), 0);
	const [done, pending] = [sum('done'), sum('pending')];
	return { refunded: Math.max(done, told), pending: Math.max(0, pending - Math.max(0, told - done)) };
}

/** What is disputed: by the disputes themselves, or by the sum that a file tells where it tells none of them. */
function disputesOf(ordered: readonly PaymentEvent[], taken: number, mark: (one: PaymentEvent) => void) {
	const disputes = new Map<string, Dispute>();
	let told = 0;
	for (const event of ordered) {
		const { kind, minor = 0, object = event.id } = event;
		const before = disputes.get(object);
		if (kind === 'disputed') {
			if (before) mark(event);
			else {
				const others = [...disputes.values()].reduce((all, one) => all + (one.state === 'won' ? 0 : one.minor), 0);
				// two disputes never take more than was captured
				disputes.set(object, { minor: Math.min(minor || taken, taken - others), state: 'open' });
			}
		} else if (kind === 'dispute won' || kind === 'dispute lost') {
			if (!before) mark(event);
			else before.state = kind === 'dispute won' ? 'won' : 'lost';
		} else if (kind === 'disputed so far') told = Math.min(minor, taken);
	}
	const all = [...disputes.values()].filter((one) => one.state !== 'won');
	return {
		disputed: disputes.size ? all.reduce((sum, one) => sum + one.minor, 0) : told,
		lost: disputes.size ? all.reduce((sum, one) => sum + (one.state === 'lost' ? one.minor : 0), 0) : told,
		isDisputed: disputes.size ? all.length > 0 : told > 0
	};
}

/**
 * Computes a payment's state afresh from all its events.
 * @param asked what was asked, in minor units
 * @param offline whether money comes without a processor (part received → received)
 */
export function stateOf(events: readonly PaymentEvent[], asked: number, offline: boolean): PaymentState {
	const ordered = inOrder(events);
	const impossible: string[] = [];
	const mark = (event: PaymentEvent) => void impossible.push(event.id);
	const { captured, received, capturedAt, ended, pending, authorised, contradictions } = takenOf(
		ordered,
		asked,
		offline,
		mark
	);
	const taken = offline ? received : captured;
	let [settled, paidOut, returned] = [false, false, false];
	const after = ordered.filter((event) => {
		const needsMoney = ['settled', 'paid out', 'returned'].includes(event.kind) || /^(refund|disput)/.test(event.kind);
		if (needsMoney && !taken) {
			if (event.minor !== 0) mark(event);
			return false;
		}
		if (event.kind === 'settled') settled = true;
		if (event.kind === 'paid out') [settled, paidOut] = [true, true];
		if (event.kind === 'returned') returned = true;
		return needsMoney;
	});
	const refunds = refundsOf(after, mark);
	const { disputed, lost, isDisputed } = disputesOf(after, taken, mark);
	const { refunded } = refunds;
	const returnedMinor = returned ? Math.max(0, taken - refunded - disputed) : 0;
	if (refunded > taken) contradictions.add('refunded more than captured');
	if (isDisputed && refunded + disputed > taken) contradictions.add('disputed what was refunded');
	const full = offline ? received >= asked : captured > 0;
	const reached: 1 | 2 | 3 | 4 = paidOut ? 4 : settled ? 3 : taken > 0 && full ? 2 : 1;

	let stage: Stage;
	let brokenStep: PaymentState['brokenStep'] = 0;
	let reachedStep: PaymentState['reachedStep'] = reached;
	if (returned) [stage, brokenStep] = ['returned', Math.min(4, reached + (reached < 4 ? 1 : 0)) as 3 | 4];
	else if (isDisputed) [stage, brokenStep] = ['disputed', reached];
	else if (taken > 0 && refunded >= taken) stage = 'refunded';
	else if (refunded > 0) stage = 'part refunded';
	else if (paidOut) stage = 'paid out';
	else if (settled) stage = 'settled';
	else if (offline && received >= asked && received > 0) stage = 'received';
	else if (offline && received > 0) stage = 'part received';
	else if (captured) stage = 'captured';
	else if (ended) [stage, brokenStep, reachedStep] = [ended, 2, 1];
	else if (pending) stage = 'pending';
	else if (authorised) stage = 'authorised';
	else stage = 'requested';
	return {
		stage,
		reachedStep: brokenStep ? (Math.max(0, brokenStep - 1) as PaymentState['reachedStep']) : reachedStep,
		brokenStep,
		captured,
		received,
		refunded,
		refundsPending: refunds.pending,
		disputed,
		lost,
		returned: returnedMinor,
		refundable: Math.max(0, taken - refunded - refunds.pending - disputed - returnedMinor),
		over: offline ? received - asked : 0,
		impossible,
		contradictions: [...contradictions],
		capturedAt: taken > 0 ? capturedAt : undefined,
		open: !returned && (taken > 0 || !ended)
	};
}
