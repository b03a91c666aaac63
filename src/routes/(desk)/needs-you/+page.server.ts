import { firstSteps } from '$lib/server/firstRun';
import { needs } from '$lib/server/needs';
import { forgetSnapshot } from '$lib/server/signals/freshness';
import { theBusiness } from '$lib/server/connect/business';
import { tell } from '$lib/server/signals/live';
import { isDemo, timeNow } from '$lib/server/signals/clock';
import { passTime, STEPS } from '$lib/server/signals/passTime';
import { wake } from '$lib/server/signals/wake';
import { worthOfTakings } from '$lib/server/worth';
import { error } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

/** what the checklist of the first day says already */
const FIRST = ['no', 'unheard', 'unpublished'];

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:takings', 'live:connections', 'live:tills', 'live:arrivals');
	const steps = await firstSteps();
	return {
		needs: (await needs(locals.locale, timeNow())).filter(
			(one) => !steps.length || !FIRST.includes(one.id.split(' ', 1)[0]!)
		),
		steps,
		worth: await worthOfTakings(locals.locale),
		demoNow: isDemo() ? timeNow() : undefined
	};
};

export const actions: Actions = {
	// the clock of a demo; an installation that is no demo has no such door
	pass: async ({ request }) => {
		const step = z.enum(STEPS).safeParse((await request.formData()).get('step'));
		if (!isDemo() || !step.success) error(404, 'There is nothing here.');
		await passTime(step.data, (await theBusiness()).timeZone);
		forgetSnapshot();
		wake();
		for (const topic of ['takings', 'connections', 'tills', 'arrivals'] as const) tell(topic);
	}
};
