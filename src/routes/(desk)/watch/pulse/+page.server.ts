import { instantIn, readDay } from '$lib/core/calendar';
import { theBusiness } from '$lib/server/connect/business';
import { resultWithin } from '$lib/server/jobs';
import { timeNow } from '$lib/server/signals/clock';
import { askAfterPayment } from '$lib/server/watch/awaited';
import { setUpNotices } from '$lib/server/watch/needed';
import { showPulse } from '$lib/server/watch/pulse';
import { dismissSilence, fillGap, listened, setFalseAlerts, silenceById } from '$lib/server/watch/silence';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

/** Longer than this nobody waits for a gap to be filled: it goes on beside. */
const PATIENCE_MS = 5_000;

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:arrivals');
	return showPulse(url.searchParams.get('of') ?? undefined, locals.locale);
};

export const actions: Actions = {
	fill: async ({ request, locals }) => {
		const form = await request.formData();
		const { timeZone } = await theBusiness();
		const silence = Number(form.get('silence'));
		const row = silence ? await silenceById(silence) : undefined;
		const id = row?.connectionId ?? String(form.get('connection') ?? '');
		const connection = (await listened()).find((one) => one.id === id);
		if (!connection) return fail(404, { trouble: 'Choose a connection.' });
		let [from, to] = [row?.fromAt, row ? (row.toAt ?? timeNow()) : undefined];
		if (!row) {
			const days = ['from', 'to'].map((name) => readDay(String(form.get(name) ?? ''), locals.locale));
			from = days[0] ? instantIn(`${days[0]}T00:00`, timeZone) : undefined;
			to = days[1] ? instantIn(`${days[1]}T23:59`, timeZone)! + 59_999 : undefined;
		}
		if (from === undefined || to === undefined || from > to)
			return fail(400, { trouble: 'Give a first and a last day, the first not after the last.' });
		const done = await resultWithin(fillGap(connection, from, to, locals.user!.name, row?.id), PATIENCE_MS);
		if (!done) return { says: `${connection.name} is being asked. This page tells when it is done.` };
		return {
			says: `${connection.name} was asked after ${done.asked} payments: ${done.changed} changed${done.failed ? `, and ${done.failed} could not be asked after` : ''}.`
		};
	},
	dismiss: async ({ request, locals }) => {
		await dismissSilence(Number((await request.formData()).get('silence')), locals.user!.name);
		return { says: 'It was none. Its hours count for what is usual.' };
	},
	setUp: async ({ request, locals }) => {
		const id = String((await request.formData()).get('connection') ?? '');
		const connection = (await listened()).find((one) => one.id === id);
		if (!connection) return fail(404, { trouble: 'Choose a connection.' });
		const wrong = await setUpNotices(connection, locals.user!.name);
		return wrong
			? fail(502, { trouble: wrong })
			: { says: `${connection.name} tells of all that is relied on now. Ask it for a test notification to prove it.` };
	},
	ask: async ({ request }) => {
		const answer = await askAfterPayment(Number((await request.formData()).get('payment')));
		return 'trouble' in answer ? fail(502, answer) : answer;
	},
	accept: async ({ request, locals }) => {
		const wrong = await setFalseAlerts(String((await request.formData()).get('falseAlerts') ?? ''), locals.user!.name);
		return wrong ? fail(400, { trouble: wrong }) : { says: 'Saved.' };
	}
};
