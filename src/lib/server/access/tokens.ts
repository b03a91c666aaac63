import { createHash, randomBytes } from 'node:crypto';
import { db, write, type TokenRow } from '../db';
import { audit } from './audit';
import { randomId } from './ids';
import { timeNow } from '../signals/clock';

const hashOf = (token: string) => createHash('sha256').update(token).digest('hex');
const USED_EVERY_MS = 60_000;

/** Makes a token of the interface. It is told once, and kept only as a digest. */
/** How many tokens are in use. */
export const countTokens = (): Promise<number> => db.tokens.count({ revokedAt: null });

export async function makeToken(name: string, by: string): Promise<{ token: string; row: TokenRow }> {
	const token = `jpt_${randomBytes(32).toString('base64url')}`;
	const row: TokenRow = {
		id: randomId(),
		name,
		hash: hashOf(token),
		last4: token.slice(-4),
		byUser: by,
		createdAt: timeNow(),
		usedAt: null,
		revokedAt: null
	};
	await write(async (tx) => {
		await db.tokens.insert(row, tx);
		await audit({ by, kind: 'token', id: row.id, name, act: 'made' }, tx);
	});
	return { token, row };
}

/** Tokens, those in use first. */
export const allTokens = (): Promise<TokenRow[]> => db.tokens.find({}, { order: [['createdAt', 'DESC']], limit: 200 });

export async function revokeToken(id: string, by: string): Promise<void> {
	await write(async (tx) => {
		const row = await db.tokens.one({ id, revokedAt: null }, tx);
		if (!row) return;
		await db.tokens.update({ id }, { revokedAt: timeNow() }, tx);
		await audit({ by, kind: 'token', id, name: row.name, act: 'revoked' }, tx);
	});
}

/** The token of an `Authorization: Bearer` header, where it is one of ours and not revoked. RFC 6750, section 2.1. */
export async function whoseToken(header: string | null): Promise<TokenRow | undefined> {
	const given = /^Bearer\s+(jpt_[A-Za-z0-9_-]{43})$/i.exec(header ?? '')?.[1];
	if (!given) return undefined;
	const row = await db.tokens.one({ hash: hashOf(given), revokedAt: null });
	if (row && timeNow() - (row.usedAt ?? 0) > USED_EVERY_MS)
		await write((tx) => db.tokens.update({ id: row.id }, { usedAt: timeNow() }, tx));
	return row;
}
