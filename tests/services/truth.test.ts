import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { booksOf } from '../../standins/history/books.ts';
import { history } from '../../standins/history/index.ts';
import { formatNumber } from '../../src/lib/core/money/index.ts';
import { connectAt, idOf, NAMES, prepare } from '../world/connections.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

let world: World;
let desk: Desk;
let offline: string;
const ids: Record<string, string> = {};
/** A day of the business, so many days ago. */
const day = (ago: number) =>
	new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/Brussels', dateStyle: 'short' }).format(
		Date.now() - ago * 86_400_000
	);
const files = history({ until: day(1), payments: 400, months: 2 });
/** What was received by transfer before, as the business's own books tell it. */
const books = booksOf(day(1), 60).get('credit-transfer')!;
const received = books.split('\n').filter((line) => line.startsWith('WA-'));

beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: NAMES });
	desk = new Desk(world);
	const open = await desk.openWebShop();
	offline = open.offline;
	ids.fernhall = open.connection;
	for (const name of NAMES.filter((one) => one !== 'fernhall')) {
		await prepare(desk, name);
		ids[name] = idOf(await connectAt(desk, name));
	}
	for (const [name, text] of files)
		expect(
			(await desk.upload('/connect/files?/take', { processor: name }, 'file', `${name}.csv`, text)).data?.says
		).toMatch(/payments are new/);
	expect(
		(await desk.upload('/connect/files?/take', { processor: `offline:${offline}` }, 'file', 'books.csv', books)).data
			?.says
	).toMatch(new RegExp(`^books.csv is imported: ${received.length} of`));
	// what is taken here: two cards, one of them refunded in part; a transfer; an attempt that is declined
	for (const reference of ['TR-1', 'TR-2']) await desk.giveCard(await desk.address('84.50', reference), CARDS.approved);
	await desk.giveCard(await desk.address('84.50', 'TR-3'), CARDS.declined);
	const transfer = await desk.address('240.00', 'TR-4');
	await desk.act(transfer, { way: await desk.way(transfer, 'Credit transfer') });
	const lines = (await desk.data<Page>('/takings')).lines;
	const at = (reference: string) => `/takings/payments/${lines.find((one) => one.reference === reference)!.id}`;
	await desk.act(`${at('TR-1')}?/refund`, { amount: '30.00', key: 'truth-refund' });
	await desk.act(`${at('TR-4')}?/receive`, {
		amount: '240.00',
		how: 'credit transfer',
		day: day(0),
		note: '',
		key: 'truth-receipt'
	});
});
afterAll(() => world.end());

interface Line {
	id: number;
	reference: string;
	till: string;
	route: string;
	stage: string;
	amount: string;
	currency: string;
}
interface Page {
	lines: Line[];
	more: boolean;
	next: string;
}
type Sums = Record<string, number>;
const minorOf = (text: string, currency: string) =>
	Math.round(Number(text.replaceAll(',', '')) * (currency === 'JPY' ? 1 : 100));
const add = (sums: Sums, currency: string, minor: number) => (sums[currency] = (sums[currency] ?? 0) + minor);

/** Every line of a list, page by page. */
async function walk(path: string): Promise<Line[]> {
	const all: Line[] = [];
	let before = '';
	for (;;) {
		const page: Page = await desk.data(`${path}${before}`);
		all.push(...page.lines);
		if (!page.more) return all;
		before = `${path.includes('?') ? '&' : '?'}before=${page.next}`;
	}
}
const CAME = new Set(['captured', 'settled', 'paid out', 'part refunded', 'refunded', 'disputed', 'received']);

