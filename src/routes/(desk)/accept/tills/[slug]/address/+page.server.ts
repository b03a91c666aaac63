import { countriesIn } from '$lib/core/places';
import { foundTill } from '$lib/server/accept/found';
import { lineUpsOf } from '$lib/server/accept/lineups';
import { AddressForm } from '$lib/server/accept/tills';
import { buildAddress } from '$lib/server/accept/addresses';
import { fail } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals }) => {
	const till = await foundTill(params.slug);
	const { published } = await lineUpsOf(till.row.id);
	return {
		till: { slug: till.row.slug, name: till.row.name, mode: till.row.mode, currencies: till.currencies },
		published: !!published,
		countries: countriesIn(locals.locale),
		form: await superValidate({ currency: till.currencies[0] }, zod4(AddressForm), { errors: false })
	};
};

export const actions: Actions = {
	default: async ({ params, request, locals }) => {
		const till = await foundTill(params.slug);
		const data = await request.formData();
		const form = await superValidate(data, zod4(AddressForm));
		if (!form.valid) return fail(400, { form });
		const result = await buildAddress(till.row, form.data, data.get('replace') === 'on', locals.locale);
		if ('conflict' in result) {
			setError(form, 'reference', result.conflict);
			return fail(409, { form, canReplace: !result.isBusy });
		}
		if ('problems' in result) {
			for (const { field, says } of result.problems)
				setError(form, field === 'sign' || field === 'address' ? '' : field, says);
			return fail(400, { form });
		}
		return { form, address: result.address };
	}
};
