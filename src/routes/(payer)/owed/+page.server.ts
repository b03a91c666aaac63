import {
	endPayerSession,
	keepSession,
	PAYER_COOKIE,
	payerOfSession,
	sendCode,
	SESSION_MS,
	takeCode
} from '$lib/server/bill/payerAccess';
import { lookOf } from '$lib/server/bill/payerDoc';
import { billWord } from '$lib/ui/billWords';
import { languageFor, type Language } from '$lib/ui/payerWords';
import { fail, redirect } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const speak = (request: Request): Language =>
	languageFor(request.headers.get('accept-language') ?? '', ['en', 'nl', 'fr', 'de']);

/** A page of ours that somebody who signs in came from. */
const backTo = (told: string): string =>
	/^\/pay\/[a-z0-9-]+\?[^\s\\]*$/.test(told) && told.length < 2_000 ? told : '/owed/mine';

export const load: PageServerLoad = async ({ cookies, request, locals, setHeaders, url }) => {
	const back = url.searchParams.get('back') ?? '';
	if (await payerOfSession(cookies.get(PAYER_COOKIE))) redirect(303, backTo(back));
	locals.language = speak(request);
	setHeaders({ 'cache-control': 'no-store' });
	return { ...(await lookOf(null)), language: speak(request), back };
};

export const actions: Actions = {
	code: async ({ request, getClientAddress }) => {
		const language = speak(request);
		const mail = String((await request.formData()).get('mail') ?? '').trim();
		if (!/^\S+@\S+\.\S+$/.test(mail)) return fail(400, { says: billWord(language, 'badMail'), mail });
		if (!(await sendCode(mail, getClientAddress()))) return fail(429, { says: billWord(language, 'tooMany'), mail });
		return { sent: mail };
	},
	enter: async ({ request, cookies, url }) => {
		const language = speak(request);
		const form = await request.formData();
		const mail = String(form.get('mail') ?? '');
		const token = await takeCode(mail, String(form.get('code') ?? ''));
		if (!token) return fail(400, { says: billWord(language, 'codeWrong'), sent: mail });
		keepSession(cookies, url, token, SESSION_MS);
		redirect(303, backTo(String(form.get('back') ?? '')));
	},
	leave: async ({ cookies }) => {
		await endPayerSession(cookies.get(PAYER_COOKIE));
		cookies.delete(PAYER_COOKIE, { path: '/' });
		redirect(303, '/owed');
	}
};
