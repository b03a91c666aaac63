import { csvStream } from '$lib/server/csv';
import { readFilter } from '$lib/server/takings/filter';
import { newestOnlyOf, PAYMENT_COLUMNS, paymentRows } from '$lib/server/takings/list';
import { today } from '$lib/server/connect/business';
import type { RequestHandler } from './$types';

/** Payments of a filter as CSV, from the newest; as many as there are, without holding them. Where a search finds too many, the name says so. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const { filter } = await readFilter(url, locals.locale);
	const newestOnly = await newestOnlyOf(filter);
	const part = newestOnly ? `-newest-${newestOnly}` : '';
	return csvStream(`just-purse-payments-1-${await today()}${part}.csv`, PAYMENT_COLUMNS, paymentRows(filter));
};
