import { endHeld } from '$lib/server/api/payments';
import { readBody, route } from '$lib/server/api/problem';
import { VoidPost } from '$lib/server/api/schemas';

export const POST = route('money', async ({ params, request, token }) => {
	const key = request.headers.get('idempotency-key');
	await readBody(request, VoidPost);
	return endHeld(token, params.payment, 'cancel', undefined, key);
});
