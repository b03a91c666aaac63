import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

import type { PageKey, PaymentFilter } from '../../src/lib/server/db';

const folder = mkdtempSync(join(tmpdir(), 'purse-database-'));
process.env.JUSTPURSE_DATA = folder;
// bound to the folder above as it is imported
const store = await import('../../src/lib/server/db');
const { audit } = await import('../../src/lib/server/access/audit');
const { seal, unseal } = await import('../../src/lib/server/access/seal');

const PAYMENTS = 12_000;

beforeAll(async () => {
	await store.open();
	const { db, write } = store;
	await write(async (tx) => {
		await db.tills.insert(
			{
				id: 't',
				slug: 'web-shop',
				name: 'Web shop',
				kind: 'web checkout',
				mode: 'live',
				currencies: '["EUR"]',
				colour: '#2f4b3c',
				fulfil: 'on promise',
				signingKeySealed: 'x',
				createdAt: 1
			},
			tx
		);
		await db.orders.insert(
			{
				tillId: 't',
				sign: 's',
				reference: 'r',
				currency: 'EUR',
				minor: 1,
				name: '',
				mail: '',
				country: '',
				purpose: '',
				createdAt: 1
			},
			tx
		);
		const kindId = await store.kindIdOf(
			{ method: 'card', currency: 'EUR', entry: 'online', scheme: 'corvid', funding: 'debit', issuer: 'BE' },
			tx
		);
		for (let from = 0; from < PAYMENTS; from += 1000)
			await db.payments.insertMany(
				Array.from({ length: 1000 }, (_, i) => ({
					origin: 'till' as const,
					tillId: 't',
					kindId,
					method: 'card',
					mode: 'live' as const,
					reference: `WA-${20_000 + from + i}`,
					payerName: `Payer ${from + i}`,
					payerMail: `p${from + i}@payer.example`,
					currency: 'EUR',
					minor: 100 + i,
					stage: (from + i) % 50 === 0 ? 'failed' : 'captured',
					reachedStep: 2,
					day: '1970-01-01',
					createdAt: from + i
				})),
				tx
			);
	});
});
afterAll(async () => {
	await store.close();
	rmSync(folder, { recursive: true, force: true });
});

