import { isFailing, type Outcome } from '../../core/lineup';
import { ConnectorError } from '../connectors';
import { db, write } from '../db';
import { tell } from '../signals/live';
import { forgetSnapshot } from '../signals/freshness';
import { timeNow } from '../signals/clock';
import { log } from '../log';

const KEPT = 200;
const outcomes = new Map<string, Outcome[]>();
/** Whether each connection is failing, as last decided here: calls end beside each other, and each is counted at once. */
const decided = new Map<string, boolean>();

/** Runs a call to a processor and notes whether it was sound. A refusal or a decline is sound; a technical error is not. */
export async function attempt<T>(connectionId: string, act: () => Promise<T>, probe = false): Promise<T> {
	try {
		const result = await act();
		await note(connectionId, true, '', probe);
		return result;
	} catch (error) {
		if (error instanceof ConnectorError) await note(connectionId, error.kind === 'refused', error.message, probe);
		throw error;
	}
}

/** Counts one call. That the count cannot be kept changes nothing of what the processor answered. */
async function note(connectionId: string, sound: boolean, why: string, probe: boolean): Promise<void> {
	try {
		if (!decided.has(connectionId)) {
			const row = await db.connections.one({ id: connectionId });
			if (!row) return;
			if (!decided.has(connectionId)) decided.set(connectionId, row.failing === 1);
		}
		// minutes between outcomes, whatever becomes of the machine's clock
		const list = [...(outcomes.get(connectionId) ?? []), { at: performance.now(), sound, probe }].slice(-KEPT);
		const was = decided.get(connectionId)!;
		const failing = isFailing(list, was);
		// the count begins anew where it has led to a change
		outcomes.set(connectionId, failing === was ? list : []);
		if (failing === was) return;
		decided.set(connectionId, failing);
		await keepChange(
			connectionId,
			failing,
			failing ? why : probe ? 'It answered when asked.' : 'It answered three times in a row.'
		);
	} catch (error) {
		// what is kept is read again for the next call
		decided.delete(connectionId);
		log.error({ connection: connectionId, error: String(error) }, 'how a connection is was not kept');
	}
}

async function keepChange(connectionId: string, failing: boolean, why: string): Promise<void> {
	await write(async (tx) => {
		await db.connections.update({ id: connectionId }, { failing: Number(failing) }, tx);
		await db.connectionChanges.insert({ connectionId, at: timeNow(), change: failing ? 'failing' : 'sound', why }, tx);
	});
	forgetSnapshot();
	tell('connections');
}
