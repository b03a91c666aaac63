import { FEE_TRIGGERS, FILL_FEES } from '../sqlite/feeMonths';

/** Lists are looked through in the index alone: twelve thousand payments of a page are never fetched to see whether they fit. */
const LISTED: readonly [name: string, columns: string][] = [
	['payments_newest', 'created_at, id, day, stage, currency, kind_id, minor, trial_id'],
	['payments_day', 'day, created_at, id, stage, currency, kind_id, minor, trial_id, till_id, method, connection_id'],
	['payments_stage', 'stage, created_at, id, day, currency, kind_id, minor, trial_id'],
	['payments_method', 'method, created_at, id, day, stage, currency, kind_id, minor, trial_id'],
	['payments_till', 'till_id, created_at, id, day, stage, currency, kind_id, minor, trial_id, method'],
	[
		'payments_connection',
		'connection_id, created_at, id, day, stage, currency, kind_id, minor, trial_id, method, till_id'
	]
];

/** Fees by month, and the fee check: what differs, why, and what became of it. */
export const twelfth: readonly string[] = [
	...LISTED.flatMap(([name, columns]) => [`DROP INDEX ${name}`, `CREATE INDEX ${name} ON payments (${columns})`]),
	`CREATE TABLE fee_months (
		month TEXT NOT NULL,
		carrier TEXT NOT NULL,
		till_id TEXT NOT NULL,
		kind_id INTEGER NOT NULL,
		currency TEXT NOT NULL,
		count INTEGER NOT NULL,
		gross INTEGER NOT NULL,
		fee INTEGER NOT NULL,
		told INTEGER NOT NULL,
		expected INTEGER NOT NULL,
		priced INTEGER NOT NULL,
		difference INTEGER NOT NULL,
		differing INTEGER NOT NULL,
		PRIMARY KEY (month, carrier, till_id, kind_id, currency)
	) WITHOUT ROWID`,
	`CREATE TABLE fee_checks_due (connection_id TEXT NOT NULL, kind_id INTEGER NOT NULL, revision INTEGER NOT NULL DEFAULT 1,
		PRIMARY KEY (connection_id, kind_id)) WITHOUT ROWID`,
	`CREATE INDEX payments_differing ON payments (connection_id, kind_id, captured_at) WHERE fee_difference <> 0`,
	`CREATE TABLE discrepancies (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		sign TEXT NOT NULL,
		n INTEGER NOT NULL,
		connection_id TEXT NOT NULL REFERENCES connections (id),
		cause TEXT NOT NULL,
		parameter TEXT NOT NULL,
		rate_card_id INTEGER,
		currency TEXT NOT NULL,
		first_day TEXT NOT NULL DEFAULT '',
		last_day TEXT NOT NULL DEFAULT '',
		count INTEGER NOT NULL DEFAULT 0,
		over INTEGER NOT NULL DEFAULT 0,
		under INTEGER NOT NULL DEFAULT 0,
		corrected INTEGER NOT NULL DEFAULT 0,
		state TEXT NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'sent', 'agreed', 'settled', 'accepted')),
		state_at INTEGER NOT NULL,
		found_at INTEGER NOT NULL,
		UNIQUE (sign, n)
	)`,
	`CREATE INDEX discrepancies_state ON discrepancies (state, id)`,
	`CREATE TABLE discrepancy_payments (
		discrepancy_id INTEGER NOT NULL REFERENCES discrepancies (id),
		payment_id INTEGER NOT NULL REFERENCES payments (id),
		kind_id INTEGER NOT NULL,
		day TEXT NOT NULL,
		expected INTEGER NOT NULL,
		charged INTEGER NOT NULL,
		corrected INTEGER NOT NULL DEFAULT 0,
		PRIMARY KEY (discrepancy_id, payment_id)
	) WITHOUT ROWID`,
	`CREATE INDEX discrepancy_payments_payment ON discrepancy_payments (payment_id)`,
	`CREATE TABLE discrepancy_notes (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		discrepancy_id INTEGER NOT NULL REFERENCES discrepancies (id),
		at INTEGER NOT NULL,
		by_user TEXT NOT NULL,
		act TEXT NOT NULL,
		text TEXT NOT NULL DEFAULT ''
	)`,
	`CREATE INDEX discrepancy_notes_of ON discrepancy_notes (discrepancy_id, id)`,
	`CREATE TABLE discrepancy_adjustments (
		charge_id INTEGER PRIMARY KEY REFERENCES account_charges (id),
		discrepancy_id INTEGER NOT NULL REFERENCES discrepancies (id),
		minor INTEGER NOT NULL
	)`,
	`CREATE INDEX discrepancy_adjustments_of ON discrepancy_adjustments (discrepancy_id)`,
	...FEE_TRIGGERS,
	...FILL_FEES,
	// what was moved to an account after its contract was confirmed was never priced by it
	`INSERT INTO repricings (connection_id, month, after) SELECT DISTINCT p.connection_id, substr(p.account_day, 1, 7), 0
	 FROM payments p JOIN rate_cards r ON r.connection_id = p.connection_id AND r.role = 'contract' AND r.valid_from <= p.account_day
	 WHERE p.expected_fee IS NULL AND p.taken > 0 AND p.account_day IS NOT NULL
	 ON CONFLICT (connection_id, month) DO UPDATE SET after = 0`,
	`INSERT OR IGNORE INTO fee_checks_due (connection_id, kind_id) SELECT DISTINCT connection_id, kind_id FROM payments
	 WHERE fee_difference <> 0 AND mode = 'live' AND connection_id IS NOT NULL`
];
