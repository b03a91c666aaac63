import { CURRENCIES } from '$lib/core/money';
import { countriesIn, localeChoices } from '$lib/core/places';
import {
	ASKED,
	BusinessForm,
	DetailsForm,
	hangsOnCountry,
	readDetails,
	saveBusiness,
	theBusiness
} from '$lib/server/connect/business';
import { CONNECTORS } from '$lib/server/connectors';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import { message, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';

/** `meant` is ticked once the list of what depends on country and currency was seen. */
const Both = BusinessForm.extend(DetailsForm.shape).extend({ meant: z.boolean().default(false) });

export const load: PageServerLoad = async ({ locals }) => {
	const row = await theBusiness();
	const names = (ask: string) =>
		Object.values(CONNECTORS)
			.filter((one) => one.about.asks.includes(ask))
			.map((one) => one.name);
	return {
		form: await superValidate(
			{
				name: row.name,
				country: row.country,
				homeCurrency: row.homeCurrency,
				timeZone: row.timeZone,
				locale: row.locale,
				...readDetails(row)
			},
			zod4(Both)
		),
		kept: { country: row.country, homeCurrency: row.homeCurrency },
		askedBy: Object.fromEntries(Object.keys(ASKED).map((ask) => [ask, names(ask)])),
		hangs: await hangsOnCountry(),
		countries: countriesIn(locals.locale),
		currencies: CURRENCIES,
		zones: Intl.supportedValuesOf('timeZone'),
		locales: localeChoices(locals.locale)
	};
};

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await superValidate(request, zod4(Both));
		if (!form.valid) return fail(400, { form });
		const before = await theBusiness();
		const hangs = await hangsOnCountry();
		const moves = form.data.country !== before.country || form.data.homeCurrency !== before.homeCurrency;
		// it never changes silently: what depends on it was listed, and the change is meant
		if (moves && hangs.length && !form.data.meant) return fail(409, { form, hangs });
		await saveBusiness(BusinessForm.parse(form.data), locals.user!.name, DetailsForm.parse(form.data));
		form.data.meant = false;
		return message(form, 'The details are kept.');
	}
};
