let waker: (() => void) | undefined;

/** Tells the worker that there is something to do now. */
export const wake = (): void => waker?.();
export const onWake = (act: () => void): void => void (waker = act);
