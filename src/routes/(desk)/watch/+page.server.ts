import { formatDay } from '$lib/core/calendar';
import { snapshot } from '$lib/server/accept/snapshot';
import { z } from 'zod';
import { arrivalsPage, countArrivals, refusedLately } from '$lib/server/watch/lists';
import type { PageServerLoad } from './$types';

const Query = z.object({
	state: z.enum(['stored', 'retry', 'stuck', 'done']).optional().catch(undefined),
	before: z.coerce.number().int().positive().optional().catch(undefined)
});

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:arrivals');
	const { state, before } = Query.parse({
		state: url.searchParams.get('state') ?? undefined,
		before: url.searchParams.get('before') ?? undefined
	});
	const [{ rows, more }, { connections }, refused, counts] = await Promise.all([
		arrivalsPage({ state, before }),
		snapshot(),
		refusedLately(12),
		countArrivals()
	]);
	const of = (...states: string[]) => states.reduce((sum, one) => sum + (counts.get(one) ?? 0), 0);
	return {
		state,
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
			tookMs: row.doneAt ? row.doneAt - row.receivedAt : undefined
		})),
		refused: refused.map((row) => ({
			connection: connections.get(row.connectionId)?.name ?? '',
			reason: row.reason,
			day: formatDay(row.day, locals.locale),
			count: row.count
		}))
	};
};
