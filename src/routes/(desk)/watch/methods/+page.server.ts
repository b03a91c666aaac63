import { draftWithout, useAtTill } from '$lib/server/fees/methods';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:fees');
	return { use: await useAtTill(url, locals.locale) };
};

export const actions: Actions = {
	drop: async ({ request, locals }) => {
		const form = await request.formData();
		const answer = await draftWithout(
			String(form.get('till') ?? ''),
			String(form.get('method') ?? ''),
			Number(form.get('revision')),
			locals.user!.name
		);
		if ('problem' in answer) return fail(409, { trouble: answer.problem });
		redirect(303, `/accept/tills/${answer.slug}/replay`);
	}
};
