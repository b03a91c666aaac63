import { SESSION_COOKIE, whoIs } from '$lib/server/access';
import { noteOpened, payInvoice } from '$lib/server/bill/collect';
import { lookOf, payerDocument } from '$lib/server/bill/payerDoc';
import { answerQuote } from '$lib/server/bill/quotes';
import { invoiceByToken } from '$lib/server/bill/view';
import { billWord } from '$lib/ui/billWords';
import { languageFor, localeOf, type Language } from '$lib/ui/payerWords';
import { languageOfPayer } from '$lib/server/bill/payerLanguage';
import { error, fail, redirect, type RequestEvent } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

type Event = Pick<RequestEvent, 'request' | 'locals'> & { params: { token: string } };
async function found({ params, request, locals }: Event) {
	const row = await invoiceByToken(params.token);
	const asked = request.headers.get('accept-language') ?? '';
	if (!row || row.state === 'draft') {
		const language = languageFor(asked, ['en', 'nl', 'fr', 'de']);
		locals.language = language;
		error(404, { message: billWord(language, 'gone'), help: billWord(language, 'goneHelp') });
	}
	const look = await lookOf(row.tillId);
	const language = (await languageOfPayer(row.payerId)) ?? languageFor(asked, ['en', 'nl', 'fr', 'de']);
	locals.language = language;
	return { row, look, language: language as Language, locale: localeOf(language, asked) };
}

export const load: PageServerLoad = async ({ params, request, locals, cookies, setHeaders }) => {
	const { row, look, language, locale } = await found({ params, request, locals });
	setHeaders({ 'cache-control': 'no-store' });
	// whoever looks at it from the desk is not its payer
	if (!(await whoIs(cookies.get(SESSION_COOKIE)))) await noteOpened(row);
	return { ...look, language, document: await payerDocument(row, locale), token: row.token };
};

export const actions: Actions = {
	pay: async ({ params, request, locals }) => {
		const { row, language } = await found({ params, request, locals });
		const form = await request.formData();
		const collected = await payInvoice(row.id, {
			all: form.get('all') === 'yes',
			insists: form.get('insists') === 'yes'
		});
		if ('address' in collected) redirect(303, collected.address);
		if (collected.problem === 'on its way') return fail(409, { asksAgain: true });
		return fail(409, { says: billWord(language, collected.problem === 'nothing to pay' ? 'paid' : 'nothingNow') });
	},
	answer: async ({ params, request, locals }) => {
		const { row, language } = await found({ params, request, locals });
		const form = await request.formData();
		const who = String(form.get('name') ?? '').trim();
		if (!who) return fail(400, { says: billWord(language, 'nameMissing'), name: '' });
		const answered = await answerQuote(
			row.id,
			form.get('answer') === 'declined' ? 'declined' : 'accepted',
			who,
			`${who} (payer)`
		);
		if ('invoice' in answered) redirect(303, `/invoice/${answered.invoice.token}?accepted`);
		if ('declined' in answered) return { declined: true };
		return fail(409, { says: '' });
	}
};
