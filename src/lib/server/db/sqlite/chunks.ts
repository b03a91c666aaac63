import { QueryTypes } from 'sequelize';
import { open, openForLongReads, type Tx } from '../open';
import { DERIVE_ADDED } from './derived';
import { FEES_ADDED } from './feeMonths';

// A settlement file has up to millions of lines: they go into the database as JSON, a thousand at once, which it takes apart
// itself. The order of a line's values is that of `CAPTURED` and `DECLINED`; `kind` and `source` are numbers in the lists
// beside the lines.

const CAPTURED =
	'line processor_id kind source captured_at minor fee_currency fee base refunded disputed ordered_at day account_day net reference'.split(
		' '
	);
const DECLINED = 'line processor_id kind source created_at minor fee_currency fee reason day'.split(' ');
const KINDS = ['method', 'currency', 'entry', 'scheme', 'funding', 'issuer'];

/** The lines of a chunk, its kinds and its sources as table expressions `told`, `kinds` and `sources`. */
const told = (names: readonly string[]) =>
	`told AS MATERIALIZED (SELECT ${names.map((name, at) => `value ->> ${at} AS ${name}`).join(', ')} FROM json_each($1, '$.lines')),
	kinds AS MATERIALIZED (SELECT e.key AS number, k.id, k.method, k.currency FROM json_each($1, '$.kinds') e
		CROSS JOIN payment_kinds k ON ${KINDS.map((name, at) => `k.${name} = e.value ->> ${at}`).join(' AND ')}),
	sources AS MATERIALIZED (SELECT e.key AS number, e.value AS source, s.till_id FROM json_each($1, '$.sources') e
		LEFT JOIN file_sources s ON s.source = e.value)`;

/** Whose payments a file tells of, and which file it is. */
export interface FileOwner {
	readonly fileId: number;
	readonly processor: string;
	readonly connectionId: string | null;
	/** the account; of a file of an offline method, that method */
	readonly accountId: string;
	readonly heardAt: number;
}
export type ChunkKind = 'captured' | 'declined';

/** The offline method whose receipts a file tells: such a file has no processor. */
export const offlineOf = ({ processor, accountId }: Pick<FileOwner, 'processor' | 'accountId'>): string | null =>
	processor === '' ? accountId : null;

const sourceOf = (owner: FileOwner) => `file ${owner.fileId}`;

/** Whether any payment of an account is known. */
export async function knowsAccount({
	processor,
	accountId
}: Pick<FileOwner, 'processor' | 'accountId'>): Promise<boolean> {
	const db = await openForLongReads();
	const rows = await db.query(
		`SELECT 1 FROM payments WHERE processor = $1 AND mode = 'live' AND account_id = $2 AND processor_id IS NOT NULL LIMIT 1`,
		{ bind: [processor, accountId], type: QueryTypes.SELECT }
	);
	return rows.length > 0;
}

/** Lines of a chunk that are known with another amount or currency, or as the other of captured and declined. */
export async function knownOtherwise(
	owner: Omit<FileOwner, 'fileId' | 'heardAt'>,
	kind: ChunkKind,
	chunk: string
): Promise<{ line: number; payment: string; turned: 0 | 1 }[]> {
	const db = await openForLongReads();
	// a cross join keeps the order: each line is looked up, not every known payment
	return (await db.query(
		`WITH told AS (SELECT value ->> 0 AS line, value ->> 1 AS processor_id, value ->> 2 AS kind, value ->> 5 AS minor FROM json_each($1, '$.lines')),
		kinds AS MATERIALIZED (SELECT key AS number, value ->> 1 AS currency FROM json_each($1, '$.kinds'))
		SELECT told.line, told.processor_id AS payment, CASE WHEN ${kind === 'captured' ? `p.stage = 'failed' AND p.origin = 'file'` : 'p.taken > 0'} THEN 1 ELSE 0 END AS turned
		FROM told CROSS JOIN payments p ON p.processor = $2 AND p.mode = 'live' AND p.account_id = $3 AND p.processor_id = told.processor_id
			AND p.processor_id IS NOT NULL CROSS JOIN kinds k ON k.number = told.kind
		WHERE ${
			kind === 'captured'
				? `p.currency <> k.currency OR (p.taken > 0 AND p.taken <> told.minor) OR (p.stage = 'failed' AND p.origin = 'file')`
				: `p.currency <> k.currency OR p.minor <> told.minor OR p.taken > 0`
		} ORDER BY told.line LIMIT 50`,
		{ bind: [chunk, owner.processor, owner.accountId], type: QueryTypes.SELECT }
	)) as { line: number; payment: string; turned: 0 | 1 }[];
}

