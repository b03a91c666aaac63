import { route } from '$lib/server/api/problem';
import { readTill, tillAt } from '$lib/server/api/tills';

export const GET = route('tills', async ({ params, token }) => {
	const told = await readTill(await tillAt(params.till, token));
	return new Response(JSON.stringify(told), {
		headers: {
			'content-type': 'application/json',
			'cache-control': 'no-store',
			// of the draft: If-Match of a later write
			etag: `"${told.draft?.revision ?? 0}"`
		}
	});
});
