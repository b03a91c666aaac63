/** Compares two texts in a time that depends on their length only. */
export function sameText(a: string, b: string): boolean {
	let difference = a.length ^ b.length;
	const length = Math.max(a.length, b.length);
	for (let i = 0; i < length; i++) difference |= (a.charCodeAt(i) || 0) ^ (b.charCodeAt(i) || 0);
	return difference === 0;
}

const ALPHABET = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** @source RFC 4648, section 4 */
export function toBase64(bytes: Uint8Array): string {
	let text = '';
	for (let i = 0; i < bytes.length; i += 3) {
		const [a, b, c] = [bytes[i]!, bytes[i + 1] ?? 0, bytes[i + 2] ?? 0];
		const group = (a << 16) | (b << 8) | c;
		text += ALPHABET[group >> 18]! + ALPHABET[(group >> 12) & 63]!;
		text += i + 1 < bytes.length ? ALPHABET[(group >> 6) & 63]! : '=';
		text += i + 2 < bytes.length ? ALPHABET[group & 63]! : '=';
	}
	return text;
}

/** @source RFC 4648, section 5, without padding */
export const toBase64Url = (bytes: Uint8Array): string =>
	toBase64(bytes).replace(/\+/g, '-').replace(/\//g, '_').replace(/=+$/, '');

/** @returns undefined when the text is not base64 */
export function fromBase64(text: string): Uint8Array | undefined {
	const body = text.replace(/=+$/, '');
	if (/[^A-Za-z0-9+/]/.test(body) || body.length % 4 === 1) return undefined;
	const bytes = new Uint8Array(Math.floor((body.length * 3) / 4));
	let [bits, held, at] = [0, 0, 0];
	for (const sign of body) {
		held = (held << 6) | ALPHABET.indexOf(sign);
		bits += 6;
		if (bits >= 8) {
			bits -= 8;
			bytes[at++] = (held >> bits) & 255;
		}
	}
	return bytes;
}
