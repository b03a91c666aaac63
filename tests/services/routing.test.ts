import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectAt, idOf } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { brackwaterFee, dayOf, fernhallFee } from '../world/published.ts';
import { settlementFile, type FileLine } from '../world/settlement.ts';

// Cheapest routing against sums of the processors' own published prices, from the page to the drafts and what they saved.

const HOUR = 3_600_000;
const newest = Date.now() - 26 * HOUR;
const lines: FileLine[] = Array.from({ length: 300 }, (_, n) => {
	const one = {
		id: `RO-${n}`,
		at: newest - n * 2 * HOUR,
		minor: 2_000 + ((n * 104_729) % 30_000),
		scheme: ['corvid', 'mainsail', 'tessel'][n % 3]!,
		funding: ['debit', 'credit', 'prepaid'][(n >> 1) % 3]!,
		issuer: ['BE', 'NL', 'US', 'DE'][n % 4]!,
		fee: 0
	};
	return { ...one, fee: fernhallFee(one) };
});
const monthOf = (at: number) => dayOf(at).slice(0, 7);
/** What Brackwater would have charged for all of them, its steps by the whole month. */
function atBrackwater(list: readonly FileLine[]): number {
	const volumes = new Map<string, number>();
	for (const one of list) volumes.set(monthOf(one.at), (volumes.get(monthOf(one.at)) ?? 0) + one.minor);
	return list.reduce((all, one) => all + brackwaterFee(one, volumes.get(monthOf(one.at))!), 0);
}
const atFernhall = (list: readonly FileLine[]) => list.reduce((all, one) => all + one.fee, 0);

let world: World;
let desk: Desk;
let [fernhall, brackwater] = ['', ''];
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall', 'brackwater'] });
	desk = new Desk(world);
	({ connection: fernhall } = await desk.openWebShop());
	brackwater = idOf(await connectAt(desk, 'brackwater'));
	const answer = await desk.upload(
		'/connect/files?/take',
		{ processor: 'fernhall' },
		'file',
		'shop.csv',
		settlementFile(lines)
	);
	if (answer.type !== 'success') throw new Error(JSON.stringify(answer));
	await until('all is merged', async () =>
		(await rows<{ state: string }>(world, 'SELECT state FROM settlement_files')).every((one) => one.state === 'taken')
	);
});
afterAll(() => world.end());

interface Told {
	todayMinor: number;
	cheapestMinor: number | null;
	boundMinor: number | null;
	isExact: boolean;
	payments: number;
	moves: {
		till: string;
		method: string;
		currency: string;
		from: string;
		to: string;
		payments: number;
		savesMinor: number;
	}[];
}
let token = '';
async function ask<T>(path: string): Promise<{ status: number; body: T }> {
	token ||= await desk.makeToken('routing', ['fees']);
	const answer = await fetch(`${world.app.address}/api/v1${path}`, { headers: { authorization: `Bearer ${token}` } });
	return { status: answer.status, body: (await answer.json()) as T };
}
const told = async (query = '') => (await ask<Told>(`/routing${query}`)).body;
/** What an account costs by the month, by its own rate card: whole numbers only. */
async function monthly(id: string): Promise<{ fee: number; minimum: number; payout: number }> {
	const [{ card }] = (await rows<{ card: string }>(
		world,
		`SELECT card FROM rate_cards WHERE connection_id = ? AND role = 'contract'`,
		[id]
	)) as [{ card: string }];
	const read = JSON.parse(card) as { monthly: { fee: number; minimum: number }; payout: number };
	return { ...read.monthly, payout: read.payout };
}
const months = () => {
	const [first, last] = [lines.at(-1)!, lines[0]!].map((one) => monthOf(one.at).split('-').map(Number));
	return last![0]! * 12 + last![1]! - first![0]! * 12 - first![1]! + 1;
};

