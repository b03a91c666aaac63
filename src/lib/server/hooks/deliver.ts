import { Webhook } from 'standardwebhooks';
import { judgeEndpoint, readAnswer, waitBeforeDelivery } from '../../core/hooks';
import {
	db,
	dueDeliveries,
	eventsAfter,
	eventsWithin,
	pageOfDeliveries,
	planDeliveries,
	write,
	type DueDelivery,
	type EventRow,
	type HookEndpointRow,
	type Tx
} from '../db';
import { noteRead, recordEvent } from '../events';
import { OUTSIDE } from '../limits';
import { log } from '../log';
import { tellStaff } from '../messages/staff';
import { askOutside, OutsideError } from '../outside';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';
import { ConnectionLanes } from '../watch/lanes';
import { secretsOf, wants } from './endpoints';

// Events on their way to outside programs: each at least once, signed by Standard Webhooks, tried again for days.

const READ_AT_ONCE = 200;
const READER = 'hooks';

/** Plans a delivery for every endpoint that wants an event, once, in the write that notes the event as looked at. @returns how many */
export async function planHooks(): Promise<number> {
	const done = (await db.eventReaders.one({ name: READER }))?.done ?? 0;
	const events = await eventsAfter(done, READ_AT_ONCE);
	if (!events.length) return 0;
	await write(async (tx) => {
		for (const endpoint of await db.hookEndpoints.find({ state: ['on', 'paused'] }, {}, tx))
			await planDeliveries(
				endpoint,
				events.filter((event) =>
					// a test goes to the endpoint that it is of
					event.kind === 'endpoint.test' ? event.objectId === String(endpoint.id) : wants(endpoint, event.kind)
				),
				tx
			);
		await noteRead(READER, events.at(-1)!.id, tx);
	});
	return events.length;
}

const lanes = new ConnectionLanes();
/** So many of one endpoint are taken in one go, and so many of them are under way at the same time. */
const EACH = 40;
const AT_ONCE = 4;

/** Begins what is due: endpoints side by side, so that one that hangs holds up no other. @returns how many were begun */
export async function deliverHooks(): Promise<number> {
	const planned = await planHooks();
	const due = await dueDeliveries(timeNow(), EACH, lanes.busy.map(Number));
	lanes.begin(
		due.map((one) => ({ ...one, connectionId: String(one.endpointId) })),
		// what cannot be kept, because the disk is full say, is sent again: its lane goes on
		([one]) =>
			deliverOne(one!).catch((error: unknown) =>
				log.error({ delivery: one!.id, error: String(error) }, 'a delivery could not be kept')
			),
		{ atOnce: AT_ONCE }
	);
	return planned + due.length;
}
export const endHooks = (): Promise<void> => lanes.end();

/** The body of an event, the same at every try and every endpoint. */
export const bodyOfEvent = (
	event: Pick<EventRow, 'kind' | 'objectKind' | 'objectId' | 'at' | 'payload'> & { id: number }
): string =>
	JSON.stringify({
		id: `ev-${event.id}`,
		type: event.kind,
		timestamp: new Date(event.at).toISOString(),
		sequence: event.id,
		object: { kind: event.objectKind, id: event.objectId },
		data: db.events.json.payload(event.payload)
	});

/** @source Standard Webhooks: id, time of this try, and a signature for every secret that is valid */
export function headersFor(id: string, at: Date, body: string, secrets: readonly string[]): Record<string, string> {
	return {
		'content-type': 'application/json',
		'webhook-id': id,
		'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
		'webhook-signature': secrets.map((secret) => new Webhook(secret).sign(id, at, body)).join(' ')
	};
}

