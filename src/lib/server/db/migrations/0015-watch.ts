/** What arrived hour by hour, silences, what needs somebody, and how it is told. */
export const fifteenth: readonly string[] = [
	`ALTER TABLE arrivals ADD COLUMN happened_at INTEGER`,
	// counted once per payment, for what is usual; an arrival that is run again is counted once
	`CREATE TABLE arrival_hours (
		connection_id TEXT NOT NULL,
		hour INTEGER NOT NULL,
		arrived INTEGER NOT NULL DEFAULT 0,
		payments INTEGER NOT NULL DEFAULT 0,
		PRIMARY KEY (connection_id, hour)
	) WITHOUT ROWID`,
	`INSERT INTO arrival_hours (connection_id, hour, arrived, payments)
	 SELECT connection_id, received_at / 3600000, COUNT(*), SUM(payment_id IS NOT NULL AND NOT EXISTS (
		SELECT 1 FROM arrivals b WHERE b.payment_id = a.payment_id AND b.id < a.id))
	 FROM arrivals a WHERE state = 'done' GROUP BY 1, 2`,
	`CREATE TRIGGER arrival_hours_done AFTER UPDATE OF done_at ON arrivals WHEN OLD.done_at IS NULL AND NEW.done_at IS NOT NULL BEGIN
		INSERT INTO arrival_hours (connection_id, hour, arrived, payments) VALUES (NEW.connection_id, NEW.received_at / 3600000, 1,
			NEW.payment_id IS NOT NULL AND NOT EXISTS (
				SELECT 1 FROM arrivals b WHERE b.payment_id = NEW.payment_id AND b.id <> NEW.id AND b.done_at IS NOT NULL))
		ON CONFLICT (connection_id, hour) DO UPDATE SET arrived = arrived + 1, payments = payments + excluded.payments;
	END`,
	`CREATE INDEX arrivals_heard ON arrivals (connection_id, received_at) WHERE done_at IS NOT NULL`,
	`CREATE TABLE silences (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		connection_id TEXT NOT NULL REFERENCES connections (id),
		from_at INTEGER NOT NULL,
		to_at INTEGER,
		expected REAL NOT NULL,
		probability REAL NOT NULL,
		found_at INTEGER NOT NULL,
		asked_at INTEGER,
		asked INTEGER NOT NULL DEFAULT 0,
		changed INTEGER NOT NULL DEFAULT 0,
		by_user TEXT NOT NULL DEFAULT '',
		is_dismissed INTEGER NOT NULL DEFAULT 0,
		UNIQUE (connection_id, from_at)
	)`,
	`CREATE TABLE watch_settings (
		id INTEGER PRIMARY KEY CHECK (id = 1),
		false_alerts REAL NOT NULL DEFAULT 0.5,
		rules TEXT NOT NULL DEFAULT '{}'
	)`,
	`CREATE TABLE alerts (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		cause TEXT NOT NULL,
		kind TEXT NOT NULL,
		says TEXT NOT NULL,
		figure TEXT NOT NULL,
		href TEXT NOT NULL,
		act TEXT NOT NULL,
		is_urgent INTEGER NOT NULL DEFAULT 0,
		worth INTEGER NOT NULL DEFAULT 0,
		opened_at INTEGER NOT NULL,
		seen_at INTEGER NOT NULL,
		times INTEGER NOT NULL DEFAULT 1,
		closed_at INTEGER,
		closed_by TEXT NOT NULL DEFAULT '',
		until_at INTEGER,
		until_by TEXT NOT NULL DEFAULT '',
		told_at INTEGER
	)`,
	`CREATE UNIQUE INDEX alerts_open ON alerts (cause) WHERE closed_at IS NULL`,
	`CREATE INDEX alerts_closed ON alerts (closed_at, id) WHERE closed_at IS NOT NULL`
];
