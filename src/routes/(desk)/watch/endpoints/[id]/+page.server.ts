import { instantIn, readDay } from '$lib/core/calendar';
import { theBusiness } from '$lib/server/connect/business';
import { deliveriesPage, sendAgain, testEndpoint, triesOf } from '$lib/server/hooks/deliver';
import {
	endpointById,
	readKinds,
	removeEndpoint,
	rotateSecret,
	saveEndpoint,
	setPaused
} from '$lib/server/hooks/endpoints';
import { readEndpoint } from '$lib/server/hooks/form';
import { eventOf } from '$lib/server/hooks/log';
import { timeNow } from '$lib/server/signals/clock';
import { error, fail, redirect } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

const Query = z.object({
	state: z.enum(['waiting', 'delivered', 'given up']).optional().catch(undefined),
	before: z.coerce.number().int().positive().optional().catch(undefined),
	delivery: z.coerce.number().int().positive().optional().catch(undefined)
});

const find = async (id: string) => {
	const number = Number(id);
	const row = Number.isSafeInteger(number) ? await endpointById(number) : undefined;
	if (!row) error(404, 'There is no such endpoint.');
	return row;
};

export const load: PageServerLoad = async ({ params, url, depends }) => {
	depends('live:hooks');
	const row = await find(params.id);
	const { state, before, delivery } = Query.parse(Object.fromEntries(url.searchParams));
	const { rows, more } = await deliveriesPage({ endpointId: row.id, state, before });
	const { address, description, says, deliveredAt, failingSince, createdAt, createdBy } = row;
	const looked = delivery === undefined ? undefined : await eventOf(row.id, delivery);
	return {
		id: row.id,
		address,
		description,
		says,
		deliveredAt,
		failingSince,
		createdAt,
		createdBy,
		state: row.state,
		kinds: readKinds(row),
		oldUntil: row.oldUntil !== null && row.oldUntil > timeNow() ? row.oldUntil : null,
		filter: state ?? '',
		more,
		last: rows.at(-1)?.id,
		deliveries: rows.map((one) => ({
			id: one.id,
			kind: one.kind,
			event: one.eventId,
			state: one.state,
			tries: one.tries,
			nextAt: one.nextAt,
			says: one.says,
			doneAt: one.doneAt
		})),
		looked: looked && { ...looked, tries: await triesOf([looked.delivery]) }
	};
};

export const actions: Actions = {
	save: async ({ params, request, locals }) => {
		const row = await find(params.id);
		const read = readEndpoint(await request.formData());
		if ('errors' in read) return fail(400, read);
		await saveEndpoint(row.id, read.form, locals.user!.name);
		return { says: 'Saved.' };
	},
	pause: async ({ params, locals }) => {
		await setPaused((await find(params.id)).id, true, locals.user!.name);
		return { says: 'Paused. What happens is kept for it.' };
	},
	resume: async ({ params, locals }) => {
		await setPaused((await find(params.id)).id, false, locals.user!.name);
		return { says: 'It is on. What waited is being sent.' };
	},
	rotate: async ({ params, locals }) => {
		const secret = await rotateSecret((await find(params.id)).id, locals.user!.name);
		return { secret };
	},
	remove: async ({ params, locals }) => {
		await removeEndpoint((await find(params.id)).id, locals.user!.name);
		redirect(303, '/watch/endpoints');
	},
	test: async ({ params }) => {
		const { says, ok } = await testEndpoint(await find(params.id));
		return ok ? { says } : fail(502, { trouble: says });
	},
	again: async ({ params, request, locals }) => {
		const row = await find(params.id);
		const form = await request.formData();
		const delivery = Number(form.get('delivery'));
		if (delivery) {
			await sendAgain(row.id, { delivery });
			return { says: 'It is sent again.' };
		}
		const { timeZone } = await theBusiness();
		const [from, to] = ['from', 'to'].map((name) => readDay(String(form.get(name) ?? ''), locals.locale));
		if (!from || !to || from > to)
			return fail(400, { trouble: 'Give a first and a last day, the first not after the last.' });
		const count = await sendAgain(row.id, {
			from: instantIn(`${from}T00:00`, timeZone)!,
			to: instantIn(`${to}T23:59:59.999`, timeZone) ?? instantIn(`${to}T23:59`, timeZone)! + 59_999,
			onlyFailed: form.get('what') !== 'all'
		});
		return { says: count === 1 ? 'One event is sent again.' : `${count} events are sent again.` };
	}
};
