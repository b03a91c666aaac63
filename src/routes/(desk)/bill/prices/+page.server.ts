import { localDecimal } from '$lib/core/money';
import { importPrices, priceList, setItemRemoved } from '$lib/server/bill/prices';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:bill');
	return {
		items: (await priceList()).map((one) => ({
			id: one.id,
			code: one.code,
			name: one.name,
			about: one.about,
			unit: one.unit,
			tax: `${one.category}${one.rate ? ` ${one.rate / 10_000} %` : ''}`,
			pricing: one.pricing,
			prices: one.prices.map((price) => `${localDecimal(price.price, locals.locale)} ${price.currency}`),
			picture: one.picture,
			stock: one.stock
		}))
	};
};

export const actions: Actions = {
	remove: async ({ request, locals }) => {
		const id = String((await request.formData()).get('id') ?? '');
		const problem = await setItemRemoved(id, true, locals.user!.name);
		return problem
			? fail(409, { trouble: problem })
			: { says: 'It is off the price list. Documents that have it stay as they are.', undo: id };
	},
	restore: async ({ request, locals }) => {
		const problem = await setItemRemoved(String((await request.formData()).get('id') ?? ''), false, locals.user!.name);
		return problem ? fail(409, { trouble: problem }) : { says: 'It is on the price list again.' };
	},
	import: async ({ request, locals }) => {
		const file = (await request.formData()).get('file');
		if (!(file instanceof File) || !file.size) return fail(400, { faults: ['Choose a CSV file.'] });
		let text;
		try {
			text = new TextDecoder('utf-8', { fatal: true }).decode(await file.arrayBuffer());
		} catch {
			return fail(400, { faults: ['The file is not in UTF-8. Save it in that encoding and try again.'] });
		}
		const taken = await importPrices(text, locals.user!.name);
		return 'faults' in taken
			? fail(400, { faults: taken.faults })
			: { says: `Imported: ${taken.added} new, ${taken.changed} changed.` };
	}
};
