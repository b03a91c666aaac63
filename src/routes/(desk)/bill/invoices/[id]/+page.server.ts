import { CHANNELS } from '$lib/core/billing';
import { dayPattern } from '$lib/core/calendar';
import { allTills, tillCurrencies } from '$lib/server/accept/tills';
import { randomId } from '$lib/server/access';
import { today } from '$lib/server/connect/business';
import {
	approve,
	approvesOnSending,
	askApproval,
	beginCreditNote,
	holdInvoice,
	setOutside,
	voidInvoice,
	writeOff
} from '$lib/server/bill/approve';
import { MoneyForm, send, takeOffline, useCredit } from '$lib/server/bill/collect';
import { announceDebit, callOffDebit } from '$lib/server/bill/debits';
import { contentOf, DraftForm, duplicate, problemsOf, removeDraft, saveDraft } from '$lib/server/bill/drafts';
import { payerById } from '$lib/server/bill/payers';
import { priceList } from '$lib/server/bill/prices';
import { answerQuote, sayAnswer } from '$lib/server/bill/quotes';
import { billSettings } from '$lib/server/bill/settings';
import { invoiceById, invoiceView, waysToPay } from '$lib/server/bill/view';
import { readForm } from '$lib/server/form';
import { takePlacesBack } from '$lib/server/placing';
import { WAYS_RECEIVED } from '$lib/server/payments/receipts';
import { error, fail, redirect } from '@sveltejs/kit';
import QRCode from 'qrcode';
import { z } from 'zod';
import type { Actions, PageServerLoad } from './$types';

async function found(id: string) {
	const row = await invoiceById(Number(id));
	if (!row)
		error(404, {
			message: 'There is no such invoice, quote or credit note.',
			help: 'It may have been a draft that was removed.'
		});
	return row;
}

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:bill');
	depends('live:takings');
	const row = await found(params.id);
	const kept = {
		id: row.id,
		kind: row.kind,
		receiptKey: randomId(),
		ways: WAYS_RECEIVED,
		today: await today(),
		dayPattern: dayPattern(locals.locale)
	};
	if (row.state !== 'draft') {
		const view = await invoiceView(row, locals.locale);
		return {
			...kept,
			view,
			draft: undefined,
			code: await QRCode.toString(view.link, { type: 'svg', errorCorrectionLevel: 'M', margin: 4 })
		};
	}
	const [items, tills, settings, payer, approves, problems] = await Promise.all([
		priceList(),
		allTills(),
		billSettings(),
		row.payerId ? payerById(row.payerId) : undefined,
		approvesOnSending(),
		problemsOf(row)
	]);
	const of = row.ofId === null ? undefined : await invoiceById(row.ofId);
	return {
		...kept,
		view: undefined,
		draft: {
			revision: row.revision,
			currency: row.currency,
			tillId: row.tillId ?? '',
			until: row.until,
			content: contentOf(row),
			payer: payer && {
				id: payer.row.id,
				name: payer.row.company || payer.row.name,
				mail: payer.row.mail,
				phone: payer.row.phone,
				channel: payer.row.channel
			},
			askedBy: row.askedAt === null ? '' : row.askedBy,
			of: of && { id: of.id, number: of.number },
			problems
		},
		approves,
		taxes: settings.taxes,
		fieldNames: settings.fields,
		items: items.map(({ picture: _, about: __, stock: ___, ...item }) => item),
		tills: tills.map((till) => ({
			id: till.id,
			name: till.name,
			mode: till.mode,
			kind: till.kind,
			currencies: tillCurrencies(till)
		})),
		waysToPay:
			row.kind === 'credit note'
				? undefined
				: await waysToPay({ tillId: row.tillId, currency: row.currency, open: row.total }, payer?.row, locals.locale)
	};
};

const Sending = z.object({
	mail: z.string().optional(),
	text: z.string().optional(),
	page: z.string().optional(),
	event: z.enum(['', 'reminder']).default(''),
	revision: z.string().default('')
});
/** A debit as it was looked at before it is announced. */
const Debit = z.object({
	storedId: z.coerce.number().int(),
	day: z.iso.date(),
	minor: z.coerce.number().int().positive()
});
const acted = (answer: { says: string } | { problem: string }) =>
	'problem' in answer ? fail(409, { trouble: answer.problem }) : answer;

