/** Cheapest routing: moves that the administrator refuses, and what drafts made of it promised to save. */
export const thirteenth: readonly string[] = [
	`CREATE TABLE refused_moves (
		till_id TEXT NOT NULL REFERENCES tills (id),
		method TEXT NOT NULL,
		currency TEXT NOT NULL,
		connection_id TEXT NOT NULL REFERENCES connections (id),
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL,
		PRIMARY KEY (till_id, method, currency, connection_id)
	) WITHOUT ROWID`,
	`CREATE TABLE promised_moves (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		till_id TEXT NOT NULL REFERENCES tills (id),
		method TEXT NOT NULL,
		currency TEXT NOT NULL,
		from_id TEXT NOT NULL REFERENCES connections (id),
		to_id TEXT NOT NULL REFERENCES connections (id),
		first_day TEXT NOT NULL,
		last_day TEXT NOT NULL,
		saves INTEGER NOT NULL,
		payments INTEGER NOT NULL,
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL
	)`,
	`CREATE INDEX promised_moves_group ON promised_moves (till_id, method, currency, at)`
];
