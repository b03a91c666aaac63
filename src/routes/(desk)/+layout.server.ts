import { theBusiness } from '$lib/server/connect/business';
import { told } from '$lib/server/signals/live';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals }) => {
	// before anything is read: what changes from here on is told by the stream
	const liveSince = told();
	const { name, timeZone, homeCurrency, country } = await theBusiness();
	return {
		user: locals.user!,
		liveSince,
		locale: locals.locale,
		theme: locals.theme,
		business: { name, timeZone, homeCurrency, country }
	};
};