/** Lines of a chunk of an offline method whose number is that of an order which a till took by this method: it is known. */
export async function takenAtTills(offlineId: string, chunk: string): Promise<{ line: number; payment: string }[]> {
	const db = await openForLongReads();
	return (await db.query(
		`SELECT told.value ->> 0 AS line, told.value ->> 1 AS payment FROM json_each($1, '$.lines') told
		 CROSS JOIN payments p ON p.reference = told.value ->> 1 AND p.reference <> '' AND p.offline_id = $2 AND p.processor_id IS NULL
			AND p.mode = 'live' ORDER BY 1 LIMIT 50`,
		{ bind: [chunk, offlineId], type: QueryTypes.SELECT }
	)) as { line: number; payment: string }[];
}

/** A line about a payment that is known already, where it tells something more. */
export interface KnownLine {
	readonly id: number;
	readonly line: number;
	readonly capturedAt: number;
	readonly minor: number;
	readonly refunded: number;
	readonly disputed: number;
	readonly feeCurrency: string;
	readonly fee: number;
	readonly base: number;
}

/** A line about a payment that came by itself and that a notification told before: the file tells its place and number. */
export interface ForeignLine {
	readonly id: number;
	readonly source: string;
	readonly tillId: string | null;
	readonly reference: string;
}

/** What came by itself, as far as a file has told nothing of it yet. */
const FOREIGN = `p.origin = 'console' AND p.offline_id IS NULL AND p.source = '' AND p.order_id IS NULL`;
/** What files told: whether they told it first, or more of what had come by itself. */
const OF_FILES = `(p.origin = 'file' OR p.origin = 'console' AND p.source <> '')`;

/**
 * Adds the payments of a chunk that are new, with their facts and fees.
 * @returns how many were new, and the lines that tell something more of payments that are known
 */
