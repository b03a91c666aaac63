import { createRequire } from 'node:module';
import PDFDocument from 'pdfkit';

// Documents as PDF: tagged, so that they can be read aloud, with a language, a title, and fonts of their own in them.

export const INK = '#2B2320';
export const QUIET = '#6F635B';
export const RULE = '#E2D9CB';
export const CLAY = '#A9482A';

const require = createRequire(import.meta.url);
const fontFile = (weight: 400 | 600) =>
	require.resolve(`@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-${weight}-normal.woff`);

export interface PdfAsked {
	readonly title: string;
	/** BCP 47 */
	readonly language: string;
	readonly landscape?: boolean;
	/** what stands at the foot of every page, beside its number */
	readonly foot: string;
}
/** A document that is being written, and its root for assistive technology. */
export interface Pdf {
	readonly doc: PDFKit.PDFDocument;
	/** adds a piece of text with its role: a heading, a paragraph */
	say(
		role: 'H1' | 'H2' | 'P',
		text: string,
		more?: { size?: number; color?: string; bold?: boolean; gap?: number }
	): void;
	/** adds blocks beside each other, each with a small heading */
	columns(blocks: readonly { readonly head: string; readonly lines: readonly string[] }[]): void;
	/** adds pictures beside each other, each with words to its right; they are told to assistive technology by those words */
	pictures(list: readonly { readonly picture: Buffer; readonly text: string; readonly link?: string }[]): void;
	/** adds the logo at the head */
	logo(picture: Buffer, name: string): void;
	/** adds a table whose first row is its head */
	table(widths: readonly number[], rows: readonly (readonly PdfCell[])[]): void;
}
export interface PdfCell {
	readonly text: string;
	readonly bold?: boolean;
	readonly right?: boolean;
	readonly color?: string;
	readonly size?: number;
}

const MARGIN = 36;
const PAD = 3;

/** Writes a PDF. @param write puts its content into it */
export async function makePdf(
	{ title, language, landscape, foot }: PdfAsked,
	write: (pdf: Pdf) => void
): Promise<Buffer> {
	const doc = new PDFDocument({
		size: 'A4',
		layout: landscape ? 'landscape' : 'portrait',
		margins: { top: MARGIN, bottom: MARGIN + 14, left: MARGIN, right: MARGIN },
		bufferPages: true,
		tagged: true,
		lang: language,
		displayTitle: true,
		pdfVersion: '1.5',
		info: { Title: title, Creator: 'Just Purse' }
	});
	doc.registerFont('plain', fontFile(400));
	doc.registerFont('bold', fontFile(600));
	const chunks: Buffer[] = [];
	doc.on('data', (chunk: Buffer) => chunks.push(chunk));
	const ended = new Promise<void>((done) => doc.once('end', done));
	const root = doc.struct('Document');
	doc.addStructure(root);
	const width = doc.page.width - 2 * MARGIN;
	write({
		doc,
		say(role, text, { size = 9, color = INK, bold = false, gap = 4 } = {}) {
			root.add(
				doc.struct(role, {}, () => {
					doc
						.font(bold ? 'bold' : 'plain')
						.fontSize(size)
						.fillColor(color)
						.text(text, MARGIN, doc.y, { width });
				})
			);
			doc.y += gap;
		},
		columns(blocks) {
			const each = width / blocks.length;
			const top = doc.y;
			let low = top;
			blocks.forEach(({ head, lines }, at) => {
				const x = MARGIN + at * each;
				root.add(
					doc.struct('P', {}, () => {
						doc
							.font('plain')
							.fontSize(7.5)
							.fillColor(QUIET)
							.text(head, x, top, { width: each - 12 });
						doc
							.font('plain')
							.fontSize(9)
							.fillColor(INK)
							.text(lines.join('\n') || ' ', x, doc.y + 1, { width: each - 12 });
					})
				);
				low = Math.max(low, doc.y);
			});
			doc.y = low + 14;
		},
		pictures(list) {
			if (!list.length) return;
			const size = 84;
			if (doc.y + size > doc.page.height - doc.page.margins.bottom) doc.addPage();
			const top = doc.y + 4;
			const each = width / 2;
			list.forEach(({ picture, text, link }, at) => {
				const x = MARGIN + at * each;
				root.add(
					doc.struct('Figure', { alt: text.split('\n')[0]! }, () => {
						doc.image(picture, x, top, { width: size, height: size });
					})
				);
				root.add(
					doc.struct('P', {}, () => {
						doc
							.font('plain')
							.fontSize(8)
							.fillColor(INK)
							.text(text, x + size + 8, top + 6, {
								width: each - size - 20,
								...(link ? { link, underline: false } : {})
							});
					})
				);
			});
			doc.y = top + size + 10;
		},
		logo(picture, name) {
			root.add(
				doc.struct('Figure', { alt: name }, () => {
					doc.image(picture, MARGIN, doc.y, { fit: [160, 44] });
				})
			);
			doc.y += 54;
		},
		table(widths, rows) {
			const table = doc.struct('Table');
			root.add(table);
			const all = widths.reduce((sum, one) => sum + one, 0);
			const each = widths.map((one) => (one / all) * width);
			const setFont = (cell: PdfCell) => doc.font(cell.bold ? 'bold' : 'plain').fontSize(cell.size ?? 8);
			const draw = (cells: readonly PdfCell[], isHead: boolean) => {
				const height =
					Math.max(
						...cells.map((cell, at) => setFont(cell).heightOfString(cell.text || ' ', { width: each[at]! - 2 * PAD }))
					) +
					2 * PAD;
				if (doc.y + height > doc.page.height - doc.page.margins.bottom) {
					doc.addPage();
					if (!isHead) draw(rows[0]!, true);
				}
				const top = doc.y;
				const line = doc.struct('TR');
				table.add(line);
				let x = MARGIN;
				cells.forEach((cell, at) => {
					const left = x + PAD;
					line.add(
						doc.struct(isHead || at === 0 ? 'TH' : 'TD', {}, () => {
							setFont(cell)
								.fillColor(cell.color ?? INK)
								.text(cell.text || ' ', left, top + PAD, {
									width: each[at]! - 2 * PAD,
									align: cell.right ? 'right' : 'left'
								});
						})
					);
					x += each[at]!;
				});
				line.end();
				doc.y = top + height;
				// a rule is for the eye alone
				doc.markContent('Artifact', { type: 'Layout' });
				doc
					.moveTo(MARGIN, doc.y)
					.lineTo(MARGIN + width, doc.y)
					.lineWidth(0.5)
					.strokeColor(RULE)
					.stroke();
				doc.endMarkedContent();
			};
			rows.forEach((cells, at) => draw(cells, at === 0));
			table.end();
		}
	});
	root.end();
	const { start, count } = doc.bufferedPageRange();
	for (let page = start; page < start + count; page++) {
		doc.switchToPage(page);
		const y = doc.page.height - MARGIN;
		// below the margin text would begin another page
		doc.page.margins.bottom = 0;
		doc.markContent('Artifact', { type: 'Pagination' });
		doc.font('plain').fontSize(6.5).fillColor(QUIET);
		doc.text(foot, MARGIN, y, { width: width - 70, height: 18, ellipsis: true });
		doc.text(`${page - start + 1} / ${count}`, MARGIN + width - 60, y, { width: 60, align: 'right' });
		doc.endMarkedContent();
	}
	doc.end();
	await ended;
	return Buffer.concat(chunks);
}
