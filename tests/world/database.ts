import { join } from 'node:path';
import sqlite3 from 'sqlite3';
import type { World } from './index.ts';

/** Looks into the application's database file from outside. */
export function rows<Row>({ app }: Pick<World, 'app'>, sql: string, parameters: unknown[] = []): Promise<Row[]> {
	return new Promise((resolve, reject) => {
		const db = new sqlite3.Database(join(app.folder, 'purse.sqlite'), sqlite3.OPEN_READONLY, (error) => {
			if (error) return reject(error);
			db.configure('busyTimeout', 5000);
			db.all<Row>(sql, parameters, (wrong, found) => {
				db.close();
				if (wrong) reject(wrong);
				else resolve(found);
			});
		});
	});
}

/** The database file, open for reading and for what a demonstration puts into the past. */
export async function openDatabase({ app }: { app: { folder: string } }) {
	const db = await new Promise<sqlite3.Database>((resolve, reject) => {
		const opened = new sqlite3.Database(join(app.folder, 'purse.sqlite'), (error) =>
			error ? reject(error) : resolve(opened)
		);
		// the application writes one transaction after the other while it takes files in
		opened.configure('busyTimeout', 60_000);
	});
	return {
		rows: <Row>(sql: string, parameters: unknown[] = []) =>
			new Promise<Row[]>((resolve, reject) =>
				db.all<Row>(sql, parameters, (wrong, found) => (wrong ? reject(wrong) : resolve(found)))
			),
		run: (sql: string, parameters: unknown[] = []) =>
			new Promise<void>((resolve, reject) => db.run(sql, parameters, (wrong) => (wrong ? reject(wrong) : resolve()))),
		close: () => new Promise<void>((resolve) => db.close(() => resolve()))
	};
}
