import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile, type FileLine, type OtherFileLine } from '../world/settlement.ts';
import { shopDay } from '../world/shopTime.ts';

// The fee check from a settlement file to the case that is settled: what is found, worked on, corrected.

let world: World;
let desk: Desk;
let connection = '';
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall'] });
	desk = new Desk(world);
	await desk.setUp();
});
afterAll(() => world.end());

const DAY = 86_400_000;
const at = (ago: number) => Date.now() - ago * DAY;
const day = (ms: number) =>
	new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/Brussels', dateStyle: 'short' }).format(ms);
const half = (top: number) => Math.floor((top + 500_000) / 1_000_000);
/** Fernhall's prices, as its contract says: domestic and regional cards, private and commercial. */
let card: { areas: string[][]; lines: { when: Record<string, string>; percentage: number; fixed: number }[] };
const promised = (minor: number, region: string) => {
	const line =
		card.lines.find((one) => one.when.region === region && Object.keys(one.when).length === 1) ??
		card.lines.find((one) => !Object.keys(one.when).length)!;
	return half(minor * line.percentage + line.fixed * 1_000_000);
};
const take = async (name: string, lines: readonly FileLine[], others: readonly OtherFileLine[] = []) => {
	const answer = await desk.upload(
		'/connect/files?/take',
		{ processor: 'fernhall' },
		'file',
		name,
		settlementFile(lines, others)
	);
	expect(answer.data?.says ?? answer.data?.trouble).toMatch(/new/);
};
interface Case {
	id: number;
	cause: string;
	parameter: string;
	count: number;
	over: number;
	under: number;
	corrected: number;
	state: string;
	first: string;
	last: string;
}
const cases = () =>
	rows<Case>(
		world,
		`SELECT id, cause, parameter, count, over, under, corrected, state, first_day AS first, last_day AS last FROM discrepancies ORDER BY id`
	);
const quiet = () =>
	until('the fee check has looked at everything', async () => {
		const [left] = await rows<{ n: number }>(
			world,
			`SELECT (SELECT COUNT(*) FROM repricings) + (SELECT COUNT(*) FROM fee_checks_due) + (SELECT COUNT(*) FROM payment_moves) AS n`
		);
		return left!.n === 0;
	});
const notes = async (id: number) =>
	(
		await rows<{ act: string }>(world, 'SELECT act FROM discrepancy_notes WHERE discrepancy_id = ? ORDER BY id', [id])
	).map((one) => one.act);
const work = (id: number, form: Record<string, string>) => desk.act(`/watch/discrepancies/${id}?/work`, form);

