import { randomId } from '$lib/server/access';
import { IncomingForm, recordIncoming } from '$lib/server/bill/unplaced';
import { offlineMethods } from '$lib/server/bill/offline';
import { theBusiness, today } from '$lib/server/connect/business';
import { readForm } from '$lib/server/form';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({
	methods: await offlineMethods(),
	key: randomId(),
	today: await today(),
	currency: (await theBusiness()).homeCurrency
});

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const read = await readForm(request, IncomingForm);
		if ('wrong' in read) return fail(400, read.wrong);
		const answer = await recordIncoming(read.data, locals.user!.name, locals.locale);
		if ('problem' in answer) return fail(409, { errors: { amount: answer.problem }, values: read.data });
		redirect(303, `/takings/unplaced/${answer.id}?says=${encodeURIComponent(answer.says)}`);
	}
};
