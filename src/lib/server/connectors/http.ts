import { AsyncLocalStorage } from 'node:async_hooks';
import type { ZodType } from 'zod';
import { ConnectorError } from './contract';
import { timeNow } from '../signals/clock';

const LARGEST_ANSWER = 2_000_000;
const PATIENCE_MS = 10_000;

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
}

const deadlines = new AsyncLocalStorage<{ end: number }>();

/** Everything that is asked within shares one end: after so many milliseconds in all, calls give up. */
export const withinTime = <T>(ms: number, act: () => Promise<T>): Promise<T> =>
	deadlines.run({ end: timeNow() + ms }, act);

/** One request to a processor over HTTP, its answer read as JSON. Gives up after ten seconds. */
export async function call(
	name: string,
	address: string,
	{ method = 'GET', headers = {}, body, form, text: raw, acts = false }: Call = {}
): Promise<{ status: number; json: unknown }> {
	let answer: Response;
	let text: string;
	const end = deadlines.getStore()?.end;
	const patience = end === undefined ? PATIENCE_MS : Math.max(1, Math.min(PATIENCE_MS, end - timeNow()));
	const sent = form
		? new URLSearchParams(
				Object.entries(form).filter((pair): pair is [string, string] => pair[1] !== undefined)
			).toString()
		: (raw ?? (body === undefined ? undefined : JSON.stringify(body)));
	const type = form ? 'application/x-www-form-urlencoded' : 'application/json';
	try {
		answer = await fetch(address, {
			method,
			headers: {
				accept: 'application/json',
				...(sent === undefined ? {} : { 'content-type': type }),
				...headers
			},
			body: sent,
			redirect: 'error',
			signal: AbortSignal.timeout(patience)
		});
		text = await answer.text();
	} catch (error) {
		if (error instanceof Error && error.name === 'TimeoutError')
			throw new ConnectorError('slow', `${name} did not answer within ${PATIENCE_MS / 1000} seconds.`, acts);
		throw new ConnectorError('unreachable', `${name} cannot be reached.`, acts);
	}
	if (answer.status >= 500)
		throw new ConnectorError('broken', `${name} answered with an error of its own (${answer.status}).`, acts);
	if (text.length > LARGEST_ANSWER) throw new ConnectorError('nonsense', `${name} answered with far too much.`, acts);
	try {
		return { status: answer.status, json: JSON.parse(text) };
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
