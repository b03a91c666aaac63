import { LARGEST_NOTIFICATION, receive } from '$lib/server/watch/receive';
import type { RequestHandler } from './$types';

/** Where processors call. The raw bytes are checked, stored, and only then answered. */
export const POST: RequestHandler = async ({ params, request }) => {
	if (Number(request.headers.get('content-length') ?? 0) > LARGEST_NOTIFICATION)
		return new Response('Too large.', { status: 413 });
	const body = new Uint8Array(await request.arrayBuffer());
	if (body.length > LARGEST_NOTIFICATION) return new Response('Too large.', { status: 413 });
	const { status, text } = await receive(params.key, (name) => request.headers.get(name) ?? undefined, body);
	return new Response(text, { status, headers: { 'content-type': 'text/plain' } });
};
