/**
 * Payments that are being given another till or account, a few thousand at a time; and a text sealed at the first start, by
 * which a lost key is found.
 */
export const eighth: readonly string[] = [
	`CREATE TABLE payment_moves (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		kind TEXT NOT NULL CHECK (kind IN ('till', 'account')),
		source TEXT NOT NULL DEFAULT '',
		processor TEXT NOT NULL DEFAULT '',
		till_id TEXT,
		connection_id TEXT,
		account_id TEXT NOT NULL DEFAULT '',
		done_to INTEGER NOT NULL DEFAULT 0,
		last INTEGER NOT NULL
	)`,
	`CREATE TABLE sealed_canary (
		id INTEGER PRIMARY KEY CHECK (id = 1),
		sealed TEXT NOT NULL
	)`
];
