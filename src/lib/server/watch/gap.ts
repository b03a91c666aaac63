import type { Connector } from '../connectors';
import { db } from '../db';
import { log } from '../log';
import { refetch } from '../payments/actions';

// Notifications whose signature is right and whose time is not are refused, since they may be old ones sent again. What they
// tell of is asked after at the processor instead, which is as good and harms nobody.

/** So many payments may wait to be asked after; what is refused is sent again by its processor, too. */
const AT_MOST = 1_000;
const AGAIN_MS = 600_000;
const waiting = new Map<string, { readonly connectionId: string; readonly processorId: string }>();
/** when each was asked after, by the clock that never jumps: one old notification sent a thousand times asks once */
const asked = new Map<string, number>();
let isAsking = false;

/** Notes the payments that a notification tells of, to be asked after: once for each notification. */
export function askAfter(connectionId: string, connector: Connector, eventId: string, body: Uint8Array): void {
	let ids: string[];
	try {
		ids = connector.readNotification(new TextDecoder().decode(body)).reports.map((one) => one.processorId);
	} catch {
		return;
	}
	const now = performance.now();
	for (const processorId of ids) {
		const key = `${connectionId} ${processorId}`;
		const once = `${connectionId} ${eventId} ${processorId}`;
		if (waiting.size >= AT_MOST || now - (asked.get(once) ?? -Infinity) < AGAIN_MS) continue;
		asked.set(once, now);
		if (asked.size > 10 * AT_MOST) asked.delete(asked.keys().next().value!);
		waiting.set(key, { connectionId, processorId });
	}
	if (!isAsking) void askAll();
}

async function askAll(): Promise<void> {
	isAsking = true;
	for (const [key, { connectionId, processorId }] of waiting) {
		waiting.delete(key);
		try {
			const connection = await db.connections.one({ id: connectionId, removedAt: null });
			const payment =
				connection && (await db.payments.one({ processor: connection.processor, mode: connection.mode, processorId }));
			if (payment) await refetch(payment, connection);
		} catch (error) {
			log.warn({ connection: connectionId, error: String(error) }, 'a payment could not be asked after');
		}
	}
	isAsking = false;
}
