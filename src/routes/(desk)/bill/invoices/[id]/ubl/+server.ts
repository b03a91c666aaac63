import { invoiceUbl } from '$lib/server/bill/ubl';
import { invoiceById } from '$lib/server/bill/view';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
	const row = await invoiceById(Number(params.id));
	if (!row) error(404, 'There is no such invoice.');
	const made = await invoiceUbl(row);
	if ('problems' in made) error(409, `It cannot be written as UBL yet. ${made.problems.join(' ')}`);
	return new Response(made.xml, {
		headers: {
			'content-type': 'application/xml; charset=utf-8',
			'content-disposition': `attachment; filename="${made.name}"`
		}
	});
};
