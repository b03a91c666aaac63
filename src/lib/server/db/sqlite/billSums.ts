// Sums of invoices, kept by triggers in the transaction of whatever changes one: by payer, state, till and currency; and what
// is open by the day it is due. All of it can be rebuilt, and a test holds rebuilt equal to kept.

/** What counts: invoices that were approved and stand. */
const counts = (row: string) => `${row}.kind = 'invoice' AND ${row}.approved_at IS NOT NULL`;
const add = (row: string, sign: '' | '-') => `INSERT INTO invoice_sums
	(payer_id, till_id, state, currency, count, total, placed, credited, promised, open)
	SELECT COALESCE(${row}.payer_id, ''), COALESCE(${row}.till_id, ''), ${row}.state, ${row}.currency, ${sign}1, ${sign}${row}.total,
		${sign}${row}.placed, ${sign}${row}.credited, ${sign}${row}.promised, ${sign}${row}.open WHERE ${counts(row)}
	ON CONFLICT (payer_id, till_id, state, currency) DO UPDATE SET count = count + excluded.count, total = total + excluded.total,
		placed = placed + excluded.placed, credited = credited + excluded.credited, promised = promised + excluded.promised,
		open = open + excluded.open`;
const due = (row: string, sign: '' | '-') => `INSERT INTO due_sums (day, currency, count, open)
	SELECT ${row}.day, ${row}.currency, ${sign}1, ${sign}${row}.open WHERE ${row}.open > 0
	ON CONFLICT (day, currency) DO UPDATE SET count = count + excluded.count, open = open + excluded.open`;

export const SUM_TRIGGERS: readonly string[] = [
	`CREATE TABLE invoice_sums (
		payer_id TEXT NOT NULL,
		till_id TEXT NOT NULL,
		state TEXT NOT NULL,
		currency TEXT NOT NULL,
		count INTEGER NOT NULL,
		total INTEGER NOT NULL,
		placed INTEGER NOT NULL,
		credited INTEGER NOT NULL,
		promised INTEGER NOT NULL,
		open INTEGER NOT NULL,
		PRIMARY KEY (payer_id, till_id, state, currency)
	) WITHOUT ROWID`,
	`CREATE TABLE due_sums (
		day TEXT NOT NULL,
		currency TEXT NOT NULL,
		count INTEGER NOT NULL,
		open INTEGER NOT NULL,
		PRIMARY KEY (day, currency)
	) WITHOUT ROWID`,
	`CREATE TRIGGER invoices_added AFTER INSERT ON invoices BEGIN ${add('NEW', '')}; END`,
	`CREATE TRIGGER invoices_changed AFTER UPDATE OF kind, payer_id, till_id, state, currency, total, placed, credited, promised, open, approved_at ON invoices
	 BEGIN ${add('OLD', '-')}; ${add('NEW', '')}; END`,
	`CREATE TRIGGER invoices_removed AFTER DELETE ON invoices BEGIN ${add('OLD', '-')}; END`,
	`CREATE TRIGGER dues_added AFTER INSERT ON invoice_dues BEGIN ${due('NEW', '')}; END`,
	`CREATE TRIGGER dues_changed AFTER UPDATE ON invoice_dues BEGIN ${due('OLD', '-')}; ${due('NEW', '')}; END`,
	`CREATE TRIGGER dues_removed AFTER DELETE ON invoice_dues BEGIN ${due('OLD', '-')}; END`
];

/** Works the kept sums out afresh. */
export const REBUILD_SUMS: readonly string[] = [
	`DELETE FROM invoice_sums`,
	`INSERT INTO invoice_sums (payer_id, till_id, state, currency, count, total, placed, credited, promised, open)
	 SELECT COALESCE(i.payer_id, ''), COALESCE(i.till_id, ''), i.state, i.currency, COUNT(*), SUM(i.total), SUM(i.placed),
		SUM(i.credited), SUM(i.promised), SUM(i.open) FROM invoices i WHERE ${counts('i')} GROUP BY 1, 2, 3, 4`,
	`DELETE FROM due_sums`,
	`INSERT INTO due_sums (day, currency, count, open)
	 SELECT day, currency, COUNT(*), SUM(open) FROM invoice_dues WHERE open > 0 GROUP BY 1, 2`
];
