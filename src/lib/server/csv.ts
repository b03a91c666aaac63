import { stringify } from 'csv-stringify/sync';

/** A sum below zero begins with a minus and is no formula; every other text that a spreadsheet would work out is. */
const isNumber = /^-?\d+(\.\d+)?$/;
const isFormula = /^[=+\-@\t\r]/;

/** Rows as CSV with a byte order mark, so that spreadsheets read it as UTF-8; a text never becomes a formula there. */
export const csvText = (rows: readonly Readonly<Record<string, string | number>>[]): string =>
	stringify([...rows], {
		header: true,
		bom: true,
		cast: { string: (text) => (isFormula.test(text) && !isNumber.test(text) ? `'${text}` : text) }
	});

/** CSV as a file to keep. */
export const csvFile = (name: string, rows: Parameters<typeof csvText>[0]): Response =>
	new Response(csvText(rows), {
		headers: { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': `attachment; filename="${name}"` }
	});
