import { gridView, PIVOTS, type Pivot } from '$lib/server/accept/grid';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:tills', 'live:connections');
	const q = (name: string) => url.searchParams.get(name) ?? '';
	const across = PIVOTS.find((one) => one === q('across')) ?? 'till';
	return {
		across: across as Pivot,
		pivots: PIVOTS,
		query: url.search.slice(1),
		filter: { till: q('till'), currency: q('currency'), method: q('method'), connection: q('connection') },
		grid: await gridView(across, url.searchParams, locals.locale)
	};
};
