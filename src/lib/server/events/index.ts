import { EVENTS, type HookEvent } from '../../core/hooks';
import { db, eventsAfter, write, type EventRow, type Tx } from '../db';
import { timeNow } from '../signals/clock';
import { EVENT_LANES, wake } from '../signals/wake';

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
	tx.afterCommit(() => wake(EVENT_LANES));
}

/** So many events are looked at in one go. */
const AT_ONCE = 200;

/** Notes up to which event a reader has come. */
export async function noteRead(name: string, done: number, tx: Tx): Promise<void> {
	if (!(await db.eventReaders.update({ name }, { done }, tx))) await db.eventReaders.insert({ name, done }, tx);
}

/**
 * Gives events to somebody who is told, each once, in their order. What goes wrong stops there, and is tried again.
 * @param tell what is done of one, in the transaction that notes it as done; nothing where nobody is told of such an event
 * @returns how many there were
 */
export async function readEvents(
	name: string,
	tell: (event: EventRow) => ((tx: Tx) => Promise<void>) | undefined
): Promise<number> {
	const done = (await db.eventReaders.one({ name }))?.done ?? 0;
	const events = await eventsAfter(done, AT_ONCE);
	// what nobody is told of is noted with what comes after it
	let passed: number | undefined;
	for (const event of events) {
		const act = tell(event);
		if (!act) {
			passed = event.id;
			continue;
		}
		await write(async (tx) => {
			await act(tx);
			await noteRead(name, event.id, tx);
		});
		passed = undefined;
	}
	if (passed !== undefined) await write((tx) => noteRead(name, passed!, tx));
	return events.length;
}
