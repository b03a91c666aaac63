/** What comparing processors needs: past payments as settlement files tell them, and candidates. */
export const third: readonly string[] = [
	`CREATE TABLE settlement_files (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		name TEXT NOT NULL,
		processor TEXT NOT NULL,
		digest TEXT NOT NULL UNIQUE,
		count INTEGER NOT NULL,
		fresh INTEGER NOT NULL,
		taken_at INTEGER NOT NULL,
		by_user TEXT NOT NULL
	)`,
	`CREATE TABLE settled_payments (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		file_id INTEGER NOT NULL REFERENCES settlement_files (id),
		processor TEXT NOT NULL,
		processor_id TEXT NOT NULL,
		source TEXT NOT NULL,
		captured_at INTEGER NOT NULL,
		method TEXT NOT NULL,
		currency TEXT NOT NULL,
		minor INTEGER NOT NULL,
		entry TEXT NOT NULL,
		scheme TEXT NOT NULL,
		funding TEXT NOT NULL,
		issuer TEXT NOT NULL,
		fee_currency TEXT NOT NULL,
		fee INTEGER NOT NULL,
		base INTEGER NOT NULL,
		refunded INTEGER NOT NULL,
		disputed INTEGER NOT NULL,
		UNIQUE (processor, processor_id)
	)`,
	`CREATE INDEX settled_payments_at ON settled_payments (captured_at)`,
	`CREATE TABLE candidates (
		id TEXT PRIMARY KEY,
		name TEXT NOT NULL,
		processor TEXT NOT NULL DEFAULT '',
		methods TEXT NOT NULL,
		currencies TEXT NOT NULL,
		pays_out_days INTEGER NOT NULL DEFAULT 0,
		card TEXT NOT NULL,
		note TEXT NOT NULL DEFAULT '',
		created_at INTEGER NOT NULL,
		removed_at INTEGER
	)`
];