export async function addChunk(
	owner: FileOwner,
	kind: ChunkKind,
	{ body: chunk, lines }: { readonly body: string; readonly lines: number },
	transaction: Tx
): Promise<{
	fresh: number;
	known: KnownLine[];
	billed: number[];
	ordered: OrderedPayment[];
	foreign: ForeignLine[];
}> {
	const db = await open();
	const names = kind === 'captured' ? CAPTURED : DECLINED;
	const run = (sql: string, more: unknown[] = []) => db.query(sql, { bind: [chunk, ...more], transaction });
	const select = async <T>(sql: string, bind: unknown[]) =>
		(await db.query(sql, { bind, type: QueryTypes.SELECT, transaction })) as T[];
	const mine = [owner.processor, owner.accountId];
	const offlineId = offlineOf(owner);
	await run(
		`INSERT INTO payment_kinds (${KINDS.join(', ')}) SELECT ${KINDS.map((_, at) => `value ->> ${at}`).join(', ')}
		 FROM json_each($1, '$.kinds') WHERE true ON CONFLICT (${KINDS.join(', ')}) DO NOTHING`
	);
	await run(
		`INSERT INTO file_sources (source, till_id) SELECT value, (SELECT id FROM tills WHERE tills.name = value)
		 FROM json_each($1, '$.sources') WHERE value <> '' ON CONFLICT (source) DO NOTHING`
	);
	if (kind === 'captured' && offlineId === null) await giveLostIds(owner, chunk, transaction);
	const [{ last }] = (await select<{ last: number }>(`SELECT COALESCE(MAX(id), 0) AS last FROM payments`, [])) as [
		{ last: number }
	];
	const joins = `FROM told JOIN kinds k ON k.number = told.kind JOIN sources s ON s.number = told.source WHERE true
		ON CONFLICT (processor, mode, account_id, processor_id) WHERE processor_id IS NOT NULL DO NOTHING`;
	if (kind === 'captured')
		await run(
			`WITH ${told(names)} INSERT INTO payments (origin, mode, processor, account_id, connection_id, processor_id, till_id, source,
				kind_id, method, currency, minor, stage, reached_step, broken_step, open, taken, refunded, disputed, refundable, fee_currency,
				base_minor, charged_fee, net, ordered_at, captured_at, day, account_day, created_at, offline_id, reference, creditor_reference, gone)
			 SELECT 'file', 'live', $2, $3, $4, told.processor_id, s.till_id, s.source, k.id, k.method, k.currency, told.minor,
				CASE WHEN told.disputed > 0 THEN 'disputed' WHEN told.refunded >= told.minor THEN 'refunded'
					WHEN told.refunded > 0 THEN 'part refunded' WHEN $5 IS NOT NULL THEN 'received' ELSE 'captured' END,
				CASE WHEN told.disputed > 0 THEN 1 ELSE 2 END, CASE WHEN told.disputed > 0 THEN 2 ELSE 0 END, 1, told.minor, told.refunded,
				told.disputed, MAX(0, told.minor - told.refunded - told.disputed), told.fee_currency, told.base, CASE WHEN $5 IS NULL THEN told.fee END, told.net,
				COALESCE(told.ordered_at, told.captured_at), told.captured_at, told.day, CASE WHEN $5 IS NULL THEN told.account_day END,
				COALESCE(told.ordered_at, told.captured_at), $5, CASE WHEN $5 IS NULL THEN COALESCE(told.reference, '') ELSE told.processor_id END,
				CASE WHEN $5 IS NULL THEN '' WHEN told.reference LIKE 'RF%' THEN REPLACE(told.reference, ' ', '') ELSE COALESCE(told.reference, '') END,
				told.refunded + told.disputed
			 ${joins}`,
			[...mine, owner.connectionId, offlineId]
		);
	else
		await run(
			`WITH ${told(names)} INSERT INTO payments (origin, mode, processor, account_id, connection_id, processor_id, till_id, source,
				kind_id, method, currency, minor, stage, reached_step, broken_step, open, failure, fee_currency, charged_fee, ordered_at, day, created_at)
			 SELECT 'file', 'live', $2, $3, $4, told.processor_id, s.till_id, s.source, k.id, k.method, k.currency, told.minor,
				'failed', 1, 2, 0, told.reason, told.fee_currency, told.fee, told.created_at, told.day, told.created_at ${joins}`,
			[...mine, owner.connectionId]
		);
	const [{ fresh }] = (await select<{ fresh: number }>(`SELECT COUNT(*) AS fresh FROM payments WHERE id > $1`, [
		last
	])) as [{ fresh: number }];
	// payments that carry the number of an invoice, or its creditor reference, are placed on it by whoever asked
	const billed = kind === 'captured' ? await paymentsOfInvoices(last, Number.MAX_SAFE_INTEGER, transaction) : [];
	const ordered = kind === 'captured' ? await paymentsOfOrders(last, Number.MAX_SAFE_INTEGER, transaction) : [];
	// where all were new, none is known
	const known =
		kind === 'captured' && fresh < lines
			? await select<KnownLine>(
					`WITH ${told(names)}
					SELECT p.id, told.line, told.captured_at AS capturedAt, told.minor, told.refunded, told.disputed, told.fee_currency AS feeCurrency,
						told.fee, told.base FROM told CROSS JOIN payments p ON p.processor = $2 AND p.mode = 'live' AND p.account_id = $3
						AND p.processor_id = told.processor_id AND p.processor_id IS NOT NULL
					WHERE p.id <= $4 AND (p.taken <> told.minor OR p.refunded < told.refunded OR p.disputed < told.disputed
						OR p.offline_id IS NULL AND NOT EXISTS (SELECT 1 FROM payment_fees f WHERE f.payment_id = p.id AND f.fee = told.fee AND f.currency = told.fee_currency))`,
					[chunk, ...mine, last]
				)
			: [];
	const foreign =
		kind === 'captured' && fresh < lines && offlineId === null
			? await select<ForeignLine>(
					`WITH ${told(names)}
					SELECT p.id, s.source, s.till_id AS tillId, COALESCE(told.reference, '') AS reference
					FROM told CROSS JOIN payments p ON p.processor = $2 AND p.mode = 'live' AND p.account_id = $3
						AND p.processor_id = told.processor_id AND p.processor_id IS NOT NULL JOIN sources s ON s.number = told.source
					WHERE p.id <= $4 AND s.source <> '' AND ${FOREIGN}`,
					[chunk, ...mine, last]
				)
			: [];
	await db.query(
		`UPDATE file_sources SET count = count + fresh.n FROM (SELECT source, COUNT(*) AS n FROM payments WHERE id > $1 GROUP BY source) fresh
		 WHERE fresh.source = file_sources.source`,
		{ bind: [last], transaction }
	);
	for (const statement of [...DERIVE_ADDED, ...FEES_ADDED]) await db.query(statement, { bind: [last], transaction });
	const source = sourceOf(owner);
	const facts = (what: string, at: string, minor: string, object: string, where: string) =>
		db.query(
			`INSERT INTO payment_events (payment_id, kind, at, minor, object, source, heard_at)
			 SELECT id, '${what}', ${at}, ${minor}, ${object}, $2, $3 FROM payments WHERE id > $1 AND ${where}`,
			{ bind: [last, source, owner.heardAt], transaction }
		);
	if (kind === 'captured') {
		await facts(offlineId === null ? 'captured' : 'received', 'captured_at', 'taken', 'processor_id', 'true');
		await facts('refunded so far', 'captured_at', 'refunded', '$2', 'refunded > 0');
		await facts('disputed so far', 'captured_at', 'disputed', '$2', 'disputed > 0');
	} else await facts('failed', 'created_at', 'NULL', 'processor_id', 'true');
	// an offline method has no fee
	if (offlineId !== null) return { fresh, known, billed, ordered, foreign };
	await db.query(
		`INSERT INTO payment_fees (payment_id, currency, fee, returned, base, label, source, heard_at)
		 SELECT id, fee_currency, charged_fee, 0, COALESCE(base_minor, 0), 'settlement file', $2, $3 FROM payments WHERE id > $1`,
		{ bind: [last, source, owner.heardAt], transaction }
	);
	return { fresh, known, billed, ordered, foreign };
}

