import { refund } from '$lib/server/api/payments';
import { readBody, route } from '$lib/server/api/problem';
import { RefundPost } from '$lib/server/api/schemas';

export const POST = route('money', async ({ params, request, token }) => {
	const key = request.headers.get('idempotency-key');
	return refund(token, params.payment, await readBody(request, RefundPost), key);
});
