import { AsyncResource } from 'node:async_hooks';

let waker: (() => void) | undefined;

/** Tells the worker that there is something to do now. */
export const wake = (): void => waker?.();
/** What the worker does then is its own: it is no part of the write or the request that woke it. */
export const onWake = (act: () => void): void => void (waker = AsyncResource.bind(act));
