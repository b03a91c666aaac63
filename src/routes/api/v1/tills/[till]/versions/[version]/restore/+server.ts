import { route } from '$lib/server/api/problem';
import { restoreVersion, tillAt } from '$lib/server/api/tills';

export const POST = route('line-ups', async ({ params, token }) =>
	restoreVersion(await tillAt(params.till, token), params.version, `token ${token.name}`)
);
