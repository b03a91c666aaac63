import { ItemForm, TAX_CATEGORIES } from '$lib/core/billing';
import { localDecimal, readTypedDecimal } from '$lib/core/money';
import { itemsById, saveItem } from '$lib/server/bill/prices';
import { billSettings } from '$lib/server/bill/settings';
import { allTills, tillCurrencies } from '$lib/server/accept/tills';
import { theBusiness } from '$lib/server/connect/business';
import { error, fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals }) => {
	const item = params.id === 'new' ? undefined : (await itemsById()).get(params.id);
	if (params.id !== 'new' && !item) error(404, 'There is no such thing on the price list.');
	const [business, tills, settings] = await Promise.all([theBusiness(), allTills(), billSettings()]);
	return {
		id: item?.id ?? '',
		item: item && {
			...item,
			prices: item.prices.map((one) => ({ currency: one.currency, price: localDecimal(one.price, locals.locale) }))
		},
		currencies: [...new Set([business.homeCurrency, ...tills.flatMap(tillCurrencies)])],
		pricing: settings.pricing,
		taxes: settings.taxes,
		categories: TAX_CATEGORIES
	};
};

export const actions: Actions = {
	default: async ({ request, params, locals }) => {
		const form = await request.formData();
		const values = Object.fromEntries(
			[...form].filter((pair): pair is [string, string] => typeof pair[1] === 'string')
		);
		const prices = [...form.entries()]
			.filter(([name, value]) => name.startsWith('price_') && String(value).trim())
			.map(([name, value]) => ({
				currency: name.slice(6),
				price: readTypedDecimal(String(value), locals.locale) ?? String(value)
			}));
		const file = form.get('file');
		let picture = form.get('keepPicture') ? String(form.get('keepPicture')) : '';
		if (file instanceof File && file.size)
			picture = `data:${file.type};base64,${Buffer.from(await file.arrayBuffer()).toString('base64')}`;
		const [category, rate] = String(form.get('tax') ?? 'standard 0').split(/ (?=\d+$)/);
		const read = ItemForm.safeParse({
			...values,
			category,
			rate: Number(rate),
			prices,
			picture,
			stock: String(form.get('stock') ?? '').trim() === '' ? null : Number(form.get('stock'))
		});
		if (!read.success) {
			const errors: Record<string, string> = {};
			for (const issue of read.error.issues) errors[String(issue.path[0])] ??= issue.message;
			return fail(400, { errors, values });
		}
		const saved = await saveItem(read.data, params.id === 'new' ? undefined : params.id, locals.user!.name);
		if ('wrong' in saved) return fail(409, { errors: saved.wrong, values });
		redirect(303, '/bill/prices');
	}
};
