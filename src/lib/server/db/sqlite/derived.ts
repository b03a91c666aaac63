// What is derived from payments and kept in the very transaction that changes them: sums by day, volumes of tiers, and which
// months must be packed anew. Triggers keep them, so that no path can forget to. Only live payments are money.

const CARRIER = (row: string) => `COALESCE(${row}.connection_id, ${row}.offline_id, NULLIF(${row}.processor, ''), '')`;

const addDay = (row: string, sign: '' | '-') => `
	INSERT INTO day_sums (day, till_id, carrier, method, currency, stage, count, minor, taken, refunded, disputed)
	SELECT ${row}.day, COALESCE(${row}.till_id, ''), ${CARRIER(row)}, ${row}.method, ${row}.currency, ${row}.stage, ${sign}1, ${sign}${row}.minor,
		${sign}${row}.taken, ${sign}${row}.refunded, ${sign}${row}.disputed WHERE ${row}.mode = 'live'
	ON CONFLICT (day, till_id, carrier, method, currency, stage) DO UPDATE SET count = count + excluded.count, minor = minor + excluded.minor,
		taken = taken + excluded.taken, refunded = refunded + excluded.refunded, disputed = disputed + excluded.disputed;`;

const addVolume = (row: string, sign: '' | '-') => `
	INSERT INTO tier_volumes (connection_id, day, count, volume)
	SELECT ${row}.connection_id, ${row}.account_day, ${sign}1, ${sign}COALESCE(${row}.base_minor, 0)
	WHERE ${row}.account_day IS NOT NULL AND ${row}.connection_id IS NOT NULL
	ON CONFLICT (connection_id, day) DO UPDATE SET count = count + excluded.count, volume = volume + excluded.volume;`;

const touchMonth = (row: string) => `
	INSERT INTO packed_months (month) SELECT strftime('%Y-%m', ${row}.captured_at / 1000, 'unixepoch')
	WHERE ${row}.captured_at IS NOT NULL AND ${row}.mode = 'live'
	ON CONFLICT (month) DO UPDATE SET revision = revision + 1;`;

export const DERIVED_TRIGGERS: readonly string[] = [
	// thousands that a file adds at once are counted at once, by `DERIVE_ADDED`
	`CREATE TRIGGER payments_added AFTER INSERT ON payments WHEN NEW.origin <> 'file' BEGIN ${addDay('NEW', '')} ${addVolume('NEW', '')} ${touchMonth('NEW')} END`,
	`CREATE TRIGGER payments_moved AFTER UPDATE OF day, till_id, connection_id, method, currency, stage, minor, taken, refunded, disputed ON payments
	 WHEN OLD.day IS NOT NEW.day OR OLD.till_id IS NOT NEW.till_id OR OLD.connection_id IS NOT NEW.connection_id
		OR OLD.method IS NOT NEW.method OR OLD.currency IS NOT NEW.currency OR OLD.stage IS NOT NEW.stage OR OLD.minor IS NOT NEW.minor OR OLD.taken IS NOT NEW.taken
		OR OLD.refunded IS NOT NEW.refunded OR OLD.disputed IS NOT NEW.disputed
	 BEGIN ${addDay('OLD', '-')} ${addDay('NEW', '')} END`,
	`CREATE TRIGGER payments_repacked AFTER UPDATE OF captured_at, till_id, connection_id, kind_id, taken, refunded ON payments
	 WHEN OLD.captured_at IS NOT NEW.captured_at OR OLD.till_id IS NOT NEW.till_id OR OLD.connection_id IS NOT NEW.connection_id
		OR OLD.kind_id IS NOT NEW.kind_id OR OLD.taken IS NOT NEW.taken OR OLD.refunded IS NOT NEW.refunded
	 BEGIN ${touchMonth('OLD')} ${touchMonth('NEW')} END`,
	`CREATE TRIGGER payments_weighed AFTER UPDATE OF connection_id, account_day, base_minor ON payments
	 WHEN OLD.connection_id IS NOT NEW.connection_id OR OLD.account_day IS NOT NEW.account_day OR OLD.base_minor IS NOT NEW.base_minor
	 BEGIN ${addVolume('OLD', '-')} ${addVolume('NEW', '')} END`,
	...derivedRows()
];

/** Adds what files added after a payment to the derived tables, with one statement each; `$1` is that payment's id. */
export const DERIVE_ADDED: readonly string[] = derivedFrom(`p.id > $1 AND p.origin = 'file'`);

/** Fills the derived tables from the payments; they are empty before. */
export function derivedRows(): string[] {
	return derivedFrom('true');
}

function derivedFrom(which: string): string[] {
	return [
		`INSERT INTO day_sums (day, till_id, carrier, method, currency, stage, count, minor, taken, refunded, disputed)
		 SELECT p.day, COALESCE(p.till_id, ''), ${CARRIER('p')}, p.method, p.currency, p.stage, COUNT(*), SUM(p.minor), SUM(p.taken), SUM(p.refunded), SUM(p.disputed)
		 FROM payments p WHERE p.mode = 'live' AND ${which} GROUP BY 1, 2, 3, 4, 5, 6
		 ON CONFLICT (day, till_id, carrier, method, currency, stage) DO UPDATE SET count = count + excluded.count, minor = minor + excluded.minor,
			taken = taken + excluded.taken, refunded = refunded + excluded.refunded, disputed = disputed + excluded.disputed`,
		`INSERT INTO tier_volumes (connection_id, day, count, volume)
		 SELECT p.connection_id, p.account_day, COUNT(*), SUM(COALESCE(p.base_minor, 0)) FROM payments p
		 WHERE p.account_day IS NOT NULL AND p.connection_id IS NOT NULL AND ${which} GROUP BY 1, 2
		 ON CONFLICT (connection_id, day) DO UPDATE SET count = count + excluded.count, volume = volume + excluded.volume`,
		`INSERT INTO packed_months (month) SELECT DISTINCT strftime('%Y-%m', p.captured_at / 1000, 'unixepoch') FROM payments p
		 WHERE p.captured_at IS NOT NULL AND p.mode = 'live' AND ${which} ON CONFLICT (month) DO UPDATE SET revision = revision + 1`
	];
}
