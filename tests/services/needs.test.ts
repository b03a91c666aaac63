import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile } from '../world/settlement.ts';
import { CARDS } from '../world/steps.ts';

// What needs somebody: money that is late, fees that differ by much, keys that are due soon, a disk that is nearly full.

let world: World;
let desk: Desk;
let connection = '';
beforeAll(async () => {
	world = await makeWorld(
		// every disk has less than this
		{ JUSTPURSE_ROUND_MS: '200', JUSTPURSE_ALERTS_MS: '200', JUSTPURSE_LEAST_FREE: '9000000000000000' },
		{ with: ['fernhall'] }
	);
	desk = new Desk(world);
	({ connection } = await desk.openWebShop());
});
afterAll(() => world.end());

interface Need {
	id: string;
	says: string;
	figure: string;
	urgent: boolean;
	href: string;
	act: string;
}
const needs = async (): Promise<Need[]> => (await desk.data<{ needs: Need[] }>('/needs-you')).needs;
const need = async (id: string) => (await needs()).find((one) => one.id.startsWith(id));
const run = async (sql: string, values: unknown[] = []) => {
	const database = await openDatabase(world);
	await database.run(sql, values);
	await database.close();
};
const rules = (form: Record<string, string>) =>
	desk.act('/watch/alerts', {
		urgentTo: 'ilse@wrenalder.example',
		quietFrom: '0',
		quietTo: '0',
		digest: 'never',
		digestHour: '8',
		digestTo: '',
		...form
	});
const DAY = 86_400_000;

describe('a disk that is nearly full', () => {
	it('is told with what is left, as urgent', async () => {
		expect(await need('full disk')).toMatchObject({ urgent: true, figure: expect.stringMatching(/MB free$/) });
	});
});

describe('keys', () => {
	it('are told of a month before they are due, and after it; not before', async () => {
		const aged = async (days: number) => {
			await run(`UPDATE connections SET key_made_at = ? WHERE id = ?`, [Date.now() - days * DAY, connection]);
			return (await need('old keys'))?.says;
		};
		expect(await aged(300)).toBe(undefined);
		expect(await aged(336)).toMatch(/are due for rotation in 30 days\.$/);
		expect(await aged(365)).toMatch(/are due for rotation in 1 day\.$/);
		expect(await aged(366)).toMatch(/made over 365 days ago\.$/);
		await aged(1);
	});
});

describe('money that is late', () => {
	it('is told two bank days after it should have been paid out, with its sum, until the payout is told', async () => {
		const address = await desk.address('84.50', 'LATE-1');
		await desk.giveCard(address, CARDS.approved);
		await until('it is captured', async () => {
			const [row] = await rows<{ stage: string }>(world, `SELECT stage FROM payments WHERE reference = 'LATE-1'`);
			return row?.stage === 'captured';
		});
		expect(await need('late money')).toBe(undefined);
		const [paid] = await rows<{ id: number }>(world, `SELECT id FROM payments WHERE reference = 'LATE-1'`);
		await run(`UPDATE payments SET captured_at = captured_at - ?1, created_at = created_at - ?1 WHERE id = ?2`, [
			20 * DAY,
			paid!.id
		]);
		expect(await need('late money EUR')).toMatchObject({
			says: expect.stringMatching(/^A payment in EUR should have been paid out by .* two bank days ago or more/),
			figure: '84.50 EUR',
			href: '/takings/awaited'
		});
		// a part that was refunded is not waited for
		await run(`UPDATE payments SET refunded = 450, stage = 'part refunded' WHERE id = ?`, [paid!.id]);
		expect((await need('late money EUR'))!.figure).toBe('80.00 EUR');
		// however many came after it and are not late: nothing hides it, and all that is late is in the sum
		const columns = (await rows<{ name: string }>(world, `SELECT name FROM pragma_table_info('payments')`))
			.map((one) => one.name)
			.filter((name) => name !== 'id');
		const copies = (count: number, values: Record<string, string>) =>
			run(
				`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${count})
				 INSERT INTO payments (${columns.join(', ')}) SELECT ${columns.map((name) => values[name] ?? name).join(', ')}
				 FROM payments, n WHERE id = ${paid!.id}`
			);
		const id = (name: string) => ({ processor_id: `'${name}-' || i`, reference: `'${name}-' || i`, order_id: 'NULL' });
		const now = String(Date.now());
		await copies(2_100, { ...id('NEW'), captured_at: now, created_at: now });
		expect((await need('late money EUR'))!.figure).toBe('80.00 EUR');
		const page = () => desk.data<{ late: string[]; more: boolean; days: { isWhole: boolean }[] }>('/takings/awaited');
		expect(await page()).toMatchObject({
			late: ['80.00 EUR'],
			more: true,
			days: [{ isWhole: true }, { isWhole: false }]
		});
		// a search that finds more than it looks through says so
		expect(await desk.data('/takings?q=NEW-')).toMatchObject({ newestOnly: 2_000 });
		expect((await desk.get('/takings/csv?q=NEW-')).headers.get('content-disposition')).toContain('-newest-2000.csv');
		expect(await desk.data<object>('/takings?q=LATE-1')).not.toHaveProperty('newestOnly', 2_000);
		await copies(2_100, id('OLD'));
		expect(await need('late money EUR')).toMatchObject({
			says: expect.stringMatching(/^2,101 payments in EUR/),
			figure: '168,080.00 EUR'
		});
		expect((await page()).days[0]).toMatchObject({ isWhole: false });
		await run(`DELETE FROM payments WHERE reference LIKE 'NEW-%' OR reference LIKE 'OLD-%'`);
		await run(`UPDATE payments SET stage = 'paid out', refunded = 0 WHERE id = ?`, [paid!.id]);
		expect(await need('late money')).toBe(undefined);
	});
});

