import { methodName } from '$lib/core/lineup';
import { AmountError, formatAmount, plainAmount, readTypedAmount } from '$lib/core/money';
import { setOfflineMinimum, theBusiness } from '$lib/server/connect/business';
import {
	endOffline,
	offlineById,
	offlineForm,
	OfflineForm,
	saveOffline,
	usageOfOffline
} from '$lib/server/connect/offline';
import { offlineSample } from '$lib/server/connect/offlineSample';
import { usesOf } from '$lib/server/accept/usage';
import { error, fail, redirect } from '@sveltejs/kit';
import { message, setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

const found = async (id: string) => (await offlineById(id)) ?? error(404, 'There is no such offline method.');

export const load: PageServerLoad = async ({ params, url, locals }) => {
	const row = await found(params.id);
	const business = await theBusiness();
	const { homeCurrency, offlineMinimum } = business;
	const values = offlineForm(row, (minor, currency) => plainAmount({ minor, currency }));
	const [use, uses] = await Promise.all([usageOfOffline(timeNow()), usesOf({ kind: 'offline', id: row.id })]);
	return {
		isNew: url.searchParams.has('new'),
		name: row.name,
		kind: methodName(row.kind),
		paused: row.paused === 1,
		shop: business.name,
		form: await superValidate(values, zod4(OfflineForm), { id: 'offline' }),
		choices: [...new Set([...values.currencies, 'EUR', 'GBP', 'CHF', 'USD', 'JPY'])],
		homeCurrency,
		common: offlineMinimum ? formatAmount({ minor: offlineMinimum, currency: homeCurrency }, locals.locale) : '',
		commonPlain: offlineMinimum ? plainAmount({ minor: offlineMinimum, currency: homeCurrency }) : '',
		use: use.get(row.id),
		tills: [...new Set(uses.map((one) => one.till.name))],
		sample: await offlineSample(row, values.currencies[0] ?? homeCurrency, business, locals.locale)
	};
};

export const actions: Actions = {
	save: async ({ request, params, locals }) => {
		const form = await superValidate(request, zod4(OfflineForm), { id: 'offline' });
		if (!form.valid) return fail(400, { form });
		const result = await saveOffline(form.data, params.id, locals.user!.name, locals.locale);
		if ('problem' in result) return setError(form, result.field, result.problem);
		return message(form, 'Saved. Payers read it so from now on.');
	},
	pause: async ({ params, locals }) => {
		const row = await found(params.id);
		await endOffline(row, 'pause', locals.user!.name);
		return { says: row.paused ? `${row.name} is offered again.` : `${row.name} is paused everywhere.` };
	},
	remove: async ({ params, locals }) => {
		const uses = await usesOf({ kind: 'offline', id: params.id });
		const tills = [...new Set(uses.map((one) => one.till.name))];
		const trouble = await endOffline(await found(params.id), 'remove', locals.user!.name, tills);
		if (trouble) return fail(409, { trouble });
		redirect(303, '/connect/processors');
	},
	common: async ({ request, locals }) => {
		const typed = String((await request.formData()).get('common') ?? '').trim();
		const { homeCurrency } = await theBusiness();
		try {
			await setOfflineMinimum(
				typed ? readTypedAmount(typed, homeCurrency, { locale: locals.locale }).amount.minor : null,
				locals.user!.name
			);
		} catch (wrong) {
			if (wrong instanceof AmountError) return fail(400, { commonWrong: wrong.message, common: typed });
			throw wrong;
		}
		return {
			says: typed
				? 'The threshold of all offline methods is kept.'
				: 'Offline methods have no threshold in common any more.'
		};
	}
};
