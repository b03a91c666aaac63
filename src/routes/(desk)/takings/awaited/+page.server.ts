import { awaitedDays } from '$lib/server/takings/certain';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:takings');
	return awaitedDays(locals.locale);
};
