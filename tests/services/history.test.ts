import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile, type OtherFileLine } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';

// What settlement files tell of accounts, and the page on which they stand.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	desk = new Desk(world);
	await desk.openWebShop();
});
afterAll(() => world.end());

let names = 0;
const upload = async (text: string, more: Record<string, string> = {}) =>
	desk.upload('/connect/files?/take', { processor: 'fernhall', ...more }, 'file', `history-${++names}.csv`, text);
const other = (one: Partial<OtherFileLine> & Pick<OtherFileLine, 'id' | 'outcome'>): OtherFileLine => ({
	at: Date.UTC(2026, 8, 1),
	minor: 0,
	fee: 0,
	...one
});
interface Page {
	files: { id: number; name: string }[];
	page: number;
	more: boolean;
	sources: { source: string; tillId: string | null; count: number }[];
}
const pageOf = (query = '') => desk.data<Page>(`/connect/files${query}`);

describe('a payout', () => {
	it('that a notification told is completed by a file that tells its sum, and told once', async () => {
		await desk.giveCard(await desk.address('84.50', 'HI-1'), CARDS.approved);
		await world.control('night', { mode: 'live', step: 'settle' });
		await world.control('night', { mode: 'live', step: 'pay out' });
		const payout = async () =>
			rows<{ object: string; minor: number | null; currency: string }>(
				world,
				'SELECT object, minor, currency FROM payouts'
			);
		const [told] = await until('the payout is told', async () => {
			const all = await payout();
			return all.length > 0 && all;
		});
		expect(told!.minor).toBe(null);
		const answer = await upload(settlementFile([], [other({ id: told!.object, outcome: 'payout', minor: 8_318 })]));
		expect(answer.data?.says).toMatch(/1 known payment changed|imported/);
		expect(await payout()).toEqual([{ object: told!.object, minor: 8_318, currency: 'EUR' }]);
		await upload(
			settlementFile(
				[],
				[
					other({ id: told!.object, outcome: 'payout', minor: 8_318 }),
					other({ id: 'MONTH-9', outcome: 'monthly', fee: 2_400 })
				]
			)
		);
		expect(await payout()).toHaveLength(1);
		expect(await rows(world, 'SELECT object FROM account_clashes')).toEqual([]);
	});
});

describe('refunds and disputes that are lines of their own', () => {
	it('change the payment they belong to, with what was charged for them, in whatever file they come', async () => {
		const at = Date.UTC(2026, 8, 2, 10);
		await upload(settlementFile([{ id: 'HI-P1', at, minor: 10_000, fee: 153 }]));
		await upload(
			settlementFile(
				[],
				[
					other({ id: 'HI-R1', outcome: 'refund', minor: 2_500, at: at + 1, of: 'HI-P1' }),
					other({ id: 'HI-R2', outcome: 'refund', minor: 1_500, at: at + 2, fee: 25, of: 'HI-P1' })
				]
			)
		);
		const payment = async () =>
			(
				await rows<{ id: number; refunded: number; disputed: number; stage: string }>(
					world,
					`SELECT id, refunded, disputed, stage FROM payments WHERE processor_id = 'HI-P1'`
				)
			)[0]!;
		expect(await payment()).toMatchObject({ refunded: 4_000, stage: 'part refunded' });
		await upload(
			settlementFile(
				[],
				[other({ id: 'HI-D1', outcome: 'dispute', minor: 6_000, at: at + 3, fee: 1_800, of: 'HI-P1' })]
			)
		);
		expect(await payment()).toMatchObject({ refunded: 4_000, disputed: 6_000, stage: 'disputed' });
		const { id } = await payment();
		expect(
			await rows(world, 'SELECT kind, object, minor FROM account_charges WHERE payment_id = ? ORDER BY object', [id])
		).toEqual([
			{ kind: 'dispute', object: 'HI-D1', minor: 1_800 },
			{ kind: 'refund', object: 'HI-R2', minor: 25 }
		]);
		await upload(
			settlementFile([], [other({ id: 'HI-D1', outcome: 'dispute won', fee: -1_800, at: at + 4, of: 'HI-P1' })])
		);
		expect(await payment()).toMatchObject({ refunded: 4_000, disputed: 0 });
	});
	it('of a payment that nobody knows refuse the whole file', async () => {
		const answer = await upload(
			settlementFile(
				[{ id: 'HI-P2', at: Date.UTC(2026, 8, 3), minor: 500, fee: 20 }],
				[other({ id: 'HI-R9', outcome: 'refund', minor: 100, of: 'NOBODY-1' })]
			)
		);
		expect(answer.type).toBe('failure');
		expect(JSON.stringify(answer.data)).toMatch(
			/belongs to payment NOBODY-1, which is known neither here nor in the file/
		);
		expect(await rows(world, `SELECT id FROM payments WHERE processor_id = 'HI-P2'`)).toEqual([]);
		expect(await rows(world, `SELECT id FROM settlement_files WHERE state = 'staging'`)).toEqual([]);
	});
});

