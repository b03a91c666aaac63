import { invoicesByIds, lineRows } from '$lib/server/bill/export';
import { today } from '$lib/server/connect/business';
import { csvFile } from '$lib/server/csv';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ url }) => {
	const ids = url.searchParams.getAll('id').map(Number).filter(Number.isSafeInteger).slice(0, 1_000);
	return csvFile(`just-purse-invoice-lines-1-${await today()}.csv`, await lineRows(await invoicesByIds(ids)));
};
