import { formatDay } from '$lib/core/calendar';
import { sayHello } from '$lib/server/connect/connections';
import { foundConnection } from '$lib/server/connect/found';
import { arrivalsPage, refusedLately } from '$lib/server/watch/lists';
import { readSubscribed, readTicked, setTroubleMail, setUpNotices, tick } from '$lib/server/watch/needed';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:arrivals');
	const row = await foundConnection(params.id);
	const [refused, last] = await Promise.all([refusedLately(6, row.id), arrivalsPage({ connectionId: row.id })]);
	return {
		refused: refused.map(({ day, reason, count }) => ({ day: formatDay(day, locals.locale), reason, count })),
		arrivals: last.rows
			.slice(0, 8)
			.map(({ id, receivedAt, topic, state, says }) => ({ id, receivedAt, topic, state, says }))
	};
};

export const actions: Actions = {
	setUp: async ({ params, locals }) => {
		const row = await foundConnection(params.id);
		const trouble = await setUpNotices(row, locals.user!.name);
		return trouble ? fail(502, { trouble }) : { says: `Set up at ${row.name}: just what is needed.` };
	},
	mail: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		const mail = String((await request.formData()).get('mail') ?? '').trim();
		if (mail && !z.email().max(200).safeParse(mail).success)
			return fail(400, { mailWrong: 'Give one mail address, such as ilse@wrenalder.example.', mail });
		const trouble = await setTroubleMail(row, mail, locals.user!.name);
		if (trouble) return fail(502, { trouble, mail });
		return {
			says: mail
				? `${row.name} mails ${mail} when its notifications do not get here.`
				: `${row.name} mails nobody when its notifications do not get here.`
		};
	},
	read: async ({ params }) => {
		const row = await foundConnection(params.id);
		const trouble = await readSubscribed(row);
		return trouble ? fail(502, { trouble }) : { says: `Read from ${row.name} what is switched on there.` };
	},
	tick: async ({ params, request, locals }) => {
		const row = await foundConnection(params.id);
		await tick(row, readTicked((await request.formData()).getAll('notice').map(String)), locals.user!.name);
		return { says: 'Ticked off. Now ask for a test notification.' };
	},
	test: async ({ params }) => {
		const trouble = await sayHello(await foundConnection(params.id));
		return trouble
			? fail(502, { trouble })
			: { says: 'Asked for a test notification. When it comes, the time beside “last heard” moves.' };
	}
};
