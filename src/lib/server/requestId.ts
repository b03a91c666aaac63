import { AsyncLocalStorage } from 'node:async_hooks';
import { randomUUID } from 'node:crypto';

// Every request has an id: what the log says of it, and what its answer carries, are found by it.

const ids = new AsyncLocalStorage<string>();

/** Does what a request asks for under an id of its own. */
export const withRequestId = <T>(run: (id: string) => T): T => {
	const id = randomUUID();
	return ids.run(id, () => run(id));
};
/** The id of the request that what runs now was asked by; nothing where no request asked for it. */
export const requestId = (): string | undefined => ids.getStore();
