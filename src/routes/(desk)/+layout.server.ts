import { theBusiness } from '$lib/server/connect/business';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals }) => {
	const { name, timeZone, homeCurrency, country } = await theBusiness();
	return {
		user: locals.user!,
		locale: locals.locale,
		theme: locals.theme,
		business: { name, timeZone, homeCurrency, country }
	};
};
