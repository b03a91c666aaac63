import { createHash, randomBytes, randomInt, timingSafeEqual } from 'node:crypto';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import { macOf } from '../access';
import type { Cookies } from '@sveltejs/kit';
import { db, write, type PayerRow, type Tx } from '../db';
import { PAYER_CODES } from '../limits';
import { queue } from '../messages';
import { timeNow } from '../signals/clock';

export const PAYER_COOKIE = 'purse_payer';
/** how long a session by a code is good, and one that a signed address opened */
export const SESSION_MS = 30 * 86_400_000;
export const LINK_SESSION_MS = 3_600_000;
const hash = (text: string) => createHash('sha256').update(text).digest('base64url');
const isSame = (a: string, b: string) => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/** The payer of a signed address: their number here with its signature. */
export async function payerOfLink(link: string): Promise<PayerRow | undefined> {
	const [id, sign] = link.split('.');
	if (!id || !sign || !isSame(sign, macOf(id, 'payer page'))) return undefined;
	return db.payers.one({ id, removedAt: null });
}

const perMail = new RateLimiterMemory({ points: PAYER_CODES.perMail, duration: PAYER_CODES.windowSeconds });
const perAddress = new RateLimiterMemory({ points: PAYER_CODES.perAddress, duration: PAYER_CODES.windowSeconds });

/**
 * Sends a code to a mail address, if a payer has it. Whether one does is not told.
 * @returns false where there were too many
 */
export async function sendCode(typed: string, address: string): Promise<boolean> {
	const mail = typed.trim().toLowerCase();
	try {
		await perAddress.consume(address);
		await perMail.consume(mail);
	} catch {
		return false;
	}
	const payer = mail ? await db.payers.one({ mail, removedAt: null }) : undefined;
	if (!payer) return true;
	const code = String(randomInt(0, 1_000_000)).padStart(6, '0');
	await write(async (tx) => {
		const at = timeNow();
		await db.payerCodes.remove({ mail }, tx);
		await db.payerCodes.insert(
			{ mail, codeHash: hash(`${mail} ${code}`), tries: 0, createdAt: at, expiresAt: at + PAYER_CODES.goodMs },
			tx
		);
		await queue(
			{
				event: 'sign-in code',
				cause: `sign-in ${randomBytes(9).toString('base64url')}`,
				about: { payer, code: `${code.slice(0, 3)} ${code.slice(3)}` },
				channel: 'mail',
				by: 'itself'
			},
			tx
		);
	});
	return true;
}

/** Takes a code. @returns the token of a session, or nothing where the code is not right */
export async function takeCode(typed: string, code: string): Promise<string | undefined> {
	const mail = typed.trim().toLowerCase();
	return write(async (tx) => {
		const row = await db.payerCodes.one({ mail }, tx);
		if (!row || row.expiresAt <= timeNow() || row.tries >= PAYER_CODES.guesses) return undefined;
		if (!isSame(row.codeHash, hash(`${mail} ${code.replace(/\D/g, '')}`))) {
			await db.payerCodes.update({ mail }, { tries: row.tries + 1 }, tx);
			return undefined;
		}
		await db.payerCodes.remove({ mail }, tx);
		const payer = await db.payers.one({ mail, removedAt: null }, tx);
		if (!payer) return undefined;
		return openWithin(payer.id, SESSION_MS, tx);
	});
}

async function openWithin(payerId: string, ms: number, tx: Tx): Promise<string> {
	const token = randomBytes(24).toString('base64url');
	const at = timeNow();
	await db.payerSessions.insert({ tokenHash: hash(token), payerId, createdAt: at, expiresAt: at + ms }, tx);
	return token;
}
/** Opens a session for whoever came by a payer's signed address: it proves as much as a code. @returns its token */
export const openPayerSession = (payerId: string, ms: number): Promise<string> =>
	write((tx) => openWithin(payerId, ms, tx));

/** Keeps a session's token with the browser. */
export const keepSession = (cookies: Cookies, url: URL, token: string, ms: number): void =>
	cookies.set(PAYER_COOKIE, token, {
		path: '/',
		httpOnly: true,
		sameSite: 'lax',
		secure: url.protocol === 'https:',
		maxAge: Math.floor(ms / 1000)
	});

/** Whose session a cookie is. */
export async function payerOfSession(token: string | undefined): Promise<PayerRow | undefined> {
	const row = token ? await db.payerSessions.one({ tokenHash: hash(token) }) : undefined;
	return row && row.expiresAt > timeNow() ? db.payers.one({ id: row.payerId, removedAt: null }) : undefined;
}
export async function endPayerSession(token: string | undefined): Promise<void> {
	if (token) await write((tx) => db.payerSessions.remove({ tokenHash: hash(token) }, tx));
}
