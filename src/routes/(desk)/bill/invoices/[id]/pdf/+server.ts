import { documentPdf } from '$lib/server/bill/documents';
import { invoiceById } from '$lib/server/bill/view';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
	const row = await invoiceById(Number(params.id));
	if (!row) error(404, 'There is no such invoice.');
	const { name, pdf } = await documentPdf(row);
	return new Response(new Uint8Array(pdf), {
		headers: { 'content-type': 'application/pdf', 'content-disposition': `inline; filename="${name}"` }
	});
};
