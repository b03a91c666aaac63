import { stringify } from 'csv-stringify/sync';

/** A sum below zero begins with a minus and is no formula; every other text that a spreadsheet would work out is. */
const isNumber = /^-?\d+(\.\d+)?$/;
const isFormula = /^[=+\-@\t\r]/;

/** Lines end by CR LF, as RFC 4180 asks; a text never becomes a formula in a spreadsheet. */
const FORM = {
	record_delimiter: 'windows',
	cast: { string: (text: string) => (isFormula.test(text) && !isNumber.test(text) ? `'${text}` : text) }
} as const;
type Row = Readonly<Record<string, string | number>>;

/** Rows as CSV with a byte order mark, so that spreadsheets read it as UTF-8. */
export const csvText = (rows: readonly Row[]): string => stringify([...rows], { header: true, bom: true, ...FORM });

const headers = (name: string) => ({
	'content-type': 'text/csv; charset=utf-8',
	'content-disposition': `attachment; filename="${name}"`
});

/** CSV as a file to keep. */
export const csvFile = (name: string, rows: readonly Row[]): Response =>
	new Response(csvText(rows), { headers: headers(name) });

/** The same of any number of rows: each batch is made when the one before was taken, so that none of them pile up. */
export function csvStream(name: string, columns: readonly string[], batches: AsyncGenerator<Row[]>): Response {
	const encoder = new TextEncoder();
	let isBegun = false;
	const body = new ReadableStream<Uint8Array>(
		{
			async pull(stream) {
				const { value, done } = await batches.next();
				const text = [
					isBegun ? '' : stringify([], { header: true, bom: true, columns: [...columns], ...FORM }),
					value?.length ? stringify(value, { columns: [...columns], ...FORM }) : ''
				].join('');
				isBegun = true;
				if (text) stream.enqueue(encoder.encode(text));
				if (done) stream.close();
			},
			async cancel() {
				await batches.return(undefined);
			}
		},
		{ highWaterMark: 1 }
	);
	return new Response(body, { headers: headers(name) });
}
