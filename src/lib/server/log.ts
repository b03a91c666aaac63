import { pino } from 'pino';

/** One line of JSON per event. Secrets and payers' details are never passed to it. */
export const log = pino({ level: process.env.JUSTPURSE_LOG ?? 'info', base: undefined });
