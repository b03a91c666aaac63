import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { z } from 'zod';

// Tables as they are declared: rows, columns, and what columns that hold JSON may hold.

const folder = mkdtempSync(join(tmpdir(), 'purse-tables-'));
process.env.JUSTPURSE_DATA = folder;
const store = await import('../../src/lib/server/db');
const { json, jsonOrNull, table, text, whole } = await import('../../src/lib/server/db/table');
afterAll(async () => {
	await store.close();
	rmSync(folder, { recursive: true, force: true });
});
const { db, write } = store;

describe('every table', () => {
	it('that is declared stands in the database, column by column', async () => {
		const sequelize = await store.open();
		const missing: string[] = [];
		for (const [name, one] of Object.entries(db)) {
			const [columns] = (await sequelize.query(
				`PRAGMA table_info(${one.model.getTableName() as string})`
			)) as unknown as [{ name: string }[]];
			const there = new Set(columns.map((column) => column.name));
			for (const { field } of Object.values(one.model.getAttributes()))
				if (!there.has(field!)) missing.push(`${name}.${field}`);
		}
		expect(missing).toEqual([]);
		expect(Object.keys(db).length).toBeGreaterThan(30);
	});
	it('whose columns hold JSON reads each of them, and refuses what is none of it', () => {
		const readers = Object.entries(db).flatMap(([name, one]) =>
			Object.entries(one.json as Record<string, (held: string) => unknown>).map(([column, read]) => ({
				where: `${name}.${column}`,
				read
			}))
		);
		expect(readers.map((one) => one.where)).toEqual(
			expect.arrayContaining([
				'tills.settings',
				'tills.currencies',
				'lineUps.offers',
				'connections.account',
				'connections.given',
				'rateCards.card',
				'payments.card',
				'business.details'
			])
		);
		for (const { where, read } of readers) {
			for (const wrong of ['7', '"text"', '{', 'true']) expect(() => read(wrong), `${where} reads ${wrong}`).toThrow();
		}
	});
	it('reads what is empty as what it stands for, where it may be empty', () => {
		expect(db.business.json.details('')).toMatchObject({ legalName: '', taxNumber: '' });
		expect(db.tills.json.settings('')).toMatchObject({ languages: ['en'], asksPhone: 'no', delivers: false });
		expect(() => db.rateCards.json.card('')).toThrow();
		expect(() => db.lineUps.json.offers('')).toThrow();
	});
});

describe('a column that holds JSON', () => {
	const made = table(
		'test_shapes',
		{
			id: text,
			list: json(z.array(z.number())),
			maybe: jsonOrNull(z.object({ a: z.string() })),
			loose: json(z.object({ b: z.number().default(3) }), '{}'),
			count: whole
		},
		['id']
	);
	it('is a text in its row, and read by its name', () => {
		expect(Object.keys(made.json).sort()).toEqual(['list', 'loose', 'maybe']);
		expect(made.json.list('[1,2]')).toEqual([1, 2]);
		expect(made.json.maybe('{"a":"x"}')).toEqual({ a: 'x' });
		expect(made.json.loose('')).toEqual({ b: 3 });
		expect(() => made.json.list('["1"]')).toThrow();
		expect(() => made.json.list('')).toThrow();
	});
});

describe('the few things that are done with a table', () => {
	it('find in order, page by page, and add only what is new', async () => {
		await store.open();
		await write(async (tx) => {
			await db.payerGroups.insertMany(
				['c', 'a', 'b', 'd'].map((id, n) => ({ id, name: `Group ${id}`, createdAt: n })),
				tx
			);
			const added = await db.payerGroups.insertNew(
				[
					{ id: 'a', name: 'Another a', createdAt: 9 },
					{ id: 'e', name: 'Group e', createdAt: 9 }
				],
				['id'],
				tx
			);
			expect(added.map((one) => one.id)).toEqual(['e']);
		});
		const page = async (offset: number) =>
			(await db.payerGroups.find({}, { order: [['id', 'ASC']], limit: 2, offset })).map((one) => one.id);
		expect([await page(0), await page(2), await page(4)]).toEqual([['a', 'b'], ['c', 'd'], ['e']]);
		expect(await db.payerGroups.one({ id: 'a' })).toMatchObject({ name: 'Group a' });
		expect(await db.payerGroups.one({ id: 'nobody' })).toBe(undefined);
		expect(await db.payerGroups.count({ id: ['a', 'b', 'zz'] })).toBe(2);
	});
	it('change and remove what is meant, and say how many', async () => {
		const counts = await write(async (tx) => [
			await db.payerGroups.update({ id: ['a', 'b'] }, { createdAt: 77 }, tx),
			await db.payerGroups.update({ id: 'nobody' }, { createdAt: 77 }, tx),
			await db.payerGroups.remove({ id: 'c' }, tx)
		]);
		expect(counts).toEqual([2, 0, 1]);
		expect((await db.payerGroups.find({ createdAt: 77 })).map((one) => one.id).sort()).toEqual(['a', 'b']);
	});
	it('leave nothing of several rows where one breaks a rule', async () => {
		const before = await db.payerGroups.count();
		await expect(
			write((tx) =>
				db.payerGroups.insertMany(
					[
						{ id: 'new-1', name: 'n', createdAt: 1 },
						{ id: 'a', name: 'n', createdAt: 1 }
					],
					tx
				)
			)
		).rejects.toThrow();
		expect(await db.payerGroups.count()).toBe(before);
	});
});
