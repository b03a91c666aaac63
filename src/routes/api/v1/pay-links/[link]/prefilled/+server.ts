import { makePrefilledAddress } from '$lib/server/api/payLinks';
import { readBody, route } from '$lib/server/api/problem';
import { PrefilledPost } from '$lib/server/api/schemas';

export const POST = route('billing', async ({ params, request }) =>
	makePrefilledAddress(params.link, await readBody(request, PrefilledPost))
);
