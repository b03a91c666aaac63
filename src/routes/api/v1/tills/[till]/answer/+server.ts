import { readBody, route } from '$lib/server/api/problem';
import { Asked } from '$lib/server/api/schemas';
import { answerFor, tillAt } from '$lib/server/api/tills';

export const POST = route(async ({ params, request }) => {
	const till = await tillAt(params.till);
	return answerFor(till, await readBody(request, Asked));
});