async function deliverOne(due: DueDelivery): Promise<void> {
	const endpoint = await db.hookEndpoints.one({ id: due.endpointId });
	// paused or removed since the list was read
	if (endpoint?.state !== 'on') return;
	const at = timeNow();
	const begun = performance.now();
	const body = bodyOfEvent({ ...due, id: due.eventId });
	let status = 0;
	let says: string;
	try {
		const answer = await askOutside(endpoint.address, {
			method: 'POST',
			headers: headersFor(`ev-${due.eventId}`, new Date(at), body, secretsOf(endpoint, at)),
			body,
			bytes: OUTSIDE.hookBytes,
			ms: OUTSIDE.hookMs,
			isTyped: true,
			isCut: true
		});
		({ status } = answer);
		says = `answered ${status}${answer.location ? `, and led on to ${answer.location}` : ''}${answer.text.trim() ? `: ${answer.text.trim().slice(0, 400)}` : ''}`;
	} catch (error) {
		says =
			error instanceof OutsideError
				? {
						private: 'leads into a private network, which is not allowed here',
						slow: `no answer within ${OUTSIDE.hookMs / 1000} s`,
						unreachable: 'cannot be reached',
						'too large': 'answered too much',
						'leads on': 'leads on to another address'
					}[error.kind]
				: `something went wrong here: ${String(error)}`;
	}
	await keepTry(due, { at, tookMs: Math.round(performance.now() - begun), status, says });
	tell('hooks');
}

interface Try {
	readonly at: number;
	readonly tookMs: number;
	readonly status: number;
	readonly says: string;
}

/** So many outcomes are kept in one write: a commit costs more than the work. */
const TOGETHER = 200;
interface Kept {
	readonly due: DueDelivery;
	readonly tried: Try;
	readonly done: () => void;
	readonly failed: (error: unknown) => void;
}
let outcomes: Kept[] = [];
let isKeeping = false;

/** Keeps what came of a try, together with those of others that end meanwhile. */
function keepTry(due: DueDelivery, tried: Try): Promise<void> {
	return new Promise((done, failed) => {
		outcomes.push({ due, tried, done, failed });
		if (!isKeeping) void keepOutcomes();
	});
}
async function keepOutcomes(): Promise<void> {
	isKeeping = true;
	await new Promise((next) => setImmediate(next));
	while (outcomes.length) {
		const group = outcomes.slice(0, TOGETHER);
		outcomes = outcomes.slice(TOGETHER);
		try {
			await write(async (tx) => {
				await db.hookTries.insertMany(
					group.map(({ due, tried }) => ({ deliveryId: due.id, ...tried })),
					tx
				);
				for (const { due, tried } of group) await keepOne(due, tried, tx);
				// once for each endpoint, however much it was told
				const heard = new Set(group.filter(({ tried }) => isDelivered(tried)).map(({ due }) => due.endpointId));
				if (heard.size)
					await db.hookEndpoints.update(
						{ id: [...heard] },
						{ deliveredAt: timeNow(), failingSince: null, warnedAt: null, says: '' },
						tx
					);
			});
			for (const one of group) one.done();
		} catch (error) {
			for (const one of group) one.failed(error);
		}
	}
	isKeeping = false;
}
const isDelivered = ({ status }: Try): boolean => readAnswer(status) === 'delivered';

async function keepOne(due: DueDelivery, tried: Try, tx: Tx): Promise<void> {
	const outcome = readAnswer(tried.status);
	const now = timeNow();
	if (outcome === 'delivered') {
		await db.hookDeliveries.update(
			{ id: due.id },
			{ state: 'delivered', tries: due.tries + 1, says: tried.says, doneAt: now },
			tx
		);
		return;
	}
	const endpoint = (await db.hookEndpoints.one({ id: due.endpointId }, tx))!;
	const wait = outcome === 'gone' ? undefined : waitBeforeDelivery(due.tries + 1, Math.random());
	await db.hookDeliveries.update(
		{ id: due.id },
		{
			tries: due.tries + 1,
			says: tried.says,
			...(wait === undefined ? { state: 'given up' as const, doneAt: now } : { nextAt: now + wait })
		},
		tx
	);
	if (outcome === 'gone') return switchOff(endpoint, 'off', 'It answered 410: nobody listens there any more.', tx);
	await judge(endpoint, tried, tx);
}

