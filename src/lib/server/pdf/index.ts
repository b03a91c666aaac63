import { inThread } from '../threads';
import type { PdfAsked, PdfBlock, PdfCell, PdfCode, PdfColumn, PdfRole, PdfText } from '../draw/blocks';

export { CLAY, INK, QUIET, RULE, type PdfAsked, type PdfCell } from '../draw/blocks';

/** A document that is being put together. */
export interface Pdf {
	/** adds a piece of text with its role: a heading, a paragraph */
	say(role: PdfRole, text: string, more?: PdfText): void;
	/** adds blocks beside each other, each with a small heading */
	columns(columns: readonly PdfColumn[]): void;
	/** adds QR codes beside each other */
	codes(codes: readonly PdfCode[]): void;
	/** adds the logo at the head. @param picture a PNG or JPEG */
	logo(picture: Uint8Array, name: string): void;
	/** adds room. @param points of 1/72 inch */
	gap(points: number): void;
	/** adds a table whose first row is its head */
	table(widths: readonly number[], rows: readonly (readonly PdfCell[])[]): void;
}

/**
 * Writes a PDF in another thread: nobody waits while it is drawn but who asked for it.
 * @param write puts its content into it
 */
export async function makePdf(asked: PdfAsked, write: (pdf: Pdf) => void): Promise<Buffer> {
	const blocks: PdfBlock[] = [];
	write({
		say: (role, text, more) => void blocks.push({ kind: 'text', role, text, ...more }),
		columns: (columns) => void blocks.push({ kind: 'columns', columns }),
		codes: (codes) => void (codes.length && blocks.push({ kind: 'codes', codes })),
		logo: (picture, name) => void blocks.push({ kind: 'logo', picture: new Uint8Array(picture), name }),
		gap: (points) => void blocks.push({ kind: 'gap', points }),
		table: (widths, rows) => void blocks.push({ kind: 'table', widths, rows })
	});
	return Buffer.from(await inThread('drawPdf', { asked, blocks }));
}
