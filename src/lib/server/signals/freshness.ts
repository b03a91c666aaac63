let version = 0;

/** Says that something an answer depends on has changed; it is read anew at the next question. */
export const forgetSnapshot = (): void => void version++;

/** Grows with every change: what was read at another number is old. */
export const freshness = (): number => version;
