import { acceptDispute, addFile, answerDispute, keepText, removeFile, showDispute } from '$lib/server/takings/disputes';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:takings');
	const dispute = await showDispute(Number(params.id), locals.locale);
	if (!dispute) error(404, 'There is no such dispute.');
	return { dispute };
};

export const actions: Actions = {
	file: async ({ params, request, locals }) => {
		const form = await request.formData();
		const file = form.get('file');
		if (!(file instanceof File)) return fail(400, { trouble: 'Choose a file.' });
		const trouble = await addFile(Number(params.id), file, locals.user!.name);
		return trouble ? fail(400, { trouble }) : { says: `${file.name} is added.` };
	},
	drop: async ({ params, request }) => {
		await removeFile(Number(params.id), Number((await request.formData()).get('file')));
	},
	keep: async ({ params, request }) => {
		await keepText(Number(params.id), String((await request.formData()).get('text') ?? ''));
		return { says: 'What you wrote is kept.' };
	},
	answer: async ({ params, request, locals }) => {
		const form = await request.formData();
		const text = String(form.get('text') ?? '');
		const way = form.get('way') === 'by hand' ? 'by hand' : 'processor';
		const answer = await answerDispute(Number(params.id), text, way, locals.user!.name);
		return 'trouble' in answer ? fail(409, { ...answer, text }) : answer;
	},
	accept: async ({ params, locals }) => {
		const answer = await acceptDispute(Number(params.id), locals.user!.name);
		return 'trouble' in answer ? fail(409, answer) : answer;
	}
};
