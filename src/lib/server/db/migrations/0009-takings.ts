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