describe('one period', () => {
	it('gives the same count and the same sums in every list and figure of it', async () => {
		const lines = await walk('/takings');
		expect(new Set(lines.map((one) => one.id)).size).toBe(lines.length);
		const came = lines.filter((one) => CAME.has(one.stage));
		const sums: Sums = {};
		for (const one of came) add(sums, one.currency, minorOf(one.amount, one.currency));
		// as many as the files hold, and what was taken here
		const inFiles = [...files.values()].join('\n').match(/,captured,,[^,\n]*$/gm)!.length;
		expect(came.length).toBe(inFiles - totalsIn('captured') + received.length + 3);

		// by carrier: the connections' own use, and the offline method's
		const byCarrier: Sums = {};
		let carried = 0;
		for (const id of Object.values(ids)) {
			const { taken } = await desk.data<{ taken: { came: number; sums: { sum: string }[] } }>(
				`/connect/connections/${id}`
			);
			carried += taken.came;
			for (const { sum } of taken.sums) {
				const [text, currency] = sum.split(' ') as [string, string];
				add(byCarrier, currency, minorOf(text, currency));
			}
		}
		const { use } = await desk.data<{
			use: { chosen: number; paid: number; taken: { currency: string; minor: number }[] };
		}>(`/connect/offline/${offline}`);
		const mine = received.length + 1;
		const minor = received.reduce((sum, line) => sum + Number(line.split(',')[5]), 24_000);
		expect(received.length).toBeGreaterThan(20);
		expect([use.chosen, use.paid, use.taken]).toEqual([mine, mine, [{ currency: 'EUR', minor }]]);
		for (const { currency, minor } of use.taken) add(byCarrier, currency, minor);
		expect([carried + use.paid, byCarrier]).toEqual([came.length, sums]);

		// side by side: what processors carried, and what came by offline methods
		const compare = `/connect/compare?from=${day(70)}&to=${day(0)}`;
		const compared = await until('the comparison', async () => {
			const shown = await desk.data<{
				count?: number;
				methods: { count: number }[];
				offline: { count: number; sums: string[] };
				happened: {
					refunded: { count: number; sums: { currency: string; sum: string }[] };
					declined: { count: number };
				};
			}>(compare);
			return shown.count === undefined ? undefined : shown;
		});
		expect([compared.count, compared.offline]).toEqual([
			carried,
			{ count: mine, sums: [`${formatNumber({ minor, currency: 'EUR' }, 'en-GB')} EUR`] }
		]);
		expect(compared.methods.reduce((all, one) => all + one.count, 0)).toBe(carried);
		const declined = lines.filter((one) => one.stage === 'failed').length;
		expect(compared.happened.declined.count).toBe(declined);
		// what came by a method of one's own, no processor carried
		const refunded = lines.filter(
			(one) => (one.stage === 'refunded' || one.stage === 'part refunded') && one.route !== 'Credit transfer'
		).length;
		expect(compared.happened.refunded.count).toBe(refunded);

		// by till, and the replay of one
		const shop = (await walk('/takings?till=web-shop')).filter((one) => CAME.has(one.stage));
		expect(shop.map((one) => one.id)).toEqual(came.filter((one) => one.till === 'Web shop').map((one) => one.id));
		const replayed = await until('the replay', async () => {
			const shown = await desk.data<{
				result?: { count: number; verdicts: { count: number; sums: string[] }[] };
			}>('/accept/tills/web-shop/replay?days=90');
			return shown.result;
		});
		expect(replayed.count).toBe(shop.length);
		const [shopSums, replaySums]: [Sums, Sums] = [{}, {}];
		for (const one of shop) add(shopSums, one.currency, minorOf(one.amount, one.currency));
		for (const { sums: list } of replayed.verdicts)
			for (const sum of list) {
				const [text, currency] = sum.split(' ') as [string, string];
				add(replaySums, currency, minorOf(text, currency));
			}
		expect(replaySums).toEqual(shopSums);
	});
	it('is the same after a restart', async () => {
		const before = await desk.data('/takings');
		await world.app.kill();
		await world.app.start();
		expect(await desk.data('/takings')).toEqual(before);
	});
});

/** Lines of totals are no payments. */
function totalsIn(outcome: string): number {
	return [...files.values()].join('\n').match(new RegExp(`^total,.*,${outcome},,?$`, 'gm'))!.length;
}
