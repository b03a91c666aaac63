import { TRIES_UNTIL_STUCK, waitBeforeTry } from '../../core/notices';
import { reread } from '../connect/connections';
import { speak } from '../speak/speak';
import { connectorOf, ConnectorError, type Fact, type Notification, type Report } from '../connectors';
import {
	arrivalsWithin,
	db,
	dueArrivals,
	dueWaitingFacts,
	write,
	type ArrivalRow,
	type ConnectionRow,
	type PaymentRow,
	type Tx,
	type WaitingFactRow
} from '../db';
import { tell } from '../signals/live';
import { keepFacts, keepReport, recompute } from '../payments/record';
import { recordEvent } from '../events';
import { keepForeign } from '../payments/foreign';
import { log } from '../log';
import { ConnectionLanes } from './lanes';
import { countOne } from './receive';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';

/** An arrival that does not fit what is known here, yet. */
class Misfit extends Error {}

/** Does one arrival; what goes wrong with it puts it off, and touches no other. */
async function workOnOne(arrival: ArrivalRow): Promise<void> {
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
}

const proven = new ConnectionLanes();
const unconfirmed = new ConnectionLanes();
const waiting = new ConnectionLanes();

/** So many arrivals are worked on in one write: a commit costs more than the work, and nobody waits long for so few. */
const TOGETHER = 20;

/** Does arrivals of one connection together where none needs an answer of its processor; where one does not fit, each by itself. */
async function workOnSome(some: readonly ArrivalRow[]): Promise<void> {
	if (some.length === 1 || some.some((one) => one.tries > 0)) {
		for (const one of some) await workOnOne(one);
		return;
	}
	try {
		const connection = (await db.connections.one({ id: some[0]!.connectionId }))!;
		const connector = connectorOf(connection.processor);
		if (connector.dialect.kind === 'call-back') throw new Misfit('It must be called back.');
		const read = some.map((arrival) => connector.readNotification(arrival.body));
		if (read.some((one) => one.notice === 'account')) throw new Misfit('The account is read again.');
		const done = await write(async (tx) => {
			const all: Done[] = [];
			for (const [at, arrival] of some.entries())
				all.push(await keepArrival(arrival, connection, read[at]!, read[at]!.reports, tx));
			return all;
		});
		await tellOf(connection, read, done);
	} catch {
		// nothing of it was kept
		for (const one of some) await workOnOne(one);
	}
}

/**
 * Begins the work on arrivals that are due and proven. Each is done for itself: one that does not fit waits and is tried
 * again by fetching the payment afresh; after eight tries it is stuck and holds up no other. One connection's arrivals are
 * done in their order; those of another go on beside them, however long a processor takes to answer.
 * @returns how many were due at connections that were not at work already
 */
export async function workOnArrivals(now: number): Promise<number> {
	const due = await dueArrivals(now, 'proven', 100, proven.busy);
	proven.begin(
		due,
		async (some) => {
			await workOnSome(some);
			tell('arrivals');
		},
		{ together: TOGETHER }
	);
	return due.length;
}

/** The same of what must be confirmed first. Anyone may send it: a few at a time, in lanes of their own. */
export async function workOnUnconfirmed(now: number): Promise<number> {
	const due = await dueArrivals(now, 'unconfirmed', 20, unconfirmed.busy);
	unconfirmed.begin(
		due,
		async ([one]) => {
			await workOnOne(one!);
			tell('arrivals');
		},
		{ atOnce: 8 }
	);
	return due.length;
}

/** Waits for what is being worked on; for an orderly stop. */
export const endWork = async (): Promise<void> => {
	await Promise.all([proven, unconfirmed, waiting].map((lanes) => lanes.end()));
};

/** More than so many payments of one notification are not fetched one by one: what it tells of them is taken. */
const FETCHED_AT_MOST = 20;

async function workOn(arrival: ArrivalRow): Promise<void> {
	const connection = (await db.connections.one({ id: arrival.connectionId }))!;
	const read = await contentOf(arrival, connection);
	if (!read) return dropForged(arrival);
	let { reports } = read;
	if (arrival.tries > 0 && !isPayoutOf(read) && reports.length <= FETCHED_AT_MOST) {
		const fresh: Report[] = [];
		for (const report of reports) fresh.push((await fetchOne(connection, report.processorId)) ?? report);
		reports = fresh;
	}
	const done = await write((tx) => keepArrival(arrival, connection, read, reports, tx));
	await tellOf(connection, [read], [done]);
}

