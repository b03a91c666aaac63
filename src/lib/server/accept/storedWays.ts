import { hasCard, type Offered } from '../../core/lineup';
import { storedName } from '../../core/billing';
import type { ConnectionRow, StoredMethodRow } from '../db';
import { partsRefused } from '../payments/charge';
import { cardOf, mandateOf, usableOf } from '../payments/stored';
import type { Method } from '../../core/lineup';
import type { Visit } from './visit';

/** A method that a payer stored, and the offer through which it can be paid by here. */
export interface StoredWay {
	readonly stored: StoredMethodRow;
	readonly offered: Offered;
	readonly name: string;
}

export const nameOfStored = (row: StoredMethodRow, schemeNames: Readonly<Record<string, string>>): string =>
	storedName({ method: row.method as Method, card: cardOf(row), mandate: mandateOf(row) }, schemeNames);

/**
 * What a payer stored, as far as they can pay by it here: a token works at its own account alone, so the offer must lead
 * there. What they stored elsewhere is told by name.
 */
export async function storedWays(
	seen: Visit,
	payerId: string
): Promise<{ readonly ways: StoredWay[]; readonly elsewhere: string[] }> {
	const { held, offered, mode } = seen;
	const ways: StoredWay[] = [];
	const elsewhere: string[] = [];
	for (const stored of await usableOf(payerId, mode, held.business.timeZone)) {
		const name = nameOfStored(stored, held.schemeNames);
		const way = await offerFor(stored, offered, seen);
		if (way) ways.push({ stored, offered: way, name });
		else elsewhere.push(name);
	}
	return { ways, elsewhere };
}

/** Whether a token works at a connection: it is of one account, however often that is connected again. */
export const isKeptAt = (
	stored: Pick<StoredMethodRow, 'processor' | 'accountId' | 'mode'>,
	connection: Pick<ConnectionRow, 'processor' | 'accountId' | 'mode' | 'removedAt'>
): boolean =>
	connection.removedAt === null &&
	connection.processor === stored.processor &&
	connection.accountId === stored.accountId &&
	connection.mode === stored.mode;

async function offerFor(stored: StoredMethodRow, offered: readonly Offered[], { held }: Visit) {
	for (const one of offered) {
		if (one.offer.method !== stored.method || one.carrier.kind !== 'connection') continue;
		const connection = held.connections.get(one.carrier.id);
		if (!connection || !isKeptAt(stored, connection)) continue;
		const card = cardOf(stored);
		if (hasCard(one.offer.method) && !card) continue;
		if (card && (await partsRefused(one, card, connection, held.states.pausedSchemes ?? [])).length) continue;
		return one;
	}
	return undefined;
}
