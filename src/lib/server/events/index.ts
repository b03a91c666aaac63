import { EVENTS, type HookEvent } from '../../core/hooks';
import { db, eventsAfter, write, type EventRow, type Tx } from '../db';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';

// What happened, kept in the transaction in which it did. Messages are made of it, and outgoing hooks will tell it.

/** Notes what happened. @param payload what is told of it: no secret, and nothing that is looked up anew */
export async function recordEvent(
	event: {
		readonly kind: HookEvent;
		readonly object: (typeof EVENTS)[HookEvent]['object'];
		readonly id: string | number;
		readonly payload?: Readonly<Record<string, unknown>>;
	},
	tx: Tx
): Promise<void> {
	await db.events.insert(
		{
			kind: event.kind,
			objectKind: event.object,
			objectId: String(event.id),
			at: timeNow(),
			payload: JSON.stringify(event.payload ?? {})
		},
		tx
	);
	tx.afterCommit(() => wake());
}

/** So many events are looked at in one go. */
const AT_ONCE = 200;

/**
 * Gives events to somebody who is told, each once, in their order. What goes wrong stops there, and is tried again.
 * @param tell what is done of one, in the transaction that notes it as done
 * @returns how many there were
 */
export async function readEvents(name: string, tell: (event: EventRow, tx: Tx) => Promise<void>): Promise<number> {
	const done = (await db.eventReaders.one({ name }))?.done ?? 0;
	const events = await eventsAfter(done, AT_ONCE);
	for (const event of events)
		await write(async (tx) => {
			await tell(event, tx);
			const changed = await db.eventReaders.update({ name }, { done: event.id }, tx);
			if (!changed) await db.eventReaders.insert({ name, done: event.id }, tx);
		});
	return events.length;
}
