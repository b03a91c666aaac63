import { CURRENCIES } from '$lib/core/money';
import { countriesIn, localeChoices } from '$lib/core/places';
import { business, BusinessForm, saveBusiness } from '$lib/server/connect/business';
import { fail, redirect } from '@sveltejs/kit';
import { superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals }) => {
	if (await business()) redirect(303, '/needs-you');
	return {
		form: await superValidate({ locale: locals.locale }, zod4(BusinessForm), { errors: false }),
		countries: countriesIn(locals.locale),
		currencies: CURRENCIES,
		zones: Intl.supportedValuesOf('timeZone'),
		locales: localeChoices(locals.locale),
		user: locals.user!.name
	};
};

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await superValidate(request, zod4(BusinessForm));
		if (!form.valid) return fail(400, { form });
		if (!(await business())) await saveBusiness(form.data, locals.user!.name);
		redirect(303, '/needs-you');
	}
};
