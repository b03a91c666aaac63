import { unplacedList } from '$lib/server/bill/unplaced';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:takings');
	depends('live:bill');
	return unplacedList(Number(url.searchParams.get('after')) || 0, locals.locale);
};
