import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

let world: World;
let desk: Desk;
let connection: string;
let live: { id: number; processorId: string; capturedAt: number; charged: number };
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	desk = new Desk(world);
	connection = (await desk.openWebShop()).connection;
	await desk.giveCard(await desk.address('84.50', 'FI-1'), CARDS.approved);
	await until('it is captured', async () => (await payments()).some((one) => one.taken === 8_450));
	[live] = (await rows(
		world,
		`SELECT id, processor_id AS processorId, captured_at AS capturedAt, charged_fee AS charged FROM payments`
	)) as [typeof live];
});
afterAll(() => world.end());

interface Row {
	id: number;
	processor_id: string;
	stage: string;
	taken: number;
	refunded: number;
	disputed: number;
	charged_fee: number;
	till: string | null;
}
const payments = () =>
	rows<Row>(
		world,
		`SELECT p.id, processor_id, stage, taken, refunded, disputed, charged_fee, t.name AS till FROM payments p
		 LEFT JOIN tills t ON t.id = p.till_id ORDER BY p.id`
	);
const HEADER =
	'payment,captured_at,source,method,currency,amount_minor,entry,scheme,funding,issuer,fee_currency,fee_minor,base_minor,rate,refunded_minor,disputed_minor';
interface Told {
	id: string;
	minor: number;
	fee: number;
	refunded?: number;
	disputed?: number;
	source?: string;
	at?: number;
}
const line = ({ id, minor, fee, refunded = 0, disputed = 0, source = 'Web shop', at = live.capturedAt }: Told) =>
	`${id},${new Date(at).toISOString()},${source},card,EUR,${minor},online,corvid,debit,BE,EUR,${fee},${minor},,${refunded},${disputed}`;
/** A settlement file of Fernhall, with its total. */
const file = (told: readonly Told[]) => {
	const sum = (of: (one: Told) => number) => told.reduce((all, one) => all + of(one), 0);
	return `${[HEADER, ...told.map(line), `total,,${told.length},,EUR,${sum((one) => one.minor)},,,,,EUR,${sum((one) => one.fee)},,,,`].join('\n')}\n`;
};
let names = 0;
const upload = async (text: string) =>
	desk.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', `file-${++names}.csv`, text);
const mine = async () => (await payments()).find((one) => one.id === live.id)!;

describe('a settlement file', () => {
	it('that tells of a payment taken here adds nothing: it is one payment in every figure', async () => {
		const answer = await upload(file([{ id: live.processorId, minor: 8_450, fee: live.charged }]));
		expect(answer.data?.says).toMatch(/0 of its 1 payments are new/);
		expect(await payments()).toHaveLength(1);
		expect(await rows(world, `SELECT SUM(count) AS count, SUM(taken) AS taken FROM day_sums`)).toEqual([
			{ count: 1, taken: 8_450 }
		]);
	});
	it('that tells a refund of a known payment later changes it, once', async () => {
		const told = file([{ id: live.processorId, minor: 8_450, fee: live.charged, refunded: 2_000 }]);
		expect((await upload(told)).data?.says).toMatch(/1 known payment changed/);
		expect(await mine()).toMatchObject({ stage: 'part refunded', taken: 8_450, refunded: 2_000 });
		expect((await upload(told)).data?.says).toMatch(/imported before/);
		expect(await mine()).toMatchObject({ refunded: 2_000 });
	});
	it('that tells a corrected fee: the new one stands, the earlier one is kept', async () => {
		await upload(file([{ id: live.processorId, minor: 8_450, fee: 199, refunded: 2_000 }]));
		expect((await mine()).charged_fee).toBe(199);
		const fees = await rows<{ fee: number; source: string }>(
			world,
			`SELECT fee, source FROM payment_fees WHERE payment_id = ? ORDER BY id`,
			[live.id]
		);
		expect(fees.map((one) => one.fee)).toEqual(expect.arrayContaining([live.charged, 199]));
		await until('the fee check tells it', async () =>
			(await (await desk.get('/needs-you')).text()).includes('Charged otherwise than agreed')
		);
	});
	it('that tells a dispute beside refunds takes no more than was captured', async () => {
		await upload(file([{ id: live.processorId, minor: 8_450, fee: 199, refunded: 2_000, disputed: 6_450 }]));
		expect(await mine()).toMatchObject({ stage: 'disputed', refunded: 2_000, disputed: 6_450 });
	});
	it('that tells another amount of a known payment is not imported at all', async () => {
		const answer = await upload(
			file([
				{ id: live.processorId, minor: 9_450, fee: 199 },
				{ id: 'FHY-NEW', minor: 1_000, fee: 20 }
			])
		);
		expect([answer.type, JSON.stringify(answer.data)]).toEqual([
			'failure',
			expect.stringMatching(/is known already, with another amount or currency/)
		]);
		expect(await payments()).toHaveLength(1);
	});
	it('knows its places by till, also after the till was renamed', async () => {
		await upload(file([{ id: 'FHY-A', minor: 1_000, fee: 32 }]));
		expect((await payments()).at(-1)).toMatchObject({ processor_id: 'FHY-A', till: 'Web shop' });
		const change = await desk.act('/accept/tills/web-shop/settings', {
			name: 'Strings online',
			kind: 'web checkout',
			mode: 'live',
			currencies: ['EUR', 'GBP', 'JPY'],
			colour: '#2f4b3c',
			fulfil: 'on promise'
		});
		expect(change.type).toBe('success');
		await upload(file([{ id: 'FHY-B', minor: 1_000, fee: 32 }]));
		expect((await payments()).at(-1)).toMatchObject({ processor_id: 'FHY-B', till: 'Strings online' });
	});
	it('with lines of their own: two refunds are two, a dispute won is none, charges and payouts belong to the account', async () => {
		const at = new Date(live.capturedAt + 60_000).toISOString();
		const empty = ',,,,';
		const own = (id: string, outcome: string, minor: number, fee: number, of = '') =>
			`${id},${at},,,EUR,${minor},${empty}EUR,${fee},,,,,,${outcome},,${of}`.replace(',,,,EUR', ',,,,EUR');
		const header = `${HEADER},ordered_at,outcome,reason,of_payment`;
		const text = `${[
			header,
			own('R-1', 'refund', 300, 0, 'FHY-A'),
			own('R-2', 'refund', 300, 0, 'FHY-A'),
			own('M-1', 'monthly', 0, 2_400),
			own('P-1', 'payout', 5_000, 0),
			...['refund', 'monthly', 'payout'].map(
				(outcome) =>
					`total,,${outcome === 'refund' ? 2 : 1},,EUR,${{ refund: 600, monthly: 0, payout: 5_000 }[outcome]},,,,,EUR,${outcome === 'monthly' ? 2_400 : 0},,,,,,${outcome},,`
			)
		].join('\n')}\n`;
		const answer = await upload(text);
		expect([answer.type, JSON.stringify(answer.data)]).toEqual(['success', expect.stringMatching(/is imported/)]);
		expect((await payments()).find((one) => one.processor_id === 'FHY-A')).toMatchObject({
			stage: 'part refunded',
			refunded: 600
		});
		expect(await rows(world, `SELECT kind, minor FROM account_charges`)).toEqual([{ kind: 'monthly', minor: 2_400 }]);
		expect(await rows(world, `SELECT object, minor, connection_id FROM payouts`)).toEqual([
			{ object: 'P-1', minor: 5_000, connection_id: connection }
		]);
	});
});
