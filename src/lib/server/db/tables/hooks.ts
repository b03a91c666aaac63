import { z } from 'zod';
import { freeText, json, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// Outgoing hooks: outside programs that are told of events.

export const hookEndpoints = table(
	'hook_endpoints',
	{
		id: whole,
		address: text,
		description: freeText,
		/** those that it is told of; none means all */
		kinds: json(z.array(z.string()), '[]'),
		state: oneOf('on', 'paused', 'off', 'removed'),
		/** why it is paused or off, where nobody did it by hand */
		says: freeText,
		secretSealed: text,
		oldSecretSealed: orNull(text),
		oldUntil: orNull(whole),
		failingSince: orNull(whole),
		warnedAt: orNull(whole),
		deliveredAt: orNull(whole),
		createdAt: whole,
		createdBy: text
	},
	['id'],
	true
);
export type HookEndpointRow = RowOf<typeof hookEndpoints>;

export const hookDeliveries = table(
	'hook_deliveries',
	{
		id: whole,
		endpointId: whole,
		eventId: whole,
		kind: text,
		state: oneOf('waiting', 'delivered', 'given up'),
		tries: whole,
		nextAt: whole,
		says: freeText,
		doneAt: orNull(whole)
	},
	['id'],
	true
);
export type HookDeliveryRow = RowOf<typeof hookDeliveries>;

export const hookTries = table(
	'hook_tries',
	{ id: whole, deliveryId: whole, at: whole, tookMs: whole, status: whole, says: freeText },
	['id'],
	true
);
export type HookTryRow = RowOf<typeof hookTries>;
