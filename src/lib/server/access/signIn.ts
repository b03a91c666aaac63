import { hash, verify } from '@node-rs/argon2';
import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { db, removeOldSessions, write, type UserRow } from '../db';
import { PASSWORDS } from '../limits';
import { tellSignedOut } from '../signals/live';
import { randomId } from './ids';
import { macOf } from './seal';

export const SESSION_COOKIE = 'purse_session';
const SESSION_MS = 12 * 3_600_000;

const window = { duration: PASSWORDS.windowSeconds, blockDuration: PASSWORDS.windowSeconds };
/** Wrong passwords: for one mail from one address, from one address, and for one mail from everywhere. */
const perPair = new RateLimiterMemory({ keyPrefix: 'pair', points: PASSWORDS.perMailAndAddress, ...window });
const perAddress = new RateLimiterMemory({ keyPrefix: 'address', points: PASSWORDS.perAddress, ...window });
const perMail = new RateLimiterMemory({ keyPrefix: 'mail', points: PASSWORDS.perMail, ...window });

/** Names a browser that somebody has signed in with before; good for that person's mail alone. */
export const KNOWN_COOKIE = 'purse_known';

export type SignIn =
	| { readonly token: string; readonly expires: Date; readonly known: string }
	| { readonly refused: 'wrong' | 'busy' }
	| { readonly refused: 'wait'; readonly minutes: number };

const tokenHash = (token: string) => createHash('sha256').update(token).digest('hex');
// compared with when nobody has the mail, so that both answers take as long
let nobody: Promise<string> | undefined;

let hashing = 0;
const turns: (() => void)[] = [];
/**
 * Hashes a few passwords at a time: each takes a thread that the database needs as well.
 * @returns undefined where too many wait already
 */
async function inTurn<T>(act: () => Promise<T>): Promise<T | undefined> {
	if (hashing >= PASSWORDS.atOnce) {
		if (turns.length >= PASSWORDS.waiting) return undefined;
		await new Promise<void>((next) => turns.push(next));
	} else hashing++;
	try {
		return await act();
	} finally {
		const next = turns.shift();
		if (next) next();
		else hashing--;
	}
}

/** Signs a mail address, so that a browser can show that it was signed in with before. */
const knownFor = (mail: string): string => macOf(mail, 'known browser');
const isKnown = (mail: string, told: string | undefined): boolean => {
	const right = Buffer.from(knownFor(mail));
	const given = Buffer.from(told ?? '');
	return given.length === right.length && timingSafeEqual(given, right);
};

/**
 * Checks a password. Slow to guess: argon2, limits that are paid before anything is hashed and given back to who was right,
 * the same answer for both mistakes. A stranger who guesses does not lock out a browser that is known.
 */
export async function signIn(
	mail: string,
	password: string,
	address: string,
	known: string | undefined
): Promise<SignIn> {
	const name = mail.trim().toLowerCase();
	const isOwn = isKnown(name, known);
	const asked: [RateLimiterMemory, string][] = isOwn
		? [[perPair, `own ${known}`]]
		: [
				[perPair, `${name} ${address}`],
				[perAddress, address],
				[perMail, name]
			];
	const paid: typeof asked = [];
	const giveBack = () => Promise.all(paid.map(([limit, key]) => limit.reward(key)));
	for (const [limit, key] of asked)
		try {
			await limit.consume(key);
			paid.push([limit, key]);
		} catch (refused) {
			if (!(refused instanceof RateLimiterRes)) throw refused;
			await giveBack();
			return {
				refused: 'wait',
				minutes: Math.ceil(Math.min(refused.msBeforeNext, PASSWORDS.windowSeconds * 1_000) / 60_000)
			};
		}
	const user = await db.users.one({ mail: name });
	const right = await inTurn(async () => {
		nobody ??= hash(randomBytes(16).toString('hex'));
		return verify(user?.passwordHash ?? (await nobody), password);
	});
	if (right === undefined) {
		await giveBack();
		return { refused: 'busy' };
	}
	if (!user || !right) return { refused: 'wrong' };
	await giveBack();
	await perPair.delete(asked[0]![1]);
	const token = randomBytes(32).toString('base64url');
	const now = Date.now();
	const expiresAt = now + SESSION_MS;
	await write(async (tx) => {
		await db.sessions.insert({ tokenHash: tokenHash(token), userId: user.id, createdAt: now, expiresAt }, tx);
	});
	return { token, expires: new Date(expiresAt), known: knownFor(name) };
}

/** The signed-in person of a session, if it is still valid. */
export async function whoIs(
	token: string | undefined
): Promise<Pick<UserRow, 'id' | 'name' | 'mail' | 'role'> | undefined> {
	if (!token) return undefined;
	const session = await db.sessions.one({ tokenHash: tokenHash(token) });
	if (!session || session.expiresAt < Date.now()) return undefined;
	const user = await db.users.one({ id: session.userId });
	return user && { id: user.id, name: user.name, mail: user.mail, role: user.role };
}

export async function signOut(token: string): Promise<void> {
	await write((tx) => db.sessions.remove({ tokenHash: tokenHash(token) }, tx));
	tellSignedOut(token);
}

/** Removes sessions whose time is over, by the machine's clock: who moves a demo's clock stays signed in. */
export const endOldSessions = (): Promise<unknown> => write((tx) => removeOldSessions(Date.now(), tx));

/** Makes the first administrator from the environment, once, so that somebody can sign in. */
export async function makeFirstUser(): Promise<void> {
	const {
		JUSTPURSE_ADMIN_MAIL: mail,
		JUSTPURSE_ADMIN_NAME: name = 'Administrator',
		JUSTPURSE_ADMIN_PASSWORD: password
	} = process.env;
	if (!mail || !password || (await db.users.count()) > 0) return;
	const passwordHash = await hash(password);
	await write(async (tx) => {
		await db.users.insert(
			{ id: randomId(), mail: mail.toLowerCase(), name, role: 'administrator', passwordHash, createdAt: Date.now() },
			tx
		);
	});
}
