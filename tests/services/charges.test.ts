import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile, type FileLine, type OtherFileLine } from '../world/settlement.ts';

// Charges of an account in the fee check, and the check of a period at will: what a processor charges for months and disputes is
// held against the contract like the fees of payments.

let world: World;
let desk: Desk;
let connection = '';
/** what the contract says a dispute costs, in minor units */
let dispute = 0;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall'] });
	desk = new Desk(world);
	await desk.setUp();
	await prepare(desk, 'fernhall');
	connection = idOf(await connectAt(desk, 'fernhall'));
	await desk.confirmPrices(connection);
	const [row] = await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract'`);
	dispute = (JSON.parse(row!.card) as { dispute: { fee: number } }).dispute.fee;
	expect(dispute).toBeGreaterThan(0);
});
afterAll(() => world.end());

const at = (day: string) => Date.parse(`${day}T10:00:00Z`);
let files = 0;
const take = async (lines: readonly FileLine[], others: readonly OtherFileLine[]) => {
	const answer = await desk.upload(
		'/connect/files?/take',
		{ processor: 'fernhall' },
		'file',
		`charges-${++files}.csv`,
		settlementFile(lines, others)
	);
	expect(answer.data?.says ?? JSON.stringify(answer.data)).toMatch(/new/);
	await quiet();
};
const quiet = () =>
	until('the fee check has looked at everything', async () => {
		const [left] = await rows<{ n: number }>(
			world,
			`SELECT (SELECT COUNT(*) FROM repricings) + (SELECT COUNT(*) FROM fee_checks_due) + (SELECT COUNT(*) FROM payment_moves) AS n`
		);
		return left!.n === 0;
	});
const cases = () =>
	rows<{
		id: number;
		cause: string;
		parameter: string;
		count: number;
		over: number;
		under: number;
		corrected: number;
		state: string;
	}>(world, `SELECT id, cause, parameter, count, over, under, corrected, state FROM discrepancies ORDER BY id`);
const other = (
	id: string,
	day: string,
	outcome: OtherFileLine['outcome'],
	fee: number,
	minor = 0,
	of = ''
): OtherFileLine => ({ id, at: at(day), outcome, minor, fee, of });
interface Checked {
	causes: { says: string; count: string; difference: string; href?: string; state?: string }[];
	connections: { connection: string; payments: string; charges: string; unpriced: string; difference: string }[];
	stale: number;
	verdict: { text: string }[];
}
const checkDays = async (from: string, to: string): Promise<Checked> => {
	let found: Checked | undefined;
	await until('the check is done', async () => {
		const data = await desk.data<{ checked?: Checked }>(`/watch/discrepancies/check?from=${from}&to=${to}`);
		found = data.checked;
		return !!found;
	});
	return found!;
};
const says = ({ verdict }: Checked) => verdict.map((one) => one.text).join('');

