import { isUtf8 } from 'node:buffer';
import { createHmac } from 'node:crypto';
import { inZone } from '../../core/calendar';
import { maskCardNumbers, maskInJson } from '../../core/cards';
import { verify, type Hmac, type Verdict } from '../../core/notices';
import { freshness } from '../signals/freshness';
import { unseal } from '../access';
import { connectorOf, ConnectorError, type Connector } from '../connectors';
import { ArrivalLog, countRefused, db, write, type NewArrival } from '../db';
import { tell } from '../signals/live';
import { wake } from '../signals/wake';
import { BODY } from '../limits';
import { log as logger } from '../log';
import { timeNow } from '../signals/clock';
import { askAfter } from './gap';
import { noteInTime, noteOffset } from './troubles';

interface Ear {
	readonly connectionId: string;
	readonly connector: Connector;
	readonly secrets: readonly string[];
}

let ears: { version: number; byKey: Promise<Map<string, Ear>>; known?: Map<string, Ear> } | undefined;

/** Who listens at which hook address; read anew when a connection changes. */
function allEars(): Promise<Map<string, Ear>> {
	if (!ears || ears.version !== freshness()) {
		const reading = readEars();
		const mine: typeof ears = { version: freshness(), byKey: reading };
		ears = mine;
		reading.then(
			(known) => (mine.known = known),
			() => (ears = undefined)
		);
	}
	return ears.byKey;
}

async function readEars(): Promise<Map<string, Ear>> {
	const rows = await db.connections.find();
	return new Map(
		rows
			.filter((row) => !row.removedAt)
			.map((row) => [
				row.hookKey,
				{
					connectionId: row.id,
					connector: connectorOf(row.processor),
					// two while keys rotate
					secrets: [row.hookSecretSealed, row.oldHookSecretSealed]
						.filter((sealed): sealed is string => !!sealed)
						.map((sealed) => unseal(sealed, `hook ${row.id}`).toString())
				}
			])
	);
}

const refused = new Map<string, { connectionId: string; day: string; reason: string; count: number; lastAt: number }>();
const platformHmac: Hmac = (key, message) => createHmac('sha256', key).update(message).digest();
/** The text of a body, without a byte order mark; undefined where it is not UTF-8. */
function textOf(body: Uint8Array): string | undefined {
	if (!isUtf8(body)) return undefined;
	const text = Buffer.from(body.buffer, body.byteOffset, body.byteLength).toString();
	return text.startsWith('\ufeff') ? text.slice(1) : text;
}
const KEPT_HEADERS = ['content-type', 'user-agent', 'webhook-id', 'webhook-timestamp', 'webhook-signature'];

/** The headers that are kept with an arrival. A header that is itself the secret is masked. */
function keptHeaders({ dialect }: Connector, header: (name: string) => string | undefined): Record<string, string> {
	const kept: Record<string, string> = {};
	for (const name of 'header' in dialect ? [...KEPT_HEADERS, dialect.header] : KEPT_HEADERS) {
		const value = header(name);
		if (value !== undefined)
			kept[name] = dialect.kind === 'shared-secret' && name === dialect.header ? '•••• (the shared secret)' : value;
	}
	return kept;
}

/** How many arrivals of one connection may wait to be confirmed. */
const UNCONFIRMED_AT_MOST = Number(process.env.JUSTPURSE_UNCONFIRMED ?? 500);
/** Arrivals that come within this many milliseconds are committed together; 0 commits as soon as the last commit is done. */
const log = new ArrivalLog(
	Number(process.env.JUSTPURSE_GATHER_MS ?? 0),
	UNCONFIRMED_AT_MOST,
	(connectionId, at) => countOne(connectionId, DOUBLE, at),
	wake
);
export interface Reply {
	readonly status: 200 | 400 | 401 | 404 | 413 | 429 | 503;
	readonly text: string;
}

const SAYS: Record<Exclude<Verdict, 'verified' | 'unconfirmed'>, string> = {
	forged: 'The signature is not right.',
	old: 'The timestamp is too far off.',
	malformed: 'The signature headers are not complete.'
};

