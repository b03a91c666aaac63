import { AsyncResource } from 'node:async_hooks';

/** What reads the events that were written down: messages and outgoing hooks are made of them. */
export const EVENT_LANES = ['told', 'hooks'];
/** What sends the outbox. */
export const MESSAGE_LANES = ['messages'];

let waker: ((now?: readonly string[]) => void) | undefined;

/**
 * Tells the worker that there is something to do now.
 * @param now the lanes that have something to do; the others look soon, once after many wakes. All of them where it is left out.
 */
export const wake = (now?: readonly string[]): void => waker?.(now);
/** What the worker does then is its own: it is no part of the write or the request that woke it. */
export const onWake = (act: (now?: readonly string[]) => void): void => void (waker = AsyncResource.bind(act));
