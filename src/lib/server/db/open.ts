import { AsyncLocalStorage } from 'node:async_hooks';
import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { Sequelize, Transaction } from 'sequelize';
import sqlite3 from 'sqlite3';
import { log } from '../log';
import { migrate } from './migrate';

/** The folder that holds the database and, unless the environment gives it, the sealing key. */
export const dataFolder = (): string => resolve(process.env.JUSTPURSE_DATA ?? 'data/purse');

/** Waits for a lock instead of failing; each connection of the driver is tuned as it opens. */
class TunedDatabase extends sqlite3.Database {
	constructor(file: string, mode?: number, done?: (error: Error | null) => void) {
		super(file, mode, done);
		this.configure('busyTimeout', 10_000);
		this.exec(`PRAGMA cache_size = -${CACHE_KIB}; PRAGMA temp_store = MEMORY`);
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
		const db = sequelize();
		await db.query('PRAGMA journal_mode = WAL');
		await db.query('PRAGMA synchronous = FULL');
		await migrate(db);
		return db;
	} catch (error) {
		// what failed is tried again by whoever asks next
		opened = undefined;
		throw error;
	}
}

export const databaseFile = (): string => join(dataFolder(), 'purse.sqlite');

/** How much of the database a connection keeps in memory, in KiB; SQLite's own 2 MiB read everything again and again. */
const CACHE_KIB = 48_000;

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

/** The instance that models are bound to; nothing is read before `open` has run. */
export function sequelize(): Sequelize {
	if (instance) return instance;
	instance = new Sequelize({
		dialect: 'sqlite',
		storage: databaseFile(),
		// with their values: only where somebody asks for it
		logging: log.isLevelEnabled('trace') ? (sql: string) => log.trace({ sql }, 'statement') : false,
		dialectModule: { ...sqlite3, Database: TunedDatabase },
		transactionType: Transaction.TYPES.IMMEDIATE,
		define: { timestamps: false, underscored: true, freezeTableName: true }
	});
	keepWriter((instance as unknown as { connectionManager: Connections }).connectionManager);
	return instance;
}

/** A transaction under way. */
export type Tx = Transaction;

let last: Promise<unknown> = Promise.resolve();

/**
 * Runs one writing transaction. SQLite has one writer: they queue here, so that no thread of the driver waits for a lock
 * that another waiting thread would have to release.
 */
export function write<T>(act: (tx: Tx) => Promise<T>): Promise<T> {
	// it would wait for the one that it is part of, for ever
	if (writing.getStore()?.isOpen)
		return Promise.reject(new Error('A write was begun inside a write. Pass its transaction on.'));
	return inWriteQueue(async () => {
		const db = await open();
		const mine = { isOpen: true };
		return writing.run(mine, () => db.transaction(act)).finally(() => (mine.isOpen = false));
	});
}
/** Whether what runs now was begun inside a write that is still open. */
const writing = new AsyncLocalStorage<{ isOpen: boolean }>();

/** Takes a turn in the queue of writers. */
export function inWriteQueue<T>(act: () => Promise<T>): Promise<T> {
	const turn = last.then(act);
	last = turn.catch(() => {});
	return turn;
}

/** Ends all connections; for an orderly stop. */
export async function close(): Promise<void> {
	await last.catch(() => {});
	await instance?.close();
}
