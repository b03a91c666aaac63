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

	/** @param gatherMs how long to wait for company before a commit, in milliseconds */
	constructor(private readonly gatherMs: number) {}

	/** @returns once it is on disk; a connection's event that is there already is left as it is */
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
				await inWriteQueue(() => this.insert(group.map((one) => one.arrival)));
				for (const one of group) one.done(true);
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
						// connections are never deleted, so there is no reference to look up with every row
						db.exec('PRAGMA synchronous = FULL; PRAGMA foreign_keys = OFF', (wrong) =>
							wrong ? failed(wrong) : done(db)
						);
					});
				})
		);
		return this.connection;
	}

	private async insert(rows: readonly NewArrival[]): Promise<void> {
		const db = await this.open();
		let statement = this.statements.get(rows.length);
		if (!statement) {
			const values = rows.map(() => `(${'?, '.repeat(COLUMNS - 1)}?)`).join(', ');
			statement = db.prepare(
				`INSERT OR IGNORE INTO arrivals (connection_id, event_id, received_at, headers, body, checks, state) VALUES ${values}`
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
		await new Promise<void>((done, failed) => statement.run(given, (error) => (error ? failed(error) : done())));
	}
}
