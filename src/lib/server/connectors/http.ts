import { AsyncLocalStorage } from 'node:async_hooks';
import type { ZodType } from 'zod';
import { ConnectorError } from './contract';
import { OUTSIDE } from '../limits';
import { askOutside, OutsideError, type OutsideAnswer } from '../outside';

export interface Call {
	readonly method?: 'GET' | 'POST' | 'PUT' | 'DELETE';
	readonly headers?: Record<string, string>;
	/** sent as JSON */
	readonly body?: unknown;
	/** sent as a form instead */
	readonly form?: Record<string, string | undefined>;
	/** sent as it is, with a content type in the headers */
	readonly text?: string;
	/** whether a lost answer leaves the outcome unknown */
	readonly acts?: boolean;
	/** milliseconds that may pass, where it is not the usual patience */
	readonly ms?: number;
}

const deadlines = new AsyncLocalStorage<{ end: number }>();

/** Everything that is asked within shares one end: after so many milliseconds in all, calls give up. */
export const withinTime = <T>(ms: number, act: () => Promise<T>): Promise<T> =>
	deadlines.run({ end: performance.now() + ms }, act);

/** One request to a processor over HTTP, its answer read as JSON. Gives up after ten seconds. */
export async function call(
	name: string,
	address: string,
	{ method = 'GET', headers = {}, body, form, text: raw, acts = false, ms = OUTSIDE.answerMs }: Call = {}
): Promise<{ status: number; json: unknown }> {
	let answer: OutsideAnswer;
	const end = deadlines.getStore()?.end;
	const patience = end === undefined ? ms : Math.max(1, Math.min(ms, Math.floor(end - performance.now())));
	const sent = form
		? new URLSearchParams(
				Object.entries(form).filter((pair): pair is [string, string] => pair[1] !== undefined)
			).toString()
		: (raw ?? (body === undefined ? undefined : JSON.stringify(body)));
	const type = form ? 'application/x-www-form-urlencoded' : 'application/json';
	try {
		answer = await askOutside(address, {
			method,
			headers: {
				accept: 'application/json',
				...(sent === undefined ? {} : { 'content-type': type }),
				...headers
			},
			body: sent,
			ms: patience
		});
	} catch (error) {
		const kind = error instanceof OutsideError ? error.kind : 'unreachable';
		if (kind === 'slow') throw new ConnectorError('slow', `${name} did not answer within ${ms / 1000} seconds.`, acts);
		if (kind === 'too large') throw new ConnectorError('nonsense', `${name} answered with far too much.`, acts);
		throw new ConnectorError('unreachable', `${name} cannot be reached.`, acts);
	}
	// nobody of the catalogue leads on from its interface
	if (answer.location !== undefined) throw new ConnectorError('unreachable', `${name} cannot be reached.`, acts);
	if (answer.status >= 500)
		throw new ConnectorError('broken', `${name} answered with an error of its own (${answer.status}).`, acts);
	try {
		return { status: answer.status, json: JSON.parse(answer.text) };
	} catch {
		throw new ConnectorError('nonsense', `${name} answered with something that is not its usual form.`, acts);
	}
}

/** Reads an answer by its schema, or says that it is nonsense. */
export function readAs<T>(name: string, schema: ZodType<T>, json: unknown, acts = false): T {
	const read = schema.safeParse(json);
	if (!read.success)
		throw new ConnectorError('nonsense', `${name} answered with something that is not its usual form.`, acts);
	return read.data;
}

/** A text as JSON, or nonsense. */
export function parseBody(name: string, body: string): unknown {
	try {
		return JSON.parse(body);
	} catch {
		throw new ConnectorError('nonsense', `${name}’s notification is not JSON.`);
	}
}
