import { packAt, stopPack } from '$lib/server/bill/packs';
import { json } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

/** How far a file of PDFs has come; one that is not known has ended. */
export const GET: RequestHandler = async ({ params }) => {
	const found = await packAt(params.key);
	return json(found ? { done: found.done, of: found.of, ended: found.ended } : { done: 0, of: 0, ended: true });
};
/** Stops it. */
export const DELETE: RequestHandler = ({ params }) => {
	stopPack(params.key);
	return new Response(null, { status: 204 });
};
