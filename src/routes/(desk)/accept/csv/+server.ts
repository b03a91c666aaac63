import { gridRows } from '$lib/server/accept/grid';
import { stringify } from 'csv-stringify/sync';
import type { RequestHandler } from './$types';

/** Everything that tills accept, one line a till, currency and method or card scheme. */
export const GET: RequestHandler = async ({ url }) =>
	new Response(stringify(await gridRows(url.searchParams), { header: true, escape_formulas: true, bom: true }), {
		headers: {
			'content-type': 'text/csv; charset=utf-8',
			'content-disposition': 'attachment; filename="what-tills-accept.csv"'
		}
	});