describe('payments of a file that came before the account was connected', () => {
	it('are priced by the contract once it is confirmed, whatever moves first', async () => {
		await take(
			'before.csv',
			Array.from({ length: 50 }, (_, n) => ({ id: `B-${n}`, at: at(60 - n), minor: 2_000, fee: 45 }))
		);
		await prepare(desk, 'fernhall');
		connection = idOf(await connectAt(desk, 'fernhall'));
		await desk.confirmPrices(connection);
		card = JSON.parse(
			(await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract'`))[0]!.card
		) as typeof card;
		await quiet();
		// as they stand where the contract is confirmed while they are still to be moved
		const database = await openDatabase(world);
		await database.run(
			`UPDATE payments SET connection_id = NULL, account_id = '', expected_fee = NULL, fee_difference = NULL, rate_card_id = NULL`
		);
		await database.run(
			`INSERT INTO payment_moves (kind, processor, connection_id, account_id, last)
			 SELECT 'account', 'fernhall', id, account_id, (SELECT MAX(id) FROM payments) FROM connections`
		);
		await database.close();
		await quiet();
		const found = await rows<{ expected: number | null; mine: number; n: number }>(
			world,
			`SELECT expected_fee AS expected, connection_id = ? AS mine, COUNT(*) AS n FROM payments WHERE processor_id LIKE 'B-%' GROUP BY 1, 2`,
			[connection]
		);
		expect(found).toEqual([{ expected: promised(2_000, 'domestic'), mine: 1, n: 50 }]);
	});
});

/** Regional cards that are priced as international ones from a day on. */
const wrong = (n: number, minor: number): FileLine => ({
	id: `W-${n}`,
	at: at(9 - n),
	minor,
	fee: promised(minor, 'international'),
	issuer: 'NL',
	scheme: 'mainsail'
});

describe('regional cards that are charged as international ones', () => {
	const SUMS = [8_450, 2_000, 12_345, 6_660];
	const over = () => SUMS.reduce((all, one) => all + promised(one, 'international') - promised(one, 'regional'), 0);
	it('are one discrepancy with its cause, from the first day to the last, to the cent', async () => {
		await take('wrong.csv', [
			...SUMS.map((minor, n) => wrong(n, minor)),
			{ id: 'R-1', at: at(8), minor: 5_000, fee: promised(5_000, 'regional'), issuer: 'NL', scheme: 'corvid' }
		]);
		await quiet();
		const found = (await cases()).filter((one) => one.cause === 'another line');
		expect(found).toEqual([
			{
				id: expect.any(Number) as number,
				cause: 'another line',
				parameter: 'region international',
				count: 4,
				over: over(),
				under: 0,
				corrected: 0,
				state: 'open',
				first: day(at(9)),
				last: day(at(6))
			}
		]);
	});
	it('stand on the list, the case, the file and the letter with the same sum, and in fees over time', async () => {
		const [one] = (await cases()).filter((row) => row.parameter === 'region international');
		const list = await desk.data<{ rows: { id: number; remaining: string; count: number }[] }>('/watch/discrepancies');
		const shown = `${(over() / 100).toFixed(2)} EUR`;
		expect(list.rows.find((row) => row.id === one!.id)).toMatchObject({ remaining: shown, count: 4 });
		const detail = await desk.data<{ remaining: string; payments: { difference: string }[]; ofAll: number }>(
			`/watch/discrepancies/${one!.id}`
		);
		expect(detail.remaining).toBe(shown);
		expect(detail.payments.reduce((all, row) => all + Math.round(Number(row.difference) * 100), 0)).toBe(over());
		const csv = await (await desk.get(`/watch/discrepancies/${one!.id}/csv`)).text();
		const [head, ...lines] = csv
			.replace(/^\ufeff/, '')
			.trim()
			.split(/\r\n/);
		const column = head!.split(',').indexOf('difference');
		expect(lines).toHaveLength(4);
		expect(lines.reduce((all, line) => all + Math.round(Number(line.split(',')[column]) * 100), 0)).toBe(over());
		const letter = Buffer.from(await (await desk.get(`/watch/discrepancies/${one!.id}/letter`)).arrayBuffer());
		expect(letter.subarray(0, 5).toString()).toBe('%PDF-');
		expect(letter.toString('latin1')).toContain(`reference D-${one!.id}`);
		const [sums] = await rows<{ difference: number; differing: number }>(
			world,
			'SELECT SUM(difference) AS difference, SUM(differing) AS differing FROM fee_months'
		);
		const [payments] = await rows<{ difference: number; differing: number }>(
			world,
			`SELECT SUM(fee_difference) AS difference, SUM(fee_difference <> 0) AS differing FROM payments WHERE mode = 'live'`
		);
		expect(sums).toEqual(payments);
	});
	it('are worked on like a case: sent, agreed; what comes after joins it; somebody else’s press is told', async () => {
		const [{ id }] = (await cases()).filter((row) => row.parameter === 'region international') as [Case];
		expect(await work(id, { state: 'agreed', from: 'open', text: '' })).toMatchObject({ type: 'failure' });
		expect(await work(id, { state: 'sent', from: 'open', text: 'By mail to their support' })).toMatchObject({
			type: 'success'
		});
		expect((await work(id, { state: 'accepted', from: 'open', text: 'keep me' })).data).toMatchObject({
			trouble: expect.stringContaining('Somebody else') as string,
			typed: 'keep me'
		});
		expect(await work(id, { state: '', from: 'sent', text: '' })).toMatchObject({ type: 'failure' });
		expect(await work(id, { state: '', from: 'sent', text: 'They answer on Monday' })).toMatchObject({
			type: 'success'
		});
		await take('more.csv', [wrong(4, 3_210)]);
		await quiet();
		expect((await cases()).find((row) => row.id === id)).toMatchObject({ count: 5, state: 'sent' });
		expect(await notes(id)).toEqual(['found', 'sent', 'note']);
		expect(await work(id, { state: 'agreed', from: 'sent', text: '' })).toMatchObject({ type: 'success' });
	});
	it('are settled by themselves when the correction comes: in part first, and whole then', async () => {
		const [{ id }] = (await cases()).filter((row) => row.parameter === 'region international') as [Case];
		const corrected = (n: number, minor: number): FileLine => ({
			...wrong(n, minor),
			fee: promised(minor, 'regional')
		});
		const all: [number, number][] = [...SUMS.map((minor, n) => [n, minor] as [number, number]), [4, 3_210]];
		await take(
			'corrected-1.csv',
			all.slice(0, 2).map(([n, minor]) => corrected(n, minor))
		);
		await quiet();
		const part = (await cases()).find((row) => row.id === id)!;
		expect(part).toMatchObject({ count: 5, state: 'agreed' });
		const owed = (list: [number, number][]) =>
			list.reduce((sum, [, minor]) => sum + promised(minor, 'international') - promised(minor, 'regional'), 0);
		expect(part.corrected).toBe(owed(all.slice(0, 2)));
		await take(
			'corrected-2.csv',
			all.slice(2).map(([n, minor]) => corrected(n, minor))
		);
		await quiet();
		const whole = (await cases()).find((row) => row.id === id)!;
		expect([whole.state, whole.corrected, whole.over]).toEqual(['settled', owed(all), owed(all)]);
		expect(await notes(id)).toEqual(['found', 'sent', 'note', 'agreed', 'corrected', 'corrected', 'settled']);
		expect((await cases()).filter((row) => row.state === 'open' && row.cause === 'another line')).toEqual([]);
	});
	it('that are charged too little after that stand on their own, and nothing is counted twice', async () => {
		await take('overshoot.csv', [{ ...wrong(0, SUMS[0]!), fee: promised(SUMS[0]!, 'regional') - 20 }]);
		await quiet();
		const all = await cases();
		expect(all.find((row) => row.parameter === 'region international')).toMatchObject({ state: 'settled' });
		const left = all
			.filter((row) => row.state === 'open')
			.reduce((sum, row) => sum + row.over - row.under - row.corrected, 0);
		const [payments] = await rows<{ sum: number }>(
			world,
			`SELECT SUM(fee_difference) AS sum FROM payments WHERE mode = 'live' AND fee_difference <> 0`
		);
		expect(left).toBe(payments!.sum);
	});
	it('that come again after the case was closed are a new case', async () => {
		await take('again.csv', [wrong(5, 9_990), wrong(6, 4_440), wrong(7, 2_220)]);
		await quiet();
		const mine = (await cases()).filter((row) => row.parameter === 'region international');
		expect(mine.map((row) => [row.state, row.count])).toEqual([
			['settled', 5],
			['open', 3]
		]);
	});
	it('are settled by one adjustment of the account with that very sum, and only by that', async () => {
		const [, open] = (await cases()).filter((row) => row.parameter === 'region international') as [Case, Case];
		await take(
			'adjustment-0.csv',
			[],
			[{ id: 'A-0', at: at(1), outcome: 'adjustment', minor: 0, fee: -(open.over - 1) }]
		);
		await quiet();
		expect((await cases()).find((row) => row.id === open.id)).toMatchObject({ state: 'open', corrected: 0 });
		// the very sum, but from before the first of its payments
		await take(
			'adjustment-old.csv',
			[],
			[{ id: 'A-OLD', at: at(50), outcome: 'adjustment', minor: 0, fee: -open.over }]
		);
		await quiet();
		expect((await cases()).find((row) => row.id === open.id)).toMatchObject({ state: 'open', corrected: 0 });
		await take('adjustment-1.csv', [], [{ id: 'A-1', at: at(1), outcome: 'adjustment', minor: 0, fee: -open.over }]);
		await quiet();
		expect((await cases()).find((row) => row.id === open.id)).toMatchObject({ state: 'settled', corrected: open.over });
	});
	it('go, where it was the contract that was wrong and nobody had begun with the case', async () => {
		await take('contract.csv', [
			{ id: 'C-1', at: at(3), minor: 7_000, fee: promised(7_000, 'domestic') + 3 },
			{ id: 'C-2', at: at(3), minor: 7_000, fee: promised(7_000, 'domestic') + 3 }
		]);
		await quiet();
		const [row] = await rows<{ id: string; body: string; validFrom: string }>(
			world,
			`SELECT id, card AS body, valid_from AS validFrom FROM rate_cards WHERE role = 'contract'`
		);
		const body = JSON.parse(row!.body) as typeof card;
		const before = (await cases()).filter((one) => one.state === 'open');
		expect(before.some((one) => one.cause === 'not explained' && one.count >= 2)).toBe(true);
		const database = await openDatabase(world);
		const dearer = { ...body, lines: body.lines.map((line) => ({ ...line, fixed: line.fixed + 3 })) };
		await database.run(`UPDATE rate_cards SET card = ? WHERE id = ?`, [JSON.stringify(dearer), row!.id]);
		await database.run(
			`INSERT INTO repricings (connection_id, month, after) SELECT DISTINCT connection_id, substr(account_day, 1, 7), 0 FROM payments
			 WHERE connection_id = ? AND account_day IS NOT NULL ON CONFLICT DO UPDATE SET after = 0`,
			[connection]
		);
		await database.close();
		await quiet();
		const [c1] = await rows<{ difference: number }>(
			world,
			`SELECT fee_difference AS difference FROM payments WHERE processor_id = 'C-1'`
		);
		expect(c1!.difference).toBe(0);
		const held = await rows(
			world,
			`SELECT 1 FROM discrepancy_payments x JOIN discrepancies d ON d.id = x.discrepancy_id JOIN payments p ON p.id = x.payment_id
			 WHERE d.state = 'open' AND p.processor_id IN ('C-1', 'C-2')`
		);
		expect(held).toEqual([]);
	});
});

describe('a notice of a price change', () => {
	it('says before its day what it would have cost on the last twelve months: three cents more on each payment', async () => {
		const [row] = await rows<{ body: string }>(world, `SELECT card AS body FROM rate_cards WHERE role = 'contract'`);
		const body = JSON.parse(row!.body) as typeof card;
		const dearer = { ...body, lines: body.lines.map((line) => ({ ...line, fixed: line.fixed + 3 })) };
		const next = Number(shopDay().slice(0, 4)) + 1;
		const kept = await desk.act(`/connect/connections/${connection}/rates?/keep`, {
			validFrom: `01/01/${next}`,
			card: JSON.stringify(dearer)
		});
		expect(kept.type).toBe('success');
		const page = await desk.data<{
			change: { text: string; working?: { steps: { sum: string }[] } }[];
			shown: { validFrom: string };
		}>(`/connect/connections/${connection}/rates?version=${next}-01-01`);
		expect(page.shown.validFrom).toBe(`${next}-01-01`);
		const [payments] = await rows<{ n: number }>(
			world,
			`SELECT COUNT(*) AS n FROM payments WHERE connection_id = ? AND taken > 0 AND mode = 'live'`,
			[connection]
		);
		expect(page.change[1]!.text).toBe(`${((payments!.n * 3) / 100).toFixed(2)} EUR more`);
		const [by, otherwise, more] = page.change[1]!.working!.steps.map((one) =>
			Math.round(Number(one.sum.replace(/[^\d.]/g, '')) * 100)
		);
		expect(otherwise! - by!).toBe(more);
		// nothing is expected by it before its day
		expect(
			(
				await rows(
					world,
					`SELECT 1 FROM payments p JOIN rate_cards r ON r.id = p.rate_card_id WHERE r.valid_from > p.account_day`
				)
			).length
		).toBe(0);
	});
});

describe('sums of fees by month and by day', () => {
	it.each([
		['month', 'fee_months', 'substr(account_day, 1, 7)'],
		['day', 'fee_days', 'account_day']
	])('are those of the payments of each %s, and the same when they are added up again', async (of, table, day) => {
		const kept = await rows(
			world,
			`SELECT ${of} AS day, carrier, till_id, kind_id, currency, count, gross, fee, told, expected, priced, difference, differing
			 FROM ${table} WHERE count <> 0 ORDER BY 1, 2, 3, 4, 5`
		);
		const fresh = await rows(
			world,
			`SELECT ${day} AS day, connection_id AS carrier, COALESCE(till_id, '') AS till_id, kind_id, fee_currency AS currency,
			 COUNT(*) AS count, SUM(base_minor) AS gross, SUM(COALESCE(charged_fee, expected_fee, 0)) AS fee, SUM(charged_fee IS NOT NULL) AS told,
			 SUM(COALESCE(expected_fee, 0)) AS expected, SUM(expected_fee IS NOT NULL) AS priced, SUM(COALESCE(fee_difference, 0)) AS difference,
			 SUM(COALESCE(fee_difference, 0) <> 0) AS differing FROM payments
			 WHERE mode = 'live' AND account_day IS NOT NULL AND connection_id IS NOT NULL AND fee_currency IS NOT NULL AND taken > 0
			 GROUP BY 1, 2, 3, 4, 5 ORDER BY 1, 2, 3, 4, 5`
		);
		expect(fresh.length).toBeGreaterThan(0);
		expect(kept).toEqual(fresh);
	});
	it('are what the page says in all, whatever it is looked at by', async () => {
		const [all] = await rows<{ fee: number; gross: number }>(
			world,
			`SELECT SUM(fee) AS fee, SUM(gross) AS gross FROM fee_months`
		);
		const months = await rows<{ month: string }>(world, `SELECT DISTINCT month FROM fee_months ORDER BY 1`);
		const [from, to] = [months[0]!.month, months.at(-1)!.month];
		for (const by of ['connection', 'method', 'card', 'till', 'brand', 'currency']) {
			const page = await desk.data<{ groups: { total: { fee: string; gross: string }; rows: { fee: string }[] } }>(
				`/watch/fees?from=${from}&to=${to}&by=${by}`
			);
			const minor = (text: string) => Math.round(Number(text.replace(/[^\d.]/g, '')) * 100);
			expect([by, minor(page.groups.total.gross)]).toEqual([by, all!.gross]);
			expect([by, page.groups.rows.reduce((sum, row) => sum + minor(row.fee), 0)]).toEqual([by, all!.fee]);
		}
	});
	it('keep two connections of one name apart, and adds neither to the other', async () => {
		const database = await openDatabase(world);
		await database.run(
			`INSERT INTO fee_months (month, carrier, till_id, kind_id, currency, count, gross, fee, told, expected, priced, difference, differing)
			 SELECT month, 'another', till_id, kind_id, currency, 1, 10000, 100, 1, 100, 1, 0, 0 FROM fee_months LIMIT 1`
		);
		const [{ month }] = (await rows<{ month: string }>(
			world,
			`SELECT month FROM fee_months WHERE carrier = 'another'`
		)) as [{ month: string }];
		const page = await desk.data<{ groups: { rows: { id: string; fee: string }[] } }>(
			`/watch/fees?from=${month}&to=${month}&by=connection`
		);
		const ids = page.groups.rows.map((one) => one.id);
		expect(new Set(ids).size).toBe(ids.length);
		expect(page.groups.rows.find((one) => one.id === 'another')!.fee).toBe('1.00 EUR');
		await database.run(`DELETE FROM fee_months WHERE carrier = 'another'`);
		await database.close();
	});
	it('tells a month that cannot be read, and keeps the rest', async () => {
		const page = await desk.data<{ wrong: string; asked: { by: string } }>('/watch/fees?from=2026-99&by=till');
		expect(page.wrong).toContain('is no month');
		expect(page.asked.by).toBe('till');
	});
});

describe('fees by the interface', () => {
	it('are the same sums, and discrepancies the same as on the desk', async () => {
		const token = await desk.makeToken('fees', ['fees']);
		const ask = async <T>(path: string) => {
			const answer = await fetch(`${world.app.address}/api/v1${path}`, {
				headers: { authorization: `Bearer ${token}` }
			});
			return { status: answer.status, body: (await answer.json()) as T };
		};
		const months = await rows<{ month: string }>(world, `SELECT DISTINCT month FROM fee_months ORDER BY 1`);
		const [from, to] = [months[0]!.month, months.at(-1)!.month];
		const { body } = await ask<{ fees: { feeMinor: number; differenceMinor: number }[]; accountMinor: number }>(
			`/fees?from=${from}&to=${to}`
		);
		const [all] = await rows<{ fee: number; difference: number }>(
			world,
			`SELECT SUM(fee) AS fee, SUM(difference) AS difference FROM fee_months`
		);
		expect(body.fees.reduce((sum, one) => sum + one.feeMinor, 0)).toBe(all!.fee);
		expect(body.fees.reduce((sum, one) => sum + one.differenceMinor, 0)).toBe(all!.difference);
		const list = await ask<{ discrepancies: { discrepancy: number; leftMinor: number; state: string }[] }>(
			'/discrepancies'
		);
		const desks = await desk.data<{ rows: { id: number; state: string }[] }>('/watch/discrepancies');
		expect(list.body.discrepancies.map((one) => [one.discrepancy, one.state]).sort()).toEqual(
			desks.rows.map((one) => [one.id, one.state]).sort()
		);
		const settled = await ask<{ discrepancies: { state: string }[] }>('/discrepancies?state=settled');
		expect(new Set(settled.body.discrepancies.map((one) => one.state))).toEqual(new Set(['settled']));
		const [one] = list.body.discrepancies;
		expect((await ask<{ leftMinor: number }>(`/discrepancies/${one!.discrepancy}`)).body.leftMinor).toBe(
			one!.leftMinor
		);
		expect((await ask('/discrepancies/999999')).status).toBe(404);
		expect((await ask('/discrepancies/x')).status).toBe(404);
		expect((await ask('/fees?from=2026-13')).status).toBe(400);
		expect((await ask('/discrepancies?state=gone')).status).toBe(400);
	});
	it('stand on Needs you with their sum, the largest first, and lead to the case', async () => {
		const page = await desk.data<{ needs: { id: string; figure: string; href: string }[] }>('/needs-you');
		const mine = page.needs.filter((one) => one.id.startsWith('discrepancy'));
		const open = (await cases()).filter((one) => one.state === 'open');
		expect(mine.length).toBe(Math.min(3, open.length));
		for (const one of mine) expect(one.href).toMatch(/^\/watch\/discrepancies\/\d+$/);
	});
});

describe('what fees are made of', () => {
	const cents = (text: string) => Number(text.replace(/[^\d-]/g, '')) * (text.startsWith('−') ? -1 : 1);
	interface Parts {
		rows: { name: string; sum: string }[];
		total: string;
	}
	interface Forecast {
		fee: string;
		least: string;
		most: string;
		working: { steps: { title: string; sum: string; total?: boolean }[] };
	}
	const months = async () => {
		const list = await rows<{ month: string }>(world, 'SELECT DISTINCT month FROM fee_months ORDER BY 1');
		return [list[0]!.month, list.at(-1)!.month] as const;
	};
	it('adds up to what was paid, whatever the period, and to the table beside it', async () => {
		const [from, to] = await months();
		for (const period of [`from=${from}&to=${to}`, `from=${to}&to=${to}`]) {
			const page = await desk.data<{ groups: { total: { fee: string } } }>(`/watch/fees?${period}`);
			const parts = (await desk.late<Parts>(`/watch/fees?${period}`)).find((one) => one && 'rows' in one)!;
			expect([period, parts.total]).toEqual([period, page.groups.total.fee]);
			expect(parts.rows.reduce((all, one) => all + cents(one.sum), 0)).toBe(cents(parts.total));
			expect(parts.rows.length).toBeGreaterThan(1);
		}
	});
	it('has fixed parts as many as payments, at the price that the contract says', async () => {
		const [from, to] = await months();
		const parts = (await desk.late<Parts>(`/watch/fees?from=${from}&to=${to}`)).find((one) => one && 'rows' in one)!;
		const fixed = cents(parts.rows.find((one) => one.name === 'Fixed parts')!.sum);
		const known = await rows<{ issuer: string; n: number }>(
			world,
			`SELECT k.issuer, COUNT(*) AS n FROM payments p JOIN payment_kinds k ON k.id = p.kind_id
			 WHERE p.taken > 0 AND p.mode = 'live' AND p.connection_id IS NOT NULL GROUP BY 1`
		);
		// the contract was changed on the way
		const [held] = await rows<{ card: string }>(world, `SELECT card FROM rate_cards WHERE role = 'contract'`);
		const now = JSON.parse(held!.card) as typeof card;
		const lineOf = (issuer: string) => {
			const region =
				issuer === 'BE' ? 'domestic' : now.areas.some((area) => area.includes(issuer)) ? 'regional' : 'international';
			return (
				now.lines.find((one) => one.when.region === region && Object.keys(one.when).length === 1) ??
				now.lines.find((one) => !Object.keys(one.when).length)!
			);
		};
		expect(fixed).toBe(known.reduce((all, { issuer, n }) => all + n * lineOf(issuer).fixed, 0));
	});
	it('says what this month will come to, with its range, from what came on as many days before', async () => {
		const [from, to] = await months();
		const forecast = (await desk.late<Forecast>(`/watch/fees?from=${from}&to=${to}`)).find(
			(one) => one && 'least' in one
		);
		if (!forecast) return;
		const [least, fee, most] = [forecast.least, forecast.fee, forecast.most].map(cents) as [number, number, number];
		expect(least <= fee && fee <= most).toBe(true);
		const runs = forecast.working.steps.filter((one) => one.title.startsWith('With '));
		expect([0, 8]).toContain(runs.length);
		const soFar = cents(forecast.working.steps[0]!.sum);
		for (const run of runs) expect(cents(run.sum)).toBeGreaterThanOrEqual(soFar);
		if (runs.length)
			expect([Math.min(...runs.map((one) => cents(one.sum))), Math.max(...runs.map((one) => cents(one.sum)))]).toEqual([
				least,
				most
			]);
	});
	it('goes from every till by every method to its connection, to the minor unit', async () => {
		const [from, to] = await months();
		const page = await desk.data<{ streams: { gross: number; fee: number; href: string }[] }>(
			`/watch/fees?from=${from}&to=${to}`
		);
		const [sum] = await rows<{ gross: number; fee: number }>(
			world,
			`SELECT SUM(gross) AS gross, SUM(fee) AS fee FROM fee_months WHERE currency = 'EUR'`
		);
		expect(
			page.streams.reduce((all, one) => ({ gross: all.gross + one.gross, fee: all.fee + one.fee }), {
				gross: 0,
				fee: 0
			})
		).toEqual(sum);
		for (const one of page.streams) expect((await desk.get(one.href)).status).toBe(200);
	});
});

describe('use of methods', () => {
	it('says that nothing is to be seen where there is no till', async () => {
		expect((await desk.data<{ use?: unknown }>('/watch/methods')).use).toBe(undefined);
		expect(await (await desk.get('/watch/methods')).text()).toContain('Nothing has been paid yet');
	});
});
