import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { NewArrival } from '../../src/lib/server/db';

// What is stored of notifications that come at the same moment: all that are proven, each once, and no more of those that
// wait to be confirmed than there may be.

const folder = mkdtempSync(join(tmpdir(), 'purse-arrivals-'));
process.env.JUSTPURSE_DATA = folder;
// bound to the folder above as it is imported
const { ArrivalLog, close, db, open, write } = await import('../../src/lib/server/db');

beforeAll(async () => {
	await open();
});
afterAll(async () => {
	await close();
	rmSync(folder, { recursive: true, force: true });
});

const MOST = 5;
const arrival = (connectionId: string, eventId: string, state: NewArrival['state'], receivedAt = 1): NewArrival => ({
	connectionId,
	eventId,
	receivedAt,
	headers: '{}',
	body: '{}',
	checks: '[]',
	state
});
const idsOf = async (connectionId: string, state: 'stored' | 'unconfirmed') =>
	(await db.arrivals.find({ connectionId, state })).map((row) => row.eventId).sort();
const storeAll = (log: InstanceType<typeof ArrivalLog>, given: readonly NewArrival[]) =>
	Promise.all(given.map((one) => log.store(one)));
const many = (connectionId: string, prefix: string, count: number, state: NewArrival['state']) =>
	Array.from({ length: count }, (_, n) => arrival(connectionId, `${prefix}-${n}`, state));

describe('arrivals that wait to be confirmed', () => {
	it('are stored up to the bound of their connection, those of others and proven ones beside them', async () => {
		const log = new ArrivalLog(0, MOST);
		const [a, b, proven] = [
			many('A', 'a', 12, 'unconfirmed'),
			many('B', 'b', 3, 'unconfirmed'),
			many('A', 'p', 4, 'stored')
		];
		// mixed, as they come
		const mixed = a.flatMap((one, n) => [one, ...(b[n] ? [b[n]] : []), ...(proven[n] ? [proven[n]] : [])]);
		const kept = await storeAll(log, mixed);
		expect(mixed.filter((_, n) => kept[n]).map((one) => one.eventId).length).toBe(MOST + 3 + 4);
		expect(await idsOf('A', 'unconfirmed')).toEqual(['a-0', 'a-1', 'a-2', 'a-3', 'a-4']);
		expect(await idsOf('B', 'unconfirmed')).toEqual(['b-0', 'b-1', 'b-2']);
		expect(await idsOf('A', 'stored')).toEqual(['p-0', 'p-1', 'p-2', 'p-3']);
	});
	it('have room again as soon as some are confirmed, and exactly as much', async () => {
		const log = new ArrivalLog(0, MOST);
		expect(await storeAll(log, many('C', 'c', 7, 'unconfirmed'))).toEqual([true, true, true, true, true, false, false]);
		expect(await log.store(arrival('C', 'late', 'unconfirmed'))).toBe(false);
		await write((tx) => db.arrivals.update({ connectionId: 'C', eventId: ['c-1', 'c-3'] }, { state: 'done' }, tx));
		expect(await storeAll(log, many('C', 'again', 4, 'unconfirmed'))).toEqual([true, true, false, false]);
		expect(await idsOf('C', 'unconfirmed')).toEqual(['again-0', 'again-1', 'c-0', 'c-2', 'c-4']);
	});
	it('are counted with what an earlier run of the server left', async () => {
		await storeAll(new ArrivalLog(0, MOST), many('D', 'before', 3, 'unconfirmed'));
		expect(await storeAll(new ArrivalLog(0, MOST), many('D', 'after', 4, 'unconfirmed'))).toEqual([
			true,
			true,
			false,
			false
		]);
		expect((await idsOf('D', 'unconfirmed')).length).toBe(MOST);
	});
	it('take no room where they come twice', async () => {
		const log = new ArrivalLog(0, MOST);
		for (let round = 0; round < 4; round++) expect(await log.store(arrival('E', 'same', 'unconfirmed'))).toBe(true);
		// as often as it came it is one: four more fit
		expect(await storeAll(log, many('E', 'e', 6, 'unconfirmed'))).toEqual([true, true, true, true, false, false]);
		expect((await idsOf('E', 'unconfirmed')).length).toBe(MOST);
	});
	it('never pass the bound, however they come and are confirmed', async () => {
		const log = new ArrivalLog(0, MOST);
		let [kept, confirmed] = [0, 0];
		for (let round = 0; round < 20; round++) {
			const coming = storeAll(log, many('F', `f${round}`, 1 + (round % 7), 'unconfirmed'));
			// somebody confirms while they come
			const waiting = await idsOf('F', 'unconfirmed');
			const some = waiting.slice(0, round % 3);
			confirmed += await write((tx) =>
				db.arrivals.update({ connectionId: 'F', eventId: some, state: 'unconfirmed' }, { state: 'done' }, tx)
			);
			kept += (await coming).filter(Boolean).length;
			expect((await idsOf('F', 'unconfirmed')).length).toBeLessThanOrEqual(MOST);
		}
		expect((await idsOf('F', 'unconfirmed')).length).toBe(kept - confirmed);
		expect(kept).toBeGreaterThan(MOST);
	});
});

