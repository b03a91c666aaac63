import { isFailing, type Outcome } from '../../core/lineup';
import { ConnectorError } from '../connectors';
import { db, write } from '../db';
import { tell } from '../signals/live';
import { forgetSnapshot } from '../signals/freshness';
import { timeNow } from '../signals/clock';

const KEPT = 200;
const outcomes = new Map<string, Outcome[]>();
/** connections that are not failing, so that one more success needs no look into the database */
const knownSound = new Set<string>();

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

async function note(connectionId: string, sound: boolean, why: string, probe: boolean): Promise<void> {
	const list = outcomes.get(connectionId) ?? [];
	// minutes between outcomes, whatever becomes of the machine's clock
	list.push({ at: performance.now(), sound, probe });
	outcomes.set(connectionId, list.slice(-KEPT));
	if (sound && knownSound.has(connectionId)) return;
	const row = await db.connections.one({ id: connectionId });
	if (!row) return;
	const failing = isFailing(list, row.failing === 1);
	if (failing) knownSound.delete(connectionId);
	else knownSound.add(connectionId);
	if (failing === (row.failing === 1)) return;
	await write(async (tx) => {
		await db.connections.update({ id: connectionId }, { failing: Number(failing) }, tx);
		await db.connectionChanges.insert(
			{
				connectionId,
				at: timeNow(),
				change: failing ? 'failing' : 'sound',
				why: failing ? why : probe ? 'It answered when asked.' : 'It answered three times in a row.'
			},
			tx
		);
	});
	// the count begins anew: what was before has led to this change
	outcomes.set(connectionId, []);
	forgetSnapshot();
	tell('connections');
}
