import { freeText, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// Notifications, and settlement files. Flags are 0 or 1; texts that hold JSON are read through Zod.

export const arrivals = table(
	'arrivals',
	{
		id: whole,
		connectionId: text,
		eventId: text,
		receivedAt: whole,
		headers: text,
		body: text,
		checks: text,
		state: oneOf('stored', 'unconfirmed', 'retry', 'stuck', 'done'),
		tries: whole,
		nextAt: whole,
		topic: text,
		says: freeText,
		paymentId: orNull(whole),
		doneAt: orNull(whole),
		/** when it happened at the processor, where it says so */
		happenedAt: orNull(whole)
	},
	['id'],
	true
);
export type ArrivalRow = RowOf<typeof arrivals>;

export const refusedArrivals = table(
	'refused_arrivals',
	{
		connectionId: text,
		day: text,
		reason: text,
		count: whole,
		lastAt: whole
	},
	['connectionId', 'day', 'reason']
);
export type RefusedArrivalRow = RowOf<typeof refusedArrivals>;

export const settlementFiles = table(
	'settlement_files',
	{
		id: whole,
		name: freeText,
		processor: text,
		digest: text,
		count: whole,
		fresh: whole,
		declined: whole,
		takenAt: whole,
		byUser: text,
		connectionId: orNull(text),
		accountId: text,
		state: oneOf('staging', 'merging', 'taken'),
		merged: whole,
		changed: whole,
		clashes: whole
	},
	['id'],
	true
);
export type SettlementFileRow = RowOf<typeof settlementFiles>;

export const fileChunks = table(
	'file_chunks',
	{
		fileId: whole,
		number: whole,
		kind: text,
		lines: whole,
		body: text
	},
	['fileId', 'number']
);
export type FileChunkRow = RowOf<typeof fileChunks>;

/** Payments on their way to another till, or from no account to one; kept until all are there. */
export const paymentMoves = table(
	'payment_moves',
	{
		id: whole,
		kind: oneOf('till', 'account'),
		source: text,
		processor: text,
		tillId: orNull(text),
		connectionId: orNull(text),
		accountId: text,
		/** ids up to here are done, of those up to `last` */
		doneTo: whole,
		last: whole
	},
	['id'],
	true
);
export type PaymentMoveRow = RowOf<typeof paymentMoves>;

export const sealedCanary = table('sealed_canary', { id: whole, sealed: text }, ['id']);

export const fileSources = table(
	'file_sources',
	{
		source: text,
		tillId: orNull(text),
		/** payments of files that bear it */
		count: whole
	},
	['source']
);
export type FileSourceRow = RowOf<typeof fileSources>;