/** What becomes of an endpoint after a try that failed. */
async function judge(endpoint: HookEndpointRow, tried: Try, tx: Tx): Promise<void> {
	if (endpoint.state !== 'on') return;
	const failingSince = endpoint.failingSince ?? tried.at;
	const verdict = judgeEndpoint(failingSince, timeNow(), endpoint.warnedAt !== null);
	if (verdict === 'pause')
		return switchOff(
			{ ...endpoint, failingSince },
			'paused',
			`Nothing was delivered for three days. The last try ${tried.says}.`,
			tx
		);
	await db.hookEndpoints.update(
		{ id: endpoint.id },
		{ failingSince, ...(verdict === 'warn' ? { warnedAt: timeNow() } : {}) },
		tx
	);
	if (verdict === 'warn')
		await tellStaff(
			{
				cause: `endpoint ${endpoint.id} warned ${failingSince}`,
				to: endpoint.createdBy,
				subject: `Nothing reaches ${endpoint.address}`,
				body: `No event was delivered to ${endpoint.address} for a day. The last try ${tried.says}.\n\nIt is tried for two more days. Then the endpoint is paused, and what happens is kept for it.`
			},
			tx
		);
}

async function switchOff(endpoint: HookEndpointRow, state: 'paused' | 'off', says: string, tx: Tx): Promise<void> {
	await db.hookEndpoints.update({ id: endpoint.id }, { state, says, failingSince: endpoint.failingSince }, tx);
	await tellStaff(
		{
			cause: `endpoint ${endpoint.id} ${state} ${timeNow()}`,
			to: endpoint.createdBy,
			subject: `${endpoint.address} is ${state === 'off' ? 'switched off' : 'paused'}`,
			body: `${says}\n\n${state === 'off' ? 'It is told of nothing more.' : 'What happens is kept for it. Switch it on again once it answers: everything that waited is sent then.'}`
		},
		tx
	);
}

/** Sends a test to an endpoint, with its result as soon as it is there. */
export async function testEndpoint(endpoint: HookEndpointRow): Promise<{ says: string; ok: boolean }> {
	if (endpoint.state !== 'on') return { says: 'It is not on: switch it on first.', ok: false };
	await write((tx) =>
		recordEvent(
			{ kind: 'endpoint.test', object: 'endpoint', id: endpoint.id, payload: { says: 'A test of this endpoint.' } },
			tx
		)
	);
	const [event] = await db.events.find(
		{ kind: 'endpoint.test', objectId: String(endpoint.id) },
		{ order: [['id', 'DESC']], limit: 1 }
	);
	wake();
	for (const end = performance.now() + OUTSIDE.hookMs + 3_000; performance.now() < end;) {
		const delivery = await db.hookDeliveries.one({ endpointId: endpoint.id, eventId: event!.id });
		if (delivery && delivery.tries > 0)
			return { says: `The test ${delivery.says}.`, ok: delivery.state === 'delivered' };
		await new Promise((next) => setTimeout(next, 50));
	}
	return { says: 'The test waits: others are sent first. Look at the log.', ok: false };
}

export const deliveriesPage = pageOfDeliveries;
export const triesOf = (deliveryIds: readonly number[]) =>
	db.hookTries.find({ deliveryId: [...deliveryIds] }, { order: [['id', 'ASC']] });

/**
 * Sends again: one delivery, or all events of a span that the endpoint wants. Each keeps its id, so that who heard it before
 * knows it.
 */
export async function sendAgain(
	endpointId: number,
	what: { readonly delivery: number } | { readonly from: number; readonly to: number; readonly onlyFailed: boolean }
): Promise<number> {
	const count = await write(async (tx) => {
		const again = { state: 'waiting' as const, tries: 0, nextAt: 0, doneAt: null };
		if ('delivery' in what) return db.hookDeliveries.update({ id: what.delivery, endpointId }, again, tx);
		const endpoint = (await db.hookEndpoints.one({ id: endpointId }, tx))!;
		const events = await eventsWithin(what.from, what.to);
		const wanted = events.filter((event) => wants(endpoint, event.kind));
		const known = new Map(
			(await db.hookDeliveries.find({ endpointId, eventId: wanted.map((one) => one.id) }, {}, tx)).map((one) => [
				one.eventId,
				one
			])
		);
		const fresh = wanted.filter((event) => !known.has(event.id));
		if (!what.onlyFailed) await planDeliveries(endpoint, fresh, tx);
		const old = [...known.values()].filter((one) =>
			what.onlyFailed ? one.state === 'given up' : one.state !== 'waiting'
		);
		for (let at = 0; at < old.length; at += 200)
			await db.hookDeliveries.update({ id: old.slice(at, at + 200).map((one) => one.id) }, again, tx);
		return old.length + (what.onlyFailed ? 0 : fresh.length);
	});
	tell('hooks');
	wake();
	return count;
}
