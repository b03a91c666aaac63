import { ReportedCard } from '../../core/cards';
import { inZone } from '../../core/calendar';
import { isPriced } from '../../core/fees';
import type { HookEvent } from '../../core/hooks';
import { isEventKind, stateOf, type PaymentEvent, type PaymentState, type Stage } from '../../core/stages';
import { randomId } from '../access';
import type { ChargedFee, Fact, Report } from '../connectors';
import {
	db,
	kindIdOf,
	markLateCapture,
	type PaymentEventRow,
	type PaymentFeeRow,
	type PaymentRow,
	type Tx
} from '../db';
import { partGratuity } from '../../core/billing';
import { recordEvent } from '../events';
import { placePayment } from '../placing';
import { beginAction } from './begin';
import { deriveFee, netOf } from './fees';
import { keepStored } from './stored';
import { timeNow } from '../signals/clock';

export const readCard = (row: Pick<PaymentRow, 'card'>): ReportedCard | undefined =>
	row.card ? db.payments.json.card(row.card) : undefined;

/** @throws Error when the row holds a kind of event that is not known: it is never read as another */
export function asEvent(row: PaymentEventRow): PaymentEvent {
	if (!isEventKind(row.kind)) throw new Error(`event ${row.id} is of an unknown kind: ${row.kind}`);
	return { id: String(row.id), kind: row.kind, at: row.at, minor: row.minor ?? undefined, object: row.object };
}

/**
 * Keeps facts about a payment: each once, whoever tells it and however often. The same fact with another sum is a clash: it
 * is kept beside, for the administrator, and changes nothing.
 * @returns how many were new
 */
export async function keepFacts(
	paymentId: number,
	facts: readonly (Fact & { readonly detail?: object })[],
	source: string,
	tx: Tx
): Promise<number> {
	const heardAt = timeNow();
	let added = 0;
	for (const { kind, object, minor = null, at, says, detail = says ? { says } : undefined } of facts) {
		const known = await db.paymentEvents.one({ paymentId, kind, object }, tx);
		if (!known) {
			await db.paymentEvents.insert(
				{ paymentId, kind, at, minor, object, source, detail: detail ? JSON.stringify(detail) : '', heardAt },
				tx
			);
			added++;
			if (kind === 'dispute won' || kind === 'dispute lost') await tellDisputeClosed(paymentId, kind, minor, tx);
		} else if (known.minor !== minor && known.minor !== null && minor !== null)
			await db.factClashes.insertNew(
				[{ paymentId, kind, object, knownMinor: known.minor, toldMinor: minor, source, heardAt }],
				['paymentId', 'kind', 'object', 'toldMinor'],
				tx
			);
	}
	return added;
}

async function tellDisputeClosed(
	paymentId: number,
	kind: 'dispute won' | 'dispute lost',
	minor: number | null,
	tx: Tx
): Promise<void> {
	const { orderId, mode, currency, method, minor: asked } = (await db.payments.one({ id: paymentId }, tx))!;
	const won = kind === 'dispute won';
	await recordEvent(
		{
			kind: 'dispute.closed',
			object: 'payment',
			id: paymentId,
			payload: { order: orderId, mode, currency, method, won, lost: won ? 0 : (minor ?? asked) }
		},
		tx
	);
}

const sameFee = (row: PaymentFeeRow, fee: ChargedFee): boolean =>
	row.currency === fee.currency && row.fee === fee.fee && row.returned === fee.returned && row.base === fee.base;

/** Keeps what was charged as a fact of its own, unless it is what was known last. */
export async function keepFee(paymentId: number, fee: ChargedFee, source: string, tx: Tx): Promise<boolean> {
	const known = await db.paymentFees.find({ paymentId }, { order: [['id', 'ASC']] }, tx);
	if (known.some((row) => row.source === source && sameFee(row, fee)) || (known.length && sameFee(known.at(-1)!, fee)))
		return false;
	await db.paymentFees.insert(
		{
			paymentId,
			currency: fee.currency,
			fee: fee.fee,
			returned: fee.returned,
			base: fee.base,
			rateDay: fee.rate?.day ?? null,
			rateValue: fee.rate?.value ?? null,
			label: fee.label,
			source,
			heardAt: timeNow()
		},
		tx
	);
	return true;
}

/**
 * The fee that stands, of all that were told: the latest, but a late notification may tell an older one, which has less
 * given back than is known.
 */
