import { pino } from 'pino';
import { maskInJson } from '../core/cards';
import { requestId } from './requestId';

/**
 * One line of JSON per event. Secrets and payers' details are never passed to it, but at the level `trace`, which tests use:
 * it tells every statement that the database is sent.
 */
export const log = pino({
	level: process.env.JUSTPURSE_LOG ?? 'info',
	base: undefined,
	// what a request asked for is found by its id, which its answer carries, too
	mixin: () => {
		const request = requestId();
		return request ? { request } : {};
	},
	// what others say goes into messages of errors: full card numbers go no further
	formatters: { log: (told) => ('sql' in told ? told : masked(told)) }
});

/** The same with card numbers masked; what cannot be masked is not told. */
function masked(told: Record<string, unknown>): Record<string, unknown> {
	try {
		return JSON.parse(maskInJson(JSON.stringify(told))) as Record<string, unknown>;
	} catch {
		return { told: 'could not be written' };
	}
}
