/**
 * What the server is started with beside its settings. The C library keeps freed memory for each thread of the driver apart
 * otherwise, a tenth of the whole after a million payments.
 */
export const SERVER_ENV = { MALLOC_ARENA_MAX: '2' };
