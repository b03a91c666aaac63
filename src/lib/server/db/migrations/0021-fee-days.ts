import { FEE_DAY_TRIGGERS, FILL_FEE_DAYS } from '../sqlite/feeMonths';

/** Fees by day: a period that begins or ends within a month is added up without looking at its payments. */
export const twentyFirst: readonly string[] = [
	`CREATE TABLE fee_days (
		day TEXT NOT NULL,
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
		PRIMARY KEY (day, carrier, till_id, kind_id, currency)
	) WITHOUT ROWID`,
	...FEE_DAY_TRIGGERS,
	...FILL_FEE_DAYS
];
