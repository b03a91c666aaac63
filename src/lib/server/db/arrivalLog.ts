import sqlite3 from 'sqlite3';
import { databaseFile, inWriteQueue, open } from './open';

/** An arrival as it is stored, before any work on it. */
export interface NewArrival {
	readonly connectionId: string;
	readonly eventId: string;
	readonly receivedAt: number;
	readonly headers: string;
	readonly body: string;
	readonly checks: string;
	readonly state: 'stored' | 'unconfirmed';
}

interface Waiting {
	readonly arrival: NewArrival;
	readonly done: (stored: boolean) => void;
	readonly failed: (error: unknown) => void;
}

const GROUP = 200;
const COLUMNS = 7;

/**
 * Stores arrivals durably. A commit costs a disk flush, so those that come together are committed together, in one
 * statement on a connection of its own, and answered after.
 */
export class ArrivalLog {
	private waiting: Waiting[] = [];
	private running = false;
	private connection: Promise<sqlite3.Database> | undefined;
	private readonly statements = new Map<number, sqlite3.Statement>();

	/**
	 * @param gatherMs how long to wait for company before a commit, in milliseconds
	 * @param unconfirmedAtMost how many arrivals of one connection may wait to be confirmed
	 * @param onDouble is told of each that was there already
	 * @param onStored is told of each group that was stored
	 */
	constructor(
		private readonly gatherMs: number,
		private readonly unconfirmedAtMost: number,
		private readonly onDouble: (connectionId: string, at: number) => void = () => {},
		private readonly onStored: () => void = () => {}
	) {}

	/**
	 * @returns once it is on disk; a connection's event that is there already is left as it is. False, and nothing is stored,
	 * where too many of this connection wait to be confirmed.
	 */
	store(arrival: NewArrival): Promise<boolean> {
		return new Promise((done, failed) => {
			this.waiting.push({ arrival, done, failed });
			if (!this.running) void this.run();
		});
	}

	private async run(): Promise<void> {
		this.running = true;
		if (this.gatherMs > 0) await new Promise((next) => setTimeout(next, this.gatherMs));
		else await new Promise((next) => setImmediate(next));
		while (this.waiting.length) {
			const group = this.waiting.splice(0, GROUP);
			try {
				const kept = await inWriteQueue(async () => {
					const fitting = await this.withinBounds(group);
					if (fitting.length) await this.insert(fitting.map((one) => one.arrival));
					return new Set(fitting);
				});
				for (const one of group) one.done(kept.has(one));
				if (kept.size) this.onStored();
			} catch (error) {
				for (const one of group) one.failed(error);
			}
		}
		this.running = false;
	}

	private open(): Promise<sqlite3.Database> {
		this.connection ??= open().then(
			() =>
				new Promise((done, failed) => {
					const db = new sqlite3.Database(databaseFile(), (error) => {
						if (error) return failed(error);
						db.configure('busyTimeout', 10_000);
						// see `keepCheckpointing`
						db.exec('PRAGMA wal_autocheckpoint = 0');
						// connections are never deleted, so there is no reference to look up with every row
						db.exec('PRAGMA synchronous = FULL; PRAGMA foreign_keys = OFF', (wrong) =>
							wrong ? failed(wrong) : done(db)
						);
					});
				})
		);
		// what failed is tried again by the next that comes
		this.connection.catch(() => (this.connection = undefined));
		return this.connection;
	}

	/** How many arrivals of a connection wait to be confirmed at most: as last counted, and all that came since. */
	private readonly unconfirmed = new Map<string, number>();

	/**
	 * What may be stored of a group. Counted where it is written, by the one writer there is: whoever counts earlier counts
	 * without those that come meanwhile. Only new ones make them more, so they are counted again only where it may be full.
	 */
	private async withinBounds(group: readonly Waiting[]): Promise<Waiting[]> {
		const full = new Set<string>();
		const fitting: Waiting[] = [];
		for (const one of group) {
			const { connectionId, state } = one.arrival;
			if (state === 'unconfirmed') {
				if (full.has(connectionId)) continue;
				let held = this.unconfirmed.get(connectionId) ?? Infinity;
				if (held >= this.unconfirmedAtMost) {
					// those of this group are not stored yet
					const mine = fitting.filter(({ arrival }) => isUnconfirmedOf(arrival, connectionId)).length;
					held = mine + (await this.countUnconfirmed(connectionId));
				}
				this.unconfirmed.set(connectionId, held + 1);
				if (held >= this.unconfirmedAtMost) {
					full.add(connectionId);
					continue;
				}
			}
			fitting.push(one);
		}
		return fitting;
	}

	private async countUnconfirmed(connectionId: string): Promise<number> {
		const db = await this.open();
		return new Promise((done, failed) =>
			db.get<{ n: number }>(
				`SELECT COUNT(*) AS n FROM arrivals WHERE state = 'unconfirmed' AND connection_id = ?`,
				[connectionId],
				(error, row) => (error ? failed(error) : done(row?.n ?? 0))
			)
		);
	}

	private async insert(rows: readonly NewArrival[]): Promise<void> {
		const stored = await this.insertNew(rows);
		if (stored < rows.length) await this.tellDoubles(rows);
	}

	/** Events that were there already: told apart only where there are any. */
	private async tellDoubles(rows: readonly NewArrival[]): Promise<void> {
		const db = await this.open();
		const seen = new Set<string>();
		for (const row of rows) {
			const key = `${row.connectionId} ${row.eventId}`;
			const kept = await new Promise<number | undefined>((done, failed) =>
				db.get<{ at: number }>(
					'SELECT received_at AS at FROM arrivals WHERE connection_id = ? AND event_id = ?',
					[row.connectionId, row.eventId],
					(error, found) => (error ? failed(error) : done(found?.at))
				)
			);
			if (seen.has(key) || kept !== row.receivedAt) this.onDouble(row.connectionId, row.receivedAt);
			seen.add(key);
		}
	}

	private async insertNew(rows: readonly NewArrival[]): Promise<number> {
		const db = await this.open();
		let statement = this.statements.get(rows.length);
		if (!statement) {
			const values = rows.map(() => `(${'?, '.repeat(COLUMNS - 1)}?)`).join(', ');
			statement = await prepared(
				db,
				`INSERT INTO arrivals (connection_id, event_id, received_at, headers, body, checks, state) VALUES ${values}
				 ON CONFLICT (connection_id, event_id) DO NOTHING`
			);
			this.statements.set(rows.length, statement);
		}
		const given = rows.flatMap((row) => [
			row.connectionId,
			row.eventId,
			row.receivedAt,
			row.headers,
			row.body,
			row.checks,
			row.state
		]);
		return new Promise<number>((done, failed) =>
			statement.run(given, function (error) {
				if (error) failed(error);
				else done(this.changes);
			})
		);
	}
}

const isUnconfirmedOf = (arrival: NewArrival, connectionId: string): boolean =>
	arrival.state === 'unconfirmed' && arrival.connectionId === connectionId;

/** A statement that could not be prepared is no statement: it fails here, and is made anew the next time. */
const prepared = (db: sqlite3.Database, sql: string): Promise<sqlite3.Statement> =>
	new Promise((done, failed) => {
		const made: sqlite3.Statement = db.prepare(sql, (error: Error | null) => (error ? failed(error) : done(made)));
	});
