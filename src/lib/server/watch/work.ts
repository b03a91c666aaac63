import { TRIES_UNTIL_STUCK, waitBeforeTry } from '../../core/notices';
import { reread } from '../connect/connections';
import { speak } from '../connect/speak';
import { connectorOf, ConnectorError, type Notification, type Report } from '../connectors';
import { db, dueArrivals, write, type ArrivalRow, type ConnectionRow, type PaymentRow, type Tx } from '../db';
import { tell } from '../live';
import { keepReport } from '../takings/record';
import { countOne } from './receive';

/** An arrival that does not fit what is known here, yet. */
class Misfit extends Error {}

/**
 * Works on the arrivals that are due. Each is done for itself: one that does not fit waits and is tried again by fetching
 * the payment afresh; after eight tries it is stuck and holds up no other.
 * @returns how many were due
 */
export async function workOnArrivals(now: number): Promise<number> {
	const one = async (arrival: ArrivalRow): Promise<void> => {
		try {
			await workOn(arrival);
		} catch (error) {
			await putOff(
				arrival,
				error instanceof Misfit || error instanceof ConnectorError
					? error.message
					: `Something went wrong here: ${String(error)}`
			);
		}
	};
	const due = await dueArrivals(now, 'proven', 100);
	for (const arrival of due) await one(arrival);
	// anyone may send what has no proof of its own: a few at a time, so that it holds up nothing that has one
	const unconfirmed = await dueArrivals(now, 'unconfirmed', 10);
	await Promise.all(unconfirmed.map(one));
	due.push(...unconfirmed);
	if (due.length) tell('arrivals');
	return due.length;
}

async function workOn(arrival: ArrivalRow): Promise<void> {
	const connection = (await db.connections.one({ id: arrival.connectionId }))!;
	const read = await contentOf(arrival, connection);
	if (!read) return dropForged(arrival);
	let { reports } = read;
	if (arrival.tries > 0)
		reports = await Promise.all(
			reports.map(async (report) => {
				const payment = await db.payments.one({ connectionId: connection.id, processorId: report.processorId });
				return (
					(await speak(connection, (connector, credentials) => connector.fetch(credentials, report.processorId), {
						account: payment?.accountId
					})) ?? report
				);
			})
		);
	let changed = false;
	await write(async (tx) => {
		const says: string[] = [];
		let paymentId: number | null = null;
		for (const report of reports) {
			const payment = await paymentOf(connection.id, report, tx);
			if (!payment)
				throw new Misfit(`${connection.name} tells of payment ${report.processorId}, which is not known here.`);
			const state = await keepReport(payment, report, 'notification', tx);
			if (state.stage !== payment.stage || state.refunded !== payment.refunded)
				says.push(`${payment.reference}: ${payment.stage} → ${state.stage}`);
			paymentId = payment.id;
			changed = true;
		}
		await db.arrivals.update(
			{ id: arrival.id },
			{
				state: 'done',
				topic: read.topic,
				tries: arrival.tries + 1,
				paymentId: reports.length === 1 ? paymentId : null,
				doneAt: Date.now(),
				says:
					says.join('; ') ||
					(read.notice === 'hello'
						? 'A test notification: the hook works.'
						: reports.length
							? 'Told nothing that was not known.'
							: 'Nothing to do.')
			},
			tx
		);
		await db.connections.update(
			{ id: connection.id },
			{ hookHeardAt: Math.max(connection.hookHeardAt ?? 0, arrival.receivedAt) },
			tx
		);
	});
	tell('connections');
	if (changed) tell('takings');
	// what the account can do has changed there: it is read again, and what differs reported
	if (read.notice === 'account' && !connection.removedAt) await reread(connection, connection.name);
}

/**
 * What a notification tells. One without a proof of its own tells nothing: the processor is called back for it, and says
 * undefined when it sent none such.
 */
async function contentOf(arrival: ArrivalRow, connection: ConnectionRow): Promise<Notification | undefined> {
	const connector = connectorOf(connection.processor);
	if (connector.dialect.kind !== 'call-back') return connector.readNotification(arrival.body);
	const told = await speak(connection, async (one, credentials) => one.confirm?.(credentials, arrival.eventId));
	if (told && arrival.state === 'unconfirmed') {
		const step = { step: 'Called back', ok: true, says: `${connection.name} says that it sent this.` };
		const checks = JSON.stringify([...(JSON.parse(arrival.checks) as object[]), step]);
		await write((tx) => db.arrivals.update({ id: arrival.id }, { checks, state: 'stored' }, tx));
	}
	return told;
}

/** The processor never sent it: it is counted as forged, and nothing of it is kept. */
async function dropForged(arrival: ArrivalRow): Promise<void> {
	await write((tx) => db.arrivals.remove({ id: arrival.id }, tx));
	countOne(arrival.connectionId, 'forged', arrival.receivedAt);
}

/** Found by the processor's id, or by the token that we gave with the charge: its answer may not have come yet. */
async function paymentOf(connectionId: string, report: Report, tx: Tx): Promise<PaymentRow | undefined> {
	const byId = await db.payments.one({ connectionId, processorId: report.processorId }, tx);
	if (byId) return byId;
	return report.ours ? db.payments.one({ connectionId, token: report.ours }, tx) : undefined;
}

async function putOff(arrival: ArrivalRow, says: string): Promise<void> {
	const tries = arrival.tries + 1;
	const stuck = tries >= TRIES_UNTIL_STUCK;
	await write((tx) =>
		db.arrivals.update(
			{ id: arrival.id },
			{
				tries,
				says,
				state: stuck ? 'stuck' : arrival.state === 'unconfirmed' ? 'unconfirmed' : 'retry',
				nextAt: Date.now() + waitBeforeTry(tries, Math.random())
			},
			tx
		)
	);
}

/** Runs an arrival again at once, with its tries counted anew. */
export async function runAgain(id: number): Promise<void> {
	await write((tx) =>
		db.arrivals.update(
			{ id, state: ['stuck', 'retry', 'unconfirmed', 'done'] },
			{ state: 'retry', tries: 1, nextAt: 0 },
			tx
		)
	);
}
