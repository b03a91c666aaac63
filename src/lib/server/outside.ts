import { lookup, type LookupAddress, type LookupOptions } from 'node:dns';
import ipaddr from 'ipaddr.js';
import { Agent, fetch, type Dispatcher } from 'undici';
import { OUTSIDE } from './limits';

// The one way out: every request of the server to anybody else is made here, with a bound on its time and on what is read.

/** Why nothing came of a request. */
export class OutsideError extends Error {
	constructor(
		readonly kind: 'unreachable' | 'slow' | 'too large' | 'private' | 'leads on',
		message: string = kind
	) {
		super(message);
	}
}

export interface OutsideAsked {
	readonly method?: string;
	readonly headers?: Readonly<Record<string, string>>;
	readonly body?: string;
	/** bytes of the answer after decoding; what is longer is not read on */
	readonly bytes?: number;
	/** milliseconds for the whole answer, to its last byte */
	readonly ms?: number;
	/** whether somebody typed the address: it may not lead into a private network, and not lead on */
	readonly isTyped?: boolean;
	/** what is longer is cut, where only its beginning is shown */
	readonly isCut?: boolean;
}
export interface OutsideAnswer {
	readonly status: number;
	readonly text: string;
	/** where it leads on to, where it does */
	readonly location?: string;
}

/** IPv6 that carries IPv4 within, or was once meant for places of one's own; the library knows the rest. */
const INNER = ['::/96', 'fec0::/10', '64:ff9b:1::/48'].map((range) => ipaddr.parseCIDR(range));

/**
 * Whether an address is a public one, where whoever typed it may send us.
 * @source IANA special-purpose address registries (RFC 6890), as `ipaddr.js` keeps them
 */
export function isPublicAddress(text: string): boolean {
	if (!ipaddr.isValid(text)) return false;
	const address = ipaddr.process(text);
	if (address.kind() === 'ipv6' && INNER.some((range) => address.match(range))) return false;
	return address.range() === 'unicast';
}

type Found = (error: Error | null, addresses: LookupAddress[] | string, family?: number) => void;
/** Looks a name up for the very connection that is made: what was looked at is what is connected to. */
function lookUpPublic(host: string, options: LookupOptions, found: Found): void {
	lookup(host, { ...options, all: true }, (error, addresses) => {
		if (error) return found(error, []);
		if (!addresses.length || addresses.some((one) => !isPublicAddress(one.address)))
			return found(new OutsideError('private'), []);
		if (options.all) found(null, addresses);
		else found(null, addresses[0]!.address, addresses[0]!.family);
	});
}

const PATIENCE = { headersTimeout: 60_000, bodyTimeout: 60_000 };
/** To processors, whose addresses the installation names. */
const known = new Agent({ ...PATIENCE, connections: 64 });
/** To addresses that somebody typed. */
const typed = new Agent({ ...PATIENCE, connections: 4, connect: { lookup: lookUpPublic as never } });

/** Hosts of private networks that this installation may be led to all the same, by name. */
const allowed = new Set(
	(process.env.JUSTPURSE_PRIVATE_HOSTS ?? '')
		.split(',')
		.map((one) => one.trim().toLowerCase())
		.filter(Boolean)
);

const isPrivate = (error: unknown): boolean =>
	error instanceof OutsideError
		? error.kind === 'private'
		: error instanceof Error && error.cause !== undefined && isPrivate(error.cause);

/**
 * Makes one request to somebody else and reads its answer as text. Never follows where it leads on.
 * @throws OutsideError
 */
export async function askOutside(
	address: string,
	{
		method = 'GET',
		headers = {},
		body,
		bytes = OUTSIDE.answerBytes,
		ms = OUTSIDE.answerMs,
		isTyped: wasTyped = false,
		isCut = false
	}: OutsideAsked = {}
): Promise<OutsideAnswer> {
	// a number in the address is looked up by nobody, so it is looked at here
	const host = new URL(address).hostname.replace(/^\[|\]$/g, '');
	const isTyped = wasTyped && !allowed.has(host.toLowerCase());
	if (isTyped && ipaddr.isValid(host) && !isPublicAddress(host)) throw new OutsideError('private');
	const signal = AbortSignal.timeout(ms);
	try {
		const answer = await fetch(address, {
			method,
			headers,
			body,
			redirect: 'manual',
			signal,
			dispatcher: (isTyped ? typed : known) as Dispatcher
		});
		const location = answer.headers.get('location') ?? undefined;
		const text = await readText(answer.body, bytes, isCut);
		return { status: answer.status, text, ...(answer.status >= 300 && answer.status < 400 ? { location } : {}) };
	} catch (error) {
		if (error instanceof OutsideError) throw error;
		if (isPrivate(error)) throw new OutsideError('private');
		throw new OutsideError(signal.aborted ? 'slow' : 'unreachable', String(error));
	}
}

/** A stream as text, counted after it was decoded. */
async function readText(stream: AsyncIterable<Uint8Array> | null, most: number, isCut: boolean): Promise<string> {
	const decoder = new TextDecoder();
	let text = '';
	let came = 0;
	for await (const chunk of stream ?? []) {
		came += chunk.length;
		// leaving the loop ends the stream, and with it the connection
		if (came > most) {
			if (!isCut) throw new OutsideError('too large');
			return text + decoder.decode(chunk.subarray(0, chunk.length - (came - most)));
		}
		text += decoder.decode(chunk, { stream: true });
	}
	return text + decoder.decode();
}
