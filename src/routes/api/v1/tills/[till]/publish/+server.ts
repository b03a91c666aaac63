import { readBody, route } from '$lib/server/api/problem';
import { Publish } from '$lib/server/api/schemas';
import { publishDraft, tillAt } from '$lib/server/api/tills';

export const POST = route('line-ups', async ({ params, request, token }) => {
	const till = await tillAt(params.till, token);
	return publishDraft(till, await readBody(request, Publish), `token ${token.name}`);
});