describe('charges of an account', () => {
	it('that are as agreed are no discrepancy; what was never agreed is one, with its sum', async () => {
		await take(
			[{ id: 'C-1', at: at('2026-03-02'), minor: 5_000, fee: 70 }],
			[
				other('CB-1', '2026-03-09', 'dispute', dispute, 5_000, 'C-1'),
				other('M-2026-02', '2026-03-01', 'monthly', 900),
				other('M-2026-03', '2026-04-01', 'monthly', 900)
			]
		);
		const found = (await cases()).filter((one) => /charge$/.test(one.cause));
		expect(found).toMatchObject([
			{ cause: 'monthly charge', parameter: 'not agreed', count: 2, over: 1_800, under: 0, state: 'open' }
		]);
	});

	it('differ where a dispute costs more than agreed; the list, the case, the file and the letter say one sum', async () => {
		await take(
			[
				{ id: 'C-2', at: at('2026-03-03'), minor: 6_000, fee: 80 },
				{ id: 'C-3', at: at('2026-03-03'), minor: 7_000, fee: 90 }
			],
			[
				other('CB-2', '2026-03-10', 'dispute', dispute + 300, 6_000, 'C-2'),
				other('CB-3', '2026-03-11', 'dispute', dispute * 2, 7_000, 'C-3')
			]
		);
		const found = (await cases()).filter((one) => one.cause === 'dispute charge');
		expect(found.map(({ parameter, count, over }) => [parameter, count, over])).toEqual([
			['other', 1, 300],
			['twice', 1, dispute]
		]);
		const { id } = found[0]!;
		const page = await desk.data<{
			isOfAccount: boolean;
			counted: string;
			remaining: string;
			payments: { processorId: string; id: number; difference: string; amount: string }[];
		}>(`/watch/discrepancies/${id}`);
		expect(page).toMatchObject({ isOfAccount: true, counted: '1 charge', remaining: expect.stringContaining('3.00') });
		expect(page.payments).toMatchObject([{ processorId: 'CB-2', difference: '3.00', amount: '' }]);
		// the charge leads to the payment that was disputed
		expect(page.payments[0]!.id).toBeGreaterThan(0);
		const csv = await (await desk.get(`/watch/discrepancies/${id}/csv`)).text();
		const [head, line] = csv.replace('\uFEFF', '').split(/\r\n/);
		expect(line!.split(',')[head!.split(',').indexOf('difference')]).toBe('3.00');
		expect(line).toContain('CB-2');
		const letter = await desk.get(`/watch/discrepancies/${id}/letter`);
		expect(letter.headers.get('content-type')).toBe('application/pdf');
		const list = await desk.data<{ rows: { id: number; counted: string; remaining: string }[] }>(
			'/watch/discrepancies'
		);
		expect(list.rows.find((one) => one.id === id)).toMatchObject({
			counted: '1 charge',
			remaining: page.remaining
		});
	});

	it('are settled by the adjustment that gives them back, and stay settled', async () => {
		await take(
			[],
			[other('A-1', '2026-04-20', 'adjustment', -300)].map((one) => ({ ...one }))
		);
		const [case_] = (await cases()).filter((one) => one.cause === 'dispute charge' && one.parameter === 'other');
		expect(case_).toMatchObject({ corrected: 300, state: 'settled', count: 1 });
		// another look at the account changes nothing of it
		const database = await openDatabase(world);
		await database.run(
			`INSERT INTO fee_checks_due (connection_id, kind_id) VALUES (?, 0) ON CONFLICT (connection_id, kind_id) DO UPDATE SET revision = revision + 1`,
			[connection]
		);
		await database.close();
		await quiet();
		expect((await cases()).find((one) => one.id === case_!.id)).toEqual(case_);
	});

	it('of which the case was sent stay in it; a new one of the same cause joins it', async () => {
		const [before] = (await cases()).filter((one) => one.parameter === 'not agreed');
		await desk.act(`/watch/discrepancies/${before!.id}?/work`, { state: 'sent', from: 'open', text: '' });
		await take([], [other('M-2026-04', '2026-05-01', 'monthly', 900)]);
		const found = (await cases()).filter((one) => one.parameter === 'not agreed');
		expect(found).toMatchObject([{ id: before!.id, count: 3, over: 2_700, state: 'sent' }]);
	});
});

