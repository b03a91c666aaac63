/** Outgoing hooks: who is told of events, what was sent, and every try. */
export const fourteenth: readonly string[] = [
	`CREATE TABLE hook_endpoints (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		address TEXT NOT NULL,
		description TEXT NOT NULL DEFAULT '',
		kinds TEXT NOT NULL,
		state TEXT NOT NULL DEFAULT 'on' CHECK (state IN ('on', 'paused', 'off', 'removed')),
		says TEXT NOT NULL DEFAULT '',
		secret_sealed TEXT NOT NULL,
		old_secret_sealed TEXT,
		old_until INTEGER,
		failing_since INTEGER,
		warned_at INTEGER,
		delivered_at INTEGER,
		created_at INTEGER NOT NULL,
		created_by TEXT NOT NULL
	)`,
	`CREATE TABLE hook_deliveries (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		endpoint_id INTEGER NOT NULL REFERENCES hook_endpoints (id),
		event_id INTEGER NOT NULL REFERENCES events (id),
		kind TEXT NOT NULL,
		state TEXT NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'delivered', 'given up')),
		tries INTEGER NOT NULL DEFAULT 0,
		next_at INTEGER NOT NULL DEFAULT 0,
		says TEXT NOT NULL DEFAULT '',
		done_at INTEGER,
		UNIQUE (endpoint_id, event_id)
	)`,
	`CREATE INDEX hook_deliveries_due ON hook_deliveries (endpoint_id, next_at, id) WHERE state = 'waiting'`,
	`CREATE INDEX hook_deliveries_list ON hook_deliveries (endpoint_id, id)`,
	`CREATE INDEX hook_deliveries_failed ON hook_deliveries (endpoint_id, id) WHERE state = 'given up'`,
	`CREATE TABLE hook_tries (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		delivery_id INTEGER NOT NULL REFERENCES hook_deliveries (id),
		at INTEGER NOT NULL,
		took_ms INTEGER NOT NULL,
		status INTEGER NOT NULL,
		says TEXT NOT NULL
	)`,
	`CREATE INDEX hook_tries_of ON hook_tries (delivery_id, id)`,
	`CREATE INDEX events_at ON events (at)`,
	// what happened before there was anybody to tell is not told
	`INSERT INTO event_readers (name, done) SELECT 'hooks', COALESCE(MAX(id), 0) FROM events`
];
