import { SESSION_COOKIE, whoIs } from '$lib/server/access';
import { listen, listenForSignOut, told, toldSince } from '$lib/server/signals/live';
import type { RequestHandler } from './$types';

const BEAT_MS = 25_000;

/**
 * Tells open screens what has changed, as server-sent events; the screens then load it anew. What changed between the
 * loading of a page and the opening of its stream (`since`), or while the stream was broken, is told first. It ends when
 * the person signs out, or the session's time is over.
 */
export const GET: RequestHandler = ({ url, request, cookies }) => {
	const session = cookies.get(SESSION_COOKIE) ?? '';
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
			const close = () => {
				end();
				try {
					controller.close();
				} catch {
					// the reader has gone already
				}
			};
			const stopSignOut = listenForSignOut(session, close);
			const beat = setInterval(
				() =>
					void whoIs(session).then(
						(who) => (who ? send(': here\n\n') : close()),
						() => send(': here\n\n')
					),
				BEAT_MS
			);
			end = () => {
				stop();
				stopSignOut();
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
