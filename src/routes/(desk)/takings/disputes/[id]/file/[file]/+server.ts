import { fileOfDispute } from '$lib/server/takings/disputes';
import { error } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** A file of a dispute, to keep: it is never shown as a page of ours. */
export const GET: RequestHandler = async ({ params }) => {
	const file = await fileOfDispute(Number(params.id), Number(params.file));
	if (!file) error(404, 'There is no such file.');
	return new Response(new Uint8Array(file.content), {
		headers: {
			'content-type': file.type,
			'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`,
			'x-content-type-options': 'nosniff',
			'content-security-policy': "default-src 'none'; sandbox"
		}
	});
};
