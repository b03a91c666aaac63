import { listPayLinks, putPayLink } from '$lib/server/api/payLinks';
import { readBody, route } from '$lib/server/api/problem';
import { PayLinkPut } from '$lib/server/api/schemas';

export const GET = route('billing', () => listPayLinks());
export const POST = route('billing', async ({ request, token, url }) => {
	const answer = await putPayLink(await readBody(request, PayLinkPut), undefined, `token ${token.name}`);
	return new Response(JSON.stringify(answer), {
		status: 201,
		headers: {
			'content-type': 'application/json',
			'cache-control': 'no-store',
			location: `${url.pathname}/${answer.link}`
		}
	});
});
