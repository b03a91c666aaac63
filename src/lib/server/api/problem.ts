import type { RequestHandler } from '@sveltejs/kit';
import type { z, ZodType } from 'zod';
import { pointerOf } from '../../core/lineup';
import { hasScope, payForRead, payForWrongToken, whoseToken, type TokenScope } from '../access';
import type { TokenRow } from '../db';
import { log } from '../log';
import { codeOf, type ProblemTitle } from './codes';
import { beginOnce, endOnce } from './idempotent';

/** One fault of what was sent, by a JSON Pointer (RFC 6901) into the body. */
export interface Fault {
	readonly pointer: string;
	readonly detail: string;
}

/** An answer that tells of a problem. RFC 9457. */
export class Problem extends Error {
	constructor(
		readonly status: number,
		readonly title: ProblemTitle,
		readonly detail: string,
		readonly faults: readonly Fault[] = [],
		readonly headers: Readonly<Record<string, string>> = {}
	) {
		super(detail);
	}
	/** a stable name of the problem: its title, as one word */
	get code(): string {
		return codeOf(this.title);
	}
	respond(path: string): Response {
		const body = {
			type: `urn:just-purse:problem:${this.code}`,
			title: this.title,
			status: this.status,
			code: this.code,
			detail: this.detail,
			instance: path,
			...(this.faults.length ? { faults: this.faults } : {})
		};
		return new Response(JSON.stringify(body), {
			status: this.status,
			headers: { 'content-type': 'application/problem+json', 'cache-control': 'no-store', ...this.headers }
		});
	}
}

/** One of a few values of an address. @throws Problem 400 where it is none of them */
export function readChoice<T extends string>(url: URL, name: string, values: readonly T[]): T | undefined {
	const given = url.searchParams.get(name);
	if (given === null) return undefined;
	const found = values.find((one) => one === given);
	if (!found) throw new Problem(400, 'Broken request', `“${name}” is one of ${values.join(', ')}.`);
	return found;
}
/** A number of an address. @throws Problem 400 where it is none */
export function readNumber(url: URL, name: string): number | undefined {
	const given = url.searchParams.get(name);
	if (given === null) return undefined;
	if (!/^\d{1,15}$/.test(given)) throw new Problem(400, 'Broken request', `“${name}” is a whole number.`);
	return Number(given);
}

export const notFound = (what: string) => new Problem(404, 'Not found', what);

/** Texts that cannot be kept or shown: NUL, and halves of surrogate pairs. By their places in the body. */
function brokenTexts(value: unknown, at: readonly PropertyKey[] = []): Fault[] {
	if (typeof value === 'string')
		return value.includes('\0') || !value.isWellFormed()
			? [{ pointer: pointerOf(at), detail: 'holds a sign that is no text: NUL, or half of a pair' }]
			: [];
	if (Array.isArray(value)) return value.flatMap((one, n) => brokenTexts(one, [...at, n]));
	if (value && typeof value === 'object')
		return Object.entries(value).flatMap(([name, one]) => [
			...brokenTexts(name, [...at, name]),
			...brokenTexts(one, [...at, name])
		]);
	return [];
}

/** Reads a JSON body by its schema. @throws Problem 400, 413, 415 or 422 */
export async function readBody<T extends ZodType>(request: Request, schema: T): Promise<z.output<T>> {
	if (!/^application\/json\b/i.test(request.headers.get('content-type') ?? ''))
		throw new Problem(415, 'Unsupported media type', 'Send the body as application/json.');
	// how large it may be was counted as it came (`bodies.ts`)
	const text = await request.text();
	let given: unknown;
	try {
		given = JSON.parse(text);
	} catch (error) {
		throw new Problem(400, 'Not JSON', (error as Error).message);
	}
	const broken = brokenTexts(given);
	if (broken.length) throw new Problem(422, 'Not as described', 'The body holds signs that are no text.', broken);
	const read = schema.safeParse(given);
	if (!read.success)
		throw new Problem(
			422,
			'Not as described',
			`${read.error.issues.length} ${read.error.issues.length === 1 ? 'thing is' : 'things are'} wrong with the body.`,
			read.error.issues.map((issue) => ({ pointer: pointerOf(issue.path), detail: issue.message }))
		);
	return read.data;
}

type Handled = Parameters<RequestHandler>[0] & { token: TokenRow };