/**
 * Takes one notification: checks its proof on the raw body, stores it durably, and only then answers 2xx. The work on it
 * happens after. What has no right proof is counted, not stored.
 */
export function receive(
	hookKey: string,
	header: (name: string) => string | undefined,
	body: Uint8Array
): Reply | Promise<Reply> {
	// mostly nobody changed anything, and there is nothing to wait for
	if (ears?.known && ears.version === freshness()) return take(ears.known.get(hookKey), header, body);
	return allEars().then((known) => take(known.get(hookKey), header, body));
}

function take(
	ear: Ear | undefined,
	header: (name: string) => string | undefined,
	body: Uint8Array
): Reply | Promise<Reply> {
	if (!ear) return { status: 404, text: 'Nobody listens here.' };
	const { connectionId, connector } = ear;
	const now = timeNow();
	const { verdict, eventId, steps, secondsOff } = verify(
		connector.dialect,
		ear.secrets,
		header,
		body,
		now,
		platformHmac
	);
	if (verdict === 'old') {
		// its sender is who it says: it may be our clock that is wrong. What it tells is not taken, but asked after
		noteOffset(connectionId, secondsOff ?? 0);
		askAfter(connectionId, connector, eventId ?? '', body);
	}
	if (verdict === 'verified') noteInTime();
	if (verdict !== 'verified' && verdict !== 'unconfirmed') {
		countOne(connectionId, verdict, now);
		return { status: 401, text: SAYS[verdict] };
	}
	if (verdict === 'unconfirmed' && body.length > BODY.unproven)
		return { status: 413, text: 'It is larger than 16 KB. Send what to ask after, no more.' };
	const text = textOf(body);
	if (text === undefined) {
		countOne(connectionId, 'malformed', now);
		return { status: 400, text: 'The body is not UTF-8.' };
	}
	let id = eventId;
	if (id === undefined)
		try {
			id = connector.readNotification(text).eventId;
		} catch (error) {
			if (!(error instanceof ConnectorError)) throw error;
			countOne(connectionId, 'malformed', now);
			return { status: 400, text: error.message };
		}
	const arrival: NewArrival = {
		connectionId,
		eventId: id,
		receivedAt: now,
		headers: JSON.stringify(keptHeaders(connector, header)),
		body: /^\s*[{[]/.test(text) ? maskInJson(text) : maskCardNumbers(text),
		checks: JSON.stringify(steps),
		state: verdict === 'unconfirmed' ? 'unconfirmed' : 'stored'
	};
	return log.store(arrival).then(
		(isStored): Reply => {
			if (isStored) return STORED;
			countOne(connectionId, 'too many unconfirmed', now);
			return { status: 429, text: 'Too many wait to be confirmed. Please send it again later.' };
		},
		(error: unknown): Reply => {
			// not stored: the sender keeps it and tries again
			logger.error({ connection: connectionId, error: String(error) }, 'a notification was not kept');
			return { status: 503, text: 'Not stored. Please send it again.' };
		}
	);
}
const STORED: Reply = { status: 200, text: 'Stored.' };

/** What was there already: answered 2xx again, counted, and without effect. */
export const DOUBLE = 'double';

/** Counts what was refused, and what came twice. */
export function countOne(connectionId: string, reason: string, now: number): void {
	const day = inZone(new Date(now), 'UTC').day;
	const key = `${connectionId} ${day} ${reason}`;
	const before = refused.get(key);
	refused.set(key, { connectionId, day, reason, count: (before?.count ?? 0) + 1, lastAt: now });
	if (refused.size === 1 && !before) setTimeout(() => void flushRefused(), 500).unref();
}

/** Writes the counts of what was refused. */
export async function flushRefused(): Promise<void> {
	const rows = [...refused.values()];
	refused.clear();
	if (!rows.length) return;
	await write((tx) => countRefused(rows, tx));
	tell('arrivals');
}
