import { createHash, randomBytes } from 'node:crypto';
import { db, TOKEN_SCOPES, write, type TokenRow, type TokenScope } from '../db';
import { audit } from './audit';
import { randomId } from './ids';
import { timeNow } from '../signals/clock';

export { TOKEN_SCOPES, type TokenScope };

const hashOf = (token: string) => createHash('sha256').update(token).digest('hex');
const newToken = () => `jpt_${randomBytes(32).toString('base64url')}`;
const USED_EVERY_MS = 60_000;
/** So long both the old and the new token are good after a rotation. */
export const OVERLAP_MS = 7 * 86_400_000;

/** How many tokens are in use. */
export const countTokens = (): Promise<number> => db.tokens.count({ revokedAt: null });

export interface TokenAsked {
	readonly name: string;
	readonly scopes: readonly TokenScope[];
	/** all tills where there is none */
	readonly tillIds: readonly string[];
	readonly mode: TokenRow['mode'];
	/** milliseconds since 1970 */
	readonly expiresAt: number | null;
}

/** Makes a token of the interface. It is told once, and kept only as a digest. */
export async function makeToken(asked: TokenAsked, by: string): Promise<{ token: string; row: TokenRow }> {
	const token = newToken();
	const row: TokenRow = {
		id: randomId(),
		name: asked.name,
		hash: hashOf(token),
		last4: token.slice(-4),
		byUser: by,
		createdAt: timeNow(),
		usedAt: null,
		revokedAt: null,
		scopes: JSON.stringify(asked.scopes),
		tillIds: JSON.stringify(asked.tillIds),
		mode: asked.mode,
		expiresAt: asked.expiresAt,
		oldHash: null,
		oldUntil: null
	};
	await write(async (tx) => {
		await db.tokens.insert(row, tx);
		const { scopes, mode, expiresAt } = asked;
		await audit({ by, kind: 'token', id: row.id, name: row.name, act: 'made', after: { scopes, mode, expiresAt } }, tx);
	});
	return { token, row };
}

/** Gives a token anew; the one before stays good for a week, so that programs can change over. */
export async function rotateToken(id: string, by: string): Promise<{ token: string; name: string } | undefined> {
	const token = newToken();
	return write(async (tx) => {
		const row = await db.tokens.one({ id, revokedAt: null }, tx);
		if (!row) return undefined;
		await db.tokens.update(
			{ id },
			{ hash: hashOf(token), last4: token.slice(-4), oldHash: row.hash, oldUntil: timeNow() + OVERLAP_MS },
			tx
		);
		await audit({ by, kind: 'token', id, name: row.name, act: 'rotated' }, tx);
		return { token, name: row.name };
	});
}

/** Tokens, those in use first. */
export const allTokens = (): Promise<TokenRow[]> => db.tokens.find({}, { order: [['createdAt', 'DESC']], limit: 200 });

/** Revokes a token, or takes that back. @returns the token, where there was anything to do */
export async function revokeToken(id: string, by: string, isOn = true): Promise<TokenRow | undefined> {
	return write(async (tx) => {
		const row = await db.tokens.one({ id }, tx);
		if (!row || (row.revokedAt !== null) === isOn) return undefined;
		await db.tokens.update({ id }, { revokedAt: isOn ? timeNow() : null }, tx);
		await audit({ by, kind: 'token', id, name: row.name, act: isOn ? 'revoked' : 'took the revoking back' }, tx);
		return row;
	});
}

/**
 * The token of an `Authorization: Bearer` header, where it is one of ours, not revoked and not expired. RFC 6750, section 2.1.
 */
export async function whoseToken(header: string | null): Promise<TokenRow | undefined> {
	const given = /^Bearer\s+(jpt_[A-Za-z0-9_-]{43})$/i.exec(header ?? '')?.[1];
	if (!given) return undefined;
	const hash = hashOf(given);
	const now = timeNow();
	const row =
		(await db.tokens.one({ hash, revokedAt: null })) ??
		(await db.tokens.find({ oldHash: hash, revokedAt: null })).find((one) => (one.oldUntil ?? 0) > now);
	if (!row || (row.expiresAt !== null && row.expiresAt <= now)) return undefined;
	if (now - (row.usedAt ?? 0) > USED_EVERY_MS)
		await write((tx) => db.tokens.update({ id: row.id }, { usedAt: now }, tx));
	return row;
}

/** Whether a token may be used for something. */
export const hasScope = (token: TokenRow, scope: TokenScope): boolean =>
	db.tokens.json.scopes(token.scopes).includes(scope);
/** Whether a token may be used at a till. */
export function mayUseTill(token: TokenRow, till: { readonly id: string; readonly mode: string }): boolean {
	const tills = db.tokens.json.tillIds(token.tillIds);
	return (!tills.length || tills.includes(till.id)) && (!token.mode || token.mode === till.mode);
}