/**
 * A payment that was begun here, whose answer was lost, has no number of its processor's. Where exactly one line of a file
 * tells what was paid for its order, the line's number is its own: it is one payment, not two.
 */
async function giveLostIds(owner: FileOwner, chunk: string, transaction: Tx): Promise<void> {
	const db = await open();
	const found = await db.query<{ id: number; processorId: string }>(
		`WITH ${told(CAPTURED)}
		SELECT p.id AS id, told.processor_id AS processorId FROM told JOIN kinds k ON k.number = told.kind
		CROSS JOIN payments p ON p.reference = told.reference AND p.reference <> '' AND p.connection_id = $2 AND p.mode = 'live'
			AND p.origin = 'till' AND p.processor_id IS NULL AND p.open = 1 AND p.taken = 0 AND p.minor = told.minor
			AND p.currency = k.currency AND p.method = k.method AND told.captured_at >= p.created_at - 60000
		WHERE told.reference <> '' AND NOT EXISTS (SELECT 1 FROM payments o WHERE o.processor = $3 AND o.mode = 'live' AND o.account_id = $4
			AND o.processor_id = told.processor_id)`,
		{ bind: [chunk, owner.connectionId, owner.processor, owner.accountId], type: QueryTypes.SELECT, transaction }
	);
	const times = (of: (one: { id: number; processorId: string }) => string | number) => {
		const counts = new Map<string | number, number>();
		for (const one of found) counts.set(of(one), (counts.get(of(one)) ?? 0) + 1);
		return (one: { id: number; processorId: string }) => counts.get(of(one))!;
	};
	const [ofPayment, ofLine] = [times((one) => one.id), times((one) => one.processorId)];
	for (const one of found)
		if (ofPayment(one) === 1 && ofLine(one) === 1)
			await db.query(`UPDATE payments SET processor_id = $2 WHERE id = $1`, {
				bind: [one.id, one.processorId],
				transaction
			});
}

