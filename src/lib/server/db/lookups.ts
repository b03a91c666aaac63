import sqlite3 from 'sqlite3';
import { databaseFile, open } from './open';

let prepared: Promise<sqlite3.Statement> | undefined;

function statement(): Promise<sqlite3.Statement> {
	prepared ??= open().then(
		() =>
			new Promise((done, failed) => {
				const db = new sqlite3.Database(databaseFile(), sqlite3.OPEN_READONLY, (error) => {
					if (error) return failed(error);
					const made: sqlite3.Statement = db.prepare(
						'SELECT 1 AS known FROM checkouts WHERE till_id = ? AND sign = ?',
						(wrong: Error | null) => (wrong ? failed(wrong) : done(made))
					);
				});
			})
	);
	return prepared;
}

/** Whether anything was begun under a till's address yet. Asked at every visit of a payer, so by a statement that is kept. */
export async function isCheckoutKnown(tillId: string, sign: string): Promise<boolean> {
	const kept = await statement();
	return new Promise((done, failed) =>
		kept.get([tillId, sign], (error: Error | null, row: unknown) => (error ? failed(error) : done(row !== undefined)))
	);
}