describe('the page of settlement files', () => {
	it('counts the payments of each name of a place, and keeps counting', async () => {
		const before = (await pageOf()).sources.find((one) => one.source === 'Web shop')?.count ?? 0;
		const lines = Array.from({ length: 12 }, (_, n) => ({
			id: `HI-S${n}`,
			at: Date.UTC(2026, 8, 4) + n,
			minor: 100,
			fee: 19,
			source: n < 5 ? 'Web shop' : 'Market stall'
		}));
		await upload(settlementFile(lines));
		await upload(settlementFile([...lines, { ...lines[0]!, id: 'HI-S99', source: 'Market stall' }]));
		const { sources } = await pageOf();
		expect(sources.find((one) => one.source === 'Web shop')!.count).toBe(before + 5);
		expect(sources.find((one) => one.source === 'Market stall')).toMatchObject({ count: 8, tillId: null });
	});
	it('leafs through more files than fit on it, the newest first, each once', async () => {
		const db = await openDatabase(world);
		for (let n = 0; n < 120; n++)
			await db.run(
				`INSERT INTO settlement_files (name, digest, processor, state, count, fresh, declined, taken_at, by_user)
				 VALUES (?, ?, 'fernhall', 'taken', 1, 1, 0, ?, 'Ilse Verhaeren')`,
				[`old-${n}.csv`, `digest-${n}`, 1_000 + n]
			);
		await db.close();
		const seen: number[] = [];
		let query = '';
		for (let page = 1; page < 10; page++) {
			const shown = await pageOf(query);
			expect(shown.page).toBe(page);
			expect(shown.files.length).toBeLessThanOrEqual(50);
			seen.push(...shown.files.map((one) => one.id));
			if (!shown.more) break;
			query = `?page=${page + 1}`;
		}
		const all = await rows<{ id: number }>(world, `SELECT id FROM settlement_files ORDER BY id DESC`);
		expect(seen).toEqual(all.map((one) => one.id));
		expect(seen.length).toBeGreaterThan(120);
		// a page that is none is the first, or an empty one beyond the last
		expect((await pageOf('?page=-3')).page).toBe(1);
		expect((await pageOf('?page=x')).page).toBe(1);
		expect((await pageOf('?page=99')).files).toEqual([]);
		const html = await (await desk.get('/connect/files?page=2')).text();
		expect(html).toMatch(/rel="prev"/);
		expect(html).toMatch(/rel="next"/);
	});
	it('asks whose file it is, and for a file, and keeps nothing otherwise', async () => {
		const count = async () => (await rows(world, 'SELECT id FROM settlement_files')).length;
		const before = await count();
		const text = settlementFile([{ id: 'HI-X', at: Date.UTC(2026, 8, 5), minor: 100, fee: 19 }]);
		expect(JSON.stringify(await upload(text, { processor: 'nobody' }))).toContain('Choose whose file it is.');
		expect(JSON.stringify(await upload(text, { processor: 'constructor' }))).toContain('Choose whose file it is.');
		expect(JSON.stringify(await upload(''))).toContain('Choose a file.');
		expect(await count()).toBe(before);
	});
});
