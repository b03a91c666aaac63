import { readDiscrepancy, workOn } from '$lib/server/fees/view';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:fees');
	const [day, id] = (url.searchParams.get('after') ?? '').split('_');
	const after = day && Number.isSafeInteger(Number(id)) ? { day, id: Number(id) } : undefined;
	const found = await readDiscrepancy(Number(params.id), locals.locale, after);
	if (!found) error(404, 'There is no such discrepancy. It may have gone because the contract was changed.');
	return found;
};

export const actions: Actions = {
	work: async ({ params, request, locals }) => {
		const form = await request.formData();
		const text = String(form.get('text') ?? '');
		const answer = await workOn(
			Number(params.id),
			{
				state: String(form.get('state') ?? '') || undefined,
				from: String(form.get('from') ?? '') || undefined,
				text
			},
			locals.user!.name
		);
		return 'problem' in answer ? fail(409, { trouble: answer.problem, typed: text }) : { says: answer.says };
	}
};
