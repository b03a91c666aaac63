import { readPack } from '$lib/server/bill/packs';
import { today } from '$lib/server/connect/business';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
	const file = await readPack(params.key);
	if (!file) error(404, 'This file is not there any more. Make it again from the list.');
	return new Response(file, {
		headers: {
			'content-type': 'application/zip',
			'content-disposition': `attachment; filename="just-purse-documents-${await today()}.zip"`
		}
	});
};
