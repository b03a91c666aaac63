import { isMethod, methodName, ONLINE_METHODS } from '$lib/core/lineup';
import { readCardText } from '$lib/server/ratecards/edit';
import { candidateById, CandidateForm, readCandidate, removeCandidate, saveCandidate } from '$lib/server/compare/sides';
import { error, fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const found = async (id: string) => (await candidateById(id)) ?? error(404, 'There is no such candidate.');

export const load: PageServerLoad = async ({ params, url }) => {
	const row = await found(params.id);
	const { card, methods, currencies } = readCandidate(row);
	return {
		isNew: url.searchParams.has('new'),
		id: row.id,
		start: {
			name: row.name,
			processor: row.processor,
			methods,
			currencies: currencies.join(' '),
			paysOutDays: row.paysOutDays
		},
		card,
		methods: ONLINE_METHODS.map((method) => ({ method, name: methodName(method) }))
	};
};

export const actions: Actions = {
	save: async ({ request, params, locals }) => {
		await found(params.id);
		const form = await request.formData();
		const card = readCardText(String(form.get('card') ?? ''));
		if ('says' in card) return fail(400, { wrong: card.says });
		const read = CandidateForm.safeParse({
			name: form.get('name'),
			processor: String(form.get('processor') ?? ''),
			methods: form.getAll('methods').map(String).filter(isMethod),
			currencies: String(form.get('currencies') ?? '')
				.toUpperCase()
				.split(/[^A-Z]+/)
				.filter(Boolean),
			paysOutDays: Number(form.get('paysOutDays')),
			note: '',
			card: card.card
		});
		if (!read.success)
			return fail(400, { wrong: read.error.issues.map((issue) => `${issue.path.join(' ')}: ${issue.message}`) });
		await saveCandidate(read.data, params.id, locals.user!.name);
		return { says: 'The candidate is kept.' };
	},
	remove: async ({ params, locals }) => {
		await removeCandidate(await found(params.id), locals.user!.name);
		redirect(303, '/connect/compare');
	}
};
