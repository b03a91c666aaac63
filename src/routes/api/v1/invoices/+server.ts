import { INVOICE_STATES } from '$lib/core/billing';
import { listInvoices, writeInvoice } from '$lib/server/api/invoices';
import { readBody, readChoice, route } from '$lib/server/api/problem';
import { InvoicePost } from '$lib/server/api/schemas';

export const GET = route('billing', ({ url }) =>
	listInvoices({
		state: readChoice(url, 'state', INVOICE_STATES),
		payer: url.searchParams.get('payer') ?? undefined,
		text: url.searchParams.get('text') ?? undefined,
		cursor: url.searchParams.get('cursor') ?? undefined
	})
);
export const POST = route('billing', async ({ request, token, url }) => {
	const answer = await writeInvoice(await readBody(request, InvoicePost), `token ${token.name}`);
	return new Response(JSON.stringify(answer), {
		status: 201,
		headers: {
			'content-type': 'application/json',
			'cache-control': 'no-store',
			location: `${url.pathname}/${answer.invoice}`
		}
	});
});