describe('cheapest routing', () => {
	it('costs today what Fernhall publishes, payment by payment, and at Brackwater what that publishes', async () => {
		const result = await told();
		const [here, there] = await Promise.all([monthly(fernhall), monthly(brackwater)]);
		expect(result.payments).toBe(lines.length);
		expect([here.minimum, here.payout, there.payout]).toEqual([0, 0, 0]);
		expect(result.todayMinor).toBe(atFernhall(lines) + here.fee * months());
		const other = atBrackwater(lines) + there.fee * months();
		expect(result.cheapestMinor).toBe(Math.min(result.todayMinor, other));
		expect(other).toBeLessThan(result.todayMinor);
		expect(result.moves).toEqual([
			{
				till: 'web-shop',
				method: 'card',
				currency: 'EUR',
				from: fernhall,
				to: brackwater,
				payments: lines.length,
				savesMinor: result.todayMinor - other
			}
		]);
		expect([result.isExact, result.boundMinor]).toEqual([true, result.cheapestMinor]);
	});
	it('is the same figure on the page as in the interface', async () => {
		const result = await told();
		const page = await desk.data<{
			routing: {
				together: string;
				moves: { saves: string }[];
				rows: { cells: { isToday: boolean; isFound: boolean }[] }[];
			};
		}>('/watch/routing');
		const says = `${((result.todayMinor - result.cheapestMinor!) / 100).toLocaleString('en-GB', { minimumFractionDigits: 2 })} EUR`;
		const plain = (text: string) => text.replaceAll('\u00a0', ' ');
		expect(plain(page.routing.together)).toBe(says);
		expect(page.routing.moves.map((one) => plain(one.saves))).toEqual([says]);
		expect(page.routing.rows[0]!.cells.map((one) => [one.isToday, one.isFound])).toContainEqual([false, true]);
	});
	it('keeps out a move that is refused, until it is allowed again', async () => {
		const [till] = await rows<{ id: string }>(world, `SELECT id FROM tills WHERE slug = 'web-shop'`);
		const move = { till: till!.id, method: 'card', currency: 'EUR', connection: brackwater };
		expect((await desk.act('/watch/routing?/refuse', move)).type).toBe('success');
		const refused = await told();
		expect([refused.moves, refused.cheapestMinor]).toEqual([[], refused.todayMinor]);
		const page = await desk.data<{ routing: { refused: { says: string }[] } }>('/watch/routing');
		expect(page.routing.refused.map((one) => one.says)).toEqual(['Web shop: Card, EUR to Brackwater Acquiring']);
		expect((await desk.act('/watch/routing?/refuse', { ...move, allow: 'yes' })).type).toBe('success');
		expect((await told()).moves).toHaveLength(1);
	});
	it('refuses a day or a limit that is none', async () => {
		expect((await ask('/routing?from=yesterday')).status).toBe(400);
		expect((await ask('/routing?most=0')).status).toBe(400);
		expect((await ask('/routing?most=1')).status).toBe(200);
	});
	it('says of days without payments that there is nothing to route', async () => {
		// a page that took too long says how far it has come
		const routing = await until('it is worked out', async () => {
			const path = '/watch/routing?from=2020-01-01&to=2020-02-01';
			return (await desk.data<{ routing?: { verdict: { text: string }[] } }>(path)).routing;
		});
		expect(routing.verdict[0]!.text).toContain('no payment of this time');
	});
});

describe('drafts of the cheapest routing', () => {
	it('are made at the till, and change nothing that payers meet', async () => {
		const result = await desk.act('/watch/routing?/draft', { move: '0' });
		expect(result.type).toBe('success');
		const versions = await rows<{ state: string; offers: string }>(
			world,
			'SELECT state, offers FROM lineup_versions ORDER BY id'
		);
		const routeOf = (state: string) =>
			(
				JSON.parse(versions.find((one) => one.state === state)!.offers) as {
					method: string;
					routes: Record<string, { first: { id: string } }>;
				}[]
			).find((one) => one.method === 'card')!.routes;
		expect(routeOf('published').EUR!.first.id).toBe(fernhall);
		expect(routeOf('draft').EUR!.first.id).toBe(brackwater);
		// only what was moved
		expect(routeOf('draft').GBP!.first.id).toBe(fernhall);
		const page = await desk.data<{ promises: { state: string; months: unknown[] }[] }>('/watch/routing');
		expect(page.promises).toMatchObject([{ state: 'drafted, not published', months: [] }]);
	});
	it('are none where nothing is chosen', async () => {
		expect(await desk.act('/watch/routing?/draft', {})).toMatchObject({
			type: 'failure',
			data: { trouble: 'Choose at least one move.' }
		});
	});
	it('say after publishing what they really saved, beside what was promised', async () => {
		const { revision } = await desk.data<{ revision: number }>('/accept/tills/web-shop');
		const published = await desk.act('/accept/tills/web-shop?/publish', {
			revision: String(revision),
			reason: 'cheapest routing'
		});
		expect(published.type).toBe('success');
		// what Brackwater carries from now on, as its file tells it
		const later: FileLine[] = lines.slice(0, 5).map((one, n) => {
			const moved = { ...one, id: `RL-${n}`, at: Date.now() - (5 - n) * 1_000 };
			return { ...moved, fee: brackwaterFee(moved, 0) };
		});
		const answer = await desk.upload(
			'/connect/files?/take',
			{ processor: 'brackwater' },
			'file',
			'later.csv',
			settlementFile(later)
		);
		expect(answer.type).toBe('success');
		const saved = later.reduce((all, one) => all + fernhallFee(one) - one.fee, 0);
		interface Kept {
			promises: { state: string; months: { payments: string; saved: string }[] }[];
		}
		await until(
			'it is counted',
			async () => (await desk.data<Kept>('/watch/routing')).promises[0]!.months.length === 1
		);
		const [kept] = (await desk.data<Kept>('/watch/routing')).promises;
		expect(kept!.state).toMatch(/^published /);
		expect(kept!.months.map((one) => [one.payments, one.saved.replace(/[^\d-]/g, '')])).toEqual([['5', String(saved)]]);
	});
});
