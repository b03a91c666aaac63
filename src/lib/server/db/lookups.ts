import sqlite3 from 'sqlite3';
import { databaseFile, open } from './open';

// What is asked at every visit of a payer, by statements that are kept on a connection of their own.

let connection: Promise<sqlite3.Database> | undefined;
const statements = new Map<string, Promise<sqlite3.Statement>>();

function statement(sql: string): Promise<sqlite3.Statement> {
	connection ??= open().then(
		() =>
			new Promise((done, failed) => {
				const db = new sqlite3.Database(databaseFile(), sqlite3.OPEN_READONLY, (error) =>
					error ? failed(error) : done(db)
				);
			})
	);
	const known = statements.get(sql);
	if (known) return known;
	const made = connection.then(
		(db) =>
			new Promise<sqlite3.Statement>((done, failed) => {
				const one: sqlite3.Statement = db.prepare(sql, (wrong: Error | null) => (wrong ? failed(wrong) : done(one)));
			})
	);
	statements.set(sql, made);
	return made;
}

async function first<Row>(sql: string, parameters: unknown[]): Promise<Row | undefined> {
	const kept = await statement(sql);
	return new Promise((done, failed) =>
		kept.get(parameters, (error: Error | null, row: unknown) => (error ? failed(error) : done(row as Row | undefined)))
	);
}

/** Whether anything was begun under a till's address yet. */
export const isCheckoutKnown = async (tillId: string, sign: string): Promise<boolean> =>
	(await first('SELECT 1 AS known FROM checkouts WHERE till_id = ? AND sign = ?', [tillId, sign])) !== undefined;

/** What is known of a payer by mail address: country, whether they have an online method, ids of their groups. */
export async function knownPayer(
	mail: string
): Promise<{ country: string; onlineMethod: number | null; groups: string[] } | undefined> {
	const row = await first<{ country: string; onlineMethod: number | null; groups: string | null }>(
		`SELECT country, online_method AS onlineMethod,
		 (SELECT group_concat(group_id, ' ') FROM payer_memberships WHERE payer_id = payers.id) AS groups
		 FROM payers WHERE mail = ?`,
		[mail.trim().toLowerCase()]
	);
	return row && { ...row, groups: row.groups?.split(' ') ?? [] };
}
