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
