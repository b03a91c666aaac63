import { readBody, route } from '$lib/server/api/problem';
import { DraftPut } from '$lib/server/api/schemas';
import { tillAt, writeDraft } from '$lib/server/api/tills';

export const PUT = route(async ({ params, request, token }) => {
	const till = await tillAt(params.till);
	return writeDraft(till, await readBody(request, DraftPut), `token ${token.name}`);
});
