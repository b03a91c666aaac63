import { AsyncLocalStorage, AsyncResource } from 'node:async_hooks';
import { chmodSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { QueryTypes, Sequelize, Transaction } from 'sequelize';
import sqlite3 from 'sqlite3';
import { log } from '../log';
import { migrate } from './migrate';

/** The folder that holds the database and, unless the environment gives it, the sealing key. */
export const dataFolder = (): string => resolve(process.env.JUSTPURSE_DATA ?? 'data/purse');

/**
 * How much of the database a connection keeps in memory, in KiB. SQLite's own 2 MiB read everything again and again; what
 * carries the log over keeps nothing, and long reads go through most of it once.
 */
const CACHE_KIB = { reads: 48_000, longReads: 12_000, checkpoints: 2_000 };

/** Waits for a lock instead of failing; each connection of the driver is tuned as it opens. */
class TunedDatabase extends sqlite3.Database {
	protected get use(): keyof typeof CACHE_KIB {
		return 'reads';
	}

	constructor(file: string, mode?: number, done?: (error: Error | null) => void) {
		super(file, mode, done);
		this.configure('busyTimeout', 10_000);
		this.exec(
			`PRAGMA cache_size = -${CACHE_KIB[this.use]}; PRAGMA temp_store = MEMORY; PRAGMA wal_autocheckpoint = 0`,
			// whoever sends the next statement is told of what is wrong; told to nobody it would end the process
			(error) => error && log.warn({ error: String(error) }, 'a connection was not tuned')
		);
	}

	/**
	 * Sequelize asks, in backticks, for the types of a table's columns before each read of it. Rows are read raw here and need none, so the
	 * question is answered without the database, and a read goes to it once.
	 */
	override all(sql: string, ...rest: unknown[]): this {
		if (!sql.startsWith('PRAGMA table_info(`')) return super.all(sql, ...(rest as [])) as this;
		queueMicrotask(() => (rest.at(-1) as (error: null, rows: []) => void)(null, []));
		return this;
	}
}

class LongReader extends TunedDatabase {
	protected override get use() {
		return 'longReads' as const;
	}
}

class Checkpointer extends TunedDatabase {
	protected override get use() {
		return 'checkpoints' as const;
	}
}

let opened: Promise<Sequelize> | undefined;
let instance: Sequelize | undefined;

/** Opens the database once, brings its schema up to date, and keeps it open. */
export function open(): Promise<Sequelize> {
	opened ??= opening();
	return opened;
}

async function opening(): Promise<Sequelize> {
	try {
		const folder = dataFolder();
		mkdirSync(folder, { recursive: true, mode: 0o700 });
		keepPrivate(folder);
		await probe();
		const db = sequelize();
		await db.query('PRAGMA journal_mode = WAL');
		keepPrivate(folder);
		await db.query('PRAGMA synchronous = FULL');
		await migrate(db);
		keepCheckpointing();
		return db;
	} catch (error) {
		// what failed is tried again by whoever asks next
		opened = undefined;
		throw error;
	}
}

/** How long a start waits for another process to let go of the database. */
const PROBE_MS = 5_000;

/** Whether the database can be written, told within seconds: later every statement would wait and try again for minutes. */
function probe(): Promise<void> {
	return new Promise((done, failed) => {
		const db = new sqlite3.Database(databaseFile(), (error) => error && failed(error));
		db.configure('busyTimeout', PROBE_MS);
		db.exec('BEGIN IMMEDIATE; ROLLBACK', (error) => db.close(() => (error ? failed(error) : done())));
	});
}

/** Nobody but the account that runs the server reads the folder, or what lies in it. */
function keepPrivate(folder: string): void {
	if (process.platform === 'win32') return;
	if (statSync(folder).mode & 0o077) chmodSync(folder, 0o700);
	for (const name of readdirSync(folder, { withFileTypes: true }))
		if (name.isFile() && statSync(join(folder, name.name)).mode & 0o077) chmodSync(join(folder, name.name), 0o600);
}

/** Why the database could not be opened, and what to do, in sentences for whoever starts the server. */
export function sayStartTrouble(error: unknown): string {
	const { message = String(error), code = '' } = error as { message?: string; code?: string };
	const file = databaseFile();
	if (/SQLITE_(CORRUPT|NOTADB)/.test(message))
		return `The database ${file} is damaged. Keep a copy of it as it is, put the latest backup in its place, and start again.`;
	if (/SQLITE_READONLY|EROFS|SQLITE_CANTOPEN|EACCES|EPERM/.test(`${message} ${code}`))
		return `The database ${file} cannot be written. Give the account that runs the server the right to write to that folder, and start again.`;
	if (/SQLITE_BUSY|SQLITE_LOCKED/.test(message))
		return `The database ${file} is held by another process. Is Just Purse running already? End that process, and start again.`;
	if (/SQLITE_FULL|ENOSPC/.test(`${message} ${code}`))
		return `The disk with ${file} is full. Make room, and start again.`;
	return message;
}

export const databaseFile = (): string => join(dataFolder(), 'purse.sqlite');

interface Connections {
	getConnection(options?: { uuid?: string }): Promise<sqlite3.Database>;
	releaseConnection(connection: sqlite3.Database, force?: boolean): void;
}

/**
 * Gives every transaction the same connection, kept open. Sequelize opens one for each and closes it after, which reads the
 * whole schema every time and forgets what was read. Writers take turns, so that one is enough.
 */
function keepWriter(manager: Connections): void {
	const get = manager.getConnection.bind(manager);
	const release = manager.releaseConnection.bind(manager);
	let writer: Promise<sqlite3.Database> | undefined;
	manager.getConnection = (options = {}) => {
		if (!options.uuid || options.uuid === 'default') return get(options);
		writer ??= get({ ...options, uuid: 'writer' });
		writer.catch(() => (writer = undefined));
		return writer;
	};
	manager.releaseConnection = (connection, force) => {
		if (!force) return;
		// its state is not known: it is closed, and the next transaction opens another
		writer = undefined;
		delete (manager as unknown as { connections: Record<string, unknown> }).connections.writer;
		release(connection, true);
	};
}

const newInstance = (Database: typeof TunedDatabase = TunedDatabase): Sequelize =>
	new Sequelize({
		dialect: 'sqlite',
		storage: databaseFile(),
		// with their values: only where somebody asks for it
		logging: log.isLevelEnabled('trace') ? (sql: string) => log.trace({ sql }, 'statement') : false,
		dialectModule: { ...sqlite3, Database },
		transactionType: Transaction.TYPES.IMMEDIATE,
		define: { timestamps: false, underscored: true, freezeTableName: true }
	});

/** The instance that models are bound to; nothing is read before `open` has run. */
export function sequelize(): Sequelize {
	if (!instance) {
		instance = newInstance();
		keepWriter((instance as unknown as { connectionManager: Connections }).connectionManager);
	}
	return instance;
}

/** A transaction under way. */
export type Tx = Transaction;

/**
 * Runs one writing transaction. SQLite has one writer: they queue here, so that no thread of the driver waits for a lock
 * that another waiting thread would have to release.
 * @param isPatient for work that nobody waits for: whatever else is to be written goes first
 */
export function write<T>(act: (tx: Tx) => Promise<T>, { isPatient = false } = {}): Promise<T> {
	// it would wait for the one that it is part of, for ever
	if (writing.getStore()?.isOpen)
		return Promise.reject(new Error('A write was begun inside a write. Pass its transaction on.'));
	return inWriteQueue(async () => {
		const db = await open();
		const mine = { isOpen: true };
		return writing.run(mine, () => db.transaction(act)).finally(() => (mine.isOpen = false));
	}, isPatient);
}
/** Whether what runs now was begun inside a write that is still open. */
const writing = new AsyncLocalStorage<{ isOpen: boolean }>();

/** Whether anything was written since the log of writes was carried over last. */
let isWritten = true;

const queues = { first: [] as (() => Promise<void>)[], patient: [] as (() => Promise<void>)[] };
/** However many others come, work that waits patiently has its turn after so many of them. */
const TURNS = 50;
let turns = 0;
let isTurning = false;
let idle: Promise<void> = Promise.resolve();

/** Takes a turn in the queue of writers: in order, but that whatever waits patiently lets all others go first. */
export function inWriteQueue<T>(act: () => Promise<T>, isPatient = false): Promise<T> {
	isWritten = true;
	return new Promise<T>((done, failed) => {
		// it goes on as part of what asked for it, whoever had the turn before
		const asked = new AsyncResource('write');
		const turn = async () => {
			try {
				done(await act());
			} catch (error) {
				failed(error);
			}
		};
		queues[isPatient ? 'patient' : 'first'].push(() => asked.runInAsyncScope(turn));
		if (!isTurning) idle = takeTurns();
	});
}

async function takeTurns(): Promise<void> {
	isTurning = true;
	// those that ask at the same moment are all in the queue before the first has its turn
	await Promise.resolve();
	for (;;) {
		const { first, patient } = queues;
		const isLate = turns >= TURNS && patient.length > 0;
		const turn = isLate ? patient.shift() : (first.shift() ?? patient.shift());
		if (!turn) break;
		turns = first.length && !isLate ? turns + 1 : 0;
		await turn();
	}
	isTurning = false;
}

let reader: Sequelize | undefined;
/** A connection for long reads that nobody waits for: what a payer's page asks for does not stand behind them. */
export async function openForLongReads(): Promise<Sequelize> {
	await open();
	reader ??= newInstance(LongReader);
	return reader;
}

/**
 * Reads all of the database and its indexes, on the connection for long reads.
 * @returns what is wrong with it, at most so many things; nothing where it is sound
 */
export async function checkIntegrity(): Promise<string[]> {
	const db = await openForLongReads();
	const rows = (await db.query('PRAGMA integrity_check(5)', { type: QueryTypes.SELECT })) as {
		integrity_check: string;
	}[];
	return rows.map((row) => row.integrity_check).filter((says) => says !== 'ok');
}

/** Ends all connections; for an orderly stop. */
export function close(): Promise<void> {
	closing ??= closeAll();
	return closing;
}
let closing: Promise<void> | undefined;

async function closeAll(): Promise<void> {
	await idle;
	clearInterval(checkpointing);
	await checkpoint?.catch(() => {});
	// what lies in the log of writes is carried over, so that the file alone is the whole database
	if (opened) await runCheckpoint('TRUNCATE').catch(() => {});
	await reader?.close();
	await instance?.close();
}

const CHECKPOINT_MS = 2_000;
/** Beyond this the log of writes is begun anew while nobody writes; until then nobody waits for it. */
const LONGEST_LOG = 256_000_000;
let checkpointing: NodeJS.Timeout | undefined;
let checkpoint: Promise<void> | undefined;
let checkpointer: Promise<sqlite3.Database> | undefined;

/**
 * Carries what was written from the log of writes into the database from time to time, on a connection of its own: the
 * writer that happens to fill the log does not wait for it, as it would by SQLite's own way.
 */
function keepCheckpointing(): void {
	checkpointing = setInterval(() => {
		if (checkpoint || !isWritten) return;
		isWritten = false;
		const size = statSync(`${databaseFile()}-wal`, { throwIfNoEntry: false })?.size ?? 0;
		const run = size > LONGEST_LOG ? inWriteQueue(() => runCheckpoint('TRUNCATE')) : runCheckpoint('PASSIVE');
		checkpoint = run
			.catch((error: unknown) => log.warn({ error: String(error) }, 'no checkpoint'))
			.finally(() => (checkpoint = undefined));
	}, CHECKPOINT_MS);
	checkpointing.unref();
}

async function runCheckpoint(how: 'PASSIVE' | 'TRUNCATE'): Promise<void> {
	checkpointer ??= new Promise((done, failed) => {
		const db = new Checkpointer(databaseFile(), sqlite3.OPEN_READWRITE, (error) => (error ? failed(error) : done(db)));
	});
	const db = await checkpointer;
	await new Promise<void>((done, failed) =>
		db.exec(`PRAGMA wal_checkpoint(${how})`, (error) => (error ? failed(error) : done()))
	);
}
