import { formatNumber, readTypedAmount } from '$lib/core/money';
import { theBusiness } from '$lib/server/connect/business';
import { closedAlerts, setWatchRules, watchRules } from '$lib/server/watch/alerts';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

const Before = z.coerce.number().int().positive().optional().catch(undefined);

export const load: PageServerLoad = async ({ url, depends, locals }) => {
	depends('live:alerts');
	const [{ rows, more }, rules] = await Promise.all([
		closedAlerts({ before: Before.parse(url.searchParams.get('before') ?? undefined) }),
		watchRules()
	]);
	const { homeCurrency } = await theBusiness();
	return {
		rules,
		currency: homeCurrency,
		largeFrom: formatNumber({ minor: rules.discrepancyFrom, currency: homeCurrency }, locals.locale),
		more,
		last: rows.at(-1)?.closedAt ?? null,
		closed: rows.map(({ id, says, figure, openedAt, closedAt, closedBy, times }) => ({
			id,
			says,
			figure,
			openedAt,
			closedAt: closedAt!,
			closedBy,
			times
		}))
	};
};

/** An amount as it was typed, in minor units, or what is wrong with it. */
function readSum(text: string, currency: string, locale: string): number | { wrong: string } {
	try {
		return readTypedAmount(text, currency, { zero: true, locale }).amount.minor;
	} catch (error) {
		return { wrong: error instanceof Error ? error.message : String(error) };
	}
}
const addresses = (text: FormDataEntryValue | null): string[] =>
	String(text ?? '')
		.split(/[\s,;]+/)
		.filter(Boolean);

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await request.formData();
		const hour = (name: string) => Number(form.get(name));
		const sum = String(form.get('discrepancyFrom') ?? '').trim();
		const { homeCurrency } = await theBusiness();
		const { discrepancyFrom } = await watchRules();
		const large = sum ? readSum(sum, homeCurrency, locals.locale) : discrepancyFrom;
		const typed = {
			urgentTo: addresses(form.get('urgentTo')),
			digest: String(form.get('digest') ?? 'never'),
			digestTo: addresses(form.get('digestTo')),
			digestHour: hour('digestHour'),
			quietFrom: hour('quietFrom'),
			quietTo: hour('quietTo'),
			discrepancyFrom: typeof large === 'number' ? large : discrepancyFrom
		};
		if (typeof large !== 'number') return fail(400, { trouble: large.wrong, typed, largeFrom: sum });
		const wrong = await setWatchRules(typed, locals.user!.name);
		return wrong ? fail(400, { trouble: wrong, typed }) : { says: 'Saved.' };
	}
};