/**
 * Payments of files that carry the number of an invoice or its creditor reference, and that nothing was worked out for yet.
 * @param after the last id before them
 * @param to the last of them
 */
export async function paymentsOfInvoices(after: number, to: number, transaction: Tx): Promise<number[]> {
	const rows = await (
		await open()
	).query<{ id: number }>(
		`SELECT p.id AS id FROM payments p WHERE p.id > $1 AND p.id <= $2 AND ${OF_FILES} AND p.considered = 0 AND p.taken > 0 AND (
			EXISTS (SELECT 1 FROM invoices WHERE number IN (p.reference, p.creditor_reference) AND number <> '' AND kind = 'invoice')
			OR EXISTS (SELECT 1 FROM invoices WHERE creditor_reference = p.creditor_reference AND creditor_reference <> ''))`,
		{ bind: [after, to], type: QueryTypes.SELECT, transaction }
	);
	return rows.map((one) => one.id);
}

/** A payment that a file told, and the order whose number it carries. */
export interface OrderedPayment {
	readonly paymentId: number;
	readonly orderId: number;
}
/**
 * Payments of files that carry the number of an order of their till, with its sum, and came after it was made.
 * @param after the last id before them
 * @param to the last of them
 */
export async function paymentsOfOrders(after: number, to: number, transaction: Tx): Promise<OrderedPayment[]> {
	return (await open()).query<OrderedPayment>(
		`SELECT p.id AS paymentId, o.id AS orderId FROM payments p CROSS JOIN orders o ON o.till_id = p.till_id AND o.reference = p.reference
			AND o.replaced_by IS NULL
		 WHERE p.id > $1 AND p.id <= $2 AND ${OF_FILES} AND p.offline_id IS NULL AND p.reference <> '' AND p.order_id IS NULL AND (p.origin = 'file' OR p.placed = 0) AND p.taken > 0
			AND p.mode = (SELECT mode FROM tills WHERE id = o.till_id) AND o.currency = p.currency AND o.minor = p.minor AND p.captured_at >= o.created_at - 86400000 ORDER BY p.id`,
		{ bind: [after, to], type: QueryTypes.SELECT, transaction }
	);
}

/** Payments that came by themselves and that a file gave a name: whether they wait is decided by that name's till. */
export async function namedForeign(after: number, to: number, transaction: Tx): Promise<number[]> {
	const found = await (
		await open()
	).query<{ id: number }>(
		`SELECT id FROM payments WHERE id > $1 AND id <= $2 AND origin = 'console' AND source <> '' AND order_id IS NULL`,
		{ bind: [after, to], type: QueryTypes.SELECT, transaction }
	);
	return found.map((one) => one.id);
}

/** Counts one payment more under a name that files give to a place. */
export async function countSource(source: string, transaction: Tx): Promise<void> {
	await (
		await open()
	).query(`UPDATE file_sources SET count = count + 1 WHERE source = $1`, { bind: [source], transaction });
}

/**
 * Says for which till a name of settlement files stands. Past payments of that name follow, by `moveSome`; what comes in
 * files from now on is its own at once.
 */
export async function mapSource(source: string, tillId: string | null, transaction: Tx): Promise<void> {
	const db = await open();
	await db.query(
		`INSERT INTO file_sources (source, till_id) VALUES (?, ?) ON CONFLICT (source) DO UPDATE SET till_id = excluded.till_id`,
		{ replacements: [source, tillId], transaction }
	);
	// whatever was to become of them before, this is to become of them now
	await db.query(`DELETE FROM payment_moves WHERE kind = 'till' AND source = ?`, {
		replacements: [source],
		transaction
	});
	await db.query(
		`INSERT INTO payment_moves (kind, source, till_id, last) SELECT 'till', ?, ?, COALESCE(MAX(id), 0) FROM payments`,
		{ replacements: [source, tillId], transaction }
	);
}

