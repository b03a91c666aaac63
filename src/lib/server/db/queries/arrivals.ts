import { Op, QueryTypes } from 'sequelize';
import { open, type Tx } from '../open';
import { arrivals, waitingFacts, type ArrivalRow, type WaitingFactRow } from '../tables';
import { PAGE } from './paymentList';
import { select } from './select';

/** Arrivals that are due for work, oldest first: those that are proven, or those that wait to be confirmed. */
export async function dueArrivals(
	now: number,
	kind: 'proven' | 'unconfirmed',
	limit: number,
	busy: readonly string[]
): Promise<ArrivalRow[]> {
	return (await arrivals.model.findAll({
		where: {
			state: kind === 'proven' ? ['stored', 'retry'] : 'unconfirmed',
			nextAt: { [Op.lte]: now },
			...(busy.length ? { connectionId: { [Op.notIn]: busy } } : {})
		},
		order: [
			['nextAt', 'ASC'],
			['id', 'ASC']
		],
		limit,
		raw: true
	})) as unknown as ArrivalRow[];
}

/** When the next arrival, open action or waiting fact is due, in milliseconds since 1970. */
export async function nextDue(): Promise<number | undefined> {
	const db = await open();
	const [row] = (await db.query(
		`SELECT MIN(at) AS at FROM (
			SELECT MIN(next_at) AS at FROM arrivals WHERE state = 'stored' UNION ALL SELECT MIN(next_at) FROM arrivals WHERE state = 'unconfirmed'
			UNION ALL SELECT MIN(next_at) FROM arrivals WHERE state = 'retry'
			UNION ALL SELECT MIN(next_at) FROM actions WHERE state IN ('planned', 'unknown')
			UNION ALL SELECT MIN(next_at) FROM outbox WHERE state IN ('waiting', 'sending')
			UNION ALL SELECT MIN((SELECT MIN(next_at) FROM hook_deliveries x WHERE x.endpoint_id = h.id AND x.state = 'waiting'))
				FROM hook_endpoints h WHERE h.state = 'on'
			UNION ALL SELECT MIN(next_at) FROM waiting_facts WHERE tries < 8)`,
		{ type: QueryTypes.SELECT }
	)) as { at: number | null }[];
	return row?.at ?? undefined;
}

/** What is tried again: the table, and which of its rows wait for that. */
const RETRIED = {
	arrivals: `state IN ('stored', 'unconfirmed', 'retry')`,
	waiting_facts: '1',
	actions: `state IN ('planned', 'unknown')`,
	outbox: `state IN ('waiting', 'sending')`,
	hook_deliveries: `state = 'waiting'`
};
/** Brings what waits for its next try forward, by milliseconds, as far as it is not due by then: it was put off by a clock that was ahead. */
export async function bringForward(by: number, now: number, transaction: Tx): Promise<void> {
	const db = await open();
	for (const [table, waits] of Object.entries(RETRIED))
		await db.query(`UPDATE ${table} SET next_at = MAX($2, next_at - $1) WHERE ${waits} AND next_at > $2`, {
			bind: [by, now],
			transaction
		});
}
/** When the newest event happened, in milliseconds since 1970. */
export async function newestEventAt(): Promise<number | undefined> {
	const [row] = (await (
		await open()
	).query('SELECT at FROM events ORDER BY id DESC LIMIT 1', {
		type: QueryTypes.SELECT
	})) as { at: number }[];
	return row?.at;
}

/** Words as the index knows them: all of them, the last one whole or as a beginning. */
const matching = (text: string, last: 'whole' | 'begins'): string =>
	text
		.split(/[^\p{L}\p{N}]+/u)
		.filter(Boolean)
		.map((word, at, all) => `"${word}"${last === 'begins' && at === all.length - 1 ? '*' : ''}`)
		.join(' ');

