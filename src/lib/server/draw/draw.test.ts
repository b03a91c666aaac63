import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { deflateSync, inflateSync } from 'node:zlib';
import jsqr from 'jsqr';
import { describe, expect, it } from 'vitest';
import { drawPdf } from '.';
import type { PdfBlock } from './blocks';
import { unpackWoff } from './woff';

const require = createRequire(import.meta.url);
const woff = () => readFileSync(require.resolve('@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-400-normal.woff'));

describe('a font in WOFF', () => {
	it('comes out as the OpenType file it was made of: every table whole, in its place, on four bytes', () => {
		const packed = woff();
		const font = unpackWoff(packed);
		const count = font.readUInt16BE(4);
		expect(count).toBe(packed.readUInt16BE(12));
		expect(font.length).toBe(packed.readUInt32BE(16));
		let end = 12 + 16 * count;
		for (let n = 0; n < count; n++) {
			const [start, length] = [font.readUInt32BE(12 + 16 * n + 8), font.readUInt32BE(12 + 16 * n + 12)];
			expect(start).toBe(end);
			expect(start % 4).toBe(0);
			end = start + length + ((4 - (length % 4)) % 4);
		}
		expect(end).toBe(font.length);
	});
	it('has the checksum that its tables tell, but for the head, which holds the sum of the whole', () => {
		const font = unpackWoff(woff());
		for (let n = 0; n < font.readUInt16BE(4); n++) {
			const at = 12 + 16 * n;
			if (font.toString('latin1', at, at + 4) === 'head') continue;
			const [told, start, length] = [4, 8, 12].map((more) => font.readUInt32BE(at + more));
			let sum = 0;
			for (let place = start!; place < start! + length!; place += 4) sum = (sum + font.readUInt32BE(place)) >>> 0;
			expect(sum, font.toString('latin1', at, at + 4)).toBe(told);
		}
	});
	it('is refused where it is something else, or cut off', () => {
		expect(() => unpackWoff(Buffer.from('wOF2 and what follows it, which is long enough to be one of these'))).toThrow(
			'no WOFF'
		);
		expect(() => unpackWoff(Buffer.alloc(3))).toThrow('no WOFF');
		const broken = woff();
		const first = broken.readUInt32BE(48);
		deflateSync(Buffer.alloc(9)).copy(broken, first);
		expect(() => unpackWoff(broken)).toThrow();
	});
});

/** The drawing operators of a PDF, unpacked. */
function operatorsOf(pdf: Buffer): string {
	const text = pdf.toString('latin1');
	let all = '';
	for (const found of text.matchAll(/\/FlateDecode[^>]*>>\s*stream\r?\n/g)) {
		const start = found.index + found[0].length;
		const end = text.indexOf('endstream', start);
		try {
			all += inflateSync(pdf.subarray(start, end)).toString('latin1');
		} catch {
			// a font
		}
	}
	return all;
}
const draw = async (blocks: readonly PdfBlock[], more: object = {}) =>
	Buffer.from(await drawPdf({ asked: { title: 'Invoice 7', language: 'nl', foot: 'Wren & Alder', ...more }, blocks }));

describe('a document', () => {
	it('has title, language and tags, and its fonts in it', async () => {
		const pdf = await draw([{ kind: 'text', role: 'H1', text: 'Factuur 7', size: 20, bold: true }]);
		const text = pdf.toString('latin1');
		expect(text.slice(0, 5)).toBe('%PDF-');
		expect(text).toContain('/Lang (nl)');
		expect(text).toContain('/StructTreeRoot');
		expect(text).toContain('/FontFile2');
		expect(text).toMatch(/\/S \/H1/);
	});
	it('carries a QR code that a reader reads, drawn as squares', async () => {
		const address = 'https://pay.wrenalder.example/invoice/kLvwt7dTIV6j1u7ElSPvZQ';
		const pdf = await draw([
			{ kind: 'codes', codes: [{ code: address, text: 'The address of this invoice', link: address }] }
		]);
		const squares = [...operatorsOf(pdf).matchAll(/([\d.]+) ([\d.]+) ([\d.]+) ([\d.]+) re/g)].map((one) =>
			one.slice(1).map(Number)
		) as [number, number, number, number][];
		expect(squares.length).toBeGreaterThan(200);
		const each = squares[0]![3];
		const left = Math.min(...squares.map((one) => one[0])) - 4 * each;
		const top = Math.min(...squares.map((one) => one[1])) - 4 * each;
		const scale = 4;
		const size = Math.round(84 / each) * scale;
		const pixels = new Uint8ClampedArray(size * size * 4).fill(255);
		for (const [x, y, width, height] of squares)
			for (let row = 0; row < Math.round((height / each) * scale); row++)
				for (let column = 0; column < Math.round((width / each) * scale); column++) {
					const at =
						4 *
						((Math.round(((y - top) / each) * scale) + row) * size + Math.round(((x - left) / each) * scale) + column);
					pixels.set([0, 0, 0, 255], at);
				}
		const read = (jsqr as unknown as typeof import('jsqr').default)(pixels, size, size);
		expect(read?.data).toBe(address);
	});
	it('goes on over pages, with the head of a table on each and every row once', async () => {
		const rows = Array.from({ length: 120 }, (_, n) => [{ text: `row ${n}` }, { text: '1.00', right: true }]);
		const pdf = await draw([{ kind: 'table', widths: [3, 1], rows: [[{ text: 'What' }, { text: 'Sum' }], ...rows] }]);
		const text = pdf.toString('latin1');
		const pages = [...text.matchAll(/\/Type \/Page\b/g)].length;
		expect(pages).toBeGreaterThan(2);
		expect([...text.matchAll(/\/S \/TR\b/g)].length).toBe(120 + pages);
	});
	it('that is empty is one page with its foot', async () => {
		const text = (await draw([])).toString('latin1');
		expect([...text.matchAll(/\/Type \/Page\b/g)].length).toBe(1);
	});
});
