/** The room that a printed receipt leaves for a message. */
export const RECEIPT = { columns: 32, lines: 5 } as const;

/** A message in the lines of a receipt, broken between words; a word that is longer than a line is broken where it must. */
export function receiptLines(text: string, columns: number = RECEIPT.columns): string[] {
	const lines: string[] = [];
	for (const paragraph of text.trim().split(/\r?\n/)) {
		let line = '';
		for (const word of paragraph.split(/\s+/).filter(Boolean)) {
			let rest = word;
			if (line && line.length + 1 + rest.length <= columns) {
				line += ` ${rest}`;
				continue;
			}
			if (line) lines.push(line);
			for (; rest.length > columns; rest = rest.slice(columns)) lines.push(rest.slice(0, columns));
			line = rest;
		}
		lines.push(line);
	}
	return lines.length === 1 && lines[0] === '' ? [] : lines;
}
