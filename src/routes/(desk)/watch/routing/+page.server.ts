import { beginRouting, draftMoves, readRoutingQuestion, refuseMove } from '$lib/server/fees/routing';
import { keptPromises, showRouting } from '$lib/server/fees/routingView';
import { resultWithin } from '$lib/server/jobs';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

/** Longer than this nobody waits for a page: it shows how far the search has come instead. */
const PATIENCE_MS = 900;
const SHARES = [5, 10, 25, 50, 100];

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:fees');
	const query = url.searchParams;
	const question = await readRoutingQuestion(query, locals.locale);
	const job = await beginRouting(question);
	const result = await resultWithin(job, PATIENCE_MS);
	const share = SHARES.find((one) => one === Number(query.get('share'))) ?? 10;
	const common = { ...question, shares: SHARES, share, promises: await keptPromises(locals.locale) };
	if (!result) return { ...common, pending: { at: `/watch/routing/progress?key=${job.key}`, ...job.progress } };
	return { ...common, key: job.key, routing: await showRouting(result, share, locals.locale) };
};

export const actions: Actions = {
	refuse: async ({ request, locals }) => {
		const form = await request.formData();
		const text = (name: string) => String(form.get(name) ?? '');
		await refuseMove(
			{ tillId: text('till'), method: text('method'), currency: text('currency'), connectionId: text('connection') },
			form.get('allow') !== 'yes',
			locals.user!.name
		);
	},
	draft: async ({ request, locals, url }) => {
		const form = await request.formData();
		const result = await (await beginRouting(await readRoutingQuestion(url.searchParams, locals.locale))).result;
		const chosen = form.getAll('move').map(Number);
		const made = await draftMoves(result, chosen, locals.user!.name);
		if ('problem' in made) return fail(409, { trouble: made.problem });
		return { drafts: made.tills };
	}
};
