import { inflateSync } from 'node:zlib';

const HEAD = 44;
const ENTRY = 20;

/**
 * Unpacks a font in WOFF 1.0 to the OpenType file it was made of, so that its tables are inflated once, not at every document.
 * Source: W3C WOFF File Format 1.0, sections 3 to 5.
 * @throws where it is no such file
 */
export function unpackWoff(woff: Buffer): Buffer {
	if (woff.length < HEAD || woff.toString('latin1', 0, 4) !== 'wOFF') throw new Error('This is no WOFF font.');
	const count = woff.readUInt16BE(12);
	const head = Buffer.alloc(12 + 16 * count);
	woff.copy(head, 0, 4, 8);
	const power = Math.floor(Math.log2(count));
	head.writeUInt16BE(count, 4);
	head.writeUInt16BE(16 * 2 ** power, 6);
	head.writeUInt16BE(power, 8);
	head.writeUInt16BE(16 * (count - 2 ** power), 10);
	const parts: Uint8Array[] = [head];
	let at = head.length;
	for (let n = 0; n < count; n++) {
		const entry = HEAD + ENTRY * n;
		const [start, packed, length] = [4, 8, 12].map((more) => woff.readUInt32BE(entry + more)) as [
			number,
			number,
			number
		];
		const body = woff.subarray(start, start + packed);
		const table = packed < length ? inflateSync(body) : body;
		if (table.length !== length) throw new Error('A table of this font is not whole.');
		const place = 12 + 16 * n;
		woff.copy(head, place, entry, entry + 4);
		woff.copy(head, place + 4, entry + 16, entry + 20);
		head.writeUInt32BE(at, place + 8);
		head.writeUInt32BE(length, place + 12);
		const padding = Buffer.alloc((4 - (length % 4)) % 4);
		parts.push(table, padding);
		at += length + padding.length;
	}
	return Buffer.concat(parts);
}
