import { receive } from '$lib/server/watch/receive';
import type { RequestHandler } from './$types';

/**
 * Where processors call. The raw bytes are checked, stored, and only then answered. The built application answers them past
 * the pages (`server.mjs`).
 */
export const POST: RequestHandler = async ({ params, request }) => {
	const body = new Uint8Array(await request.arrayBuffer());
	const { status, text } = await receive(params.key, (name) => request.headers.get(name) ?? undefined, body);
	return new Response(text, { status, headers: { 'content-type': 'text/plain' } });
};
