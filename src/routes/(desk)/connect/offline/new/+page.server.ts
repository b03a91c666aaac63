import { isMethod, methodName, OFFLINE_METHODS } from '$lib/core/lineup';
import { formatAmount } from '$lib/core/money';
import { theBusiness } from '$lib/server/connect/business';
import { BLANKS, OfflineForm, saveOffline } from '$lib/server/connect/offline';
import { fail, redirect } from '@sveltejs/kit';
import { setError, superValidate } from 'sveltekit-superforms';
import { zod4 } from 'sveltekit-superforms/adapters';
import type { Actions, PageServerLoad } from './$types';

const CURRENCIES = ['EUR', 'GBP', 'CHF', 'USD', 'JPY'];

export const load: PageServerLoad = async ({ url, locals }) => {
	const { homeCurrency, name, offlineMinimum } = await theBusiness();
	const asked = url.searchParams.get('kind') ?? '';
	const kind = isMethod(asked) && asked in BLANKS ? (asked as OfflineForm['kind']) : ('credit-transfer' as const);
	const form = await superValidate(
		{ kind, holder: name, currencies: [homeCurrency], ...BLANKS[kind] },
		zod4(OfflineForm),
		{ errors: false }
	);
	return {
		kind,
		kinds: OFFLINE_METHODS.map((one) => ({ kind: one, name: methodName(one) })),
		form,
		choices: [...new Set([homeCurrency, ...CURRENCIES])],
		homeCurrency,
		common: offlineMinimum ? formatAmount({ minor: offlineMinimum, currency: homeCurrency }, locals.locale) : ''
	};
};

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await superValidate(request, zod4(OfflineForm));
		if (!form.valid) return fail(400, { form });
		const result = await saveOffline(form.data, undefined, locals.user!.name, locals.locale);
		if ('problem' in result) return setError(form, result.field, result.problem);
		redirect(303, `/connect/offline/${result.id}?new`);
	}
};
