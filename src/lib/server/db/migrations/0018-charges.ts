import { CHARGE_TRIGGERS } from '../sqlite/feeMonths';

/** Charges of an account in the fee check: what differs of months, payouts, refunds and disputes. */
export const eighteenth: readonly string[] = [
	`CREATE TABLE discrepancy_charges (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		discrepancy_id INTEGER NOT NULL REFERENCES discrepancies (id),
		key TEXT NOT NULL,
		charge_id INTEGER REFERENCES account_charges (id),
		day TEXT NOT NULL,
		expected INTEGER NOT NULL,
		charged INTEGER NOT NULL,
		UNIQUE (discrepancy_id, key)
	)`,
	`CREATE INDEX account_charges_of ON account_charges (connection_id, kind)`,
	`CREATE INDEX discrepancies_of ON discrepancies (connection_id, state)`,
	`DROP TRIGGER charges_fees_differ`,
	...CHARGE_TRIGGERS,
	`INSERT INTO fee_checks_due (connection_id, kind_id) SELECT DISTINCT connection_id, 0 FROM account_charges WHERE connection_id IS NOT NULL
	 ON CONFLICT (connection_id, kind_id) DO UPDATE SET revision = revision + 1`
];
