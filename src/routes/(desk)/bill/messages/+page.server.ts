import { outboxPage } from '$lib/server/messages/list';
import { sendAgain, sending } from '$lib/server/messages';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:bill');
	const how = await sending();
	return {
		...(await outboxPage(
			url.searchParams.get('state') ?? '',
			Number(url.searchParams.get('before')) || undefined,
			locals.locale
		)),
		state: url.searchParams.get('state') ?? '',
		hasMail: !!how.form.host && !!how.form.fromMail
	};
};

export const actions: Actions = {
	again: async ({ request, locals }) => {
		const answer = await sendAgain(Number((await request.formData()).get('id')), locals.user!.name);
		return 'problem' in answer ? fail(409, { trouble: answer.problem }) : answer;
	}
};
