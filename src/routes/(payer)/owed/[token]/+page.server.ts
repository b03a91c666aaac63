import { payOwed } from '$lib/server/bill/collect';
import { changeOwnDetails, changePreference, owedPage } from '$lib/server/bill/owedPage';
import {
	keepSession,
	LINK_SESSION_MS,
	openPayerSession,
	PAYER_COOKIE,
	payerOfLink,
	payerOfSession
} from '$lib/server/bill/payerAccess';
import { changeStored } from '$lib/server/payments/stored';
import { lookOf } from '$lib/server/bill/payerDoc';
import { openLanguage } from '$lib/core/billing';
import { billWord } from '$lib/ui/billWords';
import { languageFor, localeOf, type Language } from '$lib/ui/payerWords';
import { error, fail, redirect, type RequestEvent } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

async function found({
	params,
	request,
	locals,
	cookies
}: Pick<RequestEvent, 'request' | 'locals' | 'cookies'> & { params: { token: string } }) {
	const asked = request.headers.get('accept-language') ?? '';
	const payer =
		params.token === 'mine' ? await payerOfSession(cookies.get(PAYER_COOKIE)) : await payerOfLink(params.token);
	if (!payer && params.token === 'mine') redirect(303, '/owed');
	const language = (openLanguage(payer?.language ?? '') ?? languageFor(asked, ['en', 'nl', 'fr', 'de'])) as Language;
	locals.language = language;
	if (!payer) error(404, { message: billWord(language, 'gone'), help: billWord(language, 'goneHelp') });
	return { payer, language, locale: localeOf(language, asked) };
}

export const load: PageServerLoad = async ({ params, request, locals, cookies, setHeaders }) => {
	const { payer, language, locale } = await found({ params, request, locals, cookies });
	setHeaders({ 'cache-control': 'no-store' });
	return {
		...(await lookOf(null)),
		language,
		isSignedIn: params.token === 'mine',
		page: await owedPage(payer, locale)
	};
};

export const actions: Actions = {
	pay: async ({ params, request, locals, cookies, url }) => {
		const { payer, language } = await found({ params, request, locals, cookies });
		const form = await request.formData();
		const chosen = form.get('all') === 'yes' ? [] : form.getAll('invoice').map(Number).filter(Number.isSafeInteger);
		if (form.get('all') !== 'yes' && !chosen.length) return fail(400, { says: billWord(language, 'choose') });
		const collected = await payOwed(payer.id, String(form.get('currency') ?? ''), chosen);
		if ('address' in collected) {
			// whoever has the signed address may pay by what is stored, as they may end it here
			const known = await payerOfSession(cookies.get(PAYER_COOKIE));
			if (known?.id !== payer.id)
				keepSession(cookies, url, await openPayerSession(payer.id, LINK_SESSION_MS), LINK_SESSION_MS);
			redirect(303, collected.address);
		}
		return fail(409, {
			says: billWord(
				language,
				collected.problem === 'nothing to pay'
					? 'owedNothing'
					: collected.problem === 'on its way'
						? 'comingAsk'
						: 'nothingNow'
			)
		});
	},
	stored: async ({ params, request, locals, cookies }) => {
		const { payer, language } = await found({ params, request, locals, cookies });
		const form = await request.formData();
		const act = form.get('act') === 'end' ? 'end' : 'default';
		const problem = await changeStored(Number(form.get('id')), payer.id, act, {
			by: `${payer.name} (payer)`,
			why: act === 'end' ? 'ended by the payer' : ''
		});
		if (problem) return fail(409, { says: billWord(language, 'storedGone') });
		return act === 'end'
			? { kept: billWord(language, 'storedEnded', String(form.get('name') ?? '')) }
			: { kept: billWord(language, 'saved') };
	},
	prefers: async ({ params, request, locals, cookies }) => {
		const { payer, language } = await found({ params, request, locals, cookies });
		await changePreference(payer, String((await request.formData()).get('prefers') ?? ''));
		return { kept: billWord(language, 'saved') };
	},
	details: async ({ params, request, locals, cookies }) => {
		const { payer, language } = await found({ params, request, locals, cookies });
		const form = await request.formData();
		const of = (name: string) => String(form.get(name) ?? '');
		const isKept = await changeOwnDetails(payer, {
			name: of('name'),
			phone: of('phone'),
			language: of('language')
		});
		return isKept
			? { kept: billWord(language, 'saved') }
			: fail(400, { says: billWord(language, of('name').trim() ? 'badPhone' : 'nameMissing') });
	}
};
