import { exportLineUp } from '$lib/server/accept/exchange';
import { foundTill } from '$lib/server/accept/found';
import type { RequestHandler } from './$types';

/** The line-up as a file. */
export const GET: RequestHandler = async ({ params, url }) => {
	const { row } = await foundTill(params.slug);
	const file = await exportLineUp(row, url.searchParams.get('which') === 'draft' ? 'draft' : 'published');
	return new Response(`${JSON.stringify(file, null, '\t')}\n`, {
		headers: {
			'content-type': 'application/json',
			'content-disposition': `attachment; filename="line-up-${row.slug}.json"`
		}
	});
};
