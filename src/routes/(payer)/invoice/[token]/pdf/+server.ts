import { documentPdf } from '$lib/server/bill/documents';
import { invoiceByToken } from '$lib/server/bill/view';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
	const row = await invoiceByToken(params.token);
	if (!row || row.state === 'draft') error(404, 'There is no such invoice.');
	const { name, pdf } = await documentPdf(row);
	return new Response(new Uint8Array(pdf), {
		headers: {
			'content-type': 'application/pdf',
			'content-disposition': `inline; filename="${name}"`,
			'cache-control': 'no-store',
			'x-robots-tag': 'noindex, nofollow'
		}
	});
};
