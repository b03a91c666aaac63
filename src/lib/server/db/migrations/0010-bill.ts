import { SUM_TRIGGERS } from '../sqlite/billSums';

/**
 * Billing: payers whole, the price list, invoices with their dues, money placed on them, pay links, messages. Payers are
 * made anew, since a payer may be known without a mail address; so it runs with references unchecked.
 */
export const tenth: readonly string[] = [
	`CREATE TABLE payers_new (
		id TEXT PRIMARY KEY,
		number TEXT NOT NULL DEFAULT '',
		name TEXT NOT NULL,
		company TEXT NOT NULL DEFAULT '',
		mail TEXT NOT NULL DEFAULT '',
		phone TEXT NOT NULL DEFAULT '',
		street TEXT NOT NULL DEFAULT '',
		postcode TEXT NOT NULL DEFAULT '',
		city TEXT NOT NULL DEFAULT '',
		country TEXT NOT NULL DEFAULT '',
		language TEXT NOT NULL DEFAULT '',
		tax_number TEXT NOT NULL DEFAULT '',
		notes TEXT NOT NULL DEFAULT '',
		online_method INTEGER,
		prefers TEXT NOT NULL DEFAULT '' CHECK (prefers IN ('', 'online', 'offline')),
		channel TEXT NOT NULL DEFAULT 'mail' CHECK (channel IN ('mail', 'text', 'page')),
		template TEXT NOT NULL DEFAULT '',
		created_at INTEGER NOT NULL,
		removed_at INTEGER
	)`,
	`INSERT INTO payers_new (id, name, mail, country, online_method, created_at)
	 SELECT id, name, mail, country, online_method, created_at FROM payers`,
	`DROP TABLE payers`,
	`ALTER TABLE payers_new RENAME TO payers`,
	`CREATE INDEX payers_name ON payers (name, id)`,
	`CREATE UNIQUE INDEX payers_mail ON payers (mail) WHERE mail <> ''`,
	`CREATE UNIQUE INDEX payers_number ON payers (number) WHERE number <> ''`,

	`ALTER TABLE business ADD COLUMN billing TEXT NOT NULL DEFAULT '{}'`,
	`CREATE TABLE price_items (
		id TEXT PRIMARY KEY,
		code TEXT NOT NULL,
		name TEXT NOT NULL,
		about TEXT NOT NULL DEFAULT '',
		unit TEXT NOT NULL DEFAULT '',
		category TEXT NOT NULL,
		rate INTEGER NOT NULL DEFAULT 0,
		pricing TEXT NOT NULL CHECK (pricing IN ('without tax', 'with tax')),
		prices TEXT NOT NULL,
		picture TEXT NOT NULL DEFAULT '',
		stock INTEGER,
		created_at INTEGER NOT NULL,
		removed_at INTEGER
	)`,
	`CREATE UNIQUE INDEX price_items_code ON price_items (code) WHERE removed_at IS NULL`,

	`CREATE TABLE number_series (
		id TEXT PRIMARY KEY,
		brand_id TEXT NOT NULL DEFAULT '',
		kind TEXT NOT NULL CHECK (kind IN ('invoice', 'quote', 'credit note')),
		prefix TEXT NOT NULL,
		year TEXT NOT NULL CHECK (year IN ('none', 'two digits', 'four digits')),
		digits INTEGER NOT NULL,
		start INTEGER NOT NULL DEFAULT 1,
		UNIQUE (brand_id, kind)
	)`,
	`CREATE TABLE number_counters (
		series_id TEXT NOT NULL REFERENCES number_series (id),
		year TEXT NOT NULL,
		next INTEGER NOT NULL,
		PRIMARY KEY (series_id, year)
	)`,
	`CREATE TABLE invoices (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		kind TEXT NOT NULL CHECK (kind IN ('invoice', 'quote', 'credit note')),
		token TEXT NOT NULL UNIQUE,
		payer_id TEXT REFERENCES payers (id),
		payer_name TEXT NOT NULL DEFAULT '',
		till_id TEXT REFERENCES tills (id),
		currency TEXT NOT NULL,
		content TEXT NOT NULL,
		net INTEGER NOT NULL DEFAULT 0,
		tax INTEGER NOT NULL DEFAULT 0,
		total INTEGER NOT NULL DEFAULT 0,
		state TEXT NOT NULL DEFAULT 'draft',
		series_id TEXT REFERENCES number_series (id),
		number TEXT NOT NULL DEFAULT '',
		day TEXT NOT NULL DEFAULT '',
		until TEXT NOT NULL DEFAULT '',
		creditor_reference TEXT NOT NULL DEFAULT '',
		outside_reference TEXT NOT NULL DEFAULT '',
		outside_at INTEGER,
		of_id INTEGER REFERENCES invoices (id),
		made_id INTEGER REFERENCES invoices (id),
		placed INTEGER NOT NULL DEFAULT 0,
		credited INTEGER NOT NULL DEFAULT 0,
		promised INTEGER NOT NULL DEFAULT 0,
		open INTEGER NOT NULL DEFAULT 0,
		next_due TEXT NOT NULL DEFAULT '',
		asked_at INTEGER,
		asked_by TEXT NOT NULL DEFAULT '',
		approved_at INTEGER,
		approved_by TEXT NOT NULL DEFAULT '',
		sent_at INTEGER,
		opened_at INTEGER,
		opened INTEGER NOT NULL DEFAULT 0,
		message_at INTEGER,
		held_at INTEGER,
		void_at INTEGER,
		void_reason TEXT NOT NULL DEFAULT '',
		written_off_at INTEGER,
		answer TEXT NOT NULL DEFAULT '' CHECK (answer IN ('', 'accepted', 'declined')),
		answered_at INTEGER,
		answered_by TEXT NOT NULL DEFAULT '',
		revision INTEGER NOT NULL DEFAULT 0,
		created_by TEXT NOT NULL DEFAULT '',
		created_at INTEGER NOT NULL,
		changed_at INTEGER NOT NULL,
		CHECK (placed >= 0 AND credited >= 0 AND open >= 0)
	)`,
	`CREATE UNIQUE INDEX invoices_number ON invoices (number, kind) WHERE number <> ''`,
	`CREATE INDEX invoices_kind ON invoices (kind, id)`,
	`CREATE INDEX invoices_state ON invoices (kind, state, id)`,
	`CREATE INDEX invoices_payer ON invoices (payer_id, id) WHERE payer_id IS NOT NULL`,
	`CREATE INDEX invoices_till ON invoices (till_id, id) WHERE till_id IS NOT NULL`,
	`CREATE INDEX invoices_name ON invoices (payer_name COLLATE NOCASE, id)`,
	`CREATE INDEX invoices_of ON invoices (of_id) WHERE of_id IS NOT NULL`,
	`CREATE INDEX invoices_creditor ON invoices (creditor_reference) WHERE creditor_reference <> ''`,
	`CREATE INDEX invoices_outside ON invoices (outside_reference) WHERE outside_reference <> ''`,
	// what is owed, the oldest due first, and by currency and sum for money that nobody claims
	`CREATE INDEX invoices_owed ON invoices (next_due, id) WHERE open > 0`,
	`CREATE INDEX invoices_open ON invoices (currency, open) WHERE open > 0`,
	`CREATE TABLE invoice_dues (
		invoice_id INTEGER NOT NULL REFERENCES invoices (id),
		n INTEGER NOT NULL,
		day TEXT NOT NULL,
		currency TEXT NOT NULL,
		minor INTEGER NOT NULL,
		credited INTEGER NOT NULL DEFAULT 0,
		paid INTEGER NOT NULL DEFAULT 0,
		open INTEGER NOT NULL,
		PRIMARY KEY (invoice_id, n)
	) WITHOUT ROWID`,
	...SUM_TRIGGERS,

	// money put on invoices: every step is kept, a step back names the one it takes from
	`CREATE TABLE places (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		payment_id INTEGER NOT NULL REFERENCES payments (id),
		invoice_id INTEGER NOT NULL REFERENCES invoices (id),
		minor INTEGER NOT NULL CHECK (minor <> 0),
		of_id INTEGER REFERENCES places (id),
		why TEXT NOT NULL,
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL
	)`,
	`CREATE INDEX places_payment ON places (payment_id, id)`,
	`CREATE INDEX places_invoice ON places (invoice_id, id)`,
	`ALTER TABLE payments ADD COLUMN gratuity INTEGER NOT NULL DEFAULT 0`,
	// what placing has seen of it, what is placed, and what of it nobody claims
	`ALTER TABLE payments ADD COLUMN considered INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE payments ADD COLUMN placed INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE payments ADD COLUMN unplaced INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE payments ADD COLUMN payer_id TEXT`,
	// what went back for good: refunds, returns, disputes that were lost
	`ALTER TABLE payments ADD COLUMN gone INTEGER NOT NULL DEFAULT 0`,
	`UPDATE payments SET gone = refunded + CASE stage WHEN 'returned' THEN disputed ELSE 0 END WHERE refunded > 0 OR stage = 'returned'`,
	`CREATE INDEX payments_unplaced ON payments (created_at, id) WHERE unplaced <> 0`,
	`CREATE INDEX payments_payer_id ON payments (payer_id, created_at, id) WHERE payer_id IS NOT NULL`,
	// the form by which a receipt was recorded is used once
	`CREATE INDEX payment_events_received ON payment_events (object) WHERE kind = 'received'`,
	// what is known of money beside its sum, and whether it was set aside
	`CREATE TABLE money_details (
		payment_id INTEGER PRIMARY KEY REFERENCES payments (id),
		text TEXT NOT NULL DEFAULT '',
		payer_name TEXT NOT NULL DEFAULT '',
		iban TEXT NOT NULL DEFAULT '',
		recorded_by TEXT NOT NULL DEFAULT '',
		set_aside_at INTEGER,
		set_aside_by TEXT NOT NULL DEFAULT '',
		set_aside_reason TEXT NOT NULL DEFAULT ''
	)`,
	`CREATE INDEX money_iban ON money_details (iban) WHERE iban <> ''`,
	// what an order is for, where it is for more than itself
	`CREATE TABLE order_claims (
		order_id INTEGER PRIMARY KEY REFERENCES orders (id),
		kind TEXT NOT NULL CHECK (kind IN ('invoice', 'owed', 'link')),
		invoice_id INTEGER REFERENCES invoices (id),
		invoice_ids TEXT NOT NULL DEFAULT '[]',
		payer_id TEXT,
		link_id TEXT,
		code TEXT NOT NULL DEFAULT '',
		payer_mail TEXT NOT NULL DEFAULT ''
	)`,
	`CREATE INDEX claims_invoice ON order_claims (invoice_id) WHERE invoice_id IS NOT NULL`,
	`CREATE INDEX claims_link ON order_claims (link_id, order_id) WHERE link_id IS NOT NULL`,
	`CREATE INDEX claims_payer ON order_claims (payer_id) WHERE payer_id IS NOT NULL`,
	`CREATE INDEX claims_code ON order_claims (code) WHERE code <> ''`,

	`CREATE TABLE discount_codes (
		code TEXT PRIMARY KEY,
		form TEXT NOT NULL,
		created_at INTEGER NOT NULL,
		ended_at INTEGER
	)`,
	`CREATE TABLE pay_links (
		id TEXT PRIMARY KEY,
		slug TEXT NOT NULL UNIQUE,
		name TEXT NOT NULL,
		till_id TEXT NOT NULL REFERENCES tills (id),
		settings TEXT NOT NULL,
		revision INTEGER NOT NULL DEFAULT 1,
		created_at INTEGER NOT NULL,
		changed_at INTEGER NOT NULL,
		closed_at INTEGER
	)`,
	`CREATE TABLE pay_link_versions (
		link_id TEXT NOT NULL REFERENCES pay_links (id),
		revision INTEGER NOT NULL,
		settings TEXT NOT NULL,
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL,
		PRIMARY KEY (link_id, revision)
	)`,
	`CREATE TABLE pay_link_days (
		link_id TEXT NOT NULL REFERENCES pay_links (id),
		day TEXT NOT NULL,
		visits INTEGER NOT NULL DEFAULT 0,
		starts INTEGER NOT NULL DEFAULT 0,
		PRIMARY KEY (link_id, day)
	)`,

	`CREATE TABLE message_templates (
		id TEXT PRIMARY KEY,
		event TEXT NOT NULL,
		brand_id TEXT NOT NULL DEFAULT '',
		language TEXT NOT NULL,
		channel TEXT NOT NULL CHECK (channel IN ('mail', 'text', 'page')),
		variant TEXT NOT NULL DEFAULT '',
		subject TEXT NOT NULL DEFAULT '',
		body TEXT NOT NULL,
		by_user TEXT NOT NULL,
		at INTEGER NOT NULL,
		UNIQUE (event, brand_id, language, channel, variant)
	)`,
	`CREATE TABLE outbox (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		cause TEXT NOT NULL UNIQUE,
		event TEXT NOT NULL,
		channel TEXT NOT NULL CHECK (channel IN ('mail', 'text', 'page')),
		payer_id TEXT,
		invoice_id INTEGER,
		payment_id INTEGER,
		to_address TEXT NOT NULL,
		to_name TEXT NOT NULL DEFAULT '',
		language TEXT NOT NULL,
		subject TEXT NOT NULL DEFAULT '',
		body TEXT NOT NULL,
		state TEXT NOT NULL CHECK (state IN ('waiting', 'sending', 'sent', 'unknown', 'refused', 'failed')),
		tries INTEGER NOT NULL DEFAULT 0,
		next_at INTEGER NOT NULL DEFAULT 0,
		says TEXT NOT NULL DEFAULT '',
		message_id TEXT NOT NULL DEFAULT '',
		by_user TEXT NOT NULL DEFAULT '',
		created_at INTEGER NOT NULL,
		sent_at INTEGER
	)`,
	`CREATE INDEX outbox_due ON outbox (next_at) WHERE state IN ('waiting', 'sending')`,
	`CREATE INDEX outbox_state ON outbox (state, id)`,
	`CREATE INDEX outbox_invoice ON outbox (invoice_id) WHERE invoice_id IS NOT NULL`,
	`CREATE INDEX outbox_payer ON outbox (payer_id, id) WHERE payer_id IS NOT NULL`,
	`CREATE TABLE message_settings (
		id INTEGER PRIMARY KEY,
		form TEXT NOT NULL,
		mail_password_sealed TEXT,
		text_key_sealed TEXT,
		tested_at INTEGER,
		says TEXT NOT NULL DEFAULT ''
	)`,
	`CREATE TABLE payer_sessions (
		token_hash TEXT PRIMARY KEY,
		payer_id TEXT NOT NULL,
		created_at INTEGER NOT NULL,
		expires_at INTEGER NOT NULL
	)`,
	`CREATE TABLE payer_codes (
		mail TEXT PRIMARY KEY,
		code_hash TEXT NOT NULL,
		tries INTEGER NOT NULL DEFAULT 0,
		created_at INTEGER NOT NULL,
		expires_at INTEGER NOT NULL
	)`,
	// what outgoing hooks will tell, kept from now on
	`CREATE TABLE events (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		kind TEXT NOT NULL,
		object_kind TEXT NOT NULL,
		object_id TEXT NOT NULL,
		at INTEGER NOT NULL,
		payload TEXT NOT NULL
	)`,
	`CREATE INDEX events_object ON events (object_kind, object_id, id)`,
	// how far each of those who are told has been told
	`CREATE TABLE event_readers (name TEXT PRIMARY KEY, done INTEGER NOT NULL)`
];
