import { AmountError, formatNumber, readTypedAmount } from '$lib/core/money';
import { giveAsCredit, unplacedView } from '$lib/server/bill/unplaced';
import { openOfPayer, openByNumbers } from '$lib/server/bill/openInvoices';
import { placeByHand, setAside, takePlacesBack } from '$lib/server/placing';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, locals, depends }) => {
	depends('live:takings');
	depends('live:bill');
	const money = await unplacedView(Number(params.id), locals.locale);
	if (!money) error(404, 'There is no such payment.');
	const q = url.searchParams.get('q') ?? '';
	const found = q
		? await openByNumbers(q, money.currency)
		: money.payer
			? await openOfPayer(money.payer.id, money.currency)
			: [];
	return {
		money,
		q,
		says: url.searchParams.get('says') ?? '',
		found: found.map((row) => ({
			id: row.id,
			number: row.number,
			payer: row.payerName,
			due: row.nextDue,
			open: formatNumber({ minor: row.open, currency: row.currency }, locals.locale)
		}))
	};
};

const acted = (answer: { says: string } | { problem: string }) =>
	'problem' in answer ? fail(409, { trouble: answer.problem }) : answer;

export const actions: Actions = {
	/** Parts come as pairs: `part-12=30.00` for the invoice 12. */
	place: async ({ request, params, locals }) => {
		const form = await request.formData();
		const money = await unplacedView(Number(params.id), locals.locale);
		if (!money) return fail(404, { trouble: 'There is no such payment.' });
		const parts: { invoiceId: number; minor: number }[] = [];
		for (const [name, value] of form) {
			const invoiceId = Number(/^part-(\d+)$/.exec(name)?.[1]);
			const text = String(value).trim();
			if (!invoiceId || !text) continue;
			try {
				parts.push({ invoiceId, minor: readTypedAmount(text, money.currency, { locale: locals.locale }).amount.minor });
			} catch (wrong) {
				if (!(wrong instanceof AmountError)) throw wrong;
				return fail(400, {
					trouble: wrong.message,
					typed: Object.fromEntries([...form].map(([key, one]) => [key, String(one)]))
				});
			}
		}
		return acted(await placeByHand(Number(params.id), parts, locals.user!.name, locals.locale));
	},
	suggested: async ({ request, params, locals }) => {
		const form = await request.formData();
		const parts = form.getAll('part').map((one) => {
			const [invoiceId, minor] = String(one).split(':').map(Number);
			return { invoiceId: invoiceId!, minor: minor! };
		});
		return acted(
			await placeByHand(
				Number(params.id),
				parts.filter((one) => Number.isSafeInteger(one.invoiceId) && Number.isSafeInteger(one.minor)),
				locals.user!.name,
				locals.locale
			)
		);
	},
	back: async ({ request, params, locals }) => {
		const invoice = Number((await request.formData()).get('invoice')) || undefined;
		return acted(await takePlacesBack(Number(params.id), invoice, locals.user!.name, locals.locale));
	},
	credit: async ({ request, params, locals }) =>
		acted(
			await giveAsCredit(
				Number(params.id),
				String((await request.formData()).get('payer') ?? '') || null,
				locals.user!.name
			)
		),
	aside: async ({ request, params, locals }) => {
		const form = await request.formData();
		return acted(
			await setAside(Number(params.id), form.get('on') === 'yes', String(form.get('reason') ?? ''), locals.user!.name)
		);
	}
};