/** A route of the interface: asks for a token, answers JSON, and turns what goes wrong into a problem. */
export const route =
	(scope: TokenScope, handle: (event: Handled) => Promise<unknown>): RequestHandler =>
	async (event) => {
		try {
			const token = await whoseToken(event.request.headers.get('authorization'));
			if (!token) {
				const seconds = await payForWrongToken(event.getClientAddress());
				if (seconds)
					throw new Problem(429, 'Too many requests', 'Too many requests without a good token.', [], {
						'retry-after': String(seconds)
					});
				throw new Problem(401, 'Not signed in', 'Send a token of this installation: Authorization: Bearer jpt_…', [], {
					'www-authenticate': 'Bearer realm="Just Purse"'
				});
			}
			const rate = await payForRead(token.id);
			const told = {
				'ratelimit-limit': String(rate.limit),
				'ratelimit-remaining': String(rate.remaining),
				'ratelimit-reset': String(rate.seconds)
			};
			if (rate.remaining < 0)
				throw new Problem(429, 'Too many requests', `At most ${rate.limit} requests a minute for one token.`, [], {
					...told,
					'ratelimit-remaining': '0',
					'retry-after': String(rate.seconds)
				});
			if (!hasScope(token, scope))
				throw new Problem(
					403,
					'Not allowed',
					`This token may not be used for ${scope}. Make one that may under Accept, API tokens.`
				);
			if (Object.values(event.params).some((part) => part?.includes('\0'))) throw notFound('There is no such till.');
			const act = async (): Promise<Response> => {
				const answer = await handle({ ...event, token } as Handled);
				if (answer instanceof Response) return answer;
				return new Response(JSON.stringify(answer), {
					headers: { 'content-type': 'application/json', 'cache-control': 'no-store', ...told }
				});
			};
			return await once(event.request, event.url.pathname, token.id, act);
		} catch (error) {
			if (error instanceof Problem) return error.respond(event.url.pathname);
			log.error({ path: event.url.pathname, error: String(error) }, 'a request of the API failed');
			return new Problem(500, 'Something went wrong here', 'Nothing was changed. Try again later.').respond(
				event.url.pathname
			);
		}
	};

const KEY = /^[\x21-\x7e]{8,120}$/;

/**
 * Does what a request asks once for each key that it carries: the same request under the same key gets the same answer,
 * another one under it is refused. Answers of 500 and above are not kept, so that it may be tried again.
 */
async function once(request: Request, path: string, tokenId: string, act: () => Promise<Response>): Promise<Response> {
	const key = request.headers.get('idempotency-key');
	if (key === null || request.method === 'GET') return act();
	if (!KEY.test(key))
		throw new Problem(400, 'Idempotency key', 'An Idempotency-Key has 8 to 120 letters, digits or signs.');
	const content = `${request.method} ${path} ${await request.clone().text()}`;
	const begun = await beginOnce(tokenId, key, content);
	if (begun === 'other')
		throw new Problem(422, 'Idempotency key', 'This Idempotency-Key was used for another request.');
	if (begun === 'working')
		throw new Problem(409, 'Idempotency key', 'The first request under this key is still being worked on.');
	if (begun)
		return new Response(begun.body, {
			status: begun.status,
			headers: {
				'content-type': begun.status < 400 ? 'application/json' : 'application/problem+json',
				'cache-control': 'no-store',
				'idempotent-replayed': 'true',
				...(begun.location ? { location: begun.location } : {})
			}
		});
	let answer: Response;
	try {
		answer = await act();
	} catch (error) {
		if (!(error instanceof Problem)) {
			await endOnce(tokenId, key);
			throw error;
		}
		answer = error.respond(path);
	}
	await endOnce(tokenId, key, {
		status: answer.status,
		body: await answer.clone().text(),
		location: answer.headers.get('location') ?? ''
	});
	return answer;
}

const TITLES: Readonly<Record<number, readonly [title: ProblemTitle, detail: string]>> = {
	400: ['Broken request', 'The address or the body of the request is broken.'],
	404: ['Not found', 'There is nothing at this address of the API.'],
	405: ['Method not allowed', 'This address does not take this method; Allow names those that it takes.'],
	408: ['Too slow', 'The body did not come in time.'],
	413: ['Too large', 'The body is larger than 1 MB.']
};

/** What was refused before a route of the interface was reached, told as every other problem. */
export function frameworkProblem(response: Response, path: string): Response {
	const [title, detail] = TITLES[response.status] ?? (['Not done', 'The request was not done.'] as const);
	const allow = response.headers.get('allow');
	return new Problem(response.status, title, detail, [], allow ? { allow } : {}).respond(path);
}
