import { z } from 'zod';
import { exponentOf } from '../../core/money';
import type { Notice } from '../../core/notices';
import { ConnectorError, type Credentials, type Outcome, type Report, type Settled } from './contract';
import { call, readAs, type Call } from './http';

/** What most processors have in common, told once: requests with credentials, outcomes of acts, keys that are settled. */
export interface Speech<Payment> {
	readonly name: string;
	readonly base: () => string;
	/** headers that prove whose request it is */
	readonly proof: (
		credentials: Credentials,
		request: { method: string; path: string; text: string }
	) => Record<string, string>;
	/** the header that carries the key of an act */
	readonly keyHeader: string;
	readonly payment: z.ZodType<Payment>;
	readonly read: (payment: Payment) => Report;
	/** the processor's words for a refusal */
	readonly refusal: (json: unknown, acts?: boolean) => string;
	/** whether it refused because what it keeps for a payer is good no more */
	readonly storedEnded?: (json: unknown) => boolean;
	/** what an answer to the question after a key looks like */
	readonly settled: z.ZodType<{ became: 'done' | 'under way' | 'never came'; status?: number; answer?: unknown }>;
}

export interface Speaker<Payment> {
	ask(credentials: Credentials, path: string, options?: Call): Promise<{ status: number; json: unknown }>;
	wished<T>(credentials: Credentials, path: string, schema: z.ZodType<T>, options?: Call): Promise<T>;
	act(credentials: Credentials, path: string, key: string, options: Call): Promise<Outcome>;
	settle(credentials: Credentials, path: string): Promise<Settled>;
	fetch(credentials: Credentials, path: string): Promise<Report | undefined>;
	maybe<T>(credentials: Credentials, path: string, schema: z.ZodType<T>): Promise<T | undefined>;
	readonly speech: Speech<Payment>;
}

export function speaker<Payment>(speech: Speech<Payment>): Speaker<Payment> {
	const { name, base, proof, keyHeader, payment, read, refusal, settled } = speech;
	const ask: Speaker<Payment>['ask'] = (credentials, path, options = {}) => {
		const text = options.form
			? undefined
			: (options.text ?? (options.body === undefined ? undefined : JSON.stringify(options.body)));
		return call(name, base() + path, {
			...options,
			body: undefined,
			text,
			headers: {
				...proof(credentials, { method: options.method ?? 'GET', path, text: text ?? '' }),
				...options.headers
			}
		});
	};
	const outcome = (status: number, json: unknown, acts: boolean): Outcome =>
		status >= 400
			? {
					outcome: 'refused',
					says: refusal(json, acts),
					...(speech.storedEnded?.(json) ? { storedEnded: true } : {})
				}
			: { outcome: 'done', report: read(readAs(name, payment, json, acts)) };
	const maybe: Speaker<Payment>['maybe'] = async (credentials, path, schema) => {
		const { status, json } = await ask(credentials, path);
		if (status === 404) return undefined;
		if (status >= 400) throw new ConnectorError('refused', `${name} refused: ${refusal(json)}`);
		return readAs(name, schema, json);
	};
	return {
		speech,
		ask,
		maybe,
		async wished(credentials, path, schema, options) {
			const { status, json } = await ask(credentials, path, options);
			if (status >= 400) throw new ConnectorError('refused', `${name} refused: ${refusal(json)}`);
			return readAs(name, schema, json);
		},
		async act(credentials, path, key, options) {
			const { status, json } = await ask(credentials, path, {
				method: 'POST',
				...options,
				headers: { ...options.headers, ...(keyHeader ? { [keyHeader]: key } : {}) },
				acts: true
			});
			if (status === 409) throw new ConnectorError('broken', `${name} is still working on it.`, true);
			return outcome(status, json, true);
		},
		async settle(credentials, path) {
			const { status, json } = await ask(credentials, path, { method: 'POST' });
			if (status >= 400) throw new ConnectorError('refused', `${name} refused: ${refusal(json)}`);
			const told = readAs(name, settled, json);
			return told.became === 'done' ? outcome(told.status ?? 200, told.answer, false) : { outcome: told.became };
		},
		async fetch(credentials, path) {
			const found = await maybe(credentials, path, payment);
			return found === undefined ? undefined : read(found);
		}
	};
}

/**
 * Names of notifications at a processor, and back.
 * @param account the one that tells of a changed account; it is always subscribed
 */
export function noticeNames(names: Partial<Record<Notice, string>>, account?: string) {
	const pairs = Object.entries(names) as [Notice, string][];
	return {
		sends: pairs.map(([notice]) => notice),
		topicsOf: (notices: readonly Notice[]): string[] =>
			[...notices.map((notice) => names[notice]), account].filter((topic): topic is string => !!topic),
		noticeOf: (topic: string): Notice | undefined => pairs.find(([, one]) => one === topic)?.[0],
		noticesOf: (topics: readonly string[]): Notice[] =>
			topics.map((topic) => pairs.find(([, one]) => one === topic)?.[0]).filter((one): one is Notice => !!one)
	};
}

/** A percentage as a processor writes it, `1.35`, in parts per million. */
export const ppmOf = (text: string): number => shifted(text, 4, 'a percentage');
/** A sum as a decimal text, `0.18`, in minor units of its currency. */
export const minorIn = (text: string, currency: string): number =>
	shifted(text, exponentOf(currency), `a sum in ${currency}`);

/** A decimal text as a whole number, its point moved to the right. What does not come out whole is nonsense, never cut. */
function shifted(text: string, places: number, what: string): number {
	const match = /^(\d{1,15})(?:\.(\d+))?$/.exec(text);
	const rest = (match?.[2] ?? '').replace(/0+$/, '');
	if (!match || rest.length > places)
		throw new ConnectorError('nonsense', `“${text}” is not ${what}: it would have to be rounded.`);
	return Number(match[1]! + rest.padEnd(places, '0'));
}
/** The address of a stand-in or of the processor itself, from the environment. */
export const addressOf = (processor: string, port: number) => (): string =>
	(process.env[`${processor.toUpperCase()}_URL`] ?? `http://127.0.0.1:${port}`).replace(/\/$/, '');

export const schemesNamed = (ids: readonly string[]) =>
	ids.map((id) => ({ id, name: id[0]!.toUpperCase() + id.slice(1) }));
