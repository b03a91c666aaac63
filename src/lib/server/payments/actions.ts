import { waitForAnswer } from '../../core/notices';
import { speak } from '../speak/speak';
import { ConnectorError, type Connector, type Credentials, type Outcome } from '../connectors';
import { db, write, type ActionRow, type ConnectionRow, type PaymentRow } from '../db';
import { log } from '../log';
import { tell } from '../signals/live';
import { wake } from '../signals/wake';
import { randomId } from '../access';
import { ANSWER_MS, beginAction } from './begin';
import { keepFacts, keepReport, recompute } from './record';
import { endRefused } from './stored';
import { timeNow } from '../signals/clock';

// The one way in which anything is asked of a processor that moves money: begun in the transaction that decides it, asked
// once, ended by whoever hears of its outcome first, or left unknown and asked after.

/** Asked so many times without an answer, over some nine hours, an action is stuck and put before the administrator. */
export const ASKED_UNTIL_STUCK = 20;

export type Ended =
	| { readonly state: 'done' }
	| { readonly state: 'refused'; readonly says: string }
	| { readonly state: 'unknown'; readonly says: string };

/** Asks the processor to do what was begun, and keeps what became of it. */
export async function performAction(
	action: Pick<ActionRow, 'key' | 'act' | 'paymentId'>,
	payment: PaymentRow,
	connection: ConnectionRow,
	ask: (connector: Connector, credentials: Credentials) => Promise<Outcome>
): Promise<Ended> {
	try {
		const outcome = await speak(connection, ask, { account: payment.accountId });
		return await endAction(action, outcome, 'answer');
	} catch (error) {
		if (!(error instanceof ConnectorError)) throw error;
		// it may have happened: it is asked after before anything else is tried
		await write((tx) =>
			db.actions.update({ key: action.key, state: 'unknown' }, { says: error.message, nextAt: timeNow() + 1_000 }, tx)
		);
		wake();
		return { state: 'unknown', says: error.message };
	}
}

/** So often a cancelling that never arrived is asked for. */
const CANCELLED_UNTIL = 8;

const NEVER_CAME: Record<ActionRow['act'], string> = {
	charge: 'The charge never reached the processor. Nothing was taken.',
	capture: 'It never reached the processor. Nothing was taken.',
	cancel: 'It never reached the processor. Nothing was cancelled.',
	refund: 'The refund never reached the processor. Nothing went back.'
};

/** Keeps what became of an action: told at once, or found out later. */
export async function endAction(
	{ key, act, paymentId }: Pick<ActionRow, 'key' | 'act' | 'paymentId'>,
	outcome: Outcome | { outcome: 'never came' },
	source: string
): Promise<Ended> {
	const ended = await write(async (tx): Promise<Ended> => {
		const payment = (await db.payments.one({ id: paymentId }, tx))!;
		if (outcome.outcome === 'done') {
			await keepReport(payment, outcome.report, source, tx);
			await db.actions.update({ key }, { state: 'done' }, tx);
			return { state: 'done' };
		}
		const says = outcome.outcome === 'refused' ? outcome.says : NEVER_CAME[act];
		if (act === 'charge') {
			const at = timeNow();
			await keepFacts(payment.id, [{ kind: 'failed', at, object: String(payment.id), says }], source, tx);
			await db.payments.update({ id: payment.id }, { failure: says }, tx);
			await recompute(payment.id, tx);
			if (outcome.outcome === 'refused' && outcome.storedEnded) await endRefused(payment.id, says, tx);
		}
		await db.actions.update({ key }, { state: 'refused', says }, tx);
		// what was given up here must not be paid there: a cancelling that never arrived is asked for again, under another key
		if (
			act === 'cancel' &&
			outcome.outcome === 'never came' &&
			(await db.actions.count({ paymentId, act }, tx)) < CANCELLED_UNTIL
		)
			await beginAction({ key: `jp-${randomId()}`, payment, act, minor: payment.minor }, tx, 'planned');
		return { state: 'refused', says };
	});
	tell('takings');
	return ended;
}

