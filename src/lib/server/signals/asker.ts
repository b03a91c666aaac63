import { AsyncLocalStorage } from 'node:async_hooks';
import type { Socket } from 'node:net';

// Who waits for what is being worked out: a request whose browser has gone away waits for nothing.

const askers = new AsyncLocalStorage<AbortSignal>();

/**
 * Does what a request asks for, and knows when nobody waits for its answer any more: when the connection it came by has
 * ended. (The signal of the request itself says nothing once its body was read.)
 */
export async function withAsker<T>(socket: Socket | undefined, run: () => T | Promise<T>): Promise<T> {
	if (!socket) return run();
	const gone = new AbortController();
	const leave = () => gone.abort();
	if (socket.destroyed) leave();
	socket.once('close', leave);
	try {
		return await askers.run(gone.signal, run);
	} finally {
		socket.off('close', leave);
	}
}

/** Tells when nobody waits any more for what is being done now; nothing where no request asked for it. */
export const askerGone = (): AbortSignal | undefined => askers.getStore();
