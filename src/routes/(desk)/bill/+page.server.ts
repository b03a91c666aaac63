import {
	invoiceLines,
	LIST_COLUMNS,
	listSums,
	owedOverview,
	readList,
	SHOWN,
	USUAL_COLUMNS
} from '$lib/server/bill/list';
import { actOnMany } from '$lib/server/bill/many';
import { allTills } from '$lib/server/accept/tills';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:bill');
	const read = await readList(url, 'invoice', locals.locale, 'open');
	const [list, sums, overview, tills] = await Promise.all([
		invoiceLines(read.filter, locals.locale),
		listSums(read.filter, locals.locale),
		owedOverview(locals.locale),
		allTills()
	]);
	return {
		...list,
		sums,
		...overview,
		chips: read.chips,
		wrong: read.wrong,
		typed: read.typed,
		query: read.query,
		columns: read.columns ?? USUAL_COLUMNS,
		chosen: !!read.columns,
		names: LIST_COLUMNS,
		shows: Object.entries(SHOWN).map(([value, name]) => ({ value, name })),
		tills: tills.map((till) => ({ value: till.slug, name: till.name }))
	};
};

export const actions: Actions = {
	many: async ({ request, locals }) => actOnMany(await request.formData(), locals.user!.name)
};
