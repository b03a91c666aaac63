import { formatNumber, readTypedAmount } from '$lib/core/money';
import { theBusiness } from '$lib/server/connect/business';
import { closedAlerts, countOpenAlerts, setWatchRules, watchRules } from '$lib/server/watch/alerts';
import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

/** The moment and the id of the last one shown. */
const Before = z
	.string()
	.regex(/^\d{1,16}-\d{1,15}$/)
	.transform((text) => {
		const [closedAt = 0, id = 0] = text.split('-').map(Number);
		return { closedAt, id };
	})
	.optional()
	.catch(undefined);

export const load: PageServerLoad = async ({ url, depends, locals }) => {
	depends('live:alerts');
	const [{ rows, more }, rules, open] = await Promise.all([
		closedAlerts({ before: Before.parse(url.searchParams.get('before') ?? undefined) }),
		watchRules(),
		countOpenAlerts()
	]);
	const { homeCurrency } = await theBusiness();
	return {
		rules: {
			...rules,
			urgentTo: rules.urgentTo.join(', '),
			digestTo: rules.digestTo.join(', '),
			discrepancyFrom: formatNumber({ minor: rules.discrepancyFrom, currency: homeCurrency }, locals.locale)
		},
		open,
		currency: homeCurrency,
		more,
		last: rows.length ? `${rows.at(-1)!.closedAt}-${rows.at(-1)!.id}` : null,
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
const textOf = (form: FormData, name: string): string => String(form.get(name) ?? '').trim();
const addressesOf = (text: string): string[] => text.split(/[\s,;]+/).filter(Boolean);
const Address = z.email();
/** What is wrong with a list of mail addresses, if anything is. */
const wrongAddress = (list: readonly string[]): string | undefined => {
	if (list.length > MOST) return `No more than ${MOST} addresses.`;
	const wrong = list.find((one) => !Address.safeParse(one).success);
	return wrong === undefined ? undefined : `“${wrong}” is not a mail address.`;
};
const MOST = 20;

export const actions: Actions = {
	default: async ({ request, locals }) => {
		const form = await request.formData();
		const { homeCurrency } = await theBusiness();
		const typed = {
			urgentTo: textOf(form, 'urgentTo'),
			digest: textOf(form, 'digest') || 'never',
			digestTo: textOf(form, 'digestTo'),
			digestHour: Number(form.get('digestHour')),
			quietFrom: Number(form.get('quietFrom')),
			quietTo: Number(form.get('quietTo')),
			discrepancyFrom: textOf(form, 'discrepancyFrom')
		};
		const [urgentTo, digestTo] = [addressesOf(typed.urgentTo), addressesOf(typed.digestTo)];
		const large = typed.discrepancyFrom
			? readSum(typed.discrepancyFrom, homeCurrency, locals.locale)
			: (await watchRules()).discrepancyFrom;
		const wrong = {
			urgentTo: wrongAddress(urgentTo),
			digestTo:
				wrongAddress(digestTo) ??
				(typed.digest !== 'never' && !digestTo.length ? 'Say who gets the summary.' : undefined),
			discrepancyFrom: typeof large === 'number' ? undefined : large.wrong
		};
		if (wrong.urgentTo || wrong.digestTo || typeof large !== 'number') return fail(400, { wrong, typed });
		const trouble = await setWatchRules({ ...typed, urgentTo, digestTo, discrepancyFrom: large }, locals.user!.name);
		return trouble ? fail(400, { trouble, typed }) : { says: 'Saved.' };
	}
};
