/** How many arrivals there are in each state, kept as they change: counting them anew reads every one. */
export const seventh: readonly string[] = [
	`CREATE TABLE arrival_counts (
		state TEXT PRIMARY KEY,
		count INTEGER NOT NULL
	) WITHOUT ROWID`,
	`INSERT INTO arrival_counts (state, count) SELECT state, COUNT(*) FROM arrivals GROUP BY state`,
	`CREATE TRIGGER arrival_counts_in AFTER INSERT ON arrivals BEGIN
		INSERT INTO arrival_counts (state, count) VALUES (NEW.state, 1) ON CONFLICT (state) DO UPDATE SET count = count + 1;
	END`,
	`CREATE TRIGGER arrival_counts_moved AFTER UPDATE OF state ON arrivals WHEN OLD.state <> NEW.state BEGIN
		UPDATE arrival_counts SET count = count - 1 WHERE state = OLD.state;
		INSERT INTO arrival_counts (state, count) VALUES (NEW.state, 1) ON CONFLICT (state) DO UPDATE SET count = count + 1;
	END`,
	`CREATE TRIGGER arrival_counts_out AFTER DELETE ON arrivals BEGIN
		UPDATE arrival_counts SET count = count - 1 WHERE state = OLD.state;
	END`
];