/** Puts off an action whose outcome could not be learned: each wait is longer than the one before; at last it is stuck. */
async function putOff(action: ActionRow, says: string, isFinal = false): Promise<void> {
	const tries = action.tries + 1;
	const stuck = isFinal || tries >= ASKED_UNTIL_STUCK;
	await write((tx) =>
		db.actions.update(
			{ key: action.key, state: action.state },
			{ says, tries, state: stuck ? 'stuck' : action.state, nextAt: timeNow() + waitForAnswer(tries, Math.random()) },
			tx
		)
	);
	if (stuck) log.warn({ action: action.key, act: action.act, says }, 'an outcome could not be learned');
	tell('takings');
}

/**
 * Asks a processor what became of an action, or asks for what was only planned. Whatever goes wrong with one stays with
 * it: others are not touched.
 */
export async function pursueAction(action: ActionRow): Promise<void> {
	try {
		const payment = (await db.payments.one({ id: action.paymentId }))!;
		const connection = payment.connectionId ? await db.connections.one({ id: payment.connectionId }) : undefined;
		if (!connection) return await putOff(action, 'No processor carries this payment.', true);
		if (connection.removedAt)
			return await putOff(
				action,
				`${connection.name} is disconnected, so it cannot be asked. Connect it again, then ask again.`,
				true
			);
		if (action.state === 'planned') return await sendPlanned(action, payment, connection);
		const settled = await speak(connection, (connector, credentials) => connector.settle(credentials, action.key), {
			account: payment.accountId
		});
		if (settled.outcome === 'under way') await putOff(action, `${connection.name} is still working on it.`);
		else await endAction(action, settled, 'asked');
	} catch (error) {
		await putOff(
			action,
			error instanceof ConnectorError ? error.message : `Something went wrong here: ${String(error)}`
		);
	}
}

/** Cancels at the processor what was given up here. From here on its outcome is unknown until it is told. */
async function sendPlanned(action: ActionRow, payment: PaymentRow, connection: ConnectionRow): Promise<void> {
	if (!payment.processorId) {
		const charge = (await db.actions.find({ paymentId: payment.id, act: 'charge' }))[0];
		// what never came to be needs no cancelling; while that is not known, it is asked first
		if (charge?.state === 'refused')
			return void (await endAction(action, { outcome: 'refused', says: 'There was nothing to cancel.' }, 'asked'));
		return putOff(action, 'Whether there is anything to cancel is still being asked.');
	}
	await write((tx) =>
		db.actions.update({ key: action.key, state: 'planned' }, { state: 'unknown', nextAt: timeNow() + ANSWER_MS }, tx)
	);
	const ended = await performAction(action, payment, connection, cancelling(action.key, payment));
	if (ended.state === 'refused') await refetch(payment, connection);
}

/** How a payment is cancelled at its processor. */
export const cancelling =
	(key: string, payment: Pick<PaymentRow, 'processorId'>) =>
	async (connector: Connector, credentials: Credentials): Promise<Outcome> =>
		(await connector.cancel?.(credentials, { key, processorId: payment.processorId! })) ?? {
			outcome: 'refused',
			says: `${connector.name} cannot cancel a payment.`
		};

/** Reads a payment from its processor and keeps what it tells. */
export async function refetch(payment: PaymentRow, connection: ConnectionRow): Promise<PaymentRow> {
	const report = await speak(
		connection,
		(connector, credentials) => connector.fetch(credentials, payment.processorId!),
		{ account: payment.accountId }
	);
	if (!report) return payment;
	return write(async (tx) => {
		const before = (await db.payments.one({ id: payment.id }, tx))!;
		const state = await keepReport(before, report, 'asked', tx);
		if (state.stage !== before.stage) tell('takings');
		return (await db.payments.one({ id: payment.id }, tx))!;
	});
}

/** Asks after a stuck action once more, as the administrator wishes. */
export async function askAgain(key: string): Promise<boolean> {
	const changed = await write((tx) =>
		db.actions.update({ key, state: 'stuck' }, { state: 'unknown', tries: 0, nextAt: 0 }, tx)
	);
	wake();
	tell('takings');
	return changed > 0;
}
