import { inZone } from '$lib/core/calendar';
import { theBusiness } from '$lib/server/connect/business';
import { paymentDetail } from '$lib/server/takings/detail';
import { ReceiptForm, recordReceipt, reverseReceipt, WAYS_RECEIVED } from '$lib/server/payments/receipts';
import { askAgain } from '$lib/server/payments/actions';
import { endAuthorisation } from '$lib/server/payments/capture';
import { refundPayment } from '$lib/server/payments/refund';
import { setOrderState, setOutsideReference, type OrderAct } from '$lib/server/payments/orderStates';
import { orderOfPayment } from '$lib/server/payments/orders';
import { seeContradiction } from '$lib/server/payments/contradictions';
import { error, fail } from '@sveltejs/kit';
import type { Actions, PageServerLoad } from './$types';
import { timeNow } from '$lib/server/signals/clock';

const idOf = (text: string): number =>
	/^\d{1,15}$/.test(text) ? Number(text) : error(404, 'There is no such payment.');

export const load: PageServerLoad = async ({ params, locals, depends }) => {
	depends('live:takings');
	const payment = await paymentDetail(idOf(params.id), locals.locale);
	if (!payment) error(404, 'There is no such payment.');
	const { timeZone } = await theBusiness();
	return { payment, today: inZone(new Date(timeNow()), timeZone).day, ways: WAYS_RECEIVED };
};

export const actions: Actions = {
	refund: async ({ params, request, locals }) => {
		const form = await request.formData();
		const amount = String(form.get('amount') ?? '');
		const result = await refundPayment(
			idOf(params.id),
			amount,
			String(form.get('key') ?? ''),
			locals.user!.name,
			locals.locale
		);
		if ('problem' in result) return fail(400, { refundWrong: result.problem, amount });
		return { says: 'done' in result ? result.done : result.asking };
	},
	held: async ({ params, request, locals }) => {
		const form = await request.formData();
		const act = form.get('act') === 'cancel' ? 'cancel' : 'capture';
		const amount = String(form.get('amount') ?? '');
		const result = await endAuthorisation(
			idOf(params.id),
			act,
			amount,
			String(form.get('key') ?? ''),
			locals.user!.name,
			locals.locale
		);
		if ('problem' in result) return fail(400, { heldWrong: result.problem, amount });
		return { says: 'done' in result ? result.done : result.asking };
	},
	receive: async ({ params, request, locals }) => {
		const values = Object.fromEntries(await request.formData());
		const read = ReceiptForm.safeParse(values);
		if (!read.success)
			return fail(400, {
				receiveWrong: read.error.issues.map((issue) => issue.message).join(' '),
				typed: values as Record<string, string>
			});
		const { timeZone } = await theBusiness();
		const result = await recordReceipt(
			idOf(params.id),
			read.data,
			inZone(new Date(timeNow()), timeZone).day,
			locals.user!.name,
			locals.locale
		);
		if ('problem' in result)
			return fail(400, { receiveWrong: result.problem, typed: values as Record<string, string> });
		return { says: result.says, undo: result.eventId };
	},
	askAgain: async ({ request }) => {
		const done = await askAgain(String((await request.formData()).get('key') ?? ''));
		return { says: done ? 'The processor is being asked again.' : 'The outcome is known by now.' };
	},
	seen: async ({ params, locals }) => {
		await seeContradiction(idOf(params.id), locals.user!.name);
		return { says: 'Noted. It stays with the payment, and Needs you tells it no more.' };
	},
	order: async ({ params, request, locals }) => {
		const form = await request.formData();
		const state: OrderAct = form.get('state') === 'complete' ? 'complete' : 'release';
		const order = await orderOfPayment(idOf(params.id));
		if (!order) return fail(404, { orderWrong: 'This payment belongs to no order.' });
		const result = await setOrderState(order, state, form.get('on') === '1', locals.user!.name);
		return 'problem' in result ? fail(400, { orderWrong: result.problem }) : { says: result.says };
	},
	outside: async ({ params, request, locals }) => {
		const typed = String((await request.formData()).get('outside') ?? '');
		const order = await orderOfPayment(idOf(params.id));
		if (!order) return fail(404, { orderWrong: 'This payment belongs to no order.' });
		const result = await setOutsideReference(order, typed, locals.user!.name);
		return 'problem' in result ? fail(400, { orderWrong: result.problem, outsideTyped: typed }) : { says: result.says };
	},
	reverse: async ({ params, request, locals }) => {
		const event = Number((await request.formData()).get('event'));
		const done = await reverseReceipt(idOf(params.id), event, locals.user!.name);
		return done
			? { says: 'The receipt is reversed. It stays to be seen and counts no more.' }
			: fail(404, { receiveWrong: 'There is no such receipt any more.' });
	}
};
