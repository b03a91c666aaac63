import { readFilter } from '$lib/server/takings/filter';
import { proveSums } from '$lib/server/takings/sums';
import type { RequestHandler } from './$types';

/** The proof of a list: its payments added up one by one against the sums by day. */
export const GET: RequestHandler = async ({ url, locals }) => {
	const { filter } = await readFilter(url, locals.locale);
	return Response.json(await proveSums(filter, locals.locale));
};
