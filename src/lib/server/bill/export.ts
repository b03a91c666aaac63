import { plainAmount } from '../../core/money';
import { db, type InvoiceRow } from '../db';
import { contentOf, sumsOf } from './drafts';
import { LINE_COLUMNS } from './ubl';

/** Documents as rows of a file: a row a line, the sums of the document in each. */
export async function lineRows(rows: readonly InvoiceRow[]): Promise<Record<(typeof LINE_COLUMNS)[number], string>[]> {
	const codes = new Map((await db.priceItems.find()).map((one) => [one.id, one.code]));
	return rows.flatMap((row) => {
		const content = contentOf(row);
		const told = sumsOf(row);
		const sum = (minor: number) => plainAmount({ minor, currency: row.currency });
		return content.lines.map((line, at) => ({
			number: row.number,
			kind: row.kind,
			day: row.day,
			payer: row.payerName,
			currency: row.currency,
			line: String(at + 1),
			code: codes.get(line.item ?? '') ?? '',
			text: line.text,
			quantity: line.quantity,
			unit: line.unit,
			price: line.price,
			discount: 'sums' in told ? sum(told.sums.lines[at]!.discount) : '',
			tax: line.category,
			rate: String(line.rate / 10_000),
			line_sum: 'sums' in told ? sum(told.sums.lines[at]!.sum) : '',
			pricing: content.pricing,
			total: sum(row.total),
			placed: sum(row.placed),
			credited: sum(row.credited),
			open: sum(row.open),
			state: row.state
		}));
	});
}
export const invoicesByIds = (ids: readonly number[]): Promise<InvoiceRow[]> =>
	ids.length ? db.invoices.find({ id: [...ids] }, { order: [['id', 'ASC']] }) : Promise.resolve([]);