export function standingFee(rows: readonly PaymentFeeRow[]): ChargedFee | undefined {
	let standing: PaymentFeeRow | undefined;
	for (const row of rows) if (!standing || row.returned >= standing.returned) standing = row;
	return (
		standing && {
			currency: standing.currency,
			fee: standing.fee,
			returned: standing.returned,
			base: standing.base,
			label: standing.label,
			...(standing.rateDay && standing.rateValue ? { rate: { day: standing.rateDay, value: standing.rateValue } } : {})
		}
	);
}
export const feesOf = (paymentId: number, tx?: Tx): Promise<PaymentFeeRow[]> =>
	db.paymentFees.find({ paymentId }, { order: [['id', 'ASC']] }, tx);

/** Keeps what a processor tells of a payment, and works its state out afresh. */
export async function keepReport(payment: PaymentRow, report: Report, source: string, tx: Tx): Promise<PaymentState> {
	await keepFacts(payment.id, report.facts, source, tx);
	const changes: Partial<PaymentRow> = { processorId: report.processorId };
	if (report.card) {
		changes.card = JSON.stringify(report.card);
		changes.kindId = await kindIdOf(await kindOfPayment({ ...payment, ...changes } as PaymentRow, tx), tx);
	}
	if (report.failure) changes.failure = report.failure;
	const payout = report.facts.find((one) => one.kind === 'paid out');
	if (payout) changes.payout = payout.object;
	await db.payments.update({ id: payment.id }, changes, tx);
	await db.paymentRequests.update(
		{ paymentId: payment.id },
		{ next: report.next ? JSON.stringify(report.next) : null },
		tx
	);
	if (report.fee) await keepFee(payment.id, report.fee, source, tx);
	await keepStored(payment, report, tx);
	const state = await recompute(payment.id, tx);
	await keepDispute(payment.id, report, tx);
	// whoever told it first: the charge was heard, and its outcome is known now
	await db.actions.update(
		{ paymentId: payment.id, act: 'charge', state: ['unknown', 'stuck'] },
		{ state: state.open ? 'done' : 'refused', says: report.failure ?? '' },
		tx
	);
	if (state.captured > 0) await giveUpOthers(payment, tx);
	return state;
}

/** Keeps what a processor tells of a dispute beside that there is one, which its event tells. */
async function keepDispute(paymentId: number, { dispute }: Report, tx: Tx): Promise<void> {
	if (!dispute) return;
	const { reason, answerBy } = dispute;
	await db.disputes.update({ paymentId }, { ...(reason ? { reason } : {}), ...(answerBy ? { answerBy } : {}) }, tx);
}

/** What a price can depend on, as far as it is known of a payment. */
async function kindOfPayment(payment: PaymentRow, tx: Tx) {
	const card = readCard(payment);
	const known = (await db.paymentKinds.one({ id: payment.kindId }, tx))!;
	return {
		method: payment.method,
		currency: payment.currency,
		entry: known.entry,
		scheme: card?.scheme || 'unknown',
		funding: card?.funding || 'unknown',
		issuer: card?.issuerCountry || 'unknown'
	};
}

/** Once an order is paid, no other payment of it stays open: it is given up here, and cancelled at its processor. */
export async function giveUpOthers(paid: PaymentRow, tx: Tx): Promise<void> {
	if (paid.orderId === null) return;
	for (const other of await db.payments.find({ orderId: paid.orderId, open: 1, taken: 0 }, {}, tx))
		if (other.id !== paid.id) await giveUp(other, 'Paid another way.', tx);
}

/**
 * Gives an open payment up, so that another may begin: it does not count as open any more, and its processor is asked to
 * cancel it. Should money come by it all the same, it counts, and the administrator is told.
 */
export async function giveUp(payment: PaymentRow, says: string, tx: Tx): Promise<void> {
	await voidHere(payment.id, says, tx);
	if (payment.connectionId === null) return;
	const key = `jp-${randomId()}`;
	await beginAction({ key, payment, act: 'cancel', minor: payment.minor }, tx, 'planned');
}

/** Notes that a payment is not waited for any more. */
export async function voidHere(paymentId: number, says: string, tx: Tx): Promise<void> {
	await keepFacts(paymentId, [{ kind: 'voided', at: timeNow(), object: 'given up', says }], 'payer', tx);
	await db.paymentRequests.update({ paymentId }, { next: null }, tx);
	await recompute(paymentId, tx);
}

/** What is told of a payment that comes to a stage. Money that came or went back is told with its sum. */
const STAGE_EVENTS: Partial<Record<Stage, HookEvent>> = {
	authorised: 'payment.authorised',
	pending: 'payment.pending',
	failed: 'payment.failed',
	voided: 'payment.voided',
	expired: 'payment.expired',
	settled: 'payment.settled',
	'paid out': 'payment.paid_out',
	returned: 'payment.returned',
	disputed: 'dispute.opened'
};

