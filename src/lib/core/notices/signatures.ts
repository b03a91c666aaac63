import { hmac } from '@noble/hashes/hmac.js';
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, concatBytes, utf8ToBytes } from '@noble/hashes/utils.js';
import { fromBase64, sameText, toBase64 } from './bytes';

/** How a processor proves that a notification is its own. */
export type Dialect =
	| { readonly kind: 'standard-webhooks' }
	| { readonly kind: 'hex-hmac'; readonly header: string }
	| { readonly kind: 'shared-secret'; readonly header: string }
	| { readonly kind: 'call-back' };

export type Verdict = 'verified' | 'unconfirmed' | 'forged' | 'old' | 'malformed';

/** One step of a check, for the workings. */
export interface CheckStep {
	readonly step: string;
	readonly ok: boolean;
	readonly says: string;
}

export interface Verification {
	readonly verdict: Verdict;
	/** the event's id where the dialect carries it outside the payload */
	readonly eventId?: string;
	readonly steps: readonly CheckStep[];
	/** how long before it came it was sent, in seconds, by what it says; where the signature is right and the dialect tells */
	readonly secondsOff?: number;
}

/** How far a timestamp may be off, in seconds. */
export const TOLERANCE_SECONDS = 300;

/** The key inside a secret of the form `whsec_` + base64. */
export const standardKey = (secret: string): Uint8Array | undefined =>
	fromBase64(secret.startsWith('whsec_') ? secret.slice(6) : secret);

/** HMAC-SHA-256 (RFC 2104). A platform's own, faster one may take the place of the pure one. */
export type Hmac = (key: Uint8Array, message: Uint8Array) => Uint8Array;
const pure: Hmac = (key, message) => hmac(sha256, key, message);

/** `v1,` + base64 of HMAC-SHA-256 over `id.timestamp.body`. @source Standard Webhooks 1.0 */
export const standardSignature = (
	key: Uint8Array,
	id: string,
	timestamp: string,
	body: Uint8Array,
	mac: Hmac = pure
): string => `v1,${toBase64(mac(key, concatBytes(utf8ToBytes(`${id}.${timestamp}.`), body)))}`;

/**
 * Checks the proof of one notification.
 * @param secrets every secret that is valid now (two while keys rotate)
 * @param header reads a header by its lower-case name
 * @param body the raw bytes, as they came
 * @param now milliseconds since 1970, our clock
 * @param mac what computes HMAC-SHA-256
 */
export function verify(
	dialect: Dialect,
	secrets: readonly string[],
	header: (name: string) => string | undefined,
	body: Uint8Array,
	now: number,
	mac: Hmac = pure
): Verification {
	switch (dialect.kind) {
		case 'standard-webhooks':
			return verifyStandard(secrets, header, body, now, mac);
		case 'hex-hmac': {
			const given = header(dialect.header)?.trim().toLowerCase();
			if (!given) return missing(dialect.header);
			const ok = secrets.some((secret) => sameText(given, bytesToHex(mac(utf8ToBytes(secret), body))));
			return decided(ok, [signatureStep(ok, 'HMAC of the body, in hexadecimal')]);
		}
		case 'shared-secret': {
			const given = header(dialect.header);
			if (!given) return missing(dialect.header);
			const ok = secrets.some((secret) => sameText(given, secret));
			return decided(ok, [signatureStep(ok, 'Shared secret')]);
		}
		case 'call-back':
			return {
				verdict: 'unconfirmed',
				steps: [{ step: 'Signature', ok: true, says: 'None in this dialect; the processor is called back to confirm.' }]
			};
	}
}

function verifyStandard(
	secrets: readonly string[],
	header: (name: string) => string | undefined,
	body: Uint8Array,
	now: number,
	mac: Hmac
): Verification {
	const [id, timestamp, signatures] = ['webhook-id', 'webhook-timestamp', 'webhook-signature'].map(header);
	if (!id) return missing('webhook-id');
	if (!timestamp) return missing('webhook-timestamp');
	if (!signatures) return missing('webhook-signature');
	if (!/^\d{1,12}$/.test(timestamp))
		return {
			verdict: 'malformed',
			eventId: id,
			steps: [{ step: 'Time', ok: false, says: 'The timestamp is not in Unix seconds.' }]
		};
	const given = signatures.split(' ').filter((one) => one.startsWith('v1,'));
	const ok = secrets.some((secret) => {
		const key = standardKey(secret);
		if (!key) return false;
		const right = standardSignature(key, id, timestamp, body, mac);
		// every signature is compared, so that the time taken tells nothing
		return given.map((one) => sameText(one, right)).includes(true);
	});
	const steps: CheckStep[] = [
		signatureStep(ok, `${given.length} signature${given.length === 1 ? '' : 's'} over id, time and body`)
	];
	if (!ok) return { verdict: 'forged', eventId: id, steps };
	const off = Math.round(now / 1000) - Number(timestamp);
	const fresh = Math.abs(off) <= TOLERANCE_SECONDS;
	steps.push({
		step: 'Time',
		ok: fresh,
		says: fresh
			? `Sent ${off} s before it arrived; up to ${TOLERANCE_SECONDS} s either way is taken.`
			: `Its timestamp is ${Math.abs(off)} s ${off > 0 ? 'old' : 'in the future'}; more than ${TOLERANCE_SECONDS} s is refused.`
	});
	return { verdict: fresh ? 'verified' : 'old', eventId: id, steps, secondsOff: off };
}

const missing = (name: string): Verification => ({
	verdict: 'malformed',
	steps: [{ step: 'Headers', ok: false, says: `The header ${name} is missing.` }]
});
const signatureStep = (ok: boolean, what: string): CheckStep => ({
	step: 'Signature',
	ok,
	says: ok ? `${what}: made with this connection’s secret.` : `${what}: not made with this connection’s secret.`
});
const decided = (ok: boolean, steps: CheckStep[]): Verification => ({ verdict: ok ? 'verified' : 'forged', steps });
