import { gridRows } from '$lib/server/accept/grid';
import { csvFile } from '$lib/server/csv';
import type { RequestHandler } from './$types';

/** Everything that tills accept, one line a till, currency and method or card scheme. */
export const GET: RequestHandler = async ({ url }) =>
	csvFile('what-tills-accept.csv', await gridRows(url.searchParams));