/** What files told of a processor that was not connected when they were taken becomes the connection's own. */
export async function adoptPayments(
	processor: string,
	connectionId: string,
	accountId: string,
	transaction: Tx
): Promise<void> {
	const db = await open();
	const run = (sql: string) => db.query(sql, { bind: [connectionId, accountId, processor], transaction });
	const nobodys = `processor = $3 AND connection_id IS NULL AND account_id = ''`;
	await run(
		`INSERT INTO payment_moves (kind, processor, connection_id, account_id, last)
		 SELECT 'account', $3, $1, $2, COALESCE(MAX(id), 0) FROM payments
		 WHERE EXISTS (SELECT 1 FROM settlement_files WHERE ${nobodys})`
	);
	// the rest of a file that is being merged goes to the same account
	await run(`UPDATE settlement_files SET connection_id = $1, account_id = $2 WHERE ${nobodys}`);
	await run(`UPDATE OR IGNORE payouts SET connection_id = $1, account_id = $2 WHERE ${nobodys}`);
	await run(`UPDATE OR IGNORE account_charges SET connection_id = $1, account_id = $2 WHERE ${nobodys}`);
}

/** So many payments are looked at in one write. */
const MOVED_AT_ONCE = 2_000;

/** Moves the next payments of a move on; the last of them ends it. @returns which they were, and whether there are more */
export async function moveSome(
	id: number,
	transaction: Tx
): Promise<{ readonly after: number; readonly to: number; readonly isMore: boolean }> {
	const db = await open();
	const rows = await db.query<{ kind: string; done: number; last: number; to: number }>(
		`SELECT kind, done_to AS done, last, MIN(last, done_to + ${MOVED_AT_ONCE}) AS "to" FROM payment_moves WHERE id = ?`,
		{ replacements: [id], type: QueryTypes.SELECT, transaction }
	);
	// another took its place
	if (!rows[0]) return { after: 0, to: 0, isMore: false };
	const { kind, done, last, to } = rows[0];
	const within = `payments.id > $2 AND payments.id <= $3`;
	await db.query(
		kind === 'till'
			? `UPDATE payments SET till_id = m.till_id FROM payment_moves m
			   WHERE m.id = $1 AND ${within} AND origin <> 'till' AND payments.source = m.source AND payments.till_id IS NOT m.till_id
				AND payments.order_id IS NULL`
			: // what the account told itself meanwhile stays as it is
				`UPDATE payments SET connection_id = m.connection_id, account_id = m.account_id FROM payment_moves m
			   WHERE m.id = $1 AND ${within} AND payments.processor = m.processor AND payments.connection_id IS NULL AND payments.account_id = ''
				AND payments.mode = 'live' AND payments.offline_id IS NULL AND NOT EXISTS (SELECT 1 FROM payments p WHERE p.processor = m.processor
				AND p.mode = 'live' AND p.account_id = m.account_id AND p.processor_id = payments.processor_id)`,
		{ bind: [id, done, to], transaction }
	);
	// what an account takes over is priced by its contract, also where that was confirmed before
	if (kind === 'account')
		await db.query(
			`INSERT INTO repricings (connection_id, month, after) SELECT DISTINCT p.connection_id, substr(p.account_day, 1, 7), 0
			 FROM payments p JOIN payment_moves m ON m.id = $1 AND m.connection_id = p.connection_id
			 WHERE p.id > $2 AND p.id <= $3 AND p.account_day IS NOT NULL
			 ON CONFLICT (connection_id, month) DO UPDATE SET after = 0`,
			{ bind: [id, done, to], transaction }
		);
	const sql =
		to < last
			? `UPDATE payment_moves SET done_to = $2 WHERE id = $1`
			: `DELETE FROM payment_moves WHERE id = $1 AND done_to <= $2`;
	await db.query(sql, { bind: [id, to], transaction });
	return { after: done, to, isMore: to < last };
}

/** Writes prices that were worked out afresh: ids, expected fees, net, and the contract's id, as a JSON list of lists. */
export async function writePrices(rows: string, transaction: Tx): Promise<void> {
	await (
		await open()
	).query(
		`WITH told AS MATERIALIZED (SELECT value ->> 0 AS id, value ->> 1 AS expected, value ->> 2 AS net, value ->> 3 AS card, value ->> 4 AS base FROM json_each($1))
		 UPDATE payments SET expected_fee = told.expected, fee_difference = charged_fee - told.expected, net = told.net,
			rate_card_id = told.card, base_minor = told.base FROM told WHERE payments.id = told.id`,
		{ bind: [rows], transaction }
	);
}