describe('lists of payments', () => {
	it('page by key: every payment once, the newest first', async () => {
		const seen: number[] = [];
		let before: PageKey | undefined;
		for (let pages = 0; pages < 6; pages++) {
			const { rows, more, next } = await store.pageOfPayments({ stages: ['failed'], before });
			seen.push(...rows.map((row) => row.id));
			before = next;
			if (!more) break;
		}
		expect(seen).toHaveLength(PAYMENTS / 50);
		expect(new Set(seen).size).toBe(seen.length);
		expect([...seen].sort((a, b) => b - a)).toEqual(seen);
	});
	it('find by the begin of a reference, and by words of name and mail, taking signs as they are', async () => {
		expect((await store.pageOfPayments({ text: 'WA-20417' })).rows.map((row) => row.reference)).toEqual(['WA-20417']);
		expect((await store.pageOfPayments({ text: 'p417@payer' })).rows).toHaveLength(1);
		// signs have no meaning of their own: this is the word 100, and signs alone are nothing to look for
		expect((await store.pageOfPayments({ text: '100%_' })).rows).toHaveLength(1);
		expect((await store.pageOfPayments({ text: '%_' })).rows).toEqual([]);
		expect((await store.paymentsByReference('WA-204', 8)).map((row) => row.reference).slice(0, 2)).toEqual([
			'WA-20400',
			'WA-20401'
		]);
	});
	it('count by stage', async () => {
		expect(await store.stageCounts()).toEqual(
			new Map([
				['captured', PAYMENTS - PAYMENTS / 50],
				['failed', PAYMENTS / 50]
			])
		);
	});
	it('count arrivals as they come and move', async () => {
		const { db, write } = store;
		const states = ['stored', 'stored', 'retry', 'done'] as const;
		await (
			await store.open()
		).query(
			`INSERT INTO connections (id, processor, name, mode, account_id, account_name, account_country, settlement, time_zone,
				secret_sealed, secret_last4, hook_key, account, account_read_at, created_at)
			 VALUES ('c', 'fernhall', 'Fernhall', 'live', 'a', 'a', 'BE', 'EUR', 'Europe/Brussels', '', '', 'k', '{}', 1, 1)`
		);
		await write((tx) =>
			db.arrivals.insertMany(
				states.map((state, n) => ({
					connectionId: 'c',
					eventId: `count-${n}`,
					receivedAt: 1,
					headers: '{}',
					body: '{}',
					checks: '[]',
					state,
					nextAt: 1
				})),
				tx
			)
		);
		await write((tx) => db.arrivals.update({ eventId: 'count-0' }, { state: 'stuck' }, tx));
		expect(await store.arrivalCounts()).toEqual(
			new Map([
				['done', 1],
				['retry', 1],
				['stored', 1],
				['stuck', 1]
			])
		);
		await write((tx) => db.arrivals.remove({ eventId: ['count-0', 'count-1', 'count-2', 'count-3'] }, tx));
		expect(await store.arrivalCounts()).toEqual(new Map());
	});
	it('and every other question about payments that is really sent reads no table and no index from end to end', async () => {
		const db = await store.open();
		const sent: string[] = [];
		const { options } = db as unknown as { options: { logging: unknown } };
		options.logging = (text: string) => sent.push(text.replace(/^Executing \([^)]*\): /, ''));
		const day = '2026-11-24';
		for (const filter of [
			{},
			{ stages: ['captured'] },
			{ stages: ['captured', 'failed'] },
			{ tillId: 't' },
			{ from: day, to: day },
			{ payer: 'p1@payer.example' },
			{ scheme: 'corvid', currency: 'EUR' },
			{ decimals: { 2: ['EUR'] }, least: { 2: 100 }, most: { 2: 200 } },
			{ trouble: 'fee' },
			{ trouble: 'contradiction' },
			{ trouble: 'unknown' },
			{ trouble: 'overpaid' },
			{ trials: true },
			{ connectionId: 'c' },
			{ offlineId: 'c' },
			{ method: 'card' },
			{ text: 'nobody here' },
			{ before: { day, at: 5_000, id: 7 } }
		] as PaymentFilter[])
			await store.pageOfPayments(filter);
		await store.requestsOf([1, 2]);
		await store.paymentsByReference('WA', 8);
		await store.paymentByToken('x');
		await store.stageCounts();
		await store.sumsOfDays(day, day);
		await store.sumsOfCarrier('c', day, day);
		await store.sumsAwaited('c');
		await store.middleDays('c', 1);
		await store.feeDifferences(1);
		await store.volumeOfDays('c', day, day);
		await store.volumeOfDayBefore('c', day, 1, 'x', 1);
		await store.pricedRows('c', '2026-11-01', '2026-11-10');
		await store.dueActions(1, [], 10);
		await store.openOutcomes('c');
		await store.openActions(10);
		await store.overpaidOrders(10);
		await store.unseenContradictions(10);
		await store.unseenClashes(10);
		await store.dueArrivals(1, 'proven', 10, []);
		await store.nextDue();
		await store.pageOfArrivals({});
		await store.arrivalCounts();
		await store.dueWaitingFacts(1, 10, []);
		options.logging = false;
		const questions = sent.filter((text) => /^(SELECT|WITH)/.test(text));
		expect(questions.length).toBeGreaterThan(25);
		const scans: string[] = [];
		for (const text of questions) {
			const plan = (await db.query(`EXPLAIN QUERY PLAN ${text}`, { type: 'SELECT' })) as { detail: string }[];
			for (const { detail } of plan)
				if (/^SCAN (payments|p|payment_events|e|arrivals|a|o|orders)\b/.test(detail)) scans.push(`${detail} | ${text}`);
		}
		// the newest page reads an index from its end, and stops after a page
		const isPage =
			/^SCAN (arrivals|payments USING (COVERING )?INDEX payments_(newest|differs|trials)) .*ORDER BY.*DESC LIMIT/s;
		// these indexes hold nothing but the few rows that are asked for
		const isFew = /USING INDEX (orders_overpaid|payments_contradiction|actions_open) /;
		expect(scans.filter((one) => !isPage.test(one) && !isFew.test(one))).toEqual([]);
	});
	it('and a payer, an invoice or its payments, looked up by mail address, number or reference, is found by an index', async () => {
		const db = await store.open();
		const sent: string[] = [];
		const { options } = db as unknown as { options: { logging: unknown } };
		options.logging = (text: string) => sent.push(text.replace(/^Executing \([^)]*\): /, ''));
		await store.db.payers.one({ mail: 'p1@payer.example', removedAt: null });
		await store.db.payers.one({ number: '77' });
		await store.db.invoices.one({ number: '2026-0001', kind: 'invoice' });
		await store.db.invoices.find({ outsideReference: 'SHOP-77' });
		await store.invoiceByReference({ reference: 'X', creditorReference: 'RF18', currency: 'EUR', tillId: null });
		await store.write((tx) => store.filePaymentsOf('2026-0001', tx));
		options.logging = false;
		const questions = sent.filter((text) => /^(SELECT|WITH)/.test(text));
		expect(questions.length).toBe(8);
		const scans: string[] = [];
		for (const text of questions) {
			const plan = (await db.query(`EXPLAIN QUERY PLAN ${text}`, {
				type: 'SELECT'
			})) as { detail: string }[];
			for (const { detail } of plan)
				if (/^SCAN (payers|invoices|payments)\b/.test(detail)) scans.push(`${detail} | ${text}`);
		}
		expect(scans).toEqual([]);
	});
	it.each([
		`SELECT * FROM payments WHERE trial_id IS NULL ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE (created_at, id) < (9000, 4) AND stage = 'failed' ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE till_id = 't' ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE connection_id = 'c' ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE offline_id = 'c' ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE method = 'card' ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE fee_difference <> 0 ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE contradiction <> '' ORDER BY created_at DESC, id DESC LIMIT 51`,
		`SELECT * FROM payments WHERE reference >= 'WA' AND reference < 'WB' AND reference <> '' ORDER BY reference LIMIT 8`,
		`SELECT * FROM payments WHERE processor = 'p' AND mode = 'live' AND processor_id = 'p'`,
		`SELECT * FROM payment_requests WHERE token = 'x'`,
		`SELECT * FROM payments WHERE order_id = 1`,
		`SELECT * FROM payment_events WHERE payment_id = 1`,
		`SELECT * FROM arrivals WHERE state IN ('stored', 'retry') AND next_at <= 1 ORDER BY next_at, id LIMIT 100`,
		`SELECT * FROM arrivals WHERE state = 'stuck' ORDER BY id DESC LIMIT 51`,
		`SELECT * FROM arrivals WHERE payment_id = 1 LIMIT 20`,
		`SELECT * FROM actions WHERE state IN ('planned', 'unknown') AND next_at <= 1`
	])('never scan all payments or arrivals: %s', async (sql) => {
		const plan = (await (await store.open()).query(`EXPLAIN QUERY PLAN ${sql}`)) as unknown as [{ detail: string }[]];
		const details = plan[0].map((one) => one.detail);
		const scans = details.filter((one) => /^SCAN (payments|arrivals|payment_events|actions)\b(?!.*USING)/.test(one));
		// the newest page reads an index from its end, and stops after a page
		expect([sql, scans]).toEqual([sql, []]);
		// what is due is few, and comes from two states: that may be put in order
		if (!sql.includes('next_at')) expect(details.join()).not.toContain('USE TEMP B-TREE FOR ORDER BY');
	});
});

