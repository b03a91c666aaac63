import { invoiceLines, LIST_COLUMNS, listSums, readList, SHOWN, USUAL_COLUMNS } from '$lib/server/bill/list';
import { newDraft } from '$lib/server/bill/drafts';
import { actOnMany } from '$lib/server/bill/many';
import { allTills } from '$lib/server/accept/tills';
import { redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:bill');
	const read = await readList(url, 'invoice', locals.locale);
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
		columns: read.columns ?? USUAL_COLUMNS,
		chosen: !!read.columns,
		names: LIST_COLUMNS,
		shows: Object.entries(SHOWN).map(([value, name]) => ({ value, name })),
		tills: tills.map((till) => ({ value: till.slug, name: till.name }))
	};
};

export const actions: Actions = {
	new: async ({ request, locals }) => {
		const form = await request.formData();
		const kind = String(form.get('kind') ?? '') === 'quote' ? 'quote' : 'invoice';
		const id = await newDraft({ kind, payerId: String(form.get('payer') ?? '') || undefined }, locals.user!.name);
		redirect(303, `/bill/invoices/${id}`);
	},
	many: async ({ request, locals }) => actOnMany(await request.formData(), locals.user!.name)
};
