import { awaitedAfter } from '../../core/notices';
import { answerTimes, db, waitingMethods, waitingSince } from '../db';
import { refetch } from '../payments/actions';
import { listened } from './silence';

/** What was started here and is not answered although it usually would be by now. */
export interface Awaited {
	readonly id: number;
	readonly connectionId: string;
	readonly connection: string;
	readonly reference: string;
	readonly method: string;
	readonly minor: number;
	readonly currency: string;
	readonly since: number;
	/** what 99 of a hundred took at most, in milliseconds; a minute at least */
	readonly usually: number;
}
const KNOWN = 500;
const SHOWN = 50;

/** Payments that wait longer than 99 of a hundred of their kind did, the longest first, and how many there are in all. */
export async function awaitedPayments(now: number): Promise<{ longest: Awaited[]; inAll: number }> {
	const all: Awaited[] = [];
	let inAll = 0;
	for (const connection of await listened())
		for (const method of await waitingMethods(connection.id)) {
			const usually = awaitedAfter(await answerTimes(connection.id, method, KNOWN));
			const waiting = await waitingSince(connection.id, method, now - usually, SHOWN);
			inAll += waiting[0]?.inAll ?? 0;
			for (const one of waiting)
				all.push({
					id: one.id,
					connectionId: connection.id,
					connection: connection.name,
					reference: one.reference,
					method: one.method,
					minor: one.minor,
					currency: one.currency,
					since: one.createdAt,
					usually
				});
		}
	return { longest: all.sort((a, b) => a.since - b.since).slice(0, SHOWN), inAll };
}

/** Asks the processor after one payment. @returns what it says, or why it could not be asked */
export async function askAfterPayment(id: number): Promise<{ says: string } | { trouble: string }> {
	const payment = await db.payments.one({ id });
	const connection = payment?.connectionId ? await db.connections.one({ id: payment.connectionId }) : undefined;
	if (!payment || !connection) return { trouble: 'There is no such payment.' };
	try {
		const { stage } = await refetch(payment, connection);
		return {
			says: stage === payment.stage ? `${connection.name} says that it is still ${stage}.` : `It is ${stage} now.`
		};
	} catch (error) {
		return { trouble: error instanceof Error ? error.message : String(error) };
	}
}
