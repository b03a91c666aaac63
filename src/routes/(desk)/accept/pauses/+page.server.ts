import { effectsOf, openPauses, pausable, pause, resume, type PauseKind } from '$lib/server/accept/pauses';
import { theBusiness } from '$lib/server/connect/business';
import { readMoment } from '$lib/server/form';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const KINDS = ['connection', 'method', 'scheme', 'currency'];
const readKey = (key: string): { kind: PauseKind; value: string } | undefined => {
	const at = key.indexOf(':');
	const kind = key.slice(0, at);
	return KINDS.includes(kind) ? { kind: kind as PauseKind, value: key.slice(at + 1) } : undefined;
};

export const load: PageServerLoad = async ({ url, depends }) => {
	depends('live:tills', 'live:connections');
	const [things, pauses] = await Promise.all([pausable(), openPauses()]);
	const names = new Map(things.map((one) => [`${one.kind}:${one.value}`, one.name]));
	const wanted = readKey(url.searchParams.get('what') ?? '');
	const chosen = wanted && things.find((one) => one.kind === wanted.kind && one.value === wanted.value);
	return {
		things: things.map((one) => ({
			key: `${one.kind}:${one.value}`,
			kind: one.kind,
			name: one.name,
			paused: pauses.some((other) => other.kind === one.kind && other.value === one.value)
		})),
		pauses: await Promise.all(
			pauses.map(async (one) => ({
				id: one.id,
				kind: one.kind,
				name: names.get(`${one.kind}:${one.value}`) ?? one.value,
				until: one.until,
				reason: one.reason,
				by: one.byUser,
				at: one.at
			}))
		),
		chosen: chosen && {
			key: `${chosen.kind}:${chosen.value}`,
			kind: chosen.kind,
			name: chosen.name,
			effects: await effectsOf(chosen.kind, chosen.value)
		}
	};
};

export const actions: Actions = {
	pause: async ({ request, locals }) => {
		const form = await request.formData();
		const text = (name: string) => String(form.get(name) ?? '').trim();
		const what = readKey(text('what'));
		if (!what) return fail(400, { trouble: 'Choose what is to be paused.' });
		let until: number | null = null;
		if (text('until')) {
			const { timeZone } = await theBusiness();
			const read = readMoment(form, 'until', locals.locale, timeZone);
			if (read === undefined) return fail(400, { trouble: 'The time is not a time. Choose a day and an hour.' });
			until = read;
		}
		const trouble = await pause(what.kind, what.value, until, text('reason').slice(0, 200), locals.user!.name);
		return trouble ? fail(409, { trouble }) : { says: 'Paused at every till. Standbys step in where there are any.' };
	},
	resume: async ({ request, locals }) => {
		await resume(String((await request.formData()).get('id') ?? ''), locals.user!.name);
		return { says: 'Resumed at every till.' };
	}
};
