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
	// what failed is tried again by whoever asks next
	connection.catch(() => (connection = undefined));
	const known = statements.get(sql);
	if (known) return known;
	const made = connection.then(
		(db) =>
			new Promise<sqlite3.Statement>((done, failed) => {
				const one: sqlite3.Statement = db.prepare(sql, (wrong: Error | null) => (wrong ? failed(wrong) : done(one)));
			})
	);
	statements.set(sql, made);
	made.catch(() => statements.delete(sql));
	return made;
}

async function first<Row>(sql: string, parameters: unknown[]): Promise<Row | undefined> {
	const kept = await statement(sql);
	// to its end, though there is one row at most: a statement left standing keeps its view of the data open, and whatever
	// this connection is asked next would be answered from before the latest commit
	return new Promise((done, failed) =>
		kept.all(parameters, (error: Error | null, rows: unknown[]) =>
			error ? failed(error) : done(rows[0] as Row | undefined)
		)
	);
}

/** The order that an address leads to: by its signature, or by the reference at its till. */
export const orderAt = (
	tillId: string,
	reference: string,
	sign: string
): Promise<
	| {
			id: number;
			currency: string;
			minor: number;
			name: string;
			mail: string;
			replaced: number | null;
			paid: number;
			cancelledAt: number | null;
			expiresAt: number | null;
			more: string;
	  }
	| undefined
> =>
	first(
		`SELECT id, currency, minor, name, mail, replaced_by AS replaced, paid, cancelled_at AS cancelledAt, expires_at AS expiresAt, more FROM orders WHERE till_id = ?1 AND sign = ?3
		 UNION ALL SELECT id, currency, minor, name, mail, NULL, paid, cancelled_at, expires_at, more FROM orders WHERE till_id = ?1 AND reference = ?2 AND replaced_by IS NULL
		 LIMIT 1`,
		[tillId, reference, sign]
	);

/** What is known of a payer by mail address: country, whether they have an online method (one that is stored is one), ids of their groups. */
export async function knownPayer(
	mail: string
): Promise<{ country: string; onlineMethod: number | null; groups: string[] } | undefined> {
	const row = await first<{ country: string; onlineMethod: number | null; groups: string | null }>(
		`SELECT country, CASE WHEN EXISTS (SELECT 1 FROM stored_methods s WHERE s.payer_id = payers.id AND s.state = 'active' AND s.mode = 'live') THEN 1 ELSE online_method END AS onlineMethod,
		 (SELECT group_concat(group_id, ' ') FROM payer_memberships WHERE payer_id = payers.id) AS groups
		 FROM payers WHERE mail = ? AND mail <> ''`,
		[mail.trim().toLowerCase()]
	);
	return row && { ...row, groups: row.groups?.split(' ') ?? [] };
}
