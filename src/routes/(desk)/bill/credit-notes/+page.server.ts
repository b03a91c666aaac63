import { invoiceLines, LIST_COLUMNS, listSums, readList } from '$lib/server/bill/list';
import { allTills } from '$lib/server/accept/tills';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:bill');
	const read = await readList(url, 'credit note', locals.locale);
	const [list, sums, tills] = await Promise.all([
		invoiceLines(read.filter, locals.locale),
		listSums(read.filter, locals.locale),
		allTills()
	]);
	return {
		...list,
		sums,
		chips: read.chips,
		wrong: read.wrong,
		typed: read.typed,
		query: read.query,
		columns: read.columns ?? ['state', 'sent', 'opened'],
		names: LIST_COLUMNS,
		tills: tills.map((till) => ({ value: till.slug, name: till.name }))
	};
};
