import { readBody, route } from '$lib/server/api/problem';
import { CheckoutPost } from '$lib/server/api/schemas';
import { makeCheckout } from '$lib/server/api/tills';

export const POST = route(async ({ request }) => {
	const { answer, isNew } = await makeCheckout(await readBody(request, CheckoutPost));
	return new Response(JSON.stringify(answer), {
		status: isNew ? 201 : 200,
		headers: { 'content-type': 'application/json', 'cache-control': 'no-store', location: answer.address }
	});
});
