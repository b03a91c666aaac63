import { AmountError, isCurrency, readTypedAmount, readTypedDecimal } from '$lib/core/money';
import { readDay } from '$lib/core/calendar';
import { addCode, allCodes, CodeForm, endCode } from '$lib/server/bill/codes';
import { priceList } from '$lib/server/bill/prices';
import { theBusiness } from '$lib/server/connect/business';
import { fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
	depends('live:bill');
	return {
		codes: await allCodes(locals.locale),
		items: (await priceList()).map(({ id, name }) => ({ id, name })),
		currency: (await theBusiness()).homeCurrency
	};
};

export const actions: Actions = {
	add: async ({ request, locals }) => {
		const form = await request.formData();
		const values = Object.fromEntries([...form].map(([name, value]) => [name, String(value)]));
		const wrong = (trouble: string) => fail(400, { trouble, values });
		const currency = (values.currency ?? '').trim().toUpperCase();
		if (!isCurrency(currency)) return wrong('Give the currency that sums are in.');
		const sum = (text: string) =>
			text.trim() ? readTypedAmount(text, currency, { locale: locals.locale }).amount.minor : 0;
		const share = /^([\d.,]+)\s*%$/.exec((values.off ?? '').trim())?.[1];
		try {
			const read = CodeForm.safeParse({
				code: values.code,
				name: values.name,
				off: share
					? { kind: 'percentage', ppm: Math.round(Number(readTypedDecimal(share, locals.locale)) * 10_000) }
					: { kind: 'sum', minor: sum(values.off ?? '') },
				currency,
				items: form.getAll('items').map(String).filter(Boolean),
				least: sum(values.least ?? ''),
				from: values.from ? (readDay(values.from, locals.locale) ?? values.from) : '',
				until: values.until ? (readDay(values.until, locals.locale) ?? values.until) : '',
				uses: values.uses ? Number(values.uses) : null,
				usesEach: values.usesEach ? Number(values.usesEach) : null
			});
			if (!read.success) return wrong(read.error.issues.map((issue) => issue.message).join(' '));
			const problem = await addCode(read.data, locals.user!.name);
			return problem ? wrong(problem) : { says: `${read.data.code} is good from now on, at links that take codes.` };
		} catch (error) {
			if (!(error instanceof AmountError)) throw error;
			return wrong(error.message);
		}
	},
	end: async ({ request, locals }) => {
		const form = await request.formData();
		await endCode(String(form.get('code') ?? ''), form.get('on') === 'yes', locals.user!.name);
		return { says: form.get('on') === 'yes' ? 'Ended. Orders that used it stay as they are.' : 'Good again.' };
	}
};
