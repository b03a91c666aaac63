import { listDiscrepancies } from '$lib/server/fees/view';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:fees');
	return listDiscrepancies(locals.locale);
};
