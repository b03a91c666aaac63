import { hash, verify } from '@node-rs/argon2';
import { createHash, randomBytes } from 'node:crypto';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { db, removeOldSessions, write, type UserRow } from '../db';
import { randomId } from './ids';

export const SESSION_COOKIE = 'purse_session';
const SESSION_MS = 12 * 3_600_000;

/** Five wrong passwords for one mail, or thirty from one address, then a wait of a quarter of an hour. */
const perMail = new RateLimiterMemory({ keyPrefix: 'mail', points: 5, duration: 900, blockDuration: 900 });
const perAddress = new RateLimiterMemory({ keyPrefix: 'address', points: 30, duration: 900, blockDuration: 900 });

export type SignIn =
	| { readonly token: string; readonly expires: Date }
	| { readonly refused: 'wrong' }
	| { readonly refused: 'wait'; readonly minutes: number };

const tokenHash = (token: string) => createHash('sha256').update(token).digest('hex');
// compared with when nobody has the mail, so that both answers take as long
const nobody = hash(randomBytes(16).toString('hex'));

/** Checks a password. Slow to guess: argon2, a limit per mail and per address, the same answer for both mistakes. */
export async function signIn(mail: string, password: string, address: string): Promise<SignIn> {
	const name = mail.trim().toLowerCase();
	const limits = [await perMail.get(name), await perAddress.get(address)];
	const wait = limits.find((limit) => limit !== null && limit.remainingPoints <= 0 && limit.msBeforeNext > 0);
	if (wait) return { refused: 'wait', minutes: Math.ceil(wait.msBeforeNext / 60_000) };
	const user = await db.users.one({ mail: name });
	const right = await verify(user?.passwordHash ?? (await nobody), password);
	if (!user || !right) {
		try {
			await Promise.all([perMail.consume(name), perAddress.consume(address)]);
		} catch (limit) {
			if (limit instanceof RateLimiterRes) return { refused: 'wait', minutes: Math.ceil(limit.msBeforeNext / 60_000) };
			throw limit;
		}
		return { refused: 'wrong' };
	}
	await perMail.delete(name);
	const token = randomBytes(32).toString('base64url');
	const now = Date.now();
	const expiresAt = now + SESSION_MS;
	await write(async (tx) => {
		await db.sessions.insert({ tokenHash: tokenHash(token), userId: user.id, createdAt: now, expiresAt }, tx);
	});
	return { token, expires: new Date(expiresAt) };
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

export const signOut = (token: string): Promise<unknown> =>
	write((tx) => db.sessions.remove({ tokenHash: tokenHash(token) }, tx));

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
