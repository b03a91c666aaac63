import { listPayers, putPayer } from '$lib/server/api/payers';
import { readBody, route } from '$lib/server/api/problem';
import { PayerPut } from '$lib/server/api/schemas';

export const GET = route('payers', ({ url }) =>
	listPayers(url.searchParams.get('text') ?? undefined, url.searchParams.get('cursor') ?? undefined)
);
export const POST = route('payers', async ({ request, token, url }) => {
	const { answer, isNew } = await putPayer(await readBody(request, PayerPut), `token ${token.name}`);
	return new Response(JSON.stringify(answer), {
		status: isNew ? 201 : 200,
		headers: {
			'content-type': 'application/json',
			'cache-control': 'no-store',
			location: `${url.pathname}/${answer.payer}`
		}
	});
});
