import { db } from '../db';
import { bodyOfEvent } from './deliver';

/** What a delivery of an endpoint says, as it is sent; undefined where the endpoint has no such one. */
export async function eventOf(
	endpointId: number,
	deliveryId: number
): Promise<{ delivery: number; kind: string; body: string } | undefined> {
	const delivery = await db.hookDeliveries.one({ id: deliveryId, endpointId });
	const event = delivery && (await db.events.one({ id: delivery.eventId }));
	return event && { delivery: deliveryId, kind: event.kind, body: bodyOfEvent(event) };
}
