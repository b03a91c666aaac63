import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile, type FileLine } from '../world/settlement.ts';

// Any stretch of days: fees over time, their bridge, and side by side by the rate cards of the time.

let world: World;
let desk: Desk;
let connection = '';
/** The same payments by two versions of the contract, the second three cents dearer from the middle of a month on. */
const CHANGE = '2026-06-16';
const lines: FileLine[] = Array.from({ length: 240 }, (_, n) => ({
	id: `P-${n}`,
	at: Date.parse('2026-04-03T07:00:00Z') + n * 43_200_000,
	minor: 2_000 + ((n * 7_919) % 9_000),
	fee: 0,
	refunded: n % 29 === 0 ? 500 : 0
}));
const dayOf = (line: FileLine) => new Date(line.at).toISOString().slice(0, 10);

beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall'] });
	desk = new Desk(world);
	await desk.setUp();
	await prepare(desk, 'fernhall');
	connection = idOf(await connectAt(desk, 'fernhall'));
	await desk.confirmPrices(connection);
	const database = await openDatabase(world);
	const [row] = await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract'`);
	const card = JSON.parse(row!.card) as { lines: { fixed: number }[] };
	const dearer = { ...card, lines: card.lines.map((one) => ({ ...one, fixed: one.fixed + 3 })) };
	await database.run(
		`INSERT INTO rate_cards (connection_id, role, valid_from, card, source, created_at, confirmed_at, confirmed_by)
		 SELECT connection_id, role, ?, ?, source, created_at, confirmed_at, confirmed_by FROM rate_cards WHERE role = 'contract'`,
		[CHANGE, JSON.stringify(dearer)]
	);
	await database.close();
	const answer = await desk.upload(
		'/connect/files?/take',
		{ processor: 'fernhall' },
		'file',
		'periods.csv',
		settlementFile(lines.map((one) => ({ ...one, fee: 40 + Math.floor(one.minor / 100) })))
	);
	expect(answer.data?.says ?? answer.data?.trouble).toMatch(/new/);
	await until('all is priced and checked', async () => {
		const [left] = await rows<{ n: number }>(
			world,
			`SELECT (SELECT COUNT(*) FROM repricings) + (SELECT COUNT(*) FROM fee_checks_due) + (SELECT COUNT(*) FROM payment_moves) +
			 (SELECT COUNT(*) FROM payments WHERE taken > 0 AND expected_fee IS NULL) AS n`
		);
		return left!.n === 0;
	});
});
afterAll(() => world.end());

const minor = (text: string) => Math.round(Number(text.replace(/[^\d.−-]/g, '').replace('−', '-')) * 100);
interface Fees {
	asked: { from: string; to: string; againstFrom: string; againstTo: string };
	wrong: string;
	period: string;
	against: string;
	groups: { total: { count: string; gross: string; fee: string } };
	bridge?: { bps: { from: number; mix: number; price: number; account: number; to: number }; steps: unknown[] };
	months: { month: string; isIn: boolean }[];
}
const fees = (query: string) => desk.data<Fees>(`/watch/fees?${query}`);
const total = async (from: string, to: string) => {
	const { groups } = await fees(`from=${from}&to=${to}`);
	return [Number(groups.total.count), minor(groups.total.gross), minor(groups.total.fee)] as const;
};

