import { receiptPdf } from '$lib/server/bill/receiptPdf';
import { orderBehind } from '$lib/server/payments/orders';
import { paymentOfToken } from '$lib/server/payments/requests';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
	const found = await paymentOfToken(params.token);
	if (!found || found.payment.taken <= 0) error(404, 'There is no receipt here yet.');
	const { order } = await orderBehind(found.payment);
	return new Response(new Uint8Array(await receiptPdf(found.payment, order)), {
		headers: {
			'content-type': 'application/pdf',
			'content-disposition': `inline; filename="receipt-${found.payment.reference.replace(/[^\w.-]+/g, '-')}.pdf"`,
			'cache-control': 'no-store',
			'x-robots-tag': 'noindex, nofollow'
		}
	});
};
