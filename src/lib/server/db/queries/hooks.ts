import {
	events,
	hookDeliveries,
	hookEndpoints,
	type EventRow,
	type HookDeliveryRow,
	type HookEndpointRow
} from '../tables';
import { Op } from 'sequelize';
import { PAGE } from './paymentList';
import { select } from './select';
import { open, type Tx } from '../open';

/** A delivery that is due, with its event and its endpoint. */
export interface DueDelivery {
	readonly id: number;
	readonly endpointId: number;
	readonly tries: number;
	readonly eventId: number;
	readonly kind: string;
	readonly objectKind: string;
	readonly objectId: string;
	readonly at: number;
	readonly payload: string;
}

/**
 * Deliveries that are due at endpoints that are on, some of each: what waits at one holds up no other.
 * @param busy endpoints that are at work already
 */
export async function dueDeliveries(now: number, each: number, busy: readonly number[]): Promise<DueDelivery[]> {
	const endpoints = await hookEndpoints.find({ state: 'on' }, { order: [['id', 'ASC']] });
	const due: DueDelivery[] = [];
	for (const { id } of endpoints) {
		if (busy.includes(id)) continue;
		due.push(
			...(await select<DueDelivery>(
				`SELECT x.id, x.endpoint_id AS endpointId, x.tries, x.event_id AS eventId, e.kind, e.object_kind AS objectKind,
					e.object_id AS objectId, e.at, e.payload
				 FROM (SELECT id, endpoint_id, tries, event_id FROM hook_deliveries
					WHERE endpoint_id = ? AND state = 'waiting' AND next_at <= ? ORDER BY next_at, id LIMIT ?) x
				 CROSS JOIN events e ON e.id = x.event_id ORDER BY x.id`,
				[id, now, each]
			))
		);
	}
	return due;
}

/** Plans the delivery of events to an endpoint, each once, in one statement for many of them. */
export async function planDeliveries(
	endpoint: Pick<HookEndpointRow, 'id'>,
	events: readonly { readonly id: number; readonly kind: string }[],
	tx: Tx
): Promise<void> {
	const db = await open();
	for (let at = 0; at < events.length; at += 200) {
		const some = events.slice(at, at + 200);
		await db.query(
			`INSERT INTO hook_deliveries (endpoint_id, event_id, kind) VALUES ${some.map(() => '(?, ?, ?)').join(', ')}
			 ON CONFLICT (endpoint_id, event_id) DO NOTHING`,
			{ replacements: some.flatMap((event) => [endpoint.id, event.id, event.kind]), transaction: tx }
		);
	}
}

/** The log of an endpoint, the newest first, a page at a time. */
export async function pageOfDeliveries(filter: {
	endpointId: number;
	state?: string;
	before?: number;
}): Promise<{ rows: HookDeliveryRow[]; more: boolean }> {
	const rows = (await hookDeliveries.model.findAll({
		where: {
			endpointId: filter.endpointId,
			...(filter.state ? { state: filter.state } : {}),
			...(filter.before ? { id: { [Op.lt]: filter.before } } : {})
		},
		order: [['id', 'DESC']],
		limit: PAGE + 1,
		raw: true
	})) as unknown as HookDeliveryRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

/** How many deliveries of each endpoint wait, were given up, and were delivered lately. */
export const deliveryCounts = (): Promise<
	{ endpointId: number; waiting: number; failed: number; oldest: number | null }[]
> =>
	select(
		`SELECT h.id AS endpointId,
			(SELECT COUNT(*) FROM hook_deliveries x WHERE x.endpoint_id = h.id AND x.state = 'waiting') AS waiting,
			(SELECT COUNT(*) FROM hook_deliveries x WHERE x.endpoint_id = h.id AND x.state = 'given up') AS failed,
			(SELECT e.at FROM events e WHERE e.id =
				(SELECT MIN(x.event_id) FROM hook_deliveries x WHERE x.endpoint_id = h.id AND x.state = 'waiting')) AS oldest
		 FROM hook_endpoints h WHERE h.state <> 'removed'`,
		[]
	);

/** Events of a span of time, both ends included, in their order. */
export const eventsWithin = async (from: number, to: number): Promise<EventRow[]> =>
	(await events.model.findAll({
		where: { at: { [Op.gte]: from, [Op.lte]: to } },
		order: [['id', 'ASC']],
		raw: true
	})) as unknown as EventRow[];
