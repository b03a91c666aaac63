import { priceList, priceRows } from '$lib/server/bill/prices';
import { today } from '$lib/server/connect/business';
import { csvFile } from '$lib/server/csv';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => {
	const { columns, rows } = priceRows(await priceList());
	return csvFile(
		`just-purse-price-list-1-${await today()}.csv`,
		rows.map((row) => Object.fromEntries(columns.map((column) => [column, row[column] ?? ''])))
	);
};
