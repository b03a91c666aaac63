import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import PDFDocument from 'pdfkit';
import QRCode from 'qrcode';
import { INK, QUIET, RULE, type PdfAsked, type PdfBlock, type PdfCell, type PdfCode, type PdfColumn } from './blocks';
import { unpackWoff } from './woff';

// Draws documents as PDF: tagged, so that they can be read aloud, with a language, a title, and fonts of their own in them.

const require = createRequire(import.meta.url);
const fonts = new Map<number, Buffer>();
function fontOf(weight: 400 | 600): Buffer {
	const known = fonts.get(weight);
	if (known) return known;
	const made = unpackWoff(
		readFileSync(require.resolve(`@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-${weight}-normal.woff`))
	);
	fonts.set(weight, made);
	return made;
}

const MARGIN = 36;
const PAD = 3;
const CODE = 84;
/** modules of white around a QR code, ISO/IEC 18004 */
const QUIET_ZONE = 4;

class Drawing {
	private readonly root: PDFKit.PDFStructureElement;
	private readonly width: number;

	constructor(private readonly doc: PDFKit.PDFDocument) {
		this.root = doc.struct('Document');
		doc.addStructure(this.root);
		this.width = doc.page.width - 2 * MARGIN;
	}

	add(block: PdfBlock): void {
		if (block.kind === 'text') this.addText(block);
		else if (block.kind === 'columns') this.addColumns(block.columns);
		else if (block.kind === 'codes') this.addCodes(block.codes);
		else if (block.kind === 'logo') this.addLogo(block);
		else if (block.kind === 'gap') this.doc.y += block.points;
		else this.addTable(block.widths, block.rows);
	}

	private addText(block: Extract<PdfBlock, { kind: 'text' }>): void {
		const { role, text, size = 9, color = INK, bold = false, gap = 4 } = block;
		const { doc } = this;
		this.root.add(
			doc.struct(role, {}, () => {
				doc
					.font(bold ? 'bold' : 'plain')
					.fontSize(size)
					.fillColor(color)
					.text(text, MARGIN, doc.y, { width: this.width });
			})
		);
		doc.y += gap;
	}

	private addColumns(columns: readonly PdfColumn[]): void {
		const { doc } = this;
		const each = this.width / columns.length;
		const top = doc.y;
		let low = top;
		columns.forEach(({ head, lines }, at) => {
			const x = MARGIN + at * each;
			this.root.add(
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
	}

	private addCodes(codes: readonly PdfCode[]): void {
		const { doc } = this;
		if (doc.y + CODE > doc.page.height - doc.page.margins.bottom) doc.addPage();
		const top = doc.y + 4;
		const each = this.width / 2;
		codes.forEach(({ code, text, link }, at) => {
			const x = MARGIN + at * each;
			this.root.add(doc.struct('Figure', { alt: text.split('\n')[0]! }, () => this.drawCode(code, x, top)));
			this.root.add(
				doc.struct('P', {}, () => {
					doc
						.font('plain')
						.fontSize(8)
						.fillColor(INK)
						.text(text, x + CODE + 8, top + 6, {
							width: each - CODE - 20,
							...(link ? { link, underline: false } : {})
						});
				})
			);
		});
		doc.y = top + CODE + 10;
	}

	/** A QR code as one path of squares: sharp at any size, and a tenth of a picture. */
	private drawCode(code: string, left: number, top: number): void {
		const { size, data } = QRCode.create(code, { errorCorrectionLevel: 'M' }).modules;
		const each = CODE / (size + 2 * QUIET_ZONE);
		for (let row = 0; row < size; row++)
			for (let column = 0; column < size;) {
				let end = column;
				while (end < size && data[row * size + end]) end++;
				if (end > column)
					this.doc.rect(
						left + (QUIET_ZONE + column) * each,
						top + (QUIET_ZONE + row) * each,
						(end - column) * each,
						each
					);
				column = end + 1;
			}
		this.doc.fill('#000000');
	}

	private addLogo({ picture, name }: Extract<PdfBlock, { kind: 'logo' }>): void {
		const { doc } = this;
		this.root.add(
			doc.struct('Figure', { alt: name }, () => {
				doc.image(Buffer.from(picture), MARGIN, doc.y, { fit: [160, 44] });
			})
		);
		doc.y += 54;
	}

	private addTable(widths: readonly number[], rows: readonly (readonly PdfCell[])[]): void {
		const { doc, width } = this;
		const table = doc.struct('Table');
		this.root.add(table);
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

	/** Puts the foot on every page. */
	end(foot: string): void {
		const { doc, width } = this;
		this.root.end();
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
	}
}

/** Draws a document. */
export async function drawPdf({
	asked: { title, language, landscape, foot },
	blocks
}: {
	readonly asked: PdfAsked;
	readonly blocks: readonly PdfBlock[];
}): Promise<Uint8Array> {
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
	doc.registerFont('plain', fontOf(400));
	doc.registerFont('bold', fontOf(600));
	const chunks: Buffer[] = [];
	doc.on('data', (chunk: Buffer) => chunks.push(chunk));
	const ended = new Promise<void>((done) => doc.once('end', done));
	const drawing = new Drawing(doc);
	for (const block of blocks) drawing.add(block);
	drawing.end(foot);
	doc.end();
	await ended;
	return Buffer.concat(chunks);
}
