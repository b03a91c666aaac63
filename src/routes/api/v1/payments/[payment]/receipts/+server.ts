import { receive } from '$lib/server/api/payments';
import { readBody, route } from '$lib/server/api/problem';
import { ReceiptPost } from '$lib/server/api/schemas';

export const POST = route('money', async ({ params, request, token }) => {
	const key = request.headers.get('idempotency-key');
	return receive(token, params.payment, await readBody(request, ReceiptPost), key);
});
