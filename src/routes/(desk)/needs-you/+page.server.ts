import { firstSteps } from '$lib/server/firstRun';
import { comingUp, moneyOnItsWay } from '$lib/server/ahead';
import { needs } from '$lib/server/needs';
import { putOff, putOffNow, showAgain } from '$lib/server/watch/alerts';
import { forgetSnapshot } from '$lib/server/signals/freshness';
import { theBusiness } from '$lib/server/connect/business';
import { tell } from '$lib/server/signals/live';
import { isDemo, timeNow } from '$lib/server/signals/clock';
import { passTime, STEPS } from '$lib/server/signals/passTime';
import { wake } from '$lib/server/signals/wake';
import { worthOfTakings } from '$lib/server/worth';
import { addDays, inZone, instantIn } from '$lib/core/calendar';
import { error, fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

/** By how much the clock of a demo is moved: so many steps of a kind. */
const Passed = z.object({ step: z.enum(STEPS), times: z.coerce.number().int().min(1).max(24).default(1) });
/** what the checklist of the first day says already */
const FIRST = ['no', 'unheard', 'unpublished'];

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:takings', 'live:connections', 'live:tills', 'live:arrivals', 'live:alerts', 'live:hooks', 'live:fees');
	const now = timeNow();
	const hidden = await putOffNow(now);
	const steps = await firstSteps();
	return {
		needs: (await needs(locals.locale, now)).filter(
			(one) => !hidden.has(one.id) && (!steps.length || !FIRST.includes(one.id.split(' ', 1)[0]!))
		),
		putOff: [...hidden.values()].map(({ cause, says, untilAt, untilBy }) => ({
			cause,
			says,
			untilAt: untilAt!,
			untilBy
		})),
		way: await moneyOnItsWay(locals.locale),
		ahead: await comingUp(locals.locale),
		steps,
		worth: await worthOfTakings(locals.locale),
		demoNow: isDemo() ? timeNow() : undefined
	};
};

export const actions: Actions = {
	later: async ({ request, locals }) => {
		const form = await request.formData();
		const days = z.coerce.number().int().min(1).max(31).safeParse(form.get('days'));
		if (!days.success) error(400, 'Choose a number of days.');
		const { timeZone } = await theBusiness();
		const day = addDays(inZone(new Date(timeNow()), timeZone).day, days.data);
		const done = await putOff(String(form.get('cause') ?? ''), instantIn(`${day}T06:00`, timeZone)!, locals.user!.name);
		return done
			? { says: 'It is put off.' }
			: fail(409, { trouble: 'It is gone already, or was only just found: try once more in a minute.' });
	},
	again: async ({ request, locals }) => {
		await showAgain(String((await request.formData()).get('cause') ?? ''), locals.user!.name);
	},
	// the clock of a demo; an installation that is no demo has no such door
	pass: async ({ request }) => {
		const asked = Passed.safeParse(Object.fromEntries(await request.formData()));
		if (!isDemo() || !asked.success) error(404, 'There is nothing here.');
		await passTime(asked.data.step, (await theBusiness()).timeZone, asked.data.times);
		forgetSnapshot();
		wake();
		for (const topic of ['takings', 'connections', 'tills', 'arrivals'] as const) tell(topic);
	}
};
