import { pino } from 'pino';

/**
 * One line of JSON per event. Secrets and payers' details are never passed to it, but at the level `trace`, which tests use:
 * it tells every statement that the database is sent.
 */
export const log = pino({ level: process.env.JUSTPURSE_LOG ?? 'info', base: undefined });
