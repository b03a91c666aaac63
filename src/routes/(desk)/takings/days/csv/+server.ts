import { readDay } from '$lib/core/calendar';
import { csvFile } from '$lib/server/csv';
import { dayRows, readDays } from '$lib/server/takings/days';
import type { RequestHandler } from './$types';

/** Takings a day as CSV: every currency, a line a day and part. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const asked = await readDays(url, (text) => readDay(text, locals.locale));
	return csvFile(`just-purse-days-1-${asked.from}-to-${asked.to}.csv`, await dayRows(asked));
};
