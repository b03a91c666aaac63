/** What accepting needs: payers and groups, pauses everywhere, templates, trial payments, tokens; and packed past payments. */
export const fourth: readonly string[] = [
	`ALTER TABLE rate_cards ADD COLUMN confirmed_at INTEGER`,
	`ALTER TABLE rate_cards ADD COLUMN confirmed_by TEXT NOT NULL DEFAULT ''`,
	// a calendar month (UTC) of settled payments as columns; rebuilt from the payments where the columns are missing
	`CREATE TABLE packed_months (
		month TEXT PRIMARY KEY,
		count INTEGER NOT NULL DEFAULT 0,
		kinds TEXT NOT NULL DEFAULT '[]',
		columns BLOB
	)`,
	`INSERT INTO packed_months (month) SELECT DISTINCT strftime('%Y-%m', captured_at / 1000, 'unixepoch') FROM settled_payments`,
	`CREATE INDEX payments_captured ON payments (captured_at) WHERE captured_at IS NOT NULL`,
	`ALTER TABLE tills ADD COLUMN brand_id TEXT`,
	`ALTER TABLE tills ADD COLUMN settings TEXT NOT NULL DEFAULT '{}'`,
	`ALTER TABLE checkouts ADD COLUMN more TEXT NOT NULL DEFAULT '{}'`,
	`ALTER TABLE payments ADD COLUMN details TEXT NOT NULL DEFAULT '{}'`,
	`ALTER TABLE payments ADD COLUMN trial_id TEXT`,
	`CREATE TABLE payer_groups (
		id TEXT PRIMARY KEY,
		name TEXT NOT NULL UNIQUE,
		created_at INTEGER NOT NULL
	)`,
	`CREATE TABLE payers (
		id TEXT PRIMARY KEY,
		name TEXT NOT NULL,
		mail TEXT NOT NULL UNIQUE,
		country TEXT NOT NULL DEFAULT '',
		online_method INTEGER,
		created_at INTEGER NOT NULL
	)`,
	`CREATE INDEX payers_name ON payers (name, id)`,
	`CREATE TABLE payer_memberships (
		payer_id TEXT NOT NULL REFERENCES payers (id) ON DELETE CASCADE,
		group_id TEXT NOT NULL REFERENCES payer_groups (id) ON DELETE CASCADE,
		PRIMARY KEY (payer_id, group_id)
	)`,
	`CREATE TABLE pauses (
		id TEXT PRIMARY KEY,
		kind TEXT NOT NULL CHECK (kind IN ('connection', 'method', 'scheme', 'currency')),
		value TEXT NOT NULL,
		until INTEGER,
		reason TEXT NOT NULL DEFAULT '',
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL,
		ended_at INTEGER
	)`,
	`CREATE UNIQUE INDEX pauses_once ON pauses (kind, value) WHERE ended_at IS NULL`,
	`CREATE TABLE lineup_templates (
		id TEXT PRIMARY KEY,
		name TEXT NOT NULL UNIQUE,
		offers TEXT NOT NULL,
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL
	)`,
	`CREATE TABLE trials (
		id TEXT PRIMARY KEY,
		till_id TEXT NOT NULL REFERENCES tills (id),
		version_id INTEGER NOT NULL,
		state TEXT NOT NULL,
		revision INTEGER NOT NULL,
		offers TEXT NOT NULL,
		outcome TEXT NOT NULL,
		query TEXT NOT NULL,
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL,
		payment_id INTEGER
	)`,
	`CREATE INDEX trials_till ON trials (till_id, at)`,
	`CREATE TABLE tokens (
		id TEXT PRIMARY KEY,
		name TEXT NOT NULL,
		hash TEXT NOT NULL UNIQUE,
		last4 TEXT NOT NULL,
		by_user TEXT NOT NULL,
		created_at INTEGER NOT NULL,
		used_at INTEGER,
		revoked_at INTEGER
	)`
];
