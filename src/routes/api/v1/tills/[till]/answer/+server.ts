import { readBody, route } from '$lib/server/api/problem';
import { Asked } from '$lib/server/api/schemas';
import { answerFor, tillAt } from '$lib/server/api/tills';

export const POST = route('tills', async ({ params, request, token }) => {
	const till = await tillAt(params.till, token);
	return answerFor(till, await readBody(request, Asked));
});
