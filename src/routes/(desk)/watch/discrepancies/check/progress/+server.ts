import { checkAt } from '$lib/server/fees/period';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** How far a check has come; without a key that is known, it has ended. */
export const GET: RequestHandler = ({ url }) => {
	const found = checkAt(url.searchParams.get('key') ?? '');
	return json(
		found
			? { ...found.progress, ended: found.ended, failed: found.failed }
			: { done: 0, of: 0, ended: true, failed: false }
	);
};
/** Stops it. */
export const DELETE: RequestHandler = ({ url }) => {
	checkAt(url.searchParams.get('key') ?? '')?.stop();
	return new Response(null, { status: 204 });
};
