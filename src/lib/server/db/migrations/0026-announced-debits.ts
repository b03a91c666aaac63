/** The audit trail is read by person and day. Bank debits that a payer was told of, with sum and day, before they are made. One at a time for an invoice. */
export const twentySixth: readonly string[] = [
	`CREATE INDEX audit_user ON audit (user_name)`,
	`CREATE INDEX audit_at ON audit (at)`,
	`CREATE TABLE announced_debits (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		invoice_id INTEGER NOT NULL REFERENCES invoices (id),
		payer_id TEXT NOT NULL REFERENCES payers (id),
		stored_id INTEGER NOT NULL REFERENCES stored_methods (id),
		currency TEXT NOT NULL,
		minor INTEGER NOT NULL CHECK (minor > 0),
		day TEXT NOT NULL,
		notice_days INTEGER NOT NULL,
		outbox_id INTEGER REFERENCES outbox (id),
		state TEXT NOT NULL CHECK (state IN ('announced', 'made', 'called off', 'not made')),
		order_id INTEGER REFERENCES orders (id),
		begun_at INTEGER,
		payment_id INTEGER REFERENCES payments (id),
		why TEXT NOT NULL DEFAULT '',
		by_user TEXT NOT NULL,
		ended_by TEXT NOT NULL DEFAULT '',
		created_at INTEGER NOT NULL,
		ended_at INTEGER
	)`,
	`CREATE UNIQUE INDEX announced_debits_standing ON announced_debits (invoice_id) WHERE state = 'announced'`,
	`CREATE INDEX announced_debits_state ON announced_debits (state, ended_at)`,
	`CREATE INDEX announced_debits_invoice ON announced_debits (invoice_id)`,
	`CREATE INDEX announced_debits_payer ON announced_debits (payer_id)`,
	`CREATE INDEX announced_debits_stored ON announced_debits (stored_id)`,
	`CREATE INDEX announced_debits_payment ON announced_debits (payment_id) WHERE payment_id IS NOT NULL`,
	`CREATE INDEX announced_debits_order ON announced_debits (order_id) WHERE order_id IS NOT NULL`
];
