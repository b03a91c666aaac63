/** What a comparison needs beside captured payments: attempts that were declined, and when a payment was ordered. */
export const fifth: readonly string[] = [
	`ALTER TABLE settlement_files ADD COLUMN declined INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE settled_payments ADD COLUMN ordered_at INTEGER`,
	`CREATE INDEX settled_payments_ordered ON settled_payments (captured_at) WHERE ordered_at IS NOT NULL`,
	`CREATE INDEX settled_payments_disputed ON settled_payments (captured_at) WHERE disputed > 0`,
	`CREATE INDEX settled_payments_refunded ON settled_payments (captured_at) WHERE refunded > 0`,
	`CREATE TABLE declined_attempts (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		file_id INTEGER NOT NULL REFERENCES settlement_files (id),
		processor TEXT NOT NULL,
		processor_id TEXT NOT NULL,
		source TEXT NOT NULL,
		at INTEGER NOT NULL,
		method TEXT NOT NULL,
		currency TEXT NOT NULL,
		minor INTEGER NOT NULL,
		entry TEXT NOT NULL,
		scheme TEXT NOT NULL,
		funding TEXT NOT NULL,
		issuer TEXT NOT NULL,
		fee_currency TEXT NOT NULL,
		fee INTEGER NOT NULL,
		reason TEXT NOT NULL DEFAULT '',
		UNIQUE (processor, processor_id)
	)`,
	`CREATE INDEX declined_attempts_at ON declined_attempts (at)`,
	`CREATE INDEX payment_events_failed ON payment_events (at) WHERE kind = 'failed'`,
	`CREATE INDEX payment_events_disputed ON payment_events (at) WHERE kind = 'disputed'`
];
