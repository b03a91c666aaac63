import { EVENT_KINDS, STAGES } from '../../../core/stages';
import { DERIVED_TRIGGERS } from '../sqlite/derived';

const oneOf = (list: readonly string[]) => list.map((one) => `'${one}'`).join(', ');
const CARD = (part: string) => `COALESCE(NULLIF(json_extract(p.card, '$.${part}'), ''), 'unknown')`;

/**
 * One table of payments, wherever they came from: a till, a settlement file, a processor's own console. Orders stand apart
 * from them; what only a till's page knows of a payment stands beside it; fees and everything that happened are facts that
 * are added and never changed. Runs with references unchecked, since tables that others refer to are made anew.
 */
export const sixth: readonly string[] = [
	// orders
	`CREATE TABLE orders (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		till_id TEXT NOT NULL REFERENCES tills (id),
		sign TEXT NOT NULL,
		reference TEXT NOT NULL,
		currency TEXT NOT NULL,
		minor INTEGER NOT NULL,
		name TEXT NOT NULL,
		mail TEXT NOT NULL,
		country TEXT NOT NULL,
		purpose TEXT NOT NULL,
		more TEXT NOT NULL DEFAULT '{}',
		paid INTEGER NOT NULL DEFAULT 0,
		replaced_by INTEGER,
		created_at INTEGER NOT NULL,
		UNIQUE (till_id, sign)
	)`,
	`INSERT INTO orders (id, till_id, sign, reference, currency, minor, name, mail, country, purpose, more, created_at)
	 SELECT id, till_id, sign, reference, currency, minor, name, mail, country, purpose, more, created_at FROM checkouts`,
	// of several orders under one reference the one that was paid stands, else the newest
	`UPDATE orders SET replaced_by = (
		SELECT other.id FROM orders other WHERE other.till_id = orders.till_id AND other.reference = orders.reference
		ORDER BY EXISTS (SELECT 1 FROM payments p WHERE p.checkout_id = other.id AND p.taken > 0) DESC, other.id DESC LIMIT 1)
	 WHERE EXISTS (SELECT 1 FROM orders o WHERE o.till_id = orders.till_id AND o.reference = orders.reference AND o.id <> orders.id)`,
	`UPDATE orders SET replaced_by = NULL WHERE replaced_by = id`,
	`CREATE UNIQUE INDEX orders_reference ON orders (till_id, reference) WHERE replaced_by IS NULL`,
	`CREATE INDEX orders_overpaid ON orders (id) WHERE paid > minor`,

	// kinds of payments: what a price can depend on, apart from the amount and the day
	`CREATE TABLE payment_kinds (
		id INTEGER PRIMARY KEY,
		method TEXT NOT NULL,
		currency TEXT NOT NULL,
		entry TEXT NOT NULL,
		scheme TEXT NOT NULL,
		funding TEXT NOT NULL,
		issuer TEXT NOT NULL,
		UNIQUE (method, currency, entry, scheme, funding, issuer)
	)`,
	`INSERT OR IGNORE INTO payment_kinds (method, currency, entry, scheme, funding, issuer)
	 SELECT p.method, p.currency, CASE t.kind WHEN 'counter' THEN 'present' WHEN 'plan' THEN 'recurring' ELSE 'online' END,
		${CARD('scheme')}, ${CARD('funding')}, ${CARD('issuerCountry')}
	 FROM payments p JOIN tills t ON t.id = p.till_id
	 UNION SELECT method, currency, entry, scheme, funding, issuer FROM settled_payments
	 UNION SELECT method, currency, entry, scheme, funding, issuer FROM declined_attempts`,

	// names that settlement files give to places, each meant for a till once and for all
	`CREATE TABLE file_sources (
		source TEXT PRIMARY KEY,
		till_id TEXT REFERENCES tills (id),
		count INTEGER NOT NULL DEFAULT 0
	)`,
	`INSERT INTO file_sources (source, till_id)
	 SELECT DISTINCT s.source, (SELECT id FROM tills WHERE tills.name = s.source)
	 FROM (SELECT source FROM settled_payments UNION SELECT source FROM declined_attempts) s WHERE s.source <> ''`,

	`CREATE TABLE payments_new (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		origin TEXT NOT NULL CHECK (origin IN ('till', 'file', 'console')),
		mode TEXT NOT NULL CHECK (mode IN ('test', 'live')),
		trial_id TEXT,
		processor TEXT NOT NULL DEFAULT '',
		connection_id TEXT REFERENCES connections (id),
		account_id TEXT NOT NULL DEFAULT '',
		processor_id TEXT,
		offline_id TEXT REFERENCES offline_methods (id),
		order_id INTEGER REFERENCES orders (id),
		till_id TEXT REFERENCES tills (id),
		source TEXT NOT NULL DEFAULT '',
		kind_id INTEGER NOT NULL REFERENCES payment_kinds (id),
		method TEXT NOT NULL,
		currency TEXT NOT NULL,
		minor INTEGER NOT NULL,
		reference TEXT NOT NULL DEFAULT '',
		creditor_reference TEXT NOT NULL DEFAULT '',
		payer_name TEXT NOT NULL DEFAULT '',
		payer_mail TEXT NOT NULL DEFAULT '',
		card TEXT,
		stage TEXT NOT NULL CHECK (stage IN (${oneOf(STAGES)})),
		reached_step INTEGER NOT NULL,
		broken_step INTEGER NOT NULL DEFAULT 0,
		open INTEGER NOT NULL DEFAULT 1,
		taken INTEGER NOT NULL DEFAULT 0,
		refunded INTEGER NOT NULL DEFAULT 0,
		disputed INTEGER NOT NULL DEFAULT 0,
		refundable INTEGER NOT NULL DEFAULT 0,
		failure TEXT NOT NULL DEFAULT '',
		contradiction TEXT NOT NULL DEFAULT '',
		fee_currency TEXT,
		base_minor INTEGER,
		expected_fee INTEGER,
		charged_fee INTEGER,
		fee_difference INTEGER,
		net INTEGER,
		rate_card_id INTEGER,
		payout TEXT NOT NULL DEFAULT '',
		ordered_at INTEGER,
		captured_at INTEGER,
		day TEXT NOT NULL,
		account_day TEXT,
		created_at INTEGER NOT NULL
	)`,
	`INSERT INTO payments_new (id, origin, mode, trial_id, processor, connection_id, account_id, processor_id, offline_id, order_id,
		till_id, kind_id, method, currency, minor, reference, creditor_reference, payer_name, payer_mail, card, stage, reached_step,
		broken_step, open, taken, refunded, refundable, failure, fee_currency, base_minor, expected_fee, charged_fee, fee_difference,
		net, ordered_at, captured_at, day, account_day, created_at)
	 SELECT p.id, 'till', p.mode, p.trial_id, COALESCE(c.processor, ''), p.connection_id,
		CASE WHEN p.connection_id IS NULL THEN '' ELSE COALESCE(p.account_id, c.account_id) END, p.processor_id, p.offline_id, p.checkout_id,
		p.till_id, k.id, p.method, p.currency, p.minor, p.reference, p.creditor_reference, p.payer_name, p.payer_mail, p.card, p.stage,
		p.notches, p.broken, p.live, p.taken, p.refunded, p.refundable, p.failure, p.fee_currency, p.base_minor, p.expected_fee,
		p.charged_fee, p.charged_fee - p.expected_fee, p.net, p.created_at, p.captured_at,
		date(COALESCE(p.captured_at, p.created_at) / 1000, 'unixepoch'), date(p.captured_at / 1000, 'unixepoch'), p.created_at
	 FROM payments p JOIN tills t ON t.id = p.till_id LEFT JOIN connections c ON c.id = p.connection_id
	 JOIN payment_kinds k ON k.method = p.method AND k.currency = p.currency
		AND k.entry = CASE t.kind WHEN 'counter' THEN 'present' WHEN 'plan' THEN 'recurring' ELSE 'online' END
		AND k.scheme = ${CARD('scheme')} AND k.funding = ${CARD('funding')} AND k.issuer = ${CARD('issuerCountry')}`,

	`CREATE TABLE payment_requests (
		payment_id INTEGER PRIMARY KEY REFERENCES payments (id),
		token TEXT NOT NULL UNIQUE,
		version INTEGER NOT NULL,
		offer_id TEXT NOT NULL,
		offer_name TEXT NOT NULL,
		standby INTEGER NOT NULL DEFAULT 0,
		next TEXT,
		details TEXT NOT NULL DEFAULT '{}'
	)`,
	`INSERT INTO payment_requests (payment_id, token, version, offer_id, offer_name, standby, next, details)
	 SELECT id, token, version, offer_id, offer_name, standby, next, details FROM payments`,

	// fees are facts: who told them, and when
	`CREATE TABLE payment_fees (
		id INTEGER PRIMARY KEY,
		payment_id INTEGER NOT NULL REFERENCES payments (id),
		currency TEXT NOT NULL,
		fee INTEGER NOT NULL,
		returned INTEGER NOT NULL,
		base INTEGER NOT NULL,
		rate_day TEXT,
		rate_value TEXT,
		label TEXT NOT NULL DEFAULT '',
		source TEXT NOT NULL,
		heard_at INTEGER NOT NULL
	)`,
	`INSERT INTO payment_fees (payment_id, currency, fee, returned, base, rate_day, rate_value, label, source, heard_at)
	 SELECT id, json_extract(charged_detail, '$.currency'), json_extract(charged_detail, '$.fee'), json_extract(charged_detail, '$.returned'),
		json_extract(charged_detail, '$.base'), json_extract(charged_detail, '$.rate.day'), json_extract(charged_detail, '$.rate.value'),
		COALESCE(json_extract(charged_detail, '$.label'), ''), 'notification', COALESCE(captured_at, created_at)
	 FROM payments WHERE charged_detail IS NOT NULL`,

	`CREATE TABLE payment_events_new (
		id INTEGER PRIMARY KEY,
		payment_id INTEGER NOT NULL REFERENCES payments (id),
		kind TEXT NOT NULL CHECK (kind IN (${oneOf(EVENT_KINDS)})),
		at INTEGER NOT NULL,
		minor INTEGER,
		object TEXT NOT NULL,
		source TEXT NOT NULL,
		detail TEXT NOT NULL DEFAULT '',
		heard_at INTEGER NOT NULL
	)`,
	`INSERT INTO payment_events_new (id, payment_id, kind, at, minor, object, source, detail, heard_at)
	 SELECT id, payment_id, kind, at, minor, object, source, CASE detail WHEN '{}' THEN '' ELSE detail END, heard_at
	 FROM payment_events GROUP BY payment_id, kind, object HAVING id = MIN(id)`,

	// past payments of settlement files become payments like all others
	`INSERT INTO payments_new (origin, mode, processor, connection_id, account_id, processor_id, till_id, source, kind_id, method,
		currency, minor, stage, reached_step, broken_step, open, taken, refunded, disputed, refundable, fee_currency, base_minor,
		charged_fee, net, ordered_at, captured_at, day, account_day, created_at)
	 SELECT 'file', 'live', s.processor, c.id, COALESCE(c.account_id, ''), s.processor_id, f.till_id, s.source, k.id, s.method,
		s.currency, s.minor,
		CASE WHEN s.disputed > 0 THEN 'disputed' WHEN s.refunded >= s.minor THEN 'refunded' WHEN s.refunded > 0 THEN 'part refunded' ELSE 'captured' END,
		CASE WHEN s.disputed > 0 THEN 1 ELSE 2 END, CASE WHEN s.disputed > 0 THEN 2 ELSE 0 END, 1, s.minor, s.refunded, s.disputed,
		MAX(0, s.minor - s.refunded - s.disputed), s.fee_currency, s.base, s.fee, s.base - s.fee - (s.base * s.refunded) / s.minor,
		COALESCE(s.ordered_at, s.captured_at), s.captured_at, date(s.captured_at / 1000, 'unixepoch'),
		date(s.captured_at / 1000, 'unixepoch'), s.captured_at
	 FROM settled_payments s
	 LEFT JOIN connections c ON c.id = (SELECT id FROM connections x WHERE x.processor = s.processor AND x.mode = 'live'
		ORDER BY x.removed_at IS NULL DESC, x.created_at LIMIT 1)
	 LEFT JOIN file_sources f ON f.source = s.source
	 JOIN payment_kinds k ON k.method = s.method AND k.currency = s.currency AND k.entry = s.entry AND k.scheme = s.scheme
		AND k.funding = s.funding AND k.issuer = s.issuer
	 WHERE NOT EXISTS (SELECT 1 FROM payments p JOIN connections x ON x.id = p.connection_id
		WHERE x.processor = s.processor AND x.mode = 'live' AND p.processor_id = s.processor_id)`,
	`INSERT INTO payments_new (origin, mode, processor, connection_id, account_id, processor_id, till_id, source, kind_id, method,
		currency, minor, stage, reached_step, broken_step, open, failure, fee_currency, charged_fee, ordered_at, day, created_at)
	 SELECT 'file', 'live', d.processor, c.id, COALESCE(c.account_id, ''), d.processor_id, f.till_id, d.source, k.id, d.method,
		d.currency, d.minor, 'failed', 1, 2, 0, d.reason, d.fee_currency, d.fee, d.at, date(d.at / 1000, 'unixepoch'), d.at
	 FROM declined_attempts d
	 LEFT JOIN connections c ON c.id = (SELECT id FROM connections x WHERE x.processor = d.processor AND x.mode = 'live'
		ORDER BY x.removed_at IS NULL DESC, x.created_at LIMIT 1)
	 LEFT JOIN file_sources f ON f.source = d.source
	 JOIN payment_kinds k ON k.method = d.method AND k.currency = d.currency AND k.entry = d.entry AND k.scheme = d.scheme
		AND k.funding = d.funding AND k.issuer = d.issuer
	 WHERE NOT EXISTS (SELECT 1 FROM payments p JOIN connections x ON x.id = p.connection_id
		WHERE x.processor = d.processor AND x.mode = 'live' AND p.processor_id = d.processor_id)`,
	`UPDATE file_sources SET count = (SELECT COUNT(*) FROM payments_new p WHERE p.origin = 'file' AND p.source = file_sources.source)`,
	`INSERT INTO payment_events_new (payment_id, kind, at, minor, object, source, heard_at)
	 SELECT id, 'captured', captured_at, minor, processor_id, 'file', captured_at FROM payments_new WHERE origin = 'file' AND captured_at IS NOT NULL
	 UNION ALL SELECT id, 'refunded so far', captured_at, refunded, 'file', 'file', captured_at FROM payments_new WHERE origin = 'file' AND refunded > 0
	 UNION ALL SELECT id, 'disputed so far', captured_at, disputed, 'file', 'file', captured_at FROM payments_new WHERE origin = 'file' AND disputed > 0
	 UNION ALL SELECT id, 'failed', created_at, NULL, processor_id, 'file', created_at FROM payments_new WHERE origin = 'file' AND stage = 'failed'`,
	`INSERT INTO payment_fees (payment_id, currency, fee, returned, base, label, source, heard_at)
	 SELECT id, fee_currency, charged_fee, 0, COALESCE(base_minor, 0), 'settlement file', 'file', COALESCE(captured_at, created_at)
	 FROM payments_new WHERE origin = 'file'`,

	`DROP TABLE payment_events`,
	`DROP TABLE payments`,
	`ALTER TABLE payments_new RENAME TO payments`,
	`ALTER TABLE payment_events_new RENAME TO payment_events`,
	`DROP TABLE checkouts`,
	`DROP TABLE settled_payments`,
	`DROP TABLE declined_attempts`,
	`CREATE UNIQUE INDEX payments_processor ON payments (processor, mode, account_id, processor_id) WHERE processor_id IS NOT NULL`,
	`CREATE INDEX payments_order ON payments (order_id) WHERE order_id IS NOT NULL`,
	`CREATE UNIQUE INDEX payment_events_once ON payment_events (payment_id, kind, object)`,
	`CREATE INDEX payment_fees_payment ON payment_fees (payment_id)`,
	// one open payment of an order: of several that an earlier version let begin, the newest stays
	`INSERT INTO payment_events (payment_id, kind, at, object, source, detail, heard_at)
	 SELECT p.id, 'voided', p.created_at, 'superseded', 'payer', '{"says":"Another way was begun."}', p.created_at FROM payments p
	 WHERE p.open = 1 AND p.taken = 0 AND p.order_id IS NOT NULL
		AND EXISTS (SELECT 1 FROM payments o WHERE o.order_id = p.order_id AND o.open = 1 AND o.taken = 0 AND o.id > p.id)`,
	`UPDATE payments SET stage = 'voided', reached_step = 1, broken_step = 2, open = 0
	 WHERE id IN (SELECT payment_id FROM payment_events WHERE kind = 'voided' AND object = 'superseded')`,
	`CREATE UNIQUE INDEX payments_open ON payments (order_id) WHERE open = 1 AND taken = 0 AND order_id IS NOT NULL`,
	`UPDATE orders SET paid = (SELECT COALESCE(SUM(taken - refunded), 0) FROM payments WHERE order_id = orders.id AND stage <> 'returned')`,

	// lists, filters and searches; each follows one of them
	`CREATE INDEX payments_newest ON payments (created_at, id)`,
	`CREATE INDEX payments_stage ON payments (stage, created_at, id)`,
	`CREATE INDEX payments_till ON payments (till_id, created_at, id)`,
	`CREATE INDEX payments_method ON payments (method, created_at, id)`,
	`CREATE INDEX payments_connection ON payments (connection_id, created_at, id)`,
	`CREATE INDEX payments_offline ON payments (offline_id, created_at, id) WHERE offline_id IS NOT NULL`,
	`CREATE INDEX payments_captured ON payments (captured_at, id) WHERE captured_at IS NOT NULL`,
	`CREATE INDEX payments_tiers ON payments (connection_id, account_day, captured_at) WHERE account_day IS NOT NULL`,
	`CREATE INDEX payments_reference ON payments (reference) WHERE reference <> ''`,
	`CREATE INDEX payments_creditor ON payments (creditor_reference) WHERE creditor_reference <> ''`,
	`CREATE INDEX payments_mail ON payments (payer_mail) WHERE payer_mail <> ''`,
	`CREATE INDEX payments_differs ON payments (created_at, id) WHERE fee_difference <> 0`,
	`CREATE INDEX payments_contradiction ON payments (created_at, id) WHERE contradiction <> ''`,
	`CREATE INDEX payments_trials ON payments (created_at, id) WHERE trial_id IS NOT NULL`,
	`CREATE INDEX payments_refunded ON payments (captured_at) WHERE refunded > 0 AND captured_at IS NOT NULL`,
	`CREATE INDEX payments_disputed ON payments (captured_at) WHERE disputed > 0 AND captured_at IS NOT NULL`,
	`CREATE INDEX payments_failed ON payments (created_at) WHERE stage = 'failed'`,
	`CREATE INDEX payments_late ON payments (captured_at) WHERE ordered_at < captured_at - 86400000`,

	// the same fact under the same key with another content is neither taken nor forgotten
	`CREATE TABLE fact_clashes (
		id INTEGER PRIMARY KEY,
		payment_id INTEGER NOT NULL REFERENCES payments (id),
		kind TEXT NOT NULL,
		object TEXT NOT NULL,
		known_minor INTEGER,
		told_minor INTEGER,
		source TEXT NOT NULL,
		heard_at INTEGER NOT NULL,
		seen_at INTEGER,
		UNIQUE (payment_id, kind, object, told_minor)
	)`,
	`CREATE INDEX fact_clashes_unseen ON fact_clashes (id) WHERE seen_at IS NULL`,
	`CREATE TABLE seen_contradictions (
		payment_id INTEGER PRIMARY KEY REFERENCES payments (id),
		contradiction TEXT NOT NULL,
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL
	)`,

	`CREATE TABLE actions_new (
		key TEXT PRIMARY KEY,
		payment_id INTEGER NOT NULL REFERENCES payments (id),
		act TEXT NOT NULL CHECK (act IN ('charge', 'capture', 'cancel', 'refund')),
		content TEXT NOT NULL,
		minor INTEGER NOT NULL,
		state TEXT NOT NULL CHECK (state IN ('planned', 'unknown', 'stuck', 'done', 'refused')),
		says TEXT NOT NULL DEFAULT '',
		next_at INTEGER NOT NULL,
		tries INTEGER NOT NULL DEFAULT 0,
		created_at INTEGER NOT NULL
	)`,
	`INSERT INTO actions_new (key, payment_id, act, content, minor, state, says, next_at, tries, created_at)
	 SELECT a.key, a.payment_id, a.act, 'payment ' || a.payment_id || ' ' || a.act || ' ' || p.currency || ' ' || a.minor, a.minor, a.state,
		a.says, a.next_at, a.tries, a.created_at FROM actions a JOIN payments p ON p.id = a.payment_id`,
	`DROP TABLE actions`,
	`ALTER TABLE actions_new RENAME TO actions`,
	`CREATE INDEX actions_due ON actions (next_at) WHERE state IN ('planned', 'unknown')`,
	`CREATE INDEX actions_open ON actions (state) WHERE state IN ('planned', 'unknown', 'stuck')`,
	`CREATE INDEX actions_payment ON actions (payment_id)`,

	// a contract is what fees are held against; a proposal is what the processor says until somebody confirms it
	`CREATE TABLE rate_cards_new (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		connection_id TEXT NOT NULL REFERENCES connections (id),
		role TEXT NOT NULL CHECK (role IN ('contract', 'proposal')),
		valid_from TEXT NOT NULL,
		card TEXT NOT NULL,
		source TEXT NOT NULL,
		created_at INTEGER NOT NULL,
		confirmed_at INTEGER,
		confirmed_by TEXT NOT NULL DEFAULT '',
		UNIQUE (connection_id, role, valid_from)
	)`,
	`INSERT INTO rate_cards_new (id, connection_id, role, valid_from, card, source, created_at, confirmed_at, confirmed_by)
	 SELECT id, connection_id, CASE WHEN confirmed_at IS NULL THEN 'proposal' ELSE 'contract' END, valid_from, card, source, created_at,
		confirmed_at, confirmed_by FROM rate_cards`,
	`DROP TABLE rate_cards`,
	`ALTER TABLE rate_cards_new RENAME TO rate_cards`,
	`UPDATE payments SET rate_card_id = (SELECT id FROM rate_cards r WHERE r.connection_id = payments.connection_id AND r.role = 'contract'
		AND r.valid_from <= payments.account_day ORDER BY r.valid_from DESC LIMIT 1) WHERE expected_fee IS NOT NULL`,
	`UPDATE payments SET expected_fee = NULL, fee_difference = NULL, net = base_minor - charged_fee - (base_minor * refunded) / taken
	 WHERE rate_card_id IS NULL AND expected_fee IS NOT NULL`,

	// what a processor charges or pays out apart from single payments
	`CREATE TABLE account_charges (
		id INTEGER PRIMARY KEY,
		processor TEXT NOT NULL,
		connection_id TEXT REFERENCES connections (id),
		account_id TEXT NOT NULL,
		kind TEXT NOT NULL CHECK (kind IN ('adjustment', 'monthly', 'payout', 'refund', 'dispute')),
		object TEXT NOT NULL,
		at INTEGER NOT NULL,
		currency TEXT NOT NULL,
		minor INTEGER NOT NULL,
		payment_id INTEGER REFERENCES payments (id),
		says TEXT NOT NULL DEFAULT '',
		file_id INTEGER,
		UNIQUE (processor, account_id, kind, object)
	)`,
	`CREATE INDEX account_charges_at ON account_charges (at)`,
	`CREATE INDEX account_charges_payment ON account_charges (payment_id) WHERE payment_id IS NOT NULL`,
	`CREATE TABLE payouts (
		id INTEGER PRIMARY KEY,
		processor TEXT NOT NULL,
		connection_id TEXT REFERENCES connections (id),
		account_id TEXT NOT NULL,
		object TEXT NOT NULL,
		at INTEGER NOT NULL,
		currency TEXT NOT NULL DEFAULT '',
		minor INTEGER,
		UNIQUE (processor, account_id, object)
	)`,
	`CREATE INDEX payouts_at ON payouts (at)`,
	// a payout or charge that was told again with another sum: what was known stays, and the contradiction is shown
	`CREATE TABLE account_clashes (
		id INTEGER PRIMARY KEY,
		processor TEXT NOT NULL,
		account_id TEXT NOT NULL,
		kind TEXT NOT NULL,
		object TEXT NOT NULL,
		known_currency TEXT NOT NULL,
		known_minor INTEGER NOT NULL,
		told_currency TEXT NOT NULL,
		told_minor INTEGER NOT NULL,
		source TEXT NOT NULL,
		heard_at INTEGER NOT NULL,
		seen_at INTEGER,
		UNIQUE (processor, account_id, kind, object, told_currency, told_minor)
	)`,
	`CREATE INDEX account_clashes_unseen ON account_clashes (id) WHERE seen_at IS NULL`,
	// facts of a payout about payments that are not known here yet, waiting for them
	`CREATE TABLE waiting_facts (
		id INTEGER PRIMARY KEY,
		connection_id TEXT NOT NULL REFERENCES connections (id),
		processor_id TEXT NOT NULL,
		kind TEXT NOT NULL,
		at INTEGER NOT NULL,
		minor INTEGER,
		object TEXT NOT NULL,
		source TEXT NOT NULL,
		tries INTEGER NOT NULL DEFAULT 0,
		next_at INTEGER NOT NULL DEFAULT 0,
		heard_at INTEGER NOT NULL,
		UNIQUE (connection_id, processor_id, kind, object)
	)`,
	`CREATE INDEX waiting_facts_due ON waiting_facts (next_at)`,

	// settlement files are checked whole, kept, and then merged a chunk at a time
	`ALTER TABLE settlement_files ADD COLUMN connection_id TEXT`,
	`ALTER TABLE settlement_files ADD COLUMN account_id TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE settlement_files ADD COLUMN state TEXT NOT NULL DEFAULT 'taken'`,
	`ALTER TABLE settlement_files ADD COLUMN merged INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE settlement_files ADD COLUMN changed INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE settlement_files ADD COLUMN clashes INTEGER NOT NULL DEFAULT 0`,
	`UPDATE settlement_files SET merged = count`,
	`CREATE TABLE file_chunks (
		file_id INTEGER NOT NULL REFERENCES settlement_files (id),
		number INTEGER NOT NULL,
		kind TEXT NOT NULL,
		lines INTEGER NOT NULL,
		body TEXT NOT NULL,
		PRIMARY KEY (file_id, number)
	)`,

	// derived, and rebuilt at will: days, tiers, months as columns
	`DROP TABLE packed_months`,
	`CREATE TABLE packed_months (
		month TEXT PRIMARY KEY,
		revision INTEGER NOT NULL DEFAULT 1,
		packed INTEGER NOT NULL DEFAULT 0,
		count INTEGER NOT NULL DEFAULT 0,
		kinds TEXT NOT NULL DEFAULT '[]',
		columns BLOB
	)`,
	`CREATE TABLE day_sums (
		day TEXT NOT NULL,
		till_id TEXT NOT NULL,
		carrier TEXT NOT NULL,
		method TEXT NOT NULL,
		currency TEXT NOT NULL,
		stage TEXT NOT NULL,
		count INTEGER NOT NULL,
		minor INTEGER NOT NULL,
		taken INTEGER NOT NULL,
		refunded INTEGER NOT NULL,
		disputed INTEGER NOT NULL,
		PRIMARY KEY (day, till_id, carrier, method, currency, stage)
	) WITHOUT ROWID`,
	`CREATE INDEX day_sums_carrier ON day_sums (carrier, day)`,
	`CREATE TABLE tier_volumes (
		connection_id TEXT NOT NULL,
		day TEXT NOT NULL,
		count INTEGER NOT NULL,
		volume INTEGER NOT NULL,
		PRIMARY KEY (connection_id, day)
	) WITHOUT ROWID`,
	// captures that came late: what was priced after them in their month is priced anew
	`CREATE TABLE repricings (
		connection_id TEXT NOT NULL,
		month TEXT NOT NULL,
		after INTEGER NOT NULL,
		PRIMARY KEY (connection_id, month)
	)`,
	...DERIVED_TRIGGERS,
	// words of what payers are found by
	`CREATE VIRTUAL TABLE payment_words USING fts5 (payer_name, payer_mail, reference, content = '', contentless_delete = 1, prefix = '2 3')`,
	`INSERT INTO payment_words (rowid, payer_name, payer_mail, reference) SELECT id, payer_name, payer_mail, reference FROM payments WHERE reference <> ''`,
	`CREATE TRIGGER payments_worded AFTER INSERT ON payments WHEN NEW.reference <> '' OR NEW.payer_name <> ''
	 BEGIN INSERT INTO payment_words (rowid, payer_name, payer_mail, reference) VALUES (NEW.id, NEW.payer_name, NEW.payer_mail, NEW.reference); END`,
	`CREATE TRIGGER payments_reworded AFTER UPDATE OF reference, payer_name, payer_mail ON payments
	 BEGIN DELETE FROM payment_words WHERE rowid = OLD.id;
	 INSERT INTO payment_words (rowid, payer_name, payer_mail, reference) VALUES (NEW.id, NEW.payer_name, NEW.payer_mail, NEW.reference); END`,

	// requests of the interface that act, by their key
	`CREATE TABLE idempotent_requests (
		token_id TEXT NOT NULL,
		key TEXT NOT NULL,
		digest TEXT NOT NULL,
		status INTEGER,
		body TEXT NOT NULL DEFAULT '',
		location TEXT NOT NULL DEFAULT '',
		at INTEGER NOT NULL,
		PRIMARY KEY (token_id, key)
	)`,
	`ALTER TABLE business ADD COLUMN locale TEXT NOT NULL DEFAULT ''`,
	`CREATE INDEX sessions_end ON sessions (expires_at)`
];
