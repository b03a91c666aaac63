import { snapshot } from '$lib/server/accept/snapshot';
import { arrivalById } from '$lib/server/watch/lists';
import { sayMs } from '$lib/server/watch/pulse';
import { runAgain } from '$lib/server/watch/work';
import { wake } from '$lib/server/signals/wake';
import { error } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const found = async (id: string) =>
	(/^\d{1,15}$/.test(id) ? await arrivalById(Number(id)) : undefined) ?? error(404, 'There is no such arrival.');

const pretty = (text: string): string => {
	try {
		return JSON.stringify(JSON.parse(text), null, 2);
	} catch {
		return text;
	}
};

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:arrivals');
	const { row, payment } = await found(params.id);
	const { connections } = await snapshot();
	return {
		arrival: {
			id: row.id,
			topic: row.topic || 'not worked on yet',
			eventId: row.eventId,
			connection: connections.get(row.connectionId)?.name ?? '',
			receivedAt: row.receivedAt,
			state: row.state,
			tries: row.tries,
			nextAt: row.nextAt,
			took: row.doneAt ? sayMs(row.doneAt - row.receivedAt, locals.locale) : undefined,
			says: row.says,
			headers: Object.entries(JSON.parse(row.headers) as Record<string, string>),
			body: pretty(row.body)
		},
		checks: JSON.parse(row.checks) as { step: string; ok: boolean; says: string }[],
		payment: payment && { id: payment.id, reference: payment.reference }
	};
};

export const actions: Actions = {
	default: async ({ params }) => {
		await runAgain((await found(params.id)).row.id);
		wake();
		return { says: 'It is being run again, with the payment fetched afresh.' };
	}
};
