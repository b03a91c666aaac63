import { showDisputes } from '$lib/server/takings/disputes';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:takings');
	return showDisputes(locals.locale);
};
