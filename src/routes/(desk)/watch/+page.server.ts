import { formatDay, instantIn, readDay } from '$lib/core/calendar';
import { snapshot } from '$lib/server/accept/snapshot';
import { z } from 'zod';
import { theBusiness } from '$lib/server/connect/business';
import { sayMs } from '$lib/server/watch/pulse';
import { runSpanAgain } from '$lib/server/watch/work';
import { arrivalsPage, countArrivals, refusedLately } from '$lib/server/watch/lists';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const Query = z.object({
	state: z.enum(['stored', 'retry', 'stuck', 'done']).optional().catch(undefined),
	find: z.string().trim().max(200).optional().catch(undefined),
	before: z.coerce.number().int().positive().optional().catch(undefined)
});

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:arrivals');
	const { state, before, find } = Query.parse({
		find: url.searchParams.get('find') || undefined,
		state: url.searchParams.get('state') ?? undefined,
		before: url.searchParams.get('before') ?? undefined
	});
	const [{ rows, more }, { connections }, refused, counts] = await Promise.all([
		arrivalsPage({ state, before, text: find }),
		snapshot(),
		refusedLately(12),
		countArrivals()
	]);
	const of = (...states: string[]) => states.reduce((sum, one) => sum + (counts.get(one) ?? 0), 0);
	return {
		state,
		find: find ?? '',
		from: [...connections.values()].filter((row) => !row.removedAt).map(({ id, name, mode }) => ({ id, name, mode })),
		counts: {
			all: of('done', 'stored', 'retry', 'stuck', 'unconfirmed'),
			stuck: of('stuck'),
			waiting: of('retry', 'stored')
		},
		more,
		last: rows.at(-1)?.id,
		arrivals: rows.map((row) => ({
			id: row.id,
			topic: row.topic || 'not worked on yet',
			connection: connections.get(row.connectionId)?.name ?? '',
			receivedAt: row.receivedAt,
			state: row.state,
			tries: row.tries,
			says: row.says,
			took: row.doneAt ? sayMs(row.doneAt - row.receivedAt, locals.locale) : undefined
		})),
		refused: refused.map((row) => ({
			connection: connections.get(row.connectionId)?.name ?? '',
			reason: row.reason,
			day: formatDay(row.day, locals.locale),
			count: row.count
		}))
	};
};

export const actions: Actions = {
	again: async ({ request, locals }) => {
		const form = await request.formData();
		const { timeZone } = await theBusiness();
		const { connections } = await snapshot();
		const connection = connections.get(String(form.get('connection') ?? ''));
		const [from, to] = ['from', 'to'].map((name) => readDay(String(form.get(name) ?? ''), locals.locale));
		if (!connection || !from || !to || from > to)
			return fail(400, { trouble: 'Choose a connection, and a first and a last day, the first not after the last.' });
		const count = await runSpanAgain(
			connection.id,
			instantIn(`${from}T00:00`, timeZone)!,
			instantIn(`${to}T23:59`, timeZone)! + 59_999
		);
		return { says: count === 1 ? 'One arrival is run again.' : `${count} arrivals are run again, in their order.` };
	}
};
