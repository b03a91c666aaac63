import { invoicesByIds, lineRows } from '$lib/server/bill/export';
import { csvFile } from '$lib/server/csv';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
	const rows = await invoicesByIds([Number(params.id)].filter(Number.isSafeInteger));
	if (!rows[0]) error(404, 'There is no such invoice.');
	return csvFile(`${(rows[0].number || 'draft').replace(/[^\w.-]+/g, '-')}-lines.csv`, await lineRows(rows));
};