/** What an arrival changed. */
interface Done {
	readonly changed: boolean;
}

/** Keeps what an arrival tells, and that it is done. @throws Misfit where it does not fit what is known here, yet */
async function keepArrival(
	arrival: ArrivalRow,
	connection: ConnectionRow,
	read: Notification,
	reports: readonly Report[],
	tx: Tx
): Promise<Done> {
	const isPayout = isPayoutOf(read);
	const says: string[] = [];
	let changed = false;
	let paymentId: number | null = null;
	let unknown = 0;
	for (const report of reports) {
		const payment = await paymentOf(connection, report, tx);
		if (!payment && !report.ours && !isPayout && report.paid) {
			// it carries no name of ours: somebody made it there, or it came by itself
			const made = await keepForeign(connection, report, 'notification', tx);
			says.push(`${report.processorId}: made at ${connection.name}, not through us; ${made!.stage}`);
			paymentId = made!.id;
			changed = true;
			continue;
		}
		if (!payment) {
			// one payment that is not known holds up no other of the same payout: it is asked for by itself
			if (reports.length === 1 && !isPayout)
				throw new Misfit(`${connection.name} tells of payment ${report.processorId}, which is not known here.`);
			await waitFor(connection, report, tx);
			unknown++;
			continue;
		}
		const state = isOnlyPayout(report)
			? await keepPayoutFacts(payment, report.facts, tx)
			: await keepReport(payment, report, 'notification', tx);
		if (state.stage !== payment.stage || state.refunded !== payment.refunded)
			says.push(`${payment.reference || report.processorId}: ${payment.stage} → ${state.stage}`);
		paymentId = payment.id;
		changed = true;
	}
	await keepPayout(connection, reports, tx);
	if (unknown) says.push(`${unknown} of ${reports.length} payments are not known here; they are being asked for`);
	await db.arrivals.update(
		{ id: arrival.id },
		{
			state: 'done',
			topic: read.topic,
			tries: arrival.tries + 1,
			paymentId: reports.length === 1 ? paymentId : null,
			doneAt: arrival.doneAt ?? timeNow(),
			happenedAt: happenedAt(reports, arrival.receivedAt),
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
	return { changed };
}

/** When what a notification tells happened: the latest of it, as far as that is not still to come. */
const happenedAt = (reports: readonly Report[], receivedAt: number): number | null => {
	const times = reports
		.flatMap((report) => report.facts.map((fact) => fact.at))
		.filter((at) => at <= receivedAt + 300_000);
	return times.length ? Math.max(...times) : null;
};

/** Tells open pages, and reads an account again that has changed there. */
async function tellOf(connection: ConnectionRow, read: readonly Notification[], done: readonly Done[]): Promise<void> {
	tell('connections');
	if (done.some((one) => one.changed)) tell('takings');
	if (read.some((one) => one.notice === 'account') && !connection.removedAt) await reread(connection, connection.name);
}

/** Whether a notification tells of a payout: of several payments, or of none but that they were paid out. */
const isPayoutOf = (read: Notification): boolean =>
	read.reports.length > 1 || read.reports.every((one) => isOnlyPayout(one));

/** A report that only says that a payment was paid out, as notifications of payouts do. */
const isOnlyPayout = (report: Report): boolean =>
	report.facts.length > 0 && report.facts.every((fact) => fact.kind === 'paid out') && !report.fee;

async function keepPayoutFacts(payment: PaymentRow, facts: readonly Fact[], tx: Tx) {
	await keepFacts(payment.id, facts, 'notification', tx);
	await db.payments.update({ id: payment.id }, { payout: facts[0]!.object }, tx);
	return recompute(payment.id, tx);
}

/** Keeps the payout itself, where a notification tells of one. */
async function keepPayout(connection: ConnectionRow, reports: readonly Report[], tx: Tx): Promise<void> {
	const fact = reports.find(isOnlyPayout)?.facts[0];
	if (!fact) return;
	const added = await db.payouts.insertNew(
		[
			{
				processor: connection.processor,
				connectionId: connection.id,
				accountId: connection.accountId,
				object: fact.object,
				at: fact.at
			}
		],
		['processor', 'accountId', 'object'],
		tx
	);
	if (added.length)
		await recordEvent(
			{
				kind: 'payout.told',
				object: 'payout',
				id: fact.object,
				payload: { connection: connection.id, object: fact.object }
			},
			tx
		);
}

/** Keeps facts about a payment that is not known yet, until it is. */
async function waitFor(connection: ConnectionRow, report: Report, tx: Tx): Promise<void> {
	const { processorId } = report;
	await db.waitingFacts.insertNew(
		report.facts.map(({ kind, at, minor = null, object }) => ({
			connectionId: connection.id,
			processorId,
			kind,
			at,
			minor,
			object,
			source: 'notification',
			heardAt: timeNow()
		})),
		['connectionId', 'processorId', 'kind', 'object'],
		tx
	);
}

/**
 * Looks for the payments that facts wait for: they may have come meanwhile, else their processor is asked. A payment that
 * was made there and not through us is kept as one of its own. A few at a time, each with growing waits.
 */
export async function workOnWaitingFacts(now: number): Promise<number> {
	const due = await dueWaitingFacts(now, 10, waiting.busy);
	waiting.begin(due, async (facts) => {
		const fact = facts[0]!;
		try {
			await placeFact(fact);
		} catch (error) {
			if (!(error instanceof ConnectorError)) log.error({ error: String(error) }, 'a fact could not be placed');
			await putFactOff(fact);
		}
	});
	return due.length;
}

async function placeFact(fact: WaitingFactRow): Promise<void> {
	const connection = (await db.connections.one({ id: fact.connectionId }))!;
	const report: Report = { processorId: fact.processorId, ours: '', facts: [] };
	let payment = await write((tx) => paymentOf(connection, report, tx));
	if (!payment && !connection.removedAt) {
		const told = await fetchOne(connection, fact.processorId);
		if (told) payment = await write((tx) => keepForeign(connection, told, 'asked', tx));
	}
	if (!payment) return putFactOff(fact);
	const found = payment;
	await write(async (tx) => {
		const mine = await db.waitingFacts.find({ connectionId: fact.connectionId, processorId: fact.processorId }, {}, tx);
		const facts = mine.map(({ kind, at, minor, object }) => ({
			kind: kind as Fact['kind'],
			at,
			minor: minor ?? undefined,
			object
		}));
		await keepFacts(found.id, facts, 'notification', tx);
		const payout = facts.find((one) => one.kind === 'paid out');
		if (payout) await db.payments.update({ id: found.id }, { payout: payout.object }, tx);
		await recompute(found.id, tx);
		await db.waitingFacts.remove({ connectionId: fact.connectionId, processorId: fact.processorId }, tx);
	});
	tell('takings');
}

async function putFactOff(fact: WaitingFactRow): Promise<void> {
	await write((tx) =>
		db.waitingFacts.update(
			{ connectionId: fact.connectionId, processorId: fact.processorId },
			{ tries: fact.tries + 1, nextAt: timeNow() + waitBeforeTry(fact.tries + 1, Math.random()) },
			tx
		)
	);
}

async function fetchOne(connection: ConnectionRow, processorId: string): Promise<Report | undefined> {
	const payment = await db.payments.one({ connectionId: connection.id, processorId });
	return speak(connection, (connector, credentials) => connector.fetch(credentials, processorId), {
		account: payment?.accountId
	});
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
async function paymentOf(connection: ConnectionRow, report: Report, tx: Tx): Promise<PaymentRow | undefined> {
	const { id: connectionId, processor, mode } = connection;
	const byId = await db.payments.one({ processor, mode, processorId: report.processorId }, tx);
	if (byId) return byId;
	const request = report.ours ? await db.paymentRequests.one({ token: report.ours }, tx) : undefined;
	return request && db.payments.one({ connectionId, id: request.paymentId }, tx);
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
				nextAt: timeNow() + waitBeforeTry(tries, Math.random())
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

const SPAN_AT_MOST = 100_000;
/** Runs all arrivals of a connection and a span again, in their order. @returns how many */
export async function runSpanAgain(connectionId: string, from: number, to: number): Promise<number> {
	const rows = await arrivalsWithin(connectionId, from, to, SPAN_AT_MOST);
	for (let at = 0; at < rows.length; at += 500)
		await write((tx) =>
			db.arrivals.update(
				{ id: rows.slice(at, at + 500).map((row) => row.id), state: ['stuck', 'retry', 'done'] },
				{ state: 'retry', tries: 0, nextAt: 0 },
				tx
			)
		);
	tell('arrivals');
	wake();
	return rows.length;
}
