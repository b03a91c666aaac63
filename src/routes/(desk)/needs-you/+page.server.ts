import { needs } from '$lib/server/needs';
import { forgetSnapshot } from '$lib/server/signals/freshness';
import { theBusiness } from '$lib/server/connect/business';
import { tell } from '$lib/server/signals/live';
import { isDemo, timeNow } from '$lib/server/signals/clock';
import { passTime, STEPS } from '$lib/server/signals/passTime';
import { wake } from '$lib/server/signals/wake';
import { error } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:takings', 'live:connections', 'live:tills', 'live:arrivals');
	return { needs: await needs(locals.locale, timeNow()), demoNow: isDemo() ? timeNow() : undefined };
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
