import { listen } from '$lib/server/signals/live';
import type { RequestHandler } from './$types';

const BEAT_MS = 25_000;

/** Tells open screens what has changed, as server-sent events; the screens then load it anew. */
export const GET: RequestHandler = () => {
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
			const stop = listen((topic) => send(`data: ${topic}\n\n`));
			const beat = setInterval(() => send(': here\n\n'), BEAT_MS);
			end = () => {
				stop();
				clearInterval(beat);
			};
			send(': here\n\n');
		},
		cancel: () => end()
	}).pipeThrough(new TextEncoderStream());
	return new Response(stream, {
		headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' }
	});
};
