import { csvStream } from '$lib/server/csv';
import { readFilter } from '$lib/server/takings/filter';
import { PAYMENT_COLUMNS, paymentRows } from '$lib/server/takings/list';
import { today } from '$lib/server/connect/business';
import type { RequestHandler } from './$types';

/** Payments of a filter as CSV, from the newest; as many as there are, without holding them. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const { filter } = await readFilter(url, locals.locale);
	return csvStream(`just-purse-payments-1-${await today()}.csv`, PAYMENT_COLUMNS, paymentRows(filter));
};
