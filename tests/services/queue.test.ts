import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';

// How writers take turns, and what lies in the log of writes.

const folder = mkdtempSync(join(tmpdir(), 'purse-queue-'));
process.env.JUSTPURSE_DATA = folder;
const store = await import('../../src/lib/server/db');
const { inWriteQueue, openForLongReads } = await import('../../src/lib/server/db/open');
afterAll(async () => {
	await store.close();
	rmSync(folder, { recursive: true, force: true });
});

/** Something that is under way until it is let go. */
function held() {
	let release = () => {};
	const until = new Promise<void>((done) => (release = done));
	return { until, release };
}

describe('the queue of writers', () => {
	it('lets all others go before what waits patiently, and keeps the order among equals', async () => {
		const order: string[] = [];
		const first = held();
		const turn = (name: string, isPatient = false) => inWriteQueue(async () => void order.push(name), isPatient);
		const blocked = inWriteQueue(() => first.until);
		const all = [turn('file 1', true), turn('payer 1'), turn('file 2', true), turn('payer 2'), turn('payer 3')];
		first.release();
		await Promise.all([blocked, ...all]);
		expect(order).toEqual(['payer 1', 'payer 2', 'payer 3', 'file 1', 'file 2']);
	});
	it('gives what waits patiently its turn, however many others keep coming', async () => {
		const order: string[] = [];
		const first = held();
		const blocked = inWriteQueue(() => first.until);
		const patient = inWriteQueue(async () => void order.push('patient'), true);
		const others = Array.from({ length: 200 }, (_, n) => inWriteQueue(async () => void order.push(`other ${n}`)));
		first.release();
		await Promise.all([blocked, patient, ...others]);
		const place = order.indexOf('patient');
		expect(place).toBeGreaterThan(10);
		expect(place).toBeLessThan(100);
		expect(order.length).toBe(201);
	});
	it('goes on after one that fails, at once or later, and tells whoever asked', async () => {
		await expect(inWriteQueue(() => Promise.reject(new Error('later')))).rejects.toThrow('later');
		await expect(
			inWriteQueue(() => {
				throw new Error('at once');
			})
		).rejects.toThrow('at once');
		expect(await inWriteQueue(async () => 7)).toBe(7);
	});
	it('takes nothing back from a write that failed, and keeps the connection good for the next', async () => {
		await store.open();
		const add = (name: string) =>
			store.write(async (tx) => {
				await store.db.payerGroups.insert({ id: name, name, createdAt: 1 }, tx);
				if (name === 'bad') throw new Error('changed my mind');
			});
		await add('good');
		await expect(add('bad')).rejects.toThrow('changed my mind');
		await expect(
			store.write((tx) => store.db.payerGroups.insert({ id: 'good', name: 'x', createdAt: 1 }, tx))
		).rejects.toThrow();
		await add('better');
		expect((await store.db.payerGroups.find({}, { order: [['id', 'ASC']] })).map((one) => one.id)).toEqual([
			'better',
			'good'
		]);
	});
	it('refuses a write that is begun inside a write, also after others had their turn', async () => {
		await expect(
			store.write(async () => {
				await new Promise((next) => setTimeout(next, 5));
				await store.write(async () => {});
			})
		).rejects.toThrow('A write was begun inside a write');
		// what a write starts and does not wait for is a write of its own once it is over
		let later: Promise<number> | undefined;
		const go = held();
		await store.write(async () => {
			later = go.until.then(() => store.write(async () => 3));
		});
		go.release();
		expect(await later).toBe(3);
	});
});

describe('long reads', () => {
	it('see what is committed, and hold up no write', async () => {
		const reader = await openForLongReads();
		const count = async () =>
			((await reader.query('SELECT COUNT(*) AS n FROM payer_groups')) as unknown as [{ n: number }[]])[0][0]!.n;
		const before = await count();
		// a read that goes on for a while
		const long = reader.query(
			'WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n WHERE x < 2000000) SELECT COUNT(*) FROM n'
		);
		const begun = performance.now();
		await store.write((tx) => store.db.payerGroups.insert({ id: 'meanwhile', name: 'm', createdAt: 1 }, tx));
		const wrote = performance.now() - begun;
		await long;
		expect(performance.now() - begun).toBeGreaterThan(wrote);
		expect(await count()).toBe(before + 1);
	});
});

describe('the log of writes', () => {
	it('is carried into the database while the application runs, and is empty after an orderly end', async () => {
		const log = `${join(folder, 'purse.sqlite')}-wal`;
		await store.write((tx) =>
			store.db.payerGroups.insertMany(
				Array.from({ length: 3_000 }, (_, n) => ({ id: `g-${n}`, name: `group ${n}`, createdAt: n })),
				tx
			)
		);
		const size = () => statSync(join(folder, 'purse.sqlite')).size;
		const before = size();
		expect(statSync(log).size).toBeGreaterThan(100_000);
		for (const end = Date.now() + 15_000; size() === before;) {
			if (Date.now() > end) throw new Error('the log was never carried over');
			await new Promise((next) => setTimeout(next, 100));
		}
		await store.close();
		expect(statSync(log, { throwIfNoEntry: false })?.size ?? 0).toBe(0);
	});
});