describe('fees that differ', () => {
	it('are urgent from a sum on that the administrator sets, and mailed at once then', async () => {
		await rules({ discrepancyFrom: '50.00' });
		const answer = await desk.upload(
			'/connect/files?/take',
			{ processor: 'fernhall' },
			'file',
			'dear.csv',
			settlementFile(
				Array.from({ length: 20 }, (_, n) => ({
					id: `D-${n}`,
					at: Date.now() - (n + 2) * DAY,
					minor: 5_000,
					fee: 300 + n
				}))
			)
		);
		expect(answer.data?.says ?? answer.data?.trouble).toMatch(/new/);
		await until('it is found', async () => (await need('discrepancy')) !== undefined);
		await until('all of it is found', async () => {
			const [left] = await rows<{ n: number }>(
				world,
				`SELECT (SELECT COUNT(*) FROM repricings) + (SELECT COUNT(*) FROM fee_checks_due) + (SELECT COUNT(*) FROM payment_moves) AS n`
			);
			return left!.n === 0;
		});
		const [sum] = await rows<{ left: number }>(
			world,
			`SELECT SUM(over - under - corrected) AS left FROM discrepancies`
		);
		expect(sum!.left).toBeGreaterThan(1_000);
		expect(sum!.left).toBeLessThan(5_000);
		expect(await need('discrepancy')).toMatchObject({ urgent: false });
		const mails = () => rows(world, `SELECT 1 FROM outbox WHERE event = 'staff' AND subject LIKE 'Charged otherwise%'`);
		expect(await mails()).toEqual([]);
		expect((await rules({ discrepancyFrom: '10.00' })).type).toBe('success');
		await until('it is urgent', async () => (await need('discrepancy'))?.urgent === true);
		await until('it is mailed', async () => (await mails()).length === 1);
	});

	it('keep what was typed where the sum is none, and stay as they were where nothing is typed', async () => {
		expect(await rules({ discrepancyFrom: 'much' })).toMatchObject({
			type: 'failure',
			data: {
				wrong: { discrepancyFrom: expect.stringContaining('“much” is not an amount') },
				typed: { discrepancyFrom: 'much', urgentTo: 'ilse@wrenalder.example' }
			}
		});
		expect(await rules({ discrepancyFrom: '-5' })).toMatchObject({ type: 'failure' });
		await rules({});
		const page = await desk.data<{ rules: { discrepancyFrom: string }; currency: string }>('/watch/alerts');
		expect([page.rules.discrepancyFrom, page.currency]).toEqual(['10.00', 'EUR']);
	});
});

describe('disputes', () => {
	it('are told one by one up to twenty, those with the least time first; the rest in one line', async () => {
		const at = (n: number) => Date.now() - (n + 1) * 3_600_000;
		const payments = Array.from({ length: 26 }, (_, n) => ({
			id: `DS-${n}`,
			at: at(n + 30),
			minor: 1_000 + n,
			fee: 38
		}));
		const answer = await desk.upload(
			'/connect/files?/take',
			{ processor: 'fernhall' },
			'file',
			'disputes.csv',
			settlementFile(
				payments,
				payments.map((one, n) => ({
					id: `DC-${n}`,
					at: at(n),
					outcome: 'dispute' as const,
					minor: one.minor,
					fee: 1_800,
					of: one.id
				}))
			)
		);
		expect(answer.data?.says ?? answer.data?.trouble).toMatch(/new/);
		await until('all are disputed', async () => {
			const [row] = await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM disputes WHERE outcome = ''`);
			return row!.n >= 26;
		});
		await run(`UPDATE disputes SET answer_by = ? WHERE minor = 1003`, [Date.now() + 2 * DAY]);
		const list = (await needs()).filter((one) => one.id.startsWith('dispute '));
		expect(list).toHaveLength(20);
		// the one that can be answered for two days more is urgent, and among them
		expect(list.find((one) => one.urgent)).toMatchObject({ figure: '10.03 EUR', act: 'Answer it' });
		expect(await need('more disputes')).toMatchObject({
			says: '6 more payments are disputed, with more time to answer.',
			figure: '26 disputes',
			href: '/takings/disputes'
		});
		// one that is over is not waited for
		await run(`UPDATE disputes SET answer_by = ? WHERE minor = 1003`, [Date.now() - DAY]);
		expect(await need('more disputes')).toMatchObject({ figure: '25 disputes' });
		// each of them is an alert: none ends as if it were settled because later ones came
		await until('all are alerts', async () => {
			const [row] = await rows<{ n: number }>(
				world,
				`SELECT COUNT(*) AS n FROM alerts WHERE kind = 'dispute' AND closed_at IS NULL`
			);
			return row!.n === 25;
		});
	});
});
