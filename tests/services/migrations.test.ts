import { QueryTypes, Sequelize } from 'sequelize';
import { describe, expect, it } from 'vitest';
import { migrate } from '../../src/lib/server/db/migrate';
import { first } from '../../src/lib/server/db/migrations/0001-first';
import { second } from '../../src/lib/server/db/migrations/0002-connect';
import { third } from '../../src/lib/server/db/migrations/0003-choose';
import { fourth } from '../../src/lib/server/db/migrations/0004-accept';
import { fifth } from '../../src/lib/server/db/migrations/0005-attempts';

const EARLIER = [
	['0001-first', first],
	['0002-connect', second],
	['0003-choose', third],
	['0004-accept', fourth],
	['0005-attempts', fifth]
] as const;
const AT = Date.UTC(2026, 9, 5, 12);
const CARD = JSON.stringify({ scheme: 'corvid', funding: 'debit', issuerCountry: 'BE', lastFour: '0007' });

type Row = Record<string, string | number | null>;

/** A database as a version left it, with payments of every sort that it knew. */
async function populated(version: number): Promise<Sequelize> {
	const db = new Sequelize({ dialect: 'sqlite', storage: ':memory:', logging: false, pool: { max: 1 } });
	await db.query('CREATE TABLE SequelizeMeta (name VARCHAR(255) NOT NULL UNIQUE PRIMARY KEY)');
	for (const [name, statements] of EARLIER.slice(0, version)) {
		for (const statement of statements) await db.query(statement);
		await db.query('INSERT INTO SequelizeMeta VALUES (?)', { replacements: [name] });
	}
	/** What a version does not have is left out, what it asks for beside that is empty. */
	const put = async (table: string, row: Row) => {
		const columns = await db.query<{
			name: string;
			type: string;
			notnull: number;
			dflt_value: string | null;
			pk: number;
		}>(`PRAGMA table_info(${table})`, { type: QueryTypes.SELECT });
		if (!columns.length) return;
		const values = columns
			.filter(({ name, notnull, dflt_value, pk }) => name in row || (notnull && dflt_value === null && !pk))
			.map(({ name, type }) => [name, name in row ? row[name]! : type === 'TEXT' ? '' : 0] as const);
		await db.query(
			`INSERT INTO ${table} (${values.map(([name]) => name).join(', ')}) VALUES (${values.map(() => '?').join(', ')})`,
			{ replacements: values.map(([, value]) => value) }
		);
	};
	await put('tills', {
		id: 't',
		slug: 'web-shop',
		name: 'Web shop',
		kind: 'web checkout',
		mode: 'live',
		created_at: AT
	});
	await put('connections', {
		id: 'f',
		processor: 'fernhall',
		name: 'Fernhall',
		mode: 'live',
		account_id: 'FH-20417',
		settlement: 'EUR',
		time_zone: 'Europe/Brussels',
		created_at: AT
	});
	await put('rate_cards', {
		id: 1,
		connection_id: 'f',
		valid_from: '2026-01-01',
		card: '{}',
		source: 'Fernhall',
		created_at: AT
	});
	const orders: [number, string, number][] = [
		[1, 'M-1', 8_450],
		[2, 'M-2', 4_990],
		[3, 'M-2', 4_991],
		[4, 'M-3', 2_000]
	];
	for (const [id, reference, minor] of orders)
		await put('checkouts', {
			id,
			till_id: 't',
			sign: `s${id}`,
			reference,
			currency: 'EUR',
			minor,
			created_at: AT + id
		});
	const payment = (id: number, checkout: number, more: Row) =>
		put('payments', {
			id,
			token: `token-${id}`,
			checkout_id: checkout,
			till_id: 't',
			version: 1,
			method: 'card',
			mode: 'live',
			connection_id: 'f',
			reference: orders[checkout - 1]![1],
			currency: 'EUR',
			minor: orders[checkout - 1]![2],
			created_at: AT + id,
			...more
		});
	const taken = (id: number, checkout: number, minor: number, more: Row = {}) =>
		payment(id, checkout, {
			processor_id: `FH-${id}`,
			card: CARD,
			stage: 'captured',
			notches: 2,
			broken: 0,
			live: 1,
			taken: minor,
			refundable: minor,
			fee_currency: 'EUR',
			charged_fee: 132,
			charged_detail: JSON.stringify({ currency: 'EUR', fee: 132, returned: 0, base: minor, label: 'HP' }),
			base_minor: minor,
			captured_at: AT + 1000,
			...more
		});
	await taken(1, 1, 8_450, { stage: 'part refunded', refunded: 3_000, refundable: 5_450 });
	// one reference at two sums, both paid; an order with two ways begun
	await taken(2, 2, 4_990);
	await taken(3, 3, 4_991);
	await payment(4, 4, { stage: 'requested', notches: 1, live: 1, method: 'bank-redirect' });
	await payment(5, 4, { stage: 'requested', notches: 1, live: 1, method: 'bank-redirect' });
	const event = (id: number, paymentId: number, kind: string, minor: number | null, object: string) =>
		put('payment_events', {
			id,
			payment_id: paymentId,
			kind,
			at: AT + id,
			minor,
			object,
			source: 'notification',
			dedupe: `${paymentId} ${kind} ${object}`,
			heard_at: AT
		});
	await event(1, 1, 'captured', 8_450, 'FH-1');
	await event(2, 1, 'refunded', 3_000, 'FH-R1');
	await event(3, 2, 'captured', 4_990, 'FH-2');
	await event(4, 3, 'captured', 4_991, 'FH-3');
	await put('actions', {
		key: 'refund-1',
		payment_id: 1,
		act: 'refund',
		minor: 500,
		state: 'unknown',
		next_at: AT,
		created_at: AT
	});
	await put('settlement_files', {
		id: 1,
		name: 'f.csv',
		processor: 'fernhall',
		digest: 'd',
		count: 2,
		fresh: 2,
		taken_at: AT
	});
	const past = {
		file_id: 1,
		processor: 'fernhall',
		source: 'Web shop',
		method: 'card',
		currency: 'EUR',
		entry: 'online'
	};
	const card = { scheme: 'corvid', funding: 'debit', issuer: 'BE', fee_currency: 'EUR' };
	// told by the file what is known from the till, and what is not
	await put('settled_payments', {
		...past,
		...card,
		id: 1,
		processor_id: 'FH-1',
		captured_at: AT,
		minor: 8_450,
		fee: 132,
		base: 8_450
	});
	await put('settled_payments', {
		...past,
		...card,
		id: 2,
		processor_id: 'FH-9',
		captured_at: AT,
		minor: 10_000,
		fee: 150,
		base: 10_000,
		refunded: 2_500
	});
	await put('declined_attempts', {
		...past,
		...card,
		id: 1,
		processor_id: 'FH-D1',
		at: AT,
		minor: 10_000,
		fee: 0,
		reason: 'expired card'
	});
	return db;
}

