/**
 * Lists of payments by day and by the last four of a card, kept views, and the states of an order that stand apart from its
 * payments.
 */
export const ninth: readonly string[] = [
	`CREATE INDEX payments_day ON payments (day, created_at, id)`,
	`CREATE INDEX payments_last4 ON payments (json_extract(card, '$.last4')) WHERE card IS NOT NULL`,
	`CREATE INDEX payments_test ON payments (created_at, id) WHERE mode = 'test'`,
	// what a payer's bank took back was counted as if it were still there
	`UPDATE payments SET disputed = MAX(0, taken - refunded), refundable = 0 WHERE stage = 'returned'`,
	`CREATE INDEX payments_receivable ON payments (created_at, id) WHERE offline_id IS NOT NULL AND stage IN ('requested', 'part received')`,
	`ALTER TABLE tokens ADD COLUMN scopes TEXT NOT NULL DEFAULT '["tills","line-ups","checkouts"]'`,
	`ALTER TABLE tokens ADD COLUMN till_ids TEXT NOT NULL DEFAULT '[]'`,
	`ALTER TABLE tokens ADD COLUMN mode TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE tokens ADD COLUMN expires_at INTEGER`,
	`ALTER TABLE tokens ADD COLUMN old_hash TEXT`,
	`ALTER TABLE tokens ADD COLUMN old_until INTEGER`,
	`CREATE UNIQUE INDEX tokens_old ON tokens (old_hash) WHERE old_hash IS NOT NULL`,
	`CREATE TABLE saved_views (
		id TEXT PRIMARY KEY,
		name TEXT NOT NULL,
		query TEXT NOT NULL,
		by_user TEXT NOT NULL,
		created_at INTEGER NOT NULL
	)`,
	`ALTER TABLE orders ADD COLUMN outside_reference TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE orders ADD COLUMN outside_at INTEGER`,
	`ALTER TABLE orders ADD COLUMN released_at INTEGER`,
	`ALTER TABLE orders ADD COLUMN released_by TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE orders ADD COLUMN completed_at INTEGER`,
	`ALTER TABLE orders ADD COLUMN completed_by TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE orders ADD COLUMN cancelled_at INTEGER`,
	`ALTER TABLE orders ADD COLUMN expires_at INTEGER`,
	`CREATE INDEX orders_outside ON orders (outside_reference) WHERE outside_reference <> ''`,
	`CREATE INDEX orders_till ON orders (till_id, id)`,
	`CREATE INDEX payments_awaited ON payments (stage, created_at) WHERE origin <> 'file' AND connection_id IS NOT NULL`
];
