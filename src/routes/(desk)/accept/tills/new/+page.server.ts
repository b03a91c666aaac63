import { COLOURS, setUpTill, TillForm } from '$lib/server/accept/tills';
import { currencyChoices } from '$lib/server/accept/choices';
import { allBrands } from '$lib/server/connect/books';
import { allDomains } from '$lib/server/connect/domains';
import { fail, redirect } from '@sveltejs/kit';
import { superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async () => {
	const choices = await currencyChoices();
	return {
		form: await superValidate({ currencies: choices.slice(0, 1) }, zod4(TillForm), { errors: false }),
		choices,
		brands: (await allBrands()).map(({ id, name }) => ({ id, name })),
		colours: COLOURS,
		domains: (await allDomains()).map((one) => one.domain)
	};
};

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await superValidate(request, zod4(TillForm));
		if (!form.valid) return fail(400, { form });
		const till = await setUpTill(form.data, locals.user!.name);
		redirect(303, `/accept/tills/${till.slug}`);
	}
};
