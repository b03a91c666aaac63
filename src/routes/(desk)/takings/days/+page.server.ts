import { readDay } from '$lib/core/calendar';
import { DAYS_BY, readDays, takingsByDay } from '$lib/server/takings/days';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals, depends }) => {
	depends('live:takings');
	const { wrong, ...asked } = await readDays(url, (text) => readDay(text, locals.locale));
	return { ...(await takingsByDay(asked, locals.locale)), wrong, choices: DAYS_BY };
};
