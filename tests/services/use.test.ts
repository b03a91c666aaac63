import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { shopMonth } from '../world/shopTime.ts';
import { CARDS } from '../world/steps.ts';

// Use of methods: what a way to pay costs with the waiting for its money, and who chose it and never paid.

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall'] });
	desk = new Desk(world);
	await desk.openWebShop();
});
afterAll(() => world.end());

const DAY = 86_400_000;
const run = async (sql: string, values: unknown[] = []) => {
	const database = await openDatabase(world);
	await database.run(sql, values);
	await database.close();
};
const stageOf = async (reference: string) =>
	(await rows<{ stage: string }>(world, `SELECT stage FROM payments WHERE reference = ?`, [reference])).map(
		(one) => one.stage
	);
/** An order that chose the card, and what became of it. */
const chooseCard = async (reference: string, card: string) => {
	await new Desk(world).giveCard(await desk.address('84.50', reference), card);
	await until('its outcome is known', async () => /captured|failed/.test((await stageOf(reference)).join()));
};
interface Row {
	method: string;
	paid: string;
	cost: string;
	failed: string;
	givenUp: string;
	working: { steps: { title: string; sum: string; sub?: string }[] };
}
const use = async (more = ''): Promise<{ rows: Row[]; capital: string; minutes: number }> => {
	const data = await desk.data<{ use: { rows: Row[]; capital: string; minutes: number } }>(
		`/watch/methods?till=web-shop&from=${shopMonth(2)}&to=${shopMonth()}${more}`
	);
	return data.use;
};
const rowOf = async (method: string, more = '') => (await use(more)).rows.find((one) => one.method === method)!;

describe('orders that were given up', () => {
	it('are those that chose a method a day ago and brought no money', async () => {
		await chooseCard('U-PAID', CARDS.approved);
		await chooseCard('U-DECLINED', CARDS.declined);
		// it is not given up yet: the payer may come back within the day
		expect((await rowOf('card')).givenUp).toBe('');
		await run(`UPDATE payments SET created_at = created_at - ? WHERE reference = 'U-DECLINED'`, [2 * DAY]);
		expect(await rowOf('card')).toMatchObject({ givenUp: '1', failed: '1', paid: '1' });
	});

	it('are not those that were declined and paid after all', async () => {
		const address = await desk.address('84.50', 'U-AGAIN');
		const payer = new Desk(world);
		await payer.giveCard(address, CARDS.declined);
		await until('it is declined', async () => (await stageOf('U-AGAIN')).includes('failed'));
		await payer.giveCard(address, CARDS.approved);
		await until('it is paid', async () => (await stageOf('U-AGAIN')).includes('captured'));
		await run(`UPDATE payments SET created_at = created_at - ? WHERE reference = 'U-AGAIN'`, [2 * DAY]);
		expect(await rowOf('card')).toMatchObject({ givenUp: '1', failed: '2', paid: '2' });
	});

	it('are not those that wait for a transfer, as long as it may come', async () => {
		const address = await desk.address('84.50', 'U-TRANSFER');
		const payer = new Desk(world);
		await payer.act(address, { way: await payer.way(address, 'Credit transfer') });
		await until('it is asked for', async () => (await stageOf('U-TRANSFER')).includes('requested'));
		await run(`UPDATE payments SET created_at = created_at - ? WHERE reference = 'U-TRANSFER'`, [2 * DAY]);
		expect((await rowOf('credit-transfer')).givenUp).toBe('');
		expect((await rowOf('card')).givenUp).toBe('1');
	});
});

describe('the cost of a method', () => {
	const stepOf = (row: Row, title: string) => row.working.steps.find((one) => one.title === title)!;
	const per100 = (text: string) => Number(/(\d+\.\d\d) per 100/.exec(text)![1]);

	it('is fees and waiting together, each told in its workings', async () => {
		const row = await rowOf('card');
		expect(row.cost).not.toBe('');
		const [fees, waiting] = [stepOf(row, 'Fees'), stepOf(row, 'Waiting for the money')];
		expect(Number(row.cost)).toBeCloseTo(per100(fees.sum) + per100(waiting.sum), 8);
		expect(per100(fees.sum)).toBeGreaterThan(0);
		const [charged] = await rows<{ fee: number }>(
			world,
			`SELECT SUM(charged_fee) AS fee FROM payments WHERE taken > 0`
		);
		expect(fees.sub).toContain(`${(charged!.fee / 100).toFixed(2)} EUR of 169.00 EUR`);
	});

	it('grows with the days from the order to the money, at the cost of capital that is asked for', async () => {
		const before = per100(stepOf(await rowOf('card'), 'Waiting for the money').sum);
		await run(`UPDATE payments SET ordered_at = captured_at - ? WHERE reference = 'U-PAID'`, [73 * DAY]);
		const after = stepOf(await rowOf('card'), 'Waiting for the money');
		// half of the money waited 73 days longer: at 4 % a year that is 0.40 per 100 of all
		expect(per100(after.sum) - before).toBeCloseTo(0.4, 2);
		expect(after.sub).toContain('at 4 % a year');
		const dear = stepOf(await rowOf('card', '&capital=8'), 'Waiting for the money');
		expect(per100(dear.sum)).toBeGreaterThan(per100(after.sum) * 1.9);
		expect((await rowOf('card', '&capital=0')).cost).toBe(per100(stepOf(await rowOf('card'), 'Fees').sum).toFixed(2));
	});

	it('keeps to what can be asked: minutes and capital that are none are the usual ones', async () => {
		expect(await use('&capital=plenty&minutes=-3')).toMatchObject({ capital: '4', minutes: 0 });
		expect((await use('&minutes=9999')).minutes).toBe(120);
	});

	it('of a method that brought nothing is not told', async () => {
		expect((await rowOf('credit-transfer')).cost).toBe('');
	});
});
