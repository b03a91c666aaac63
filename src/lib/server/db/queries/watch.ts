import { Op } from 'sequelize';
import { write, type Tx } from '../open';
import { alerts, eventReaders, type AlertRow } from '../tables';
import { PAGE } from './paymentList';
import { select } from './select';

/** What arrived from an hour on, hours without arrivals left out. Hours since 1970. */
export const hoursSince = (
	connectionId: string,
	hour: number
): Promise<{ hour: number; arrived: number; payments: number }[]> =>
	select('SELECT hour, arrived, payments FROM arrival_hours WHERE connection_id = ? AND hour >= ? ORDER BY hour', [
		connectionId,
		hour
	]);

/** When a connection was heard last, and when first after a moment. */
export async function heardAround(
	connectionId: string,
	after: number
): Promise<{ last: number | null; next: number | null; first: number | null }> {
	const [row] = await select<{ last: number | null; next: number | null; first: number | null }>(
		`SELECT (SELECT MAX(received_at) FROM arrivals WHERE connection_id = :id AND done_at IS NOT NULL) AS last,
			(SELECT MIN(received_at) FROM arrivals WHERE connection_id = :id AND done_at IS NOT NULL AND received_at > :after) AS next,
			(SELECT MIN(received_at) FROM arrivals WHERE connection_id = :id AND done_at IS NOT NULL) AS first`,
		{ id: connectionId, after }
	);
	return row!;
}

/** Delays of the last arrivals of a connection that say when they happened, in milliseconds. */
export const lastDelays = async (connectionId: string, limit: number): Promise<number[]> =>
	(
		await select<{ delay: number }>(
			`SELECT received_at - happened_at AS delay FROM (SELECT received_at, happened_at FROM arrivals
			 WHERE connection_id = ? AND done_at IS NOT NULL ORDER BY received_at DESC LIMIT ?) WHERE happened_at IS NOT NULL`,
			[connectionId, limit]
		)
	).map((one) => Math.max(0, one.delay));

/** Payments of a connection that it may have told something of in a span: made in it, or open then. */
export const paymentsToAsk = (
	connectionId: string,
	from: number,
	to: number,
	limit: number
): Promise<{ id: number }[]> =>
	select(
		`SELECT id FROM payments WHERE processor_id IS NOT NULL AND processor_id <> '' AND id IN (
			SELECT id FROM payments WHERE connection_id = :id AND created_at BETWEEN :from AND :to
			UNION SELECT id FROM payments WHERE connection_id = :id AND captured_at BETWEEN :from AND :to
			UNION SELECT id FROM payments WHERE connection_id = :id AND origin <> 'file' AND created_at < :to
				AND stage IN ('requested', 'pending', 'authorised', 'disputed'))
		 ORDER BY id LIMIT :limit`,
		{ id: connectionId, from, to, limit }
	);

/** Payments that wait for an answer for longer than a moment, the longest first; each with how many there are in all. */
export const waitingSince = (
	connectionId: string,
	method: string,
	before: number,
	limit: number
): Promise<
	{
		id: number;
		reference: string;
		method: string;
		minor: number;
		currency: string;
		createdAt: number;
		stage: string;
		inAll: number;
	}[]
> =>
	select(
		`SELECT id, reference, method, minor, currency, created_at AS createdAt, stage, COUNT(*) OVER () AS inAll FROM payments
		 WHERE connection_id = ? AND method = ? AND mode = 'live' AND open = 1 AND taken = 0 AND origin <> 'file' AND stage IN ('requested', 'pending')
			AND processor_id IS NOT NULL AND processor_id <> '' AND created_at < ? ORDER BY created_at LIMIT ?`,
		[connectionId, method, before, limit]
	);

/** How long the last payments of a connection and method took from order to money, in milliseconds. */
export const answerTimes = async (connectionId: string, method: string, limit: number): Promise<number[]> =>
	(
		await select<{ took: number }>(
			`SELECT captured_at - created_at AS took FROM payments WHERE connection_id = ? AND method = ? AND origin <> 'file'
			 AND captured_at IS NOT NULL AND captured_at >= created_at ORDER BY id DESC LIMIT ?`,
			[connectionId, method, limit]
		)
	).map((one) => one.took);

/** Methods by which payments of a connection wait. */
export const waitingMethods = async (connectionId: string): Promise<string[]> =>
	(
		await select<{ method: string }>(
			// those that wait are few, however many a connection has carried
			`SELECT DISTINCT method FROM payments INDEXED BY payments_awaited WHERE stage IN ('requested', 'pending') AND origin <> 'file'
			 AND connection_id IS NOT NULL AND connection_id = ? AND mode = 'live' AND open = 1 AND taken = 0`,
			[connectionId]
		)
	).map((one) => one.method);

/** Alerts that are closed, the latest first, a page at a time. */
export async function closedAlerts({
	before,
	limit = PAGE
}: {
	/** the last one of the page before: many are settled at the same moment */
	readonly before?: { readonly closedAt: number; readonly id: number };
	readonly limit?: number;
}): Promise<{ rows: AlertRow[]; more: boolean }> {
	const rows = (await alerts.model.findAll({
		where: before
			? {
					[Op.or]: [
						{ closedAt: { [Op.lt]: before.closedAt } },
						{ closedAt: before.closedAt, id: { [Op.lt]: before.id } }
					]
				}
			: { closedAt: { [Op.ne]: null } },
		order: [
			['closedAt', 'DESC'],
			['id', 'DESC']
		],
		limit: limit + 1,
		raw: true
	})) as unknown as AlertRow[];
	return { rows: rows.slice(0, limit), more: rows.length > limit };
}

/** How many alerts were settled after a moment. */
export const countClosedSince = (moment: number): Promise<number> =>
	alerts.model.count({ where: { closedAt: { [Op.gt]: moment } } });

/** Who changed one of these things last since a moment, by the trail. */
export async function lastChangeOf(ids: readonly string[], since: number, tx?: Tx): Promise<string | undefined> {
	if (!ids.length) return undefined;
	const [row] = await select<{ by: string }>(
		`SELECT user_name AS by FROM audit WHERE at >= ? AND object_id IN (${ids.map(() => '?').join(', ')}) AND user_name <> 'itself'
		 ORDER BY id DESC LIMIT 1`,
		[since, ...ids],
		tx
	);
	return row?.by;
}

/** What falls due on the days from one to another, by currency. */
export const duesWithin = (from: string, to: string): Promise<{ currency: string; count: number; minor: number }[]> =>
	select(
		`SELECT i.currency, COUNT(*) AS count, SUM(d.open) AS minor FROM invoice_dues d JOIN invoices i ON i.id = d.invoice_id
		 WHERE d.day BETWEEN ? AND ? AND d.open > 0 GROUP BY 1 ORDER BY 2 DESC`,
		[from, to]
	);

/** Whether the database takes a write within so many milliseconds. */
export async function canWrite(ms = 5_000): Promise<boolean> {
	const written = write(async (tx) => {
		const done = Date.now();
		if (!(await eventReaders.update({ name: 'health' }, { done }, tx)))
			await eventReaders.insert({ name: 'health', done }, tx);
		return true;
	}).catch(() => false);
	let timer: NodeJS.Timeout | undefined;
	const late = new Promise<boolean>((next) => (timer = setTimeout(() => next(false), ms)));
	return Promise.race([written, late]).finally(() => clearTimeout(timer));
}