/** Versions from the sixth on are made of the fifth by what was shipped then. */
const LATER = { 6: '0006-one-truth', 7: '0007-arrival-counts' } as const;

describe.each([1, 2, 3, 4, 5, 6, 7])('a populated database of version %i', (version) => {
	it('is carried over: no payment lost, none doubled, no sum changed', async () => {
		const db = await populated(Math.min(version, 5));
		if (version in LATER) await migrate(db, LATER[version as keyof typeof LATER]);
		await migrate(db);
		const all = <T extends object>(sql: string) => db.query<T>(sql, { type: QueryTypes.SELECT });
		const payments = await all<{
			processor_id: string;
			stage: string;
			taken: number;
			refunded: number;
			till_id: string;
		}>(`SELECT processor_id, stage, taken, refunded, till_id FROM payments ORDER BY id`);
		const file = version >= 3 ? [{ processor_id: 'FH-9', stage: 'part refunded', taken: 10_000, refunded: 2_500 }] : [];
		const declined = version >= 5 ? [{ processor_id: 'FH-D1', stage: 'failed', taken: 0 }] : [];
		expect(payments).toMatchObject([
			{ processor_id: 'FH-1', stage: 'part refunded', taken: 8_450, refunded: 3_000 },
			{ processor_id: 'FH-2', taken: 4_990 },
			{ processor_id: 'FH-3', taken: 4_991 },
			{ stage: 'voided', taken: 0 },
			{ stage: 'requested', taken: 0 },
			...file,
			...declined
		]);
		expect(payments.every((one) => one.till_id === 't')).toBe(true);
		// one order a reference; what both took is kept
		expect(
			await all(`SELECT id, reference, minor, paid, replaced_by AS replacedBy FROM orders ORDER BY id`)
		).toMatchObject([
			{ reference: 'M-1', paid: 5_450, replacedBy: null },
			{ reference: 'M-2', minor: 4_990, paid: 4_990 },
			{ reference: 'M-2', minor: 4_991, paid: 4_991 },
			{ reference: 'M-3', paid: 0, replacedBy: null }
		]);
		expect(
			await all(
				`SELECT reference FROM orders WHERE replaced_by IS NULL GROUP BY till_id, reference HAVING COUNT(*) > 1`
			)
		).toEqual([]);
		const [events] = await all<{ n: number }>(`SELECT COUNT(*) AS n FROM payment_events WHERE payment_id <= 3`);
		expect(events!.n).toBe(4);
		expect(await all(`SELECT key, state, minor FROM actions`)).toEqual([
			{ key: 'refund-1', state: 'unknown', minor: 500 }
		]);
		expect(await all(`SELECT payment_id, fee FROM payment_fees WHERE payment_id <= 3`)).toHaveLength(3);
		// what nobody confirmed is no contract
		expect(await all(`SELECT role FROM rate_cards`)).toEqual([{ role: 'proposal' }]);
		// sums that are kept beside the payments are theirs
		const sum = payments.reduce((total, one) => total + one.taken, 0);
		expect(await all(`SELECT SUM(count) AS count, SUM(taken) AS taken FROM day_sums`)).toEqual([
			{ count: payments.length, taken: sum }
		]);
		expect(await all('PRAGMA foreign_key_check')).toEqual([]);
		await db.close();
	});
});