/** Works the payment's state, fees and net out afresh, from all its facts. */
export async function recompute(paymentId: number, tx: Tx): Promise<PaymentState> {
	const payment = (await db.payments.one({ id: paymentId }, tx))!;
	const events = (await db.paymentEvents.find({ paymentId }, {}, tx)).map(asEvent);
	const offline = payment.offlineId !== null;
	const state = stateOf(events, payment.minor, offline);
	const taken = offline ? state.received : state.captured;
	const business = (await db.business.one({ id: 1 }, tx))!;
	const dayIn = (at: number, zone: string) => inZone(new Date(at), zone).day;
	const connection = payment.connectionId ? (await db.connections.one({ id: payment.connectionId }, tx))! : undefined;
	const changes: Partial<PaymentRow> = {
		stage: state.stage,
		reachedStep: state.reachedStep,
		brokenStep: state.brokenStep,
		open: Number(state.open),
		taken,
		refunded: state.refunded,
		// what a bank took back is gone like what is disputed
		disputed: state.disputed + state.returned,
		gone: state.refunded + state.returned + state.lost,
		refundable: state.refundable,
		contradiction: state.contradictions.join('; '),
		capturedAt: state.capturedAt ?? null,
		day: dayIn(state.capturedAt ?? payment.createdAt, business.timeZone),
		accountDay: state.capturedAt && connection ? dayIn(state.capturedAt, connection.timeZone) : null
	};
	const charged = standingFee(await feesOf(paymentId, tx));
	if (offline)
		Object.assign(changes, {
			feeCurrency: payment.currency,
			baseMinor: taken,
			net: taken > 0 ? taken - state.refunded : null
		});
	else if (state.captured > 0) {
		const fee =
			connection && (await deriveFee({ ...payment, ...changes } as PaymentRow, readCard(payment), connection, tx));
		const expected = fee?.priced && isPriced(fee.priced) ? fee.priced.fee.minor - fee.givenBack : null;
		const chargedFee = charged ? charged.fee - charged.returned : null;
		const feeCurrency = charged?.currency ?? connection?.settlement ?? null;
		const base = charged?.base ?? fee?.base ?? (feeCurrency === payment.currency ? state.captured : null);
		const counted = chargedFee ?? expected;
		Object.assign(changes, {
			feeCurrency,
			expectedFee: expected,
			chargedFee,
			feeDifference: expected !== null && chargedFee !== null ? chargedFee - expected : null,
			rateCardId: expected === null ? null : (fee?.card?.id ?? null),
			baseMinor: base,
			net:
				base !== null && counted !== null ? netOf(base, state.captured, state.refunded + state.returned, counted) : null
		});
	} else if (charged)
		Object.assign(changes, { feeCurrency: charged.currency, chargedFee: charged.fee - charged.returned });
	await db.payments.update({ id: paymentId }, changes, tx);
	if (connection && state.capturedAt && state.capturedAt !== payment.capturedAt)
		await markLateCapture(connection.id, changes.accountDay!, state.capturedAt, tx);
	if (payment.orderId !== null) await sumOrder(payment.orderId, tx);
	await placePayment(paymentId, tx);
	const told = { order: payment.orderId, mode: payment.mode, currency: payment.currency, method: payment.method };
	const stageEvent = state.stage === payment.stage ? undefined : STAGE_EVENTS[state.stage];
	if (stageEvent)
		await recordEvent(
			{ kind: stageEvent, object: 'payment', id: paymentId, payload: { ...told, minor: payment.minor } },
			tx
		);
	if (taken > payment.taken)
		await recordEvent(
			{
				kind: 'payment.captured',
				object: 'payment',
				id: paymentId,
				payload: { ...told, minor: taken - payment.taken, taken }
			},
			tx
		);
	if (state.refunded > payment.refunded)
		await recordEvent(
			{
				kind: 'payment.refunded',
				object: 'payment',
				id: paymentId,
				payload: { ...told, minor: state.refunded - payment.refunded, refunded: state.refunded }
			},
			tx
		);
	return state;
}

/** What an order's payments came to, less what went back. */
export async function sumOrder(orderId: number, tx: Tx): Promise<void> {
	const paid = (await db.payments.find({ orderId }, {}, tx)).reduce(
		// a gratuity is no part of what the order asks
		(sum, one) => sum + (one.stage === 'returned' ? 0 : partGratuity({ ...one, gone: one.refunded }).goods),
		0
	);
	await db.orders.update({ id: orderId }, { paid }, tx);
}
