import { messageById } from '$lib/server/messages/list';
import { sendAgain } from '$lib/server/messages';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:bill');
	const message = await messageById(Number(params.id), locals.locale);
	if (!message) error(404, 'There is no such message.');
	return { message };
};
export const actions: Actions = {
	default: async ({ params, locals }) => {
		const answer = await sendAgain(Number(params.id), locals.user!.name);
		return 'problem' in answer ? fail(409, { trouble: answer.problem }) : answer;
	}
};