export async function pageOfArrivals(filter: {
	/** words of the payload */
	text?: string;
	state?: string;
	connectionId?: string;
	before?: number;
}): Promise<{ rows: ArrivalRow[]; more: boolean }> {
	const where: Record<string, unknown> = {};
	if (filter.before) where.id = { [Op.lt]: filter.before };
	if (filter.state) where.state = filter.state;
	if (filter.connectionId) where.connectionId = filter.connectionId;
	if (filter.text && !matching(filter.text, 'whole')) return { rows: [], more: false };
	if (filter.text) {
		const find = (last: 'whole' | 'begins', before?: number) =>
			select<{ id: number }>(
				`SELECT t.rowid AS id FROM arrivals_text t ${filter.state || filter.connectionId ? 'JOIN arrivals a ON a.id = t.rowid' : ''}
				 WHERE arrivals_text MATCH :words ${before ? 'AND t.rowid < :before' : ''}
				 ${filter.state ? 'AND a.state = :state' : ''} ${filter.connectionId ? 'AND a.connection_id = :connectionId' : ''}
				 ORDER BY t.rowid DESC LIMIT ${PAGE + 1}`,
				{
					words: matching(filter.text!, last),
					before: before ?? 0,
					state: filter.state ?? '',
					connectionId: filter.connectionId ?? ''
				}
			);
		// a word that stands in very many is sought whole, which takes no longer however many there are; the same on every page
		const newest = await find('whole');
		const isFull = newest.length > PAGE;
		const found = isFull && !filter.before ? newest : await find(isFull ? 'whole' : 'begins', filter.before);
		where.id = found.map((one) => one.id);
	}
	const rows = (await arrivals.model.findAll({
		where,
		order: [['id', 'DESC']],
		limit: PAGE + 1,
		raw: true
	})) as unknown as ArrivalRow[];
	return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

/** Adds to the count of arrivals that were refused. */
export async function countRefused(
	rows: { connectionId: string; day: string; reason: string; count: number; lastAt: number }[],
	tx: Tx
): Promise<void> {
	const db = await open();
	for (const row of rows)
		await db.query(
			`INSERT INTO refused_arrivals (connection_id, day, reason, count, last_at) VALUES (:connectionId, :day, :reason, :count, :lastAt)
			ON CONFLICT (connection_id, day, reason) DO UPDATE SET count = count + excluded.count, last_at = MAX(last_at, excluded.last_at)`,
			{ replacements: row, transaction: tx }
		);
}

/** How many arrivals there are in each state; kept as they change. */
export async function arrivalCounts(): Promise<Map<string, number>> {
	const rows: { state: string; count: number }[] = await (
		await open()
	).query('SELECT state, count FROM arrival_counts WHERE count > 0', { type: QueryTypes.SELECT });
	return new Map(rows.map((row) => [row.state, row.count]));
}

/** Facts that wait for their payment and are due to be looked for, one for each payment. */
export async function dueWaitingFacts(now: number, limit: number, busy: readonly string[]): Promise<WaitingFactRow[]> {
	const rows = (await waitingFacts.model.findAll({
		where: {
			nextAt: { [Op.lte]: now },
			tries: { [Op.lt]: 8 },
			...(busy.length ? { connectionId: { [Op.notIn]: busy } } : {})
		},
		order: [['nextAt', 'ASC']],
		limit: limit * 4,
		raw: true
	})) as unknown as WaitingFactRow[];
	const seen = new Set<string>();
	return rows
		.filter((row) => {
			const key = `${row.connectionId} ${row.processorId}`;
			return !seen.has(key) && !!seen.add(key);
		})
		.slice(0, limit);
}

/** Arrivals of a span that can be run again, the oldest first. */
export const arrivalsWithin = (
	connectionId: string,
	from: number,
	to: number,
	limit: number
): Promise<{ id: number }[]> =>
	select(
		`SELECT id FROM arrivals WHERE connection_id = ? AND received_at BETWEEN ? AND ? AND state IN ('done', 'stuck', 'retry')
		 ORDER BY received_at, id LIMIT ?`,
		[connectionId, from, to, limit]
	);