describe('the check of a period', () => {
	it('finds in its days what the discrepancies of all days hold, and leads to them', async () => {
		const all = await checkDays('2026-03-01', '2026-05-31');
		const kept = (await cases()).filter((one) => /charge$/.test(one.cause));
		expect(all.causes.filter((one) => /charge/i.test(one.says)).map((one) => one.href)).toEqual(
			expect.arrayContaining(kept.map((one) => `/watch/discrepancies/${one.id}`))
		);
		expect(all.stale).toBe(0);
		const march = await checkDays('2026-03-02', '2026-03-31');
		// two charges of months lie outside, and so does the adjustment
		expect(march.causes.some((one) => /not agreed/.test(one.says))).toBe(false);
		expect(march.connections).toMatchObject([{ payments: '3', charges: '3' }]);
		expect(says(march)).toMatch(/^From \S+ to \S+, 3 payments and 3 charges of accounts were held/);
	});

	it('adds up: the sum of its causes is charged less agreed', async () => {
		const found = await checkDays('2026-01-01', '2026-12-31');
		const minor = (text: string) => Math.round(Number(text.replace(/[^\d.−-]/g, '').replace('−', '-')) * 100);
		const ofPayments = found.causes
			.filter((one) => /payment/.test(one.count))
			.reduce((sum, one) => sum + minor(one.difference), 0);
		expect(ofPayments).toBe(minor(found.connections[0]!.difference));
		const [told] = await rows<{ n: number }>(
			world,
			`SELECT SUM(fee_difference) AS n FROM payments WHERE account_day >= '2026-01-01' AND account_day <= '2026-12-31'`
		);
		expect(ofPayments).toBe(told!.n ?? 0);
	});

	it('of days without a payment says so, and of a day that is none keeps what was typed', async () => {
		expect(says(await checkDays('2019-01-01', '2019-12-31'))).toMatch(
			/^From \S+ to \S+, no processor captured or charged anything\.$/
		);
		const wrong = await desk.data<{ wrong: string; typed: { from: string }; checked?: unknown }>(
			'/watch/discrepancies/check?from=2026-02-31&to=2026-03-31'
		);
		expect(wrong).toMatchObject({ wrong: '“2026-02-31” is no day.', typed: { from: '2026-02-31' } });
		expect(wrong.checked).toBe(undefined);
	});

	it('turns days that stand the wrong way round, and begins nothing before it is asked', async () => {
		expect(await checkDays('2026-03-31', '2026-03-02')).toEqual(await checkDays('2026-03-02', '2026-03-31'));
		const bare = await desk.data<{ checked?: unknown; pending?: unknown }>('/watch/discrepancies/check');
		expect([bare.checked, bare.pending]).toEqual([undefined, undefined]);
	});
});

describe('a charge near midnight', () => {
	it('counts to the day of its account, in the check and in fees over time alike', async () => {
		const accountOf = async (month: string) => {
			const page = await desk.data<{ groups: { account: string } }>(`/watch/fees?from=${month}&to=${month}`);
			return Math.round(Number(page.groups.account.replace(/[^\d.]/g, '')) * 100);
		};
		// so that both months have payments to look at
		await take(
			[
				{ id: 'N-1', at: at('2026-06-15'), minor: 5_000, fee: 70 },
				{ id: 'N-2', at: at('2026-07-15'), minor: 5_000, fee: 70 }
			],
			[]
		);
		const before = [await accountOf('2026-06'), await accountOf('2026-07')];
		const charge = { id: 'CB-N', outcome: 'dispute', minor: 5_000, fee: dispute + 500, of: 'N-1' } as const;
		// the last half hour of June in UTC is July where the account is
		await take([], [{ ...charge, at: Date.parse('2026-06-30T22:30:00Z') }]);
		expect(await rows(world, `SELECT day FROM account_charges WHERE object = 'CB-N'`)).toEqual([{ day: '2026-07-01' }]);
		expect([await accountOf('2026-06'), await accountOf('2026-07')]).toEqual([before[0], before[1]! + dispute + 500]);
		const charges = async (from: string, to: string) =>
			(await checkDays(from, to)).connections.map((one) => one.charges);
		expect(await charges('2026-07-01', '2026-07-31')).toEqual(['1']);
		expect(await charges('2026-06-01', '2026-06-30')).toEqual(['']);
	});
});