describe('an arrival that is there already', () => {
	it('stays as it was, is answered as stored, and is told as a double, once for each time', async () => {
		const doubles: string[] = [];
		const log = new ArrivalLog(0, MOST, (connectionId, at) => void doubles.push(`${connectionId} ${at}`));
		expect(await log.store(arrival('G', 'once', 'stored', 10))).toBe(true);
		expect(doubles).toEqual([]);
		// twice more at once, and twice a new one within one group
		const again = [
			arrival('G', 'once', 'stored', 11),
			arrival('G', 'new', 'stored', 12),
			arrival('G', 'once', 'stored', 13),
			arrival('G', 'new', 'stored', 14)
		];
		expect(await storeAll(log, again)).toEqual([true, true, true, true]);
		expect(doubles.sort()).toEqual(['G 11', 'G 13', 'G 14']);
		expect(
			(await db.arrivals.find({ connectionId: 'G' }, { order: [['id', 'ASC']] })).map((row) => [
				row.eventId,
				row.receivedAt
			])
		).toEqual([
			['once', 10],
			['new', 12]
		]);
	});
	it('of another connection is another one', async () => {
		const doubles: string[] = [];
		const log = new ArrivalLog(0, MOST, (connectionId) => void doubles.push(connectionId));
		await storeAll(log, [arrival('H', 'shared', 'stored'), arrival('I', 'shared', 'stored')]);
		expect(doubles).toEqual([]);
		expect([await idsOf('H', 'stored'), await idsOf('I', 'stored')]).toEqual([['shared'], ['shared']]);
	});
});

describe('a group', () => {
	it('wakes the work once it is stored, and not where nothing of it was', async () => {
		let woken = 0;
		const log = new ArrivalLog(
			0,
			0,
			() => {},
			() => void woken++
		);
		expect(await storeAll(log, many('K', 'k', 30, 'unconfirmed'))).toEqual(Array.from({ length: 30 }, () => false));
		expect(woken).toBe(0);
		expect((await storeAll(log, many('K', 'p', 30, 'stored'))).every(Boolean)).toBe(true);
		expect(woken).toBeGreaterThan(0);
		expect(woken).toBeLessThan(30);
	});
	it('larger than one statement holds is stored whole, in the order in which it came', async () => {
		const log = new ArrivalLog(0, MOST);
		expect((await storeAll(log, many('L', 'l', 450, 'stored'))).every(Boolean)).toBe(true);
		const stored = await db.arrivals.find({ connectionId: 'L' }, { order: [['id', 'ASC']] });
		expect(stored.map((row) => row.eventId)).toEqual(Array.from({ length: 450 }, (_, n) => `l-${n}`));
	});
});
