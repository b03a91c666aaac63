import { readBody, route } from '$lib/server/api/problem';
import { DraftPut } from '$lib/server/api/schemas';
import { discardDraftOf, revisionAsked, tillAt, writeDraft } from '$lib/server/api/tills';

export const PUT = route('line-ups', async ({ params, request, token }) => {
	const till = await tillAt(params.till, token);
	const body = await readBody(request, DraftPut);
	const revision = await revisionAsked(till, request.headers.get('if-match'), body.revision);
	return writeDraft(till, { ...body, revision }, `token ${token.name}`);
});
export const DELETE = route('line-ups', async ({ params, request, token }) => {
	const till = await tillAt(params.till, token);
	const revision = await revisionAsked(till, request.headers.get('if-match'), undefined);
	await discardDraftOf(till, revision, `token ${token.name}`);
	return new Response(null, { status: 204 });
});