describe('arrivals', () => {
	it('that wait to be confirmed are counted from an index alone, however many there are', async () => {
		const db = await store.open();
		const [plan] = (await db.query(
			`EXPLAIN QUERY PLAN SELECT COUNT(*) AS n FROM arrivals WHERE state = 'unconfirmed' AND connection_id = 'c'`
		)) as unknown as [{ detail: string }[]];
		expect(plan.map(({ detail }) => detail)).toEqual([
			'SEARCH arrivals USING COVERING INDEX arrivals_unconfirmed (connection_id=?)'
		]);
	});
});

describe('writing', () => {
	it('is whole or not at all', async () => {
		const { db, write } = store;
		const count = await db.audit.count();
		await expect(
			write(async (tx) => {
				await audit({ by: 'x', kind: 'till', id: '1', name: 'x', act: 'x' }, tx);
				throw new Error('half-way');
			})
		).rejects.toThrow('half-way');
		expect(await db.audit.count()).toBe(count);
	});
	it('takes turns: fifty at once lose nothing', async () => {
		const { db, write } = store;
		await Promise.all(
			Array.from({ length: 50 }, (_, i) =>
				write((tx) =>
					db.connectionChanges
						.count()
						.then(() => audit({ by: 'turns', kind: 'till', id: String(i), name: 'x', act: 'x' }, tx))
				)
			)
		);
		expect(await db.audit.count({ userName: 'turns' })).toBe(50);
	});
	it('is looked up as it was committed last, whatever was looked up before', async () => {
		const { db, write, knownPayer, orderAt } = store;
		const payer = { id: 'p', name: 'Ana', mail: 'ana@lookup.example', country: 'BE', onlineMethod: null, createdAt: 1 };
		await write((tx) => db.payers.insert(payer, tx));
		for (const country of ['NL', 'DE', 'FR']) {
			expect(await orderAt('t', 'r', 's')).toMatchObject({ id: 1 });
			await write((tx) => db.payers.update({ id: 'p' }, { country }, tx));
			expect((await knownPayer('ana@lookup.example'))?.country).toBe(country);
		}
	});
	it('is not written inside a write: that would wait for itself', async () => {
		const { write } = store;
		await expect(write(() => write(async () => 1))).rejects.toThrow('A write was begun inside a write');
		expect(await write(async () => 2)).toBe(2);
	});
	it('keeps what differs in the trail, and no secret, however deep', async () => {
		const { db, write } = store;
		await write((tx) =>
			audit(
				{
					by: 'trail',
					kind: 'connection',
					id: '1',
					name: 'x',
					act: 'changed',
					before: { a: 1, b: 2, secretSealed: 'v1.x' },
					after: { a: 1, b: 3, secretSealed: 'v1.y', deep: [{ password: 'p', kept: true }] }
				},
				tx
			)
		);
		const row = (await db.audit.one({ userName: 'trail' }))!;
		expect(JSON.parse(row.before!)).toEqual({ b: 2 });
		expect(JSON.parse(row.after!)).toEqual({ b: 3, deep: [{ kept: true }] });
	});
});

describe('sealing', () => {
	it('opens only what it sealed, for the same purpose, unaltered', () => {
		const sealed = seal('FHS-L-SECRET', 'connection 1');
		expect(sealed).not.toContain('SECRET');
		expect(seal('FHS-L-SECRET', 'connection 1')).not.toBe(sealed);
		expect(unseal(sealed, 'connection 1').toString()).toBe('FHS-L-SECRET');
		expect(() => unseal(sealed, 'connection 2')).toThrow();
		const parts = sealed.split('.');
		for (const i of [1, 2, 3]) {
			const altered = parts
				.map((part, at) => (at === i ? (part[0] === 'A' ? 'B' : 'A') + part.slice(1) : part))
				.join('.');
			expect(() => unseal(altered, 'connection 1')).toThrow();
		}
		expect(() => unseal('anything', 'connection 1')).toThrow('Not a sealed secret');
	});
});
