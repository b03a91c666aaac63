import { paymentDetail } from '$lib/server/takings/detail';
import { today } from '$lib/server/connect/business';
import { ReceiptForm, recordReceipt, reverseReceipt, WAYS_RECEIVED } from '$lib/server/payments/receipts';
import { formatDay } from '$lib/core/calendar';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';

const idOf = (text: string): number =>
	/^\d{1,15}$/.test(text) ? Number(text) : error(404, 'There is no such payment.');

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:takings');
	const payment = await paymentDetail(idOf(params.id), locals.locale);
	if (!payment?.offline) error(404, 'There is no such offline payment.');
	return { payment, today: await today(), ways: WAYS_RECEIVED };
};

export const actions: Actions = {
	record: async ({ params, request, locals }) => {
		const values = Object.fromEntries(await request.formData()) as Record<string, string>;
		const day = await today();
		const read = ReceiptForm.safeParse({ day: formatDay(day, locals.locale), ...values });
		if (!read.success)
			return fail(400, { wrong: read.error.issues.map((issue) => issue.message).join(' '), typed: values });
		const result = await recordReceipt(idOf(params.id), read.data, day, locals.user!.name, locals.locale);
		return 'problem' in result
			? fail(400, { wrong: result.problem, typed: values })
			: { says: result.says, undo: result.eventId };
	},
	reverse: async ({ params, request, locals }) => {
		const done = await reverseReceipt(
			idOf(params.id),
			Number((await request.formData()).get('event')),
			locals.user!.name
		);
		return done
			? { says: 'The receipt is reversed.' }
			: fail(404, { wrong: 'There is no such receipt any more.', typed: {} });
	}
};
