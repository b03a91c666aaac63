import { replayAt } from '$lib/server/accept/replay';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** How far a replay has come; without a key that is known, it has ended. */
export const GET: RequestHandler = ({ url }) => {
	const found = replayAt(url.searchParams.get('key') ?? '');
	return json(found ? { ...found.progress, ended: found.ended } : { done: 0, of: 0, ended: true });
};
/** Stops it. */
export const DELETE: RequestHandler = ({ url }) => {
	replayAt(url.searchParams.get('key') ?? '')?.stop();
	return new Response(null, { status: 204 });
};