describe('a monthly minimum', () => {
	it('is owed only as far as the markup of the month falls short, whichever came first, payments or charge', async () => {
		const database = await openDatabase(world);
		await database.run(
			`UPDATE rate_cards SET card = json_set(card, '$.monthly', json('{"fee":2400,"minimum":1500}')) WHERE role = 'contract'`
		);
		await database.close();
		const payments = Array.from({ length: 40 }, (_, n) => ({
			id: `MIN-${n}`,
			at: at('2026-08-05') + n * 3_600_000,
			minor: 9_000,
			fee: 100
		}));
		// in September hardly anything was taken: all but the markup of one payment is missing
		const few = [{ id: 'MIN-S', at: at('2026-09-05'), minor: 9_000, fee: 100 }];
		await take(
			[...payments, ...few],
			[other('M-2026-08', '2026-09-01', 'monthly', 2_400), other('M-2026-09', '2026-10-01', 'monthly', 2_400 + 1_500)]
		);
		const [row] = await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract'`);
		const { lines } = JSON.parse(row!.card) as { lines: { when: object; percentage: number; fixed: number }[] };
		const line =
			lines.find((one) => (one.when as { region?: string }).region === 'domestic') ??
			lines.find((one) => !Object.keys(one.when).length)!;
		const markup = Math.floor((9_000 * line.percentage + line.fixed * 1_000_000 + 500_000) / 1_000_000);
		expect(markup * 40).toBeGreaterThan(1_500);
		const found = await rows<{ key: string; expected: number; charged: number }>(
			world,
			`SELECT key, expected, charged FROM discrepancy_charges WHERE key IN ('monthly 2026-08', 'monthly 2026-09')`
		);
		expect(found).toEqual([{ key: 'monthly 2026-09', expected: 2_400 + 1_500 - markup, charged: 3_900 }]);
	});
});

describe('hundreds of charges of one cause', () => {
	it(
		'are one case, page by page, and stay the same one when the account is looked at again',
		{ timeout: 60_000 },
		async () => {
			const COUNT = 320;
			const payments = Array.from({ length: COUNT }, (_, n) => ({
				id: `RF-${n}`,
				at: at('2026-10-02') + n * 60_000,
				minor: 4_000,
				fee: 70
			}));
			await take(
				payments,
				payments.map((one, n) => other(`RR-${n}`, '2026-10-05', 'refund', 25, 100, one.id))
			);
			const of = async () => (await cases()).filter((one) => one.cause === 'refund charge');
			expect(await of()).toMatchObject([{ parameter: 'not agreed', count: COUNT, over: COUNT * 25, state: 'open' }]);
			const [case_] = await of();
			const seen = new Set<string>();
			let next = '';
			do {
				const page = await desk.data<{ payments: { processorId: string }[]; next: string }>(
					`/watch/discrepancies/${case_!.id}${next ? `?after=${next}` : ''}`
				);
				for (const one of page.payments) seen.add(one.processorId);
				next = page.next;
			} while (next);
			expect(seen.size).toBe(COUNT);
			const csv = await (await desk.get(`/watch/discrepancies/${case_!.id}/csv`)).text();
			expect(csv.trim().split(/\r\n/)).toHaveLength(COUNT + 1);
			const database = await openDatabase(world);
			await database.run(
				`INSERT INTO fee_checks_due (connection_id, kind_id) VALUES (?, 0) ON CONFLICT (connection_id, kind_id) DO UPDATE SET revision = revision + 1`,
				[connection]
			);
			await database.close();
			await quiet();
			expect(await of()).toEqual([case_]);
			// one more is charged: it joins the case, and nothing is held twice
			await take(
				[{ id: 'RF-X', at: at('2026-10-03'), minor: 4_000, fee: 70 }],
				[other('RR-X', '2026-10-06', 'refund', 25, 100, 'RF-X')]
			);
			expect(await of()).toMatchObject([{ id: case_!.id, count: COUNT + 1, over: (COUNT + 1) * 25 }]);
		}
	);
});

