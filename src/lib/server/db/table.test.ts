import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

// what a table is asked for is put together as a statement: it must find what the model itself would, and nothing else
const folder = mkdtempSync(join(tmpdir(), 'just-purse-table-'));
process.env.JUSTPURSE_DATA = folder;
const { open, close, write } = await import('./open');
const { orNull, soughtText, table, text, whole } = await import('./table');

const things = table('test_things', { id: whole, heldBy: orNull(text), code: soughtText, shelf: whole }, ['id'], true);
const CODES = ["o'clock", '', 'a\\b', '%', '$1 :x ?'];

beforeAll(async () => {
	const db = await open();
	await db.query(
		'CREATE TABLE test_things (id INTEGER PRIMARY KEY AUTOINCREMENT, held_by TEXT, code TEXT NOT NULL, shelf INTEGER NOT NULL)'
	);
	await write(async (tx) => {
		for (const [at, code] of CODES.entries())
			await things.insert({ heldBy: at % 2 ? null : `person ${at}`, code, shelf: at }, tx);
	});
});
afterAll(async () => {
	await close();
	rmSync(folder, { recursive: true, force: true });
});

const ids = async (...asked: Parameters<typeof things.find>) => (await things.find(...asked)).map((one) => one.id);

it('finds each text by itself, whatever stands in it', async () => {
	for (const [at, code] of CODES.entries())
		expect(await things.find({ code })).toEqual([
			{ id: at + 1, heldBy: at % 2 ? null : `person ${at}`, code, shelf: at }
		]);
	expect(await things.find({ code: "' OR 1 = 1 --" })).toEqual([]);
});
it('what is not there, one of several, none of none', async () => {
	expect(await ids({ heldBy: null })).toEqual([2, 4]);
	expect(await ids({ id: [1, 3, 99] })).toEqual([1, 3]);
	expect(await ids({ code: ['%', "o'clock"] })).toEqual([1, 4]);
	expect(await ids({ id: [] })).toEqual([]);
	expect(await ids({ heldBy: null, shelf: 3 })).toEqual([4]);
});
it('in an order, so many of them, from one on', async () => {
	const order: ['shelf', 'DESC'][] = [['shelf', 'DESC']];
	expect(await ids({}, { order })).toEqual([5, 4, 3, 2, 1]);
	expect(await ids({}, { order, limit: 2 })).toEqual([5, 4]);
	expect(await ids({}, { order, limit: 2, offset: 1 })).toEqual([4, 3]);
	expect(await ids({}, { order, offset: 3 })).toEqual([2, 1]);
	expect(await ids({}, { limit: 0 })).toEqual([]);
});
it('a condition that was left open by mistake is refused: it would find whatever comes first', async () => {
	await expect(things.one({ id: undefined })).rejects.toThrow('test_things is not sought by its id.');
	await expect(things.find({ nothing: 1 } as never)).rejects.toThrow('is not sought by its nothing.');
});
it('within a write it sees what that write has done', async () => {
	await write(async (tx) => {
		await things.insert({ heldBy: null, code: 'new', shelf: 9 }, tx);
		expect((await things.one({ code: 'new' }, tx))?.shelf).toBe(9);
		await things.remove({ code: 'new' }, tx);
		expect(await things.one({ code: 'new' }, tx)).toBeUndefined();
	});
});
