/** Disputes: what the payer says, until when it can be answered, and what was answered. */
export const seventeenth: readonly string[] = [
	`CREATE TABLE disputes (
		payment_id INTEGER PRIMARY KEY REFERENCES payments (id),
		opened_at INTEGER NOT NULL,
		minor INTEGER NOT NULL,
		reason TEXT NOT NULL DEFAULT '',
		answer_by INTEGER,
		text TEXT NOT NULL DEFAULT '',
		answered_at INTEGER,
		answered_by TEXT NOT NULL DEFAULT '',
		way TEXT NOT NULL DEFAULT '',
		answer_key TEXT NOT NULL DEFAULT '',
		outcome TEXT NOT NULL DEFAULT '' CHECK (outcome IN ('', 'won', 'lost', 'accepted')),
		closed_at INTEGER
	)`,
	`CREATE INDEX disputes_outcome ON disputes (outcome, opened_at)`,
	`CREATE INDEX invoice_dues_day ON invoice_dues (day) WHERE open > 0`,
	`CREATE INDEX outbox_payment ON outbox (payment_id) WHERE payment_id IS NOT NULL`,
	`CREATE TABLE dispute_files (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		payment_id INTEGER NOT NULL REFERENCES disputes (payment_id),
		name TEXT NOT NULL,
		type TEXT NOT NULL,
		size INTEGER NOT NULL,
		content TEXT NOT NULL,
		at INTEGER NOT NULL,
		by_user TEXT NOT NULL
	)`,
	`CREATE INDEX dispute_files_of ON dispute_files (payment_id)`,
	// whoever tells it: a notification, an answer, a settlement file
	`CREATE TRIGGER disputes_opened AFTER INSERT ON payment_events
	 WHEN NEW.kind IN ('disputed', 'disputed so far') AND COALESCE(NEW.minor, 1) > 0 BEGIN
		INSERT INTO disputes (payment_id, opened_at, minor) VALUES (NEW.payment_id, NEW.at, COALESCE(NEW.minor, 0))
		ON CONFLICT (payment_id) DO NOTHING;
	END`,
	`CREATE TRIGGER disputes_closed AFTER INSERT ON payment_events WHEN NEW.kind IN ('dispute won', 'dispute lost') BEGIN
		INSERT INTO disputes (payment_id, opened_at, minor) VALUES (NEW.payment_id, NEW.at, COALESCE(NEW.minor, 0))
		ON CONFLICT (payment_id) DO NOTHING;
		UPDATE disputes SET outcome = substr(NEW.kind, 9), closed_at = NEW.at WHERE payment_id = NEW.payment_id;
	END`,
	`INSERT INTO disputes (payment_id, opened_at, minor, outcome, closed_at)
	 SELECT e.payment_id, MIN(e.at), COALESCE(MAX(e.minor), 0),
		CASE WHEN EXISTS (SELECT 1 FROM payment_events x WHERE x.payment_id = e.payment_id AND x.kind = 'dispute lost') THEN 'lost'
			WHEN EXISTS (SELECT 1 FROM payment_events x WHERE x.payment_id = e.payment_id AND x.kind = 'dispute won') THEN 'won' ELSE '' END,
		(SELECT MAX(at) FROM payment_events x WHERE x.payment_id = e.payment_id AND x.kind IN ('dispute won', 'dispute lost'))
	 FROM payment_events e WHERE e.kind IN ('disputed', 'disputed so far') AND COALESCE(e.minor, 1) > 0 GROUP BY e.payment_id`
];
