import { letterPdf } from '$lib/server/fees/letter';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** The letter to the processor. */
export const GET: RequestHandler = async ({ params }) => {
	const made = await letterPdf(Number(params.id));
	if (!made) error(404, 'There is no such discrepancy.');
	return new Response(new Uint8Array(made.pdf), {
		headers: { 'content-type': 'application/pdf', 'content-disposition': `inline; filename="${made.name}"` }
	});
};
