import type { RequestHandler } from '@sveltejs/kit';
import type { z, ZodType } from 'zod';
import { whoseToken } from '../access';
import type { TokenRow } from '../db';
import { log } from '../log';

/** One fault of what was sent, by a JSON Pointer (RFC 6901) into the body. */
export interface Fault {
	readonly pointer: string;
	readonly detail: string;
}

/** An answer that tells of a problem. RFC 9457. */
export class Problem extends Error {
	constructor(
		readonly status: number,
		readonly title: string,
		readonly detail: string,
		readonly faults: readonly Fault[] = [],
		readonly headers: Readonly<Record<string, string>> = {}
	) {
		super(detail);
	}
	respond(path: string): Response {
		const body = {
			type: 'about:blank',
			title: this.title,
			status: this.status,
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

export const notFound = (what: string) => new Problem(404, 'Not found', what);

const pointerOf = (path: readonly PropertyKey[]) =>
	path.map((part) => `/${String(part).replace(/~/g, '~0').replace(/\//g, '~1')}`).join('');

/** Reads a JSON body by its schema. @throws Problem 400, 413, 415 or 422 */
export async function readBody<T extends ZodType>(request: Request, schema: T): Promise<z.output<T>> {
	if (!/^application\/json\b/i.test(request.headers.get('content-type') ?? ''))
		throw new Problem(415, 'Unsupported media type', 'Send the body as application/json.');
	let text;
	try {
		text = await request.text();
	} catch (error) {
		if ((error as { status?: number }).status === 413)
			throw new Problem(413, 'Too large', 'The body is larger than 1 MB.');
		throw error;
	}
	if (text.length > 1_000_000) throw new Problem(413, 'Too large', 'The body is larger than 1 MB.');
	let given: unknown;
	try {
		given = JSON.parse(text);
	} catch (error) {
		throw new Problem(400, 'Not JSON', (error as Error).message);
	}
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
	(handle: (event: Handled) => Promise<unknown>): RequestHandler =>
	async (event) => {
		try {
			const token = await whoseToken(event.request.headers.get('authorization'));
			if (!token)
				throw new Problem(401, 'Not signed in', 'Send a token of this installation: Authorization: Bearer jpt_…', [], {
					'www-authenticate': 'Bearer realm="Just Purse"'
				});
			const answer = await handle({ ...event, token } as Handled);
			if (answer instanceof Response) return answer;
			return new Response(JSON.stringify(answer), {
				headers: { 'content-type': 'application/json', 'cache-control': 'no-store' }
			});
		} catch (error) {
			if (error instanceof Problem) return error.respond(event.url.pathname);
			log.error({ path: event.url.pathname, error: String(error) }, 'a request of the interface failed');
			return new Problem(500, 'Something went wrong here', 'Nothing was changed. Try again later.').respond(
				event.url.pathname
			);
		}
	};