export const actions: Actions = {
	save: async ({ request, params, locals }) => {
		let given: unknown;
		try {
			given = JSON.parse(String((await request.formData()).get('draft') ?? ''));
		} catch {
			return fail(400, { trouble: 'The draft did not come whole. Try again.' });
		}
		const read = DraftForm.safeParse(given);
		if (!read.success)
			return fail(400, {
				trouble: read.error.issues
					.slice(0, 3)
					.map((issue) => `${issue.path.join(' ')}: ${issue.message}`)
					.join(' ')
			});
		const saved = await saveDraft(Number(params.id), read.data, locals.user!.name);
		if ('problem' in saved) return fail(409, { trouble: saved.problem });
		if ('conflict' in saved) return fail(409, { conflict: saved.conflict, revision: saved.revision });
		return { revision: saved.revision };
	},
	approve: async ({ request, params, locals }) => {
		const revision = Number((await request.formData()).get('revision') ?? NaN);
		return acted(
			await approve(Number(params.id), Number.isInteger(revision) ? revision : undefined, locals.user!.name)
		);
	},
	ask: async ({ request, params, locals }) =>
		acted(await askApproval(Number(params.id), Number((await request.formData()).get('revision')), locals.user!.name)),
	send: async ({ request, params, locals }) => {
		const read = await readForm(request, Sending);
		if ('wrong' in read) return fail(400, { trouble: 'Choose how it is sent.' });
		return acted(
			await send(
				Number(params.id),
				{
					channels: CHANNELS.filter((channel) => read.data[channel]),
					event: read.data.event || undefined,
					revision: read.data.revision === '' ? undefined : Number(read.data.revision)
				},
				locals.user!.name
			)
		);
	},
	receive: async ({ request, params, locals }) => {
		const read = await readForm(request, MoneyForm);
		if ('wrong' in read) return fail(400, { receiving: read.wrong });
		const answer = await takeOffline(Number(params.id), read.data, locals.user!.name, locals.locale);
		return 'problem' in answer
			? fail(409, { receiving: { errors: { amount: answer.problem }, values: read.data } })
			: answer;
	},
	debit: async ({ request, params, locals }) => {
		const read = await readForm(request, Debit);
		if ('wrong' in read) return fail(400, { trouble: 'Look at the debit again, then announce it.' });
		return acted(await announceDebit(Number(params.id), read.data, locals.user!.name, locals.locale));
	},
	callOff: async ({ request, params, locals }) =>
		acted(await callOffDebit(Number(params.id), Number((await request.formData()).get('debit')), locals.user!.name)),
	credit: async ({ params, locals }) => acted(await useCredit(Number(params.id), locals.user!.name, locals.locale)),
	unplace: async ({ request, params, locals }) =>
		acted(
			await takePlacesBack(
				Number((await request.formData()).get('payment')),
				Number(params.id),
				locals.user!.name,
				locals.locale
			)
		),
	void: async ({ request, params, locals }) =>
		acted(
			await voidInvoice(Number(params.id), String((await request.formData()).get('reason') ?? ''), locals.user!.name)
		),
	writeOff: async ({ request, params, locals }) =>
		acted(
			await writeOff(
				Number(params.id),
				(await request.formData()).get('on') === 'yes',
				locals.user!.name,
				locals.locale
			)
		),
	hold: async ({ request, params, locals }) =>
		acted(await holdInvoice(Number(params.id), (await request.formData()).get('on') === 'yes', locals.user!.name)),
	outside: async ({ request, params, locals }) =>
		acted(
			await setOutside(Number(params.id), String((await request.formData()).get('outside') ?? ''), locals.user!.name)
		),
	answer: async ({ request, params, locals }) => {
		const form = await request.formData();
		const who = String(form.get('who') ?? '').trim();
		if (!who) return fail(400, { trouble: 'Say who answered.' });
		const answer = form.get('answer') === 'declined' ? 'declined' : 'accepted';
		return acted(sayAnswer(await answerQuote(Number(params.id), answer, who, locals.user!.name)));
	},
	creditNote: async ({ params, locals }) => {
		const begun = await beginCreditNote(Number(params.id), locals.user!.name);
		if ('problem' in begun) return fail(409, { trouble: begun.problem });
		redirect(303, `/bill/invoices/${begun.id}`);
	},
	duplicate: async ({ params, locals }) => {
		const id = await duplicate(Number(params.id), locals.user!.name);
		if (!id) return fail(404, { trouble: 'It is gone.' });
		redirect(303, `/bill/invoices/${id}`);
	},
	remove: async ({ params, locals }) => {
		const row = await found(params.id);
		const problem = await removeDraft(row.id, locals.user!.name);
		if (problem) return fail(409, { trouble: problem });
		redirect(
			303,
			row.kind === 'quote' ? '/bill/quotes' : row.kind === 'credit note' ? '/bill/credit-notes' : '/bill/invoices'
		);
	}
};
