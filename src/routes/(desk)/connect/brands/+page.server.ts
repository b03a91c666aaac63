import { CURRENCIES } from '$lib/core/money';
import { countriesIn } from '$lib/core/places';
import { COLOURS } from '$lib/server/accept/tills';
import { allBrands, BrandForm, removeBrand, saveBrand } from '$lib/server/connect/books';
import { theBusiness } from '$lib/server/connect/business';
import { readForm } from '$lib/server/form';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, url }) => {
	const [business, brands] = await Promise.all([theBusiness(), allBrands()]);
	return {
		first: { name: business.name, country: business.country, homeCurrency: business.homeCurrency },
		brands: brands.map(({ id, name, country, homeCurrency, colour, statementName }) => ({
			id,
			name,
			country,
			homeCurrency,
			colour,
			statementName
		})),
		editing: brands.find((one) => one.id === url.searchParams.get('brand'))?.id,
		countries: countriesIn(locals.locale),
		currencies: CURRENCIES,
		colours: COLOURS
	};
};

export const actions: Actions = {
	save: async ({ request, locals }) => {
		const read = await readForm(request, BrandForm);
		if ('wrong' in read) return fail(400, read.wrong);
		await saveBrand(read.data, locals.user!.name);
		return { says: `${read.data.name} is kept.` };
	},
	remove: async ({ request, locals }) => {
		const trouble = await removeBrand(String((await request.formData()).get('id')), locals.user!.name);
		return trouble ? fail(409, { trouble }) : { says: 'The brand is removed.' };
	}
};
