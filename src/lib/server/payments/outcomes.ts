import { db, dueActions, write } from '../db';
import { pursueAction } from './actions';
import { timeNow } from '../signals/clock';

/** So many of one processor are asked after in a row, before it is looked at anew. */
const IN_A_ROW = 10;
const busy = new Map<string, Promise<void>>();

/**
 * Asks processors what became of actions whose answer was lost, and for what was planned. Each processor is asked by
 * itself: one that hangs holds up no other. Does not wait for the answers.
 * @returns how many were due at processors that were not being asked already
 */
export async function settleOutcomes(now: number): Promise<number> {
	const due = await dueActions(now, [...busy.keys()], 200);
	const byCarrier = new Map<string, typeof due>();
	for (const action of due) byCarrier.set(action.carrier, [...(byCarrier.get(action.carrier) ?? []), action]);
	for (const [carrier, actions] of byCarrier)
		busy.set(
			carrier,
			(async () => {
				for (const action of actions.slice(0, IN_A_ROW)) await pursueAction(action);
			})().finally(() => busy.delete(carrier))
		);
	return due.length;
}

/** Whatever an earlier process was waiting for, nobody waits for now: it is asked after at once. */
export const askAtOnce = (): Promise<number> =>
	write((tx) => db.actions.update({ state: 'unknown' }, { nextAt: 0 }, tx));

/** Settles what is open at one processor, as far as it answers now. */
export async function settleNow(connectionId: string): Promise<void> {
	await busy.get(connectionId);
	await write((tx) => db.actions.update({ state: ['unknown', 'planned'] }, { nextAt: 0 }, tx));
	for (const action of await dueActions(timeNow(), [], 200))
		if (action.carrier === connectionId) await pursueAction(action);
}
