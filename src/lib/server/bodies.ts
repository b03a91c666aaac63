import { BODY, BODY_MS, FIELDS } from './limits';

/** How much a route takes, and whether its body may be handed on as it comes. */
interface Taken {
	readonly bytes: number;
	readonly fields: number;
	readonly isStreamed: boolean;
}

/** Routes of the desk that take files; everything else of it takes forms. */
const FILES: Readonly<Record<string, number>> = {
	'/(desk)/bill/payers': BODY.payersFile,
	'/(desk)/takings/disputes/[id]': BODY.disputeFile,
	'/(desk)/accept/tills/[slug]/file': BODY.lineUpFile
};
const STREAMED: Readonly<Record<string, number>> = { '/(desk)/connect/files': BODY.settlementFile };

/** What the route that will really answer takes. @param id its id, not the address that was typed */
function takenBy(id: string | null): Taken {
	if (id !== null && id in STREAMED) return { bytes: STREAMED[id]!, fields: FIELDS.desk, isStreamed: true };
	const small = (bytes: number, fields: number): Taken => ({ bytes, fields, isStreamed: false });
	if (id === null || id === '/sign-in') return small(BODY.signIn, FIELDS.open);
	if (id.startsWith('/(payer)/')) return small(BODY.payer, FIELDS.open);
	if (id.startsWith('/hooks/')) return small(BODY.notification, Infinity);
	if (id.startsWith('/api/')) return small(BODY.interface, Infinity);
	return small(FILES[id] ?? BODY.desk, FIELDS.desk);
}

/** A body that is not taken. */
export class BodyRefused extends Error {
	constructor(
		readonly status: 400 | 408 | 413,
		message: string
	) {
		super(message);
	}
}

const said = (bytes: number) => (bytes < 1_000_000 ? `${bytes / 1_000} KB` : `${Math.floor(bytes / 1_000_000)} MB`);

/**
 * A request whose body has been counted and, but for large files, read: nothing takes it apart before. What is over the
 * limit of its route is not read on.
 * @throws BodyRefused where it is too large, comes too slowly, or has too many fields
 */
export async function withCountedBody(request: Request, routeId: string | null): Promise<Request> {
	if (!request.body) return request;
	const { bytes, fields, isStreamed } = takenBy(routeId);
	const tooLarge = () => new BodyRefused(413, `The body is larger than ${said(bytes)}.`);
	if (Number(request.headers.get('content-length') ?? 0) > bytes) throw tooLarge();
	if (isStreamed) {
		let came = 0;
		const counted = request.body.pipeThrough(
			new TransformStream<Uint8Array, Uint8Array>({
				transform(chunk, controller) {
					came += chunk.length;
					if (came > bytes) controller.error(tooLarge());
					else controller.enqueue(chunk);
				}
			})
		);
		return new Request(request, { body: counted, duplex: 'half' } as RequestInit);
	}
	const body = await readAll(request.body, bytes, tooLarge);
	if (countFields(body, request.headers.get('content-type') ?? '') > fields)
		throw new BodyRefused(400, `The form has more than ${fields} fields.`);
	return new Request(request, { body: body as BodyInit });
}

/** The whole of a stream, at most so many bytes, within the time that a body may take. It is not read on beyond. */
async function readAll(stream: ReadableStream<Uint8Array>, most: number, tooLarge: () => Error): Promise<Buffer> {
	const reader = stream.getReader();
	let timer: NodeJS.Timeout | undefined;
	const late = new Promise<never>((_, fail) => {
		timer = setTimeout(() => fail(new BodyRefused(408, 'The body did not come in time.')), BODY_MS);
	});
	late.catch(() => {});
	const chunks: Uint8Array[] = [];
	let came = 0;
	try {
		for (;;) {
			const { done, value } = await Promise.race([reader.read(), late]);
			if (done) return Buffer.concat(chunks);
			came += value.length;
			if (came > most) throw tooLarge();
			chunks.push(value);
		}
	} finally {
		clearTimeout(timer);
	}
}

const [AND, DASH] = ['&'.charCodeAt(0), '-'.charCodeAt(0)];

/** How many fields a form has, at most: counted without taking it apart. */
function countFields(body: Buffer, type: string): number {
	if (/^application\/x-www-form-urlencoded/i.test(type)) {
		let count = 1;
		for (const byte of body) if (byte === AND) count++;
		return count;
	}
	const boundary = /^multipart\/form-data;.*boundary="?([^";]+)/i.exec(type)?.[1];
	if (!boundary) return 1;
	let count = 0;
	for (let at = body.indexOf(`--${boundary}`); at >= 0; at = body.indexOf(`--${boundary}`, at + 1))
		if (at === 0 || body[at - 1] !== DASH) count++;
	return count;
}
