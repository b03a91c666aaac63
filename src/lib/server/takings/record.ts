import { ReportedCard } from '../../core/cards';
import { isPriced } from '../../core/fees';
import { EVENT_KINDS, stateOf, type EventKind, type PaymentEvent, type PaymentState } from '../../core/stages';
import type { ChargedFee, Report } from '../connectors';
import { db, type PaymentEventRow, type PaymentRow, type Tx } from '../db';
import { readJson } from '../json';
import { deriveFee, netOf } from './fees';
import { z } from 'zod';

export const ChargedDetail = z.object({
	currency: z.string(),
	fee: z.number(),
	returned: z.number(),
	base: z.number(),
	rate: z.object({ day: z.string(), value: z.string() }).optional(),
	label: z.string()
});

export const readCard = (row: Pick<PaymentRow, 'card'>): ReportedCard | undefined =>
	row.card ? readJson(ReportedCard, row.card) : undefined;
export const readCharged = (row: Pick<PaymentRow, 'chargedDetail'>): ChargedFee | undefined =>
	row.chargedDetail ? readJson(ChargedDetail, row.chargedDetail) : undefined;

export const asEvent = (row: PaymentEventRow): PaymentEvent => ({
	id: String(row.id),
	kind: EVENT_KINDS.includes(row.kind as EventKind) ? (row.kind as EventKind) : 'requested',
	at: row.at,
	minor: row.minor ?? undefined,
	object: row.object
});

/** Keeps what a processor tells of a payment: each fact once, whoever tells it and however often. */
export async function keepReport(payment: PaymentRow, report: Report, source: string, tx: Tx): Promise<PaymentState> {
	const heardAt = Date.now();
	await db.paymentEvents.insertMany(
		report.facts.map((fact) => ({
			paymentId: payment.id,
			kind: fact.kind,
			at: fact.at,
			minor: fact.minor ?? null,
			object: fact.object,
			source,
			detail: JSON.stringify(fact.says ? { says: fact.says } : {}),
			dedupe: `${payment.connectionId}:${payment.id}:${fact.object}:${fact.kind}`,
			heardAt
		})),
		tx,
		{ keepOld: true }
	);
	const changes: Partial<PaymentRow> = {
		processorId: report.processorId,
		next: report.next ? JSON.stringify(report.next) : null
	};
	if (report.card) changes.card = JSON.stringify(report.card);
	if (report.failure) changes.failure = report.failure;
	// a late notification may tell an older fee: the one with more given back is the newer
	const known = readCharged(payment);
	if (report.fee && (!known || report.fee.returned >= known.returned))
		changes.chargedDetail = JSON.stringify(report.fee);
	await db.payments.update({ id: payment.id }, changes, tx);
	const state = await recompute(payment.id, tx);
	// whoever told it first: the charge was heard, and its outcome is known now
	await db.actions.update(
		{ paymentId: payment.id, act: 'charge', state: 'unknown' },
		{ state: state.live ? 'done' : 'refused', says: report.failure ?? '' },
		tx
	);
	if (state.captured > 0) await giveUpTransfers(payment, tx);
	return state;
}

/** Once an order is paid through a processor, an offline way that was chosen before is not waited for any longer. */
async function giveUpTransfers(paid: PaymentRow, tx: Tx): Promise<void> {
	const now = Date.now();
	for (const other of await db.payments.find(
		{ checkoutId: paid.checkoutId, live: 1, connectionId: null, taken: 0 },
		{},
		tx
	)) {
		await db.paymentEvents.insertMany(
			[
				{
					paymentId: other.id,
					kind: 'voided',
					at: now,
					object: String(other.id),
					source: 'payer',
					detail: JSON.stringify({ says: 'Paid another way.' }),
					dedupe: `here:${other.id}:voided`,
					heardAt: now
				}
			],
			tx,
			{ keepOld: true }
		);
		await recompute(other.id, tx);
	}
}

/** Works the payment's state, fees and net out afresh, from all its events. */
export async function recompute(paymentId: number, tx: Tx): Promise<PaymentState> {
	const payment = (await db.payments.one({ id: paymentId }, tx))!;
	const events = (await db.paymentEvents.find({ paymentId }, {}, tx)).map(asEvent);
	const offline = payment.offlineId !== null;
	const state = stateOf(events, payment.minor, offline);
	const taken = offline ? state.received : state.captured;
	const changes: Partial<PaymentRow> = {
		stage: state.stage,
		notches: state.notches,
		broken: state.broken,
		live: Number(state.live),
		taken,
		refunded: state.refunded,
		refundable: state.refundable,
		capturedAt: state.capturedAt ?? null
	};
	if (offline) {
		const net = taken - state.refunded;
		Object.assign(changes, { feeCurrency: payment.currency, baseMinor: taken, net: taken > 0 ? net : null });
	} else if (payment.connectionId && state.captured > 0) {
		const connection = (await db.connections.one({ id: payment.connectionId }, tx))!;
		const fee = await deriveFee({ ...payment, ...changes } as PaymentRow, readCard(payment), connection, tx);
		const charged = readCharged(payment);
		const expected = fee?.priced && isPriced(fee.priced) ? fee.priced.fee.minor - fee.givenBack : null;
		const chargedFee = charged ? charged.fee - charged.returned : null;
		const base = charged?.base ?? (fee?.priced && isPriced(fee.priced) ? fee.priced.base.minor : null);
		const counted = chargedFee ?? expected;
		Object.assign(changes, {
			feeCurrency: charged?.currency ?? connection.settlement,
			expectedFee: expected,
			chargedFee,
			baseMinor: base,
			net: base !== null && counted !== null ? netOf(base, state.captured, state.refunded, counted) : null
		});
	}
	await db.payments.update({ id: paymentId }, changes, tx);
	return state;
}
