import { needs } from '$lib/server/needs';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:takings', 'live:connections', 'live:tills', 'live:arrivals');
	return { needs: await needs(locals.locale, Date.now()) };
};
