import { currencyChoices } from '$lib/server/accept/choices';
import { foundTill } from '$lib/server/accept/found';
import { changeTill, COLOURS, TillForm, tillForm } from '$lib/server/accept/tills';
import { allBrands } from '$lib/server/connect/books';
import { allDomains } from '$lib/server/connect/domains';
import { fail } from '@sveltejs/kit';
import { message, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params }) => {
	const { row, currencies } = await foundTill(params.slug);
	return {
		till: { slug: row.slug, name: row.name, mode: row.mode },
		form: await superValidate(tillForm(row), zod4(TillForm)),
		brands: (await allBrands()).map(({ id, name }) => ({ id, name })),
		choices: [...new Set([...(await currencyChoices()), ...currencies])],
		colours: COLOURS,
		domains: (await allDomains()).map((one) => one.domain)
	};
};

export const actions: Actions = {
	default: async ({ params, request, locals }) => {
		const { row } = await foundTill(params.slug);
		const form = await superValidate(request, zod4(TillForm));
		if (!form.valid) return fail(400, { form });
		await changeTill(row, form.data, locals.user!.name);
		return message(form, 'Saved. Payers meet it so from now on; addresses that were given out stay good.');
	}
};
