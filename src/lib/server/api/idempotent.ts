import { createHash } from 'node:crypto';
import { db, write } from '../db';
import { timeNow } from '../signals/clock';

export interface KeptAnswer {
	readonly status: number;
	readonly body: string;
	readonly location: string;
}

/** A process that ended in the middle leaves its keys open: after so long they may be used again. */
const ABANDONED_MS = 60_000;

/**
 * Begins a request under its key.
 * @returns the answer that was kept for it, `working` while the first one is under way, `other` where the key was used for
 * something else, and undefined where the request is to be done now
 */
export async function beginOnce(
	tokenId: string,
	key: string,
	content: string
): Promise<KeptAnswer | 'working' | 'other' | undefined> {
	const digest = createHash('sha256').update(content).digest('hex');
	return write(async (tx) => {
		const known = await db.idempotentRequests.one({ tokenId, key }, tx);
		if (known && known.digest !== digest) return 'other';
		if (known?.status) return { status: known.status, body: known.body, location: known.location };
		if (known && timeNow() - known.at < ABANDONED_MS) return 'working';
		if (known) await db.idempotentRequests.update({ tokenId, key }, { at: timeNow() }, tx);
		else await db.idempotentRequests.insert({ tokenId, key, digest, status: null, at: timeNow() }, tx);
		return undefined;
	});
}

/** Keeps the answer of a request, or forgets the key where it may be tried again. */
export async function endOnce(tokenId: string, key: string, answer?: KeptAnswer): Promise<void> {
	await write(async (tx) => {
		if (answer) await db.idempotentRequests.update({ tokenId, key }, { ...answer }, tx);
		else await db.idempotentRequests.remove({ tokenId, key }, tx);
	});
}
