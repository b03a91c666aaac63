/** Payloads of arrivals by their words. The text itself stays where it is. */
export const sixteenth: readonly string[] = [
	`CREATE VIRTUAL TABLE arrivals_text USING fts5(body, content='', tokenize='unicode61 remove_diacritics 2')`,
	`INSERT INTO arrivals_text (rowid, body) SELECT id, body FROM arrivals WHERE state IN ('done', 'stuck')`,
	// after the answer, in the write of its work: nobody waits for it
	`CREATE TRIGGER arrivals_text_in AFTER UPDATE OF state ON arrivals
	 WHEN NEW.state IN ('done', 'stuck') AND OLD.state <> NEW.state
		AND NOT EXISTS (SELECT 1 FROM arrivals_text_docsize WHERE id = NEW.id) BEGIN
		INSERT INTO arrivals_text (rowid, body) VALUES (NEW.id, NEW.body);
	END`
];
