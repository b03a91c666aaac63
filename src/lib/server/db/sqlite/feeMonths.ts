// Fees by calendar month and by day of the account, kept by triggers in the transaction that changes a payment; and what of a connection
// and a kind the fee check must look at again.

/** Where sums are kept: what a sum is of, as a column and as an expression of a payment's day. */
const KEPT = {
	months: { table: 'fee_months', column: 'month', of: (row: string) => `substr(${row}.account_day, 1, 7)` },
	days: { table: 'fee_days', column: 'day', of: (row: string) => `${row}.account_day` }
};
type Kept = keyof typeof KEPT;

const intoSums = (kept: Kept) =>
	`INSERT INTO ${KEPT[kept].table} (${KEPT[kept].column}, carrier, till_id, kind_id, currency, count, gross, fee, told, expected, priced, difference, differing)`;
const addUp = (kept: Kept) =>
	`ON CONFLICT (${KEPT[kept].column}, carrier, till_id, kind_id, currency) DO UPDATE SET count = count + excluded.count, gross = gross + excluded.gross,
		fee = fee + excluded.fee, told = told + excluded.told, expected = expected + excluded.expected, priced = priced + excluded.priced,
		difference = difference + excluded.difference, differing = differing + excluded.differing`;

const addFees = (kept: Kept, row: string, sign: '' | '-') => `
	${intoSums(kept)}
	SELECT ${KEPT[kept].of(row)}, ${row}.connection_id, COALESCE(${row}.till_id, ''), ${row}.kind_id, ${row}.fee_currency, ${sign}1,
		${sign}COALESCE(${row}.base_minor, 0), ${sign}COALESCE(${row}.charged_fee, ${row}.expected_fee, 0), ${sign}(${row}.charged_fee IS NOT NULL),
		${sign}COALESCE(${row}.expected_fee, 0), ${sign}(${row}.expected_fee IS NOT NULL), ${sign}COALESCE(${row}.fee_difference, 0),
		${sign}(COALESCE(${row}.fee_difference, 0) <> 0)
	WHERE ${row}.mode = 'live' AND ${row}.account_day IS NOT NULL AND ${row}.connection_id IS NOT NULL AND ${row}.fee_currency IS NOT NULL AND ${row}.taken > 0
	${addUp(kept)};`;

const COLUMNS =
	'account_day, connection_id, till_id, kind_id, fee_currency, base_minor, charged_fee, expected_fee, fee_difference, taken';
const CHANGED = COLUMNS.split(', ')
	.map((column) => `OLD.${column} IS NOT NEW.${column}`)
	.join(' OR ');

const noteDue = (row: string) => `
	INSERT INTO fee_checks_due (connection_id, kind_id) SELECT ${row}.connection_id, ${row}.kind_id
	WHERE ${row}.connection_id IS NOT NULL AND ${row}.mode = 'live' ON CONFLICT (connection_id, kind_id) DO UPDATE SET revision = revision + 1;`;

const sumTriggers = (kept: Kept, name: string): string[] => [
	// thousands that a file adds at once are counted at once, by `FEES_ADDED`
	`CREATE TRIGGER payments_${name}_added AFTER INSERT ON payments WHEN NEW.origin <> 'file' BEGIN ${addFees(kept, 'NEW', '')} END`,
	`CREATE TRIGGER payments_${name}_moved AFTER UPDATE OF ${COLUMNS} ON payments WHEN ${CHANGED}
	 BEGIN ${addFees(kept, 'OLD', '-')} ${addFees(kept, 'NEW', '')} END`
];
/** The sums by day came later than those by month. */
export const FEE_DAY_TRIGGERS: readonly string[] = sumTriggers('days', 'fee_days');

