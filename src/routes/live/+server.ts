import { listen, told, toldSince } from '$lib/server/signals/live';
import type { RequestHandler } from './$types';

const BEAT_MS = 25_000;

/**
 * Tells open screens what has changed, as server-sent events; the screens then load it anew. What changed between the
 * loading of a page and the opening of its stream (`since`), or while the stream was broken, is told first.
 */
export const GET: RequestHandler = ({ url, request }) => {
	const since = Number(request.headers.get('last-event-id') ?? url.searchParams.get('since') ?? told());
	let end = () => {};
	const stream = new ReadableStream<string>({
		start(controller) {
			const send = (text: string) => {
				try {
					controller.enqueue(text);
				} catch {
					end();
				}
			};
			const stop = listen((topic, number) => send(`id: ${number}\ndata: ${topic}\n\n`));
			const beat = setInterval(() => send(': here\n\n'), BEAT_MS);
			end = () => {
				stop();
				clearInterval(beat);
			};
			send(': here\n\n');
			for (const topic of toldSince(Number.isFinite(since) ? since : told())) send(`id: ${told()}\ndata: ${topic}\n\n`);
		},
		cancel: () => end()
	}).pipeThrough(new TextEncoderStream());
	return new Response(stream, {
		headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' }
	});
};
