import { listCheckouts, makeCheckout, readPaging } from '$lib/server/api/checkouts';
import { readBody, readChoice, route } from '$lib/server/api/problem';
import { CheckoutPost } from '$lib/server/api/schemas';
import { ORDER_STATES } from '$lib/server/payments/orders';

export const GET = route('checkouts', ({ url, token }) =>
	listCheckouts(token, {
		reference: url.searchParams.get('reference') ?? undefined,
		till: url.searchParams.get('till') ?? undefined,
		state: readChoice(url, 'state', ORDER_STATES),
		...readPaging(url)
	})
);
export const POST = route('checkouts', async ({ request, token, url }) => {
	const { answer, isNew } = await makeCheckout(await readBody(request, CheckoutPost), token);
	return new Response(JSON.stringify(answer), {
		status: isNew ? 201 : 200,
		headers: {
			'content-type': 'application/json',
			'cache-control': 'no-store',
			location: `${url.pathname}/${answer.checkout}`
		}
	});
});