describe('payments of the month in which the first contract begins', () => {
	it('from before its day are not checked: their fees are told, to the cent', async () => {
		const [row] = await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract' LIMIT 1`);
		const kept = await desk.act(`/connect/connections/${connection}/rates?/keep`, {
			validFrom: '2025-10-16',
			card: row!.card
		});
		expect(kept.type).toBe('success');
		await take(
			[
				{ id: 'M-1', at: at('2025-10-05'), minor: 5_000, fee: 71 },
				{ id: 'M-2', at: at('2025-10-15'), minor: 5_000, fee: 86 },
				{ id: 'M-3', at: at('2025-10-16'), minor: 5_000, fee: 99 },
				{ id: 'M-4', at: at('2025-10-20'), minor: 5_000, fee: 64 }
			],
			[]
		);
		const { unpriced } = await desk.data<{
			unpriced: { id: string; count: string; fee: string; from: string; why: string }[];
		}>('/watch/discrepancies');
		expect(unpriced.filter((one) => one.id.startsWith(`${connection} EUR`))).toMatchObject([
			{
				count: '2 payments',
				fee: '1.57 EUR',
				from: 'October 2025',
				why: 'No contract was confirmed for these days.'
			}
		]);
		// a check of those days says the same
		const checked = await checkDays('2025-10-01', '2025-10-31');
		expect(checked.connections).toMatchObject([{ payments: '4', unpriced: '2' }]);
	});
});

describe('payments that a contract has no price for', () => {
	it('are not checked, each with the reason: no exchange rate, no line; their fees are told to the cent', async () => {
		const [row] = await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract' LIMIT 1`);
		const card = JSON.parse(row!.card) as { lines: { when: object }[] };
		const kept = await desk.act(`/connect/connections/${connection}/rates?/keep`, {
			validFrom: '2025-11-10',
			// from here on for cards and wallets alone
			card: JSON.stringify({
				...card,
				lines: card.lines.flatMap((line) =>
					['card', 'device-wallet'].map((method) => ({ ...line, when: { ...line.when, method } }))
				)
			})
		});
		expect(kept.data?.wrong ?? kept.type).toEqual('success');
		const before = await cases();
		await take(
			[
				{ id: 'NR-1', at: at('2025-11-13'), minor: 9_000, fee: 140, currency: 'ISK' },
				{ id: 'NR-2', at: at('2025-11-14'), minor: 7_000, fee: 121, currency: 'ISK' },
				{
					id: 'NR-3',
					at: at('2025-11-15'),
					minor: 5_000,
					fee: 77,
					method: 'bank-app',
					scheme: '',
					funding: '',
					issuer: ''
				}
			],
			[]
		);
		// the file told the rates of its own payments: nobody else publishes any
		const database = await openDatabase(world);
		await database.run(`DELETE FROM exchange_rates WHERE 'ISK' IN (from_currency, to_currency)`);
		await database.run(`INSERT INTO repricings (connection_id, month, after) VALUES (?, '2025-11', 0)`, [connection]);
		await database.close();
		await quiet();
		expect(await cases()).toEqual(before);
		const { unpriced } = await desk.data<{
			unpriced: { id: string; count: string; fee: string; from: string; to: string; why: string }[];
		}>('/watch/discrepancies');
		const fresh = unpriced.filter((one) => one.from === 'November 2025');
		expect(fresh.map(({ count, fee, why }) => [count, fee, why]).sort()).toEqual([
			['1 payment', '0.77 EUR', 'No line of the contract covers them.'],
			['2 payments', '2.61 EUR', 'No exchange rate is known for these days.']
		]);
		const page = await (await desk.get('/watch/discrepancies')).text();
		expect(page).toContain('No exchange rate is known for these days.');
		// a check of those days counts the same three as not checked
		const checked = await checkDays('2025-11-01', '2025-11-30');
		expect(checked.connections).toMatchObject([{ payments: '3', unpriced: '3' }]);
		expect(says(checked)).not.toContain('as agreed');
	});
});

describe('charges from before the first contract', () => {
	it('are no discrepancy; the list says that they were not checked', async () => {
		const before = await cases();
		await take([], [other('PO-OLD', '2025-07-01', 'payout', 1_234, 5_000)]);
		expect(await cases()).toEqual(before);
		const { unpriced } = await desk.data<{
			unpriced: { id: string; connection: string; count: string; fee: string; from: string }[];
		}>('/watch/discrepancies');
		expect(unpriced.filter((one) => one.id.startsWith('charges '))).toMatchObject([
			{ connection: 'Fernhall', count: '1 charge', fee: '12.34 EUR', from: 'July 2025' }
		]);
	});
});
