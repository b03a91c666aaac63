import { endHeld } from '$lib/server/api/payments';
import { readBody, route } from '$lib/server/api/problem';
import { CapturePost } from '$lib/server/api/schemas';

export const POST = route('money', async ({ params, request, token }) => {
	const key = request.headers.get('idempotency-key');
	const { amountMinor } = await readBody(request, CapturePost);
	return endHeld(token, params.payment, 'capture', amountMinor, key);
});
