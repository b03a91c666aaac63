/** What is owed is listed and added up from one index: very many overdue invoices are never fetched one by one. */
export const eleventh: readonly string[] = [
	`DROP INDEX invoices_owed`,
	`CREATE INDEX invoices_owed ON invoices (next_due, id, kind, state, currency, approved_at, total, placed, credited, promised, open)
	 WHERE open > 0`
];
