import { readFilter } from '$lib/server/takings/filter';
import { paymentLines } from '$lib/server/takings/list';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:takings');
	const filter = readFilter(url);
	return { ...(await paymentLines(filter, locals.locale)), text: filter.text ?? '' };
};