describe('charges of accounts that a version kept without a day', () => {
	it('count to the day of their account; of an account that is not connected, to the business’s', async () => {
		const db = await populated(5);
		await migrate(db, '0018-charges');
		const late = Date.parse('2026-06-30T22:30:00Z');
		await db.query(`UPDATE connections SET time_zone = 'Europe/Brussels' WHERE id = 'f'`);
		for (const [object, connection] of [
			['its own', 'f'],
			['of nobody', null]
		] as const)
			await db.query(
				`INSERT INTO account_charges (processor, connection_id, account_id, kind, object, at, currency, minor, says)
				 VALUES ('fernhall', ?, ?, 'monthly', ?, ?, 'EUR', 900, '')`,
				{ replacements: [connection, connection ?? '', object, late] }
			);
		await migrate(db);
		const days = await db.query(`SELECT object, day FROM account_charges ORDER BY id`, { type: QueryTypes.SELECT });
		expect(days).toEqual([
			{ object: 'its own', day: '2026-07-01' },
			{ object: 'of nobody', day: '2026-06-30' }
		]);
		await db.close();
	});
});

describe('what a version before kept otherwise', () => {
	it('is added up by day as the payments say, when fees by day come', async () => {
		const db = await populated(5);
		await migrate(db, '0020-unconfirmed');
		const all = <T extends object>(sql: string) => db.query<T>(sql, { type: QueryTypes.SELECT });
		const months = await all<{ count: number; fee: number }>(
			`SELECT SUM(count) AS count, SUM(gross) AS gross, SUM(fee) AS fee, SUM(told) AS told FROM fee_months`
		);
		expect(months[0]!.count).toBeGreaterThan(0);
		await migrate(db);
		expect(
			await all(`SELECT SUM(count) AS count, SUM(gross) AS gross, SUM(fee) AS fee, SUM(told) AS told FROM fee_days`)
		).toEqual(months);
		// and goes on with the payments
		await db.query(`UPDATE payments SET charged_fee = charged_fee + 7 WHERE processor_id = 'FH-1'`);
		const sums = (table: string) => all<{ fee: number }>(`SELECT SUM(fee) AS fee FROM ${table}`);
		expect(await sums('fee_days')).toEqual(await sums('fee_months'));
		expect((await sums('fee_days'))[0]!.fee).toBe(months[0]!.fee + 7);
		await db.close();
	});
	it('is looked at again where money of a file stayed on no invoice; what was taken back by hand is not', async () => {
		const db = await populated(5);
		await migrate(db, '0022-trouble-mail');
		const [kind] = await db.query<{ id: number }>(`SELECT id FROM payment_kinds LIMIT 1`, { type: QueryTypes.SELECT });
		const pay = (id: string, reference: string, source: string, till: string | null) =>
			db.query(
				`INSERT INTO payments (origin, mode, processor, account_id, processor_id, till_id, source, kind_id, method, currency, minor, stage,
					reached_step, taken, reference, considered, day, created_at, captured_at)
				 VALUES ('file', 'live', 'fernhall', '', ?, ?, ?, ?, 'card', 'EUR', 5000, 'captured', 2, 5000, ?, 5000, '2026-10-05', ?, ?)`,
				{ replacements: [id, till, source, kind!.id, reference, AT, AT] }
			);
		await db.query(`INSERT INTO file_sources (source, till_id) VALUES ('Stall', 't') ON CONFLICT (source) DO NOTHING`);
		await pay('W-1', 'INV-1', 'Stall', 't');
		await pay('W-2', 'INV-2', 'Nowhere', null);
		await pay('W-3', '', 'Stall', 't');
		await pay('W-4', 'INV-1', 'Stall', 't');
		const columns = await db.query<{
			name: string;
			type: string;
			notnull: number;
			dflt_value: string | null;
			pk: number;
		}>(`PRAGMA table_info(invoices)`, { type: QueryTypes.SELECT });
		const given: Record<string, string | number> = { number: 'INV-1', kind: 'invoice', currency: 'EUR', till_id: 't' };
		const needed = columns.filter((one) => one.name in given || (one.notnull && one.dflt_value === null && !one.pk));
		await db.query(
			`INSERT INTO invoices (${needed.map((one) => one.name).join(', ')}) VALUES (${needed.map(() => '?').join(', ')})`,
			{
				replacements: needed.map(({ name, type }) =>
					name in given ? given[name]! : name === 'token' ? 'a-token' : type === 'TEXT' ? '' : 0
				)
			}
		);
		await db.query(
			`INSERT INTO places (payment_id, invoice_id, minor, why, by_user, at)
			 SELECT p.id, i.id, 5000, '', '', 1 FROM payments p, invoices i WHERE p.processor_id = 'W-4'`
		);
		await migrate(db);
		expect(
			await db.query(`SELECT processor_id AS id, considered FROM payments WHERE processor_id LIKE 'W-%' ORDER BY 1`, {
				type: QueryTypes.SELECT
			})
		).toEqual([
			{ id: 'W-1', considered: 0 },
			{ id: 'W-2', considered: 0 },
			{ id: 'W-3', considered: 5_000 },
			{ id: 'W-4', considered: 5_000 }
		]);
		expect(
			await db.query(`SELECT kind, source, till_id AS till FROM payment_moves`, { type: QueryTypes.SELECT })
		).toEqual([{ kind: 'till', source: 'Stall', till: 't' }]);
		await db.close();
	});
});
