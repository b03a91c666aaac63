import { abilityTable } from '$lib/server/accept/abilities';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:connections');
	return { table: await abilityTable(url.searchParams.get('method') ?? '', locals.locale) };
};
