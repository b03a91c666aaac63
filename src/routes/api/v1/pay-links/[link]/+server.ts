import { putPayLink, readPayLink } from '$lib/server/api/payLinks';
import { readBody, route } from '$lib/server/api/problem';
import { PayLinkPut } from '$lib/server/api/schemas';

export const GET = route('billing', ({ params }) => readPayLink(params.link));
export const PUT = route('billing', async ({ params, request, token }) =>
	putPayLink(await readBody(request, PayLinkPut), params.link, `token ${token.name}`)
);
