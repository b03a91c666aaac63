import { allLinks } from '$lib/server/bill/links';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:bill');
	depends('live:takings');
	return { links: await allLinks(locals.locale) };
};
