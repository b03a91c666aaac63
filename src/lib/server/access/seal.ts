import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { dataFolder, db, write } from '../db';

let key: Buffer | undefined;

/** The sealing key: from the environment (64 hexadecimal digits), else from a file made at first start with mode 0600. */
function sealingKey(): Buffer {
	if (key) return key;
	const given = process.env.JUSTPURSE_SEAL_KEY;
	if (given) {
		if (!/^[0-9a-f]{64}$/i.test(given)) throw new Error('JUSTPURSE_SEAL_KEY must be 64 hexadecimal digits');
		return (key = Buffer.from(given, 'hex'));
	}
	const file = join(dataFolder(), 'seal.key');
	if (!existsSync(file)) {
		mkdirSync(dataFolder(), { recursive: true, mode: 0o700 });
		writeFileSync(file, randomBytes(32).toString('hex'), { mode: 0o600, flag: 'wx' });
	}
	return (key = Buffer.from(readFileSync(file, 'utf8').trim(), 'hex'));
}

/** The key does not open what was sealed under it before: it was lost, or is another installation's. */
export class LostKey extends Error {
	constructor() {
		const where = process.env.JUSTPURSE_SEAL_KEY ? 'JUSTPURSE_SEAL_KEY' : join(dataFolder(), 'seal.key');
		super(
			`The sealing key (${where}) is not the one that this database was sealed under: keys of processors could not be opened. Put the right key back, from the copy that was kept of it, and start again. Nothing was changed.`
		);
	}
}

const CANARY = 'just purse';
/**
 * Makes the sealing key at the first start, before there is anything to seal; at every later one checks that it is the same.
 * @throws LostKey where it is not: a new key in its place would leave everything sealed closed for ever
 */
export async function prepareSealing(): Promise<void> {
	const kept = await db.sealedCanary.one({ id: 1 });
	const isGiven = !!process.env.JUSTPURSE_SEAL_KEY || existsSync(join(dataFolder(), 'seal.key'));
	// a database of a version before this one has secrets and no canary
	const sample = kept ? undefined : (await db.connections.find({}, { limit: 1 }))[0];
	if ((kept || sample) && !isGiven) throw new LostKey();
	try {
		if (kept && unseal(kept.sealed, 'canary').toString() !== CANARY) throw new LostKey();
		if (sample?.hookSecretSealed) unseal(sample.hookSecretSealed, `hook ${sample.id}`);
	} catch {
		throw new LostKey();
	}
	if (!kept) await write((tx) => db.sealedCanary.insert({ id: 1, sealed: seal(CANARY, 'canary') }, tx));
}

/** Signs a text under the sealing key, for one purpose: HMAC-SHA-256 (RFC 2104), as base64url. */
export const macOf = (text: string, purpose: string): string =>
	createHmac('sha256', sealingKey()).update(`${purpose}\n${text}`).digest('base64url');

/**
 * Seals a secret with AES-256-GCM.
 * @param purpose what it is for; a sealed text opens only for the same purpose
 */
export function seal(secret: string | Uint8Array, purpose: string): string {
	const nonce = randomBytes(12);
	const cipher = createCipheriv('aes-256-gcm', sealingKey(), nonce);
	cipher.setAAD(Buffer.from(purpose));
	const sealed = Buffer.concat([cipher.update(secret), cipher.final()]);
	return ['v1', nonce, cipher.getAuthTag(), sealed]
		.map((part) => (typeof part === 'string' ? part : part.toString('base64url')))
		.join('.');
}

/** @throws Error when it was sealed for another purpose, under another key, or was altered */
export function unseal(text: string, purpose: string): Buffer {
	const [version, nonce, tag, sealed] = text.split('.');
	if (version !== 'v1' || !nonce || !tag || sealed === undefined) throw new Error('Not a sealed secret');
	const decipher = createDecipheriv('aes-256-gcm', sealingKey(), Buffer.from(nonce, 'base64url'));
	decipher.setAAD(Buffer.from(purpose));
	decipher.setAuthTag(Buffer.from(tag, 'base64url'));
	return Buffer.concat([decipher.update(Buffer.from(sealed, 'base64url')), decipher.final()]);
}