export const FEE_TRIGGERS: readonly string[] = [
	...sumTriggers('months', 'fees'),
	`CREATE TRIGGER payments_fees_differ AFTER UPDATE OF fee_difference, charged_fee, kind_id, connection_id ON payments
	 WHEN (COALESCE(OLD.fee_difference, 0) <> 0 OR COALESCE(NEW.fee_difference, 0) <> 0) AND (OLD.fee_difference IS NOT NEW.fee_difference
		OR OLD.charged_fee IS NOT NEW.charged_fee OR OLD.kind_id IS NOT NEW.kind_id OR OLD.connection_id IS NOT NEW.connection_id)
	 BEGIN ${noteDue('OLD')} ${noteDue('NEW')} END`,
	`CREATE TRIGGER payments_fees_differ_added AFTER INSERT ON payments WHEN COALESCE(NEW.fee_difference, 0) <> 0 BEGIN ${noteDue('NEW')} END`,
	// what a processor gives back may be the correction that a discrepancy waits for; kind 0 says so
	`CREATE TRIGGER charges_fees_differ AFTER INSERT ON account_charges WHEN NEW.kind = 'adjustment' AND NEW.connection_id IS NOT NULL
	 BEGIN INSERT INTO fee_checks_due (connection_id, kind_id) VALUES (NEW.connection_id, 0)
		ON CONFLICT (connection_id, kind_id) DO UPDATE SET revision = revision + 1; END`
];

const noteAccountDue = (row: string) => `
	INSERT INTO fee_checks_due (connection_id, kind_id) SELECT ${row}.connection_id, 0 WHERE ${row}.connection_id IS NOT NULL
	ON CONFLICT (connection_id, kind_id) DO UPDATE SET revision = revision + 1;`;

/** Charges of an account are looked at again when one comes, when one finds its account, and when a contract changes; kind 0 says so. */
export const CHARGE_TRIGGERS: readonly string[] = [
	`CREATE TRIGGER charges_fees_differ AFTER INSERT ON account_charges BEGIN ${noteAccountDue('NEW')} END`,
	`CREATE TRIGGER charges_fees_moved AFTER UPDATE OF connection_id ON account_charges WHEN OLD.connection_id IS NOT NEW.connection_id
	 BEGIN ${noteAccountDue('NEW')} END`,
	`CREATE TRIGGER charges_contract_added AFTER INSERT ON rate_cards WHEN NEW.role = 'contract' BEGIN ${noteAccountDue('NEW')} END`,
	`CREATE TRIGGER charges_contract_changed AFTER UPDATE OF card, role, valid_from ON rate_cards WHEN NEW.role = 'contract' OR OLD.role = 'contract'
	 BEGIN ${noteAccountDue('NEW')} END`,
	`CREATE TRIGGER charges_contract_gone AFTER DELETE ON rate_cards WHEN OLD.role = 'contract' BEGIN ${noteAccountDue('OLD')} END`
];

const fillFees = (kept: Kept, which: string) =>
	`${intoSums(kept)}
	 SELECT ${KEPT[kept].of('p')}, p.connection_id, COALESCE(p.till_id, ''), p.kind_id, p.fee_currency, COUNT(*), SUM(COALESCE(p.base_minor, 0)),
		SUM(COALESCE(p.charged_fee, p.expected_fee, 0)), SUM(p.charged_fee IS NOT NULL), SUM(COALESCE(p.expected_fee, 0)), SUM(p.expected_fee IS NOT NULL),
		SUM(COALESCE(p.fee_difference, 0)), SUM(COALESCE(p.fee_difference, 0) <> 0)
	 FROM payments p WHERE p.mode = 'live' AND p.account_day IS NOT NULL AND p.connection_id IS NOT NULL AND p.fee_currency IS NOT NULL AND p.taken > 0
		AND ${which} GROUP BY 1, 2, 3, 4, 5
	 ${addUp(kept)}`;

/** Adds what files added after a payment, with one statement each; `$1` is that payment's id. */
export const FEES_ADDED: readonly string[] = [
	fillFees('months', `p.id > $1 AND p.origin = 'file'`),
	fillFees('days', `p.id > $1 AND p.origin = 'file'`)
];
/** Fill the sums from the payments; they are empty before. */
export const FILL_FEES: readonly string[] = [fillFees('months', 'true')];
export const FILL_FEE_DAYS: readonly string[] = [fillFees('days', 'true')];