describe('fees of any days', () => {
	it('are those of the payments of these days; two stretches that meet are the whole', async () => {
		const whole = await total('2026-04-01', '2026-07-31');
		expect(whole[0]).toBe(240);
		for (const cut of ['2026-04-15', '2026-05-01', '2026-05-31', '2026-06-16', '2026-07-30']) {
			const next = new Date(Date.parse(cut) + 86_400_000).toISOString().slice(0, 10);
			const [first, second] = [await total('2026-04-01', cut), await total(next, '2026-07-31')];
			expect([cut, ...first.map((one, at) => one + second[at]!)]).toEqual([cut, ...whole]);
			const mine = lines.filter((one) => dayOf(one) <= cut);
			expect([cut, first[0], first[1]]).toEqual([cut, mine.length, mine.reduce((sum, one) => sum + one.minor, 0)]);
		}
	});

	it('of one day are those of that day, and of months by their names the same as by their days', async () => {
		const day = dayOf(lines[100]!);
		const mine = lines.filter((one) => dayOf(one) === day);
		expect((await total(day, day)).slice(0, 2)).toEqual([mine.length, mine.reduce((sum, one) => sum + one.minor, 0)]);
		const [named, byDays] = [await fees('from=2026-05&to=2026-06'), await fees('from=2026-05-01&to=2026-06-30')];
		expect(named.groups).toEqual(byDays.groups);
		expect([named.period, named.against]).toEqual(['May 2026 to June 2026', 'March 2026 to April 2026']);
	});

	it('stand against as many days before, or any others, and the bridge adds up as it is shown', async () => {
		const ten = await fees('from=2026-06-16&to=2026-06-25');
		expect([ten.asked.againstFrom, ten.asked.againstTo]).toEqual(['2026-06-06', '2026-06-15']);
		for (const query of [
			'from=2026-06-16&to=2026-06-25',
			'from=2026-06-16&to=2026-07-20&againstFrom=2026-04-09&againstTo=2026-05-02',
			'from=2026-05-05&to=2026-05-05&againstFrom=2026-06-01&againstTo=2026-06-30'
		]) {
			const { from, mix, price, account, to } = (await fees(query)).bridge!.bps;
			expect([query, from + mix + price + account]).toEqual([query, to]);
		}
	});

	it('are shown as they were asked; ends that are swapped, and days that are none, are told', async () => {
		const swapped = await fees('from=2026-06-25&to=2026-06-16');
		expect(swapped.wrong).toContain('swapped');
		expect([swapped.asked.from, swapped.asked.to]).toEqual(['2026-06-16', '2026-06-25']);
		const none = await fees('from=2026-02-30');
		expect(none.wrong).toBe('“2026-02-30” is no month or day, such as 2026-10 or 2026-10-31.');
		const empty = await fees('from=2020-01-01&to=2020-01-05');
		expect([empty.groups.total.count, empty.bridge]).toEqual(['0', undefined]);
	});
});

describe('side by side by the rate cards of the time', () => {
	interface Page {
		pending?: object;
		cards: string;
		totals: { side: string; total: string; split: { fixed: number }; around: { givenBack: string } }[];
		sides: { id: string; versions?: number }[];
		methods: { cells: { fee: string; count: number }[] }[];
	}
	const compared = async (query: string): Promise<Page> => {
		let found: Page | undefined;
		await until('it is priced', async () => {
			found = await desk.data<Page>(`/connect/compare?from=2026-04-01&to=2026-07-31&${query}`);
			return !found.pending;
		});
		return found!;
	};
	const feeOf = (one: Page) => minor(one.methods[0]!.cells[0]!.fee);

	it('is dearer by three cents a payment from the change on, and not before it', async () => {
		const [today, then] = [await compared(''), await compared('cards=then')];
		expect([today.cards, then.cards]).toEqual(['today', 'then']);
		expect([today.sides[0]!.versions, then.sides[0]!.versions]).toEqual([undefined, 2]);
		const before = lines.filter((one) => dayOf(one) < CHANGE).length;
		expect(feeOf(today) - feeOf(then)).toBe(before * 3);
		expect(today.totals[0]!.split.fixed - then.totals[0]!.split.fixed).toBe(before * 3);
	});

	it('is what the contract expected of each payment at its time, refunds taken off', async () => {
		const then = await compared('cards=then');
		const [told] = await rows<{ expected: number; refunded: number }>(
			world,
			`SELECT SUM(expected_fee) AS expected, SUM(refunded > 0) AS refunded FROM payments WHERE connection_id = ?`,
			[connection]
		);
		expect(told!.refunded).toBeGreaterThan(0);
		expect(feeOf(then) + minor(then.totals[0]!.around.givenBack)).toBe(told!.expected);
		// by today's card it is something else
		const today = await compared('');
		expect(feeOf(today) + minor(today.totals[0]!.around.givenBack)).toBeGreaterThan(told!.expected);
	});

	it('is the same in the file and by the page', async () => {
		const then = await compared('cards=then');
		const csv = await (await desk.get('/connect/compare/csv?from=2026-04-01&to=2026-07-31&cards=then')).text();
		const [head, line] = csv.replace(/^\uFEFF/, '').split(/\r\n/);
		const at = head!.split(',').indexOf('fees');
		expect(Math.round(Number(line!.split(',')[at]) * 100)).toBe(feeOf(then));
	});
});
