import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Desk, type ActionAnswer } from '../world/desk.ts';
import { rows } from '../world/database.ts';
import { freshFetch, makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// What a screen answers in its first line, what stands in its margin, and what every page says of itself.

let world: World;
let desk: Desk;
let fernhall: string;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' });
	desk = new Desk(world);
});
afterAll(() => world.end());

const says = (answer: ActionAnswer) => JSON.stringify(answer.data ?? answer);
const page = async (path: string, headers: Record<string, string> = {}) =>
	(await (await desk.get(path, headers)).text()).replace(/<!--.*?-->/gs, '');
const plain = (html: string) =>
	html
		.replace(/<script[\s\S]*?<\/script>|<[^>]*>/g, ' ')
		.replace(/\s+/g, ' ')
		.trim();
/** The verdict of a page, as it is read. */
/** The first line of a screen; where it is still being worked out, once it is. */
const verdictOf = (path: string) =>
	until(`the first line of ${path}`, async () => {
		const found = /data-verdict[^>]*>([\s\S]*?)<\/p>/.exec(await page(path));
		return found && plain(found[1]!);
	});
const stepsOf = async () =>
	(await desk.data<{ steps: { title: string; isDone: boolean; href: string }[] }>('/needs-you')).steps;

/** Where nothing was paid yet, no screen of analysis claims that all is well; each leads on. */
async function claimsNothing(): Promise<void> {
	expect(await verdictOf('/watch/discrepancies')).toMatch(/^No verdict: no payment was held against a contract yet/);
	expect(plain(await page('/watch/discrepancies'))).not.toMatch(/all as promised|Charged as agreed/);
	expect(await verdictOf('/watch/routing')).toMatch(/^No verdict: no payment of this time can be routed/);
	expect(plain(await page('/watch/routing'))).not.toMatch(/0\.00 EUR|No move makes it cheaper/);
	for (const [path, link] of [
		['/watch/pulse', '/connect'],
		['/watch/fees', '/connect/files'],
		['/watch/methods', '/connect/files']
	] as const)
		expect([path, (await page(path)).includes(`class="why" href="${link}"`)]).toEqual([path, true]);
}

describe('the first day', () => {
	it('has a checklist that is computed, leads on, and is gone when all is done', async () => {
		await desk.setUp();
		await claimsNothing();
		expect((await stepsOf()).map((one) => one.isDone)).toEqual([false, false, false, false, false]);
		// what the list says is not said twice
		const shown = plain(await page('/needs-you'));
		expect(shown).toContain('0 of 5 done');
		expect(shown).not.toContain('There is no till');
		({ connection: fernhall } = await desk.openWebShop());
		const steps = await stepsOf();
		expect(steps.map((one) => [one.title, one.isDone])).toEqual([
			['Connect a processor', true],
			['Add an offline method', true],
			['Set up a till, and publish its line-up', true],
			['Make a trial payment', false],
			['Hear a notification', true]
		]);
		expect(steps[3]!.href).toBe('/accept/tills/web-shop/trial');
		await desk.giveCard(await desk.address('84.50', 'FIRST-1'), CARDS.approved);
		await until('the first payment is there', async () => (await stepsOf()).length === 0);
		expect(await page('/needs-you')).not.toContain('To the first payment');
	});
});

describe('what is not there', () => {
	it.each([
		['/watch/endpoints/9999', 'There is no such endpoint.', 'Watch', '/watch'],
		['/takings/payments/999999', 'There is no such payment.', 'Takings', '/takings'],
		['/bill/invoices/999999', 'There is no such', 'Bill', '/bill'],
		['/accept/tills/no-such-till', 'There is no such till', 'Accept', '/accept'],
		['/connect/processors/nobody', 'There is no such', 'Connect', '/connect']
	])('is told within its section: %s', async (path, told, section, href) => {
		const answer = await desk.get(path);
		expect(answer.status).toBe(404);
		const html = await answer.text();
		expect(plain(html)).toContain(told);
		expect(html).toContain(`aria-label="${section}"`);
		expect(html).toMatch(new RegExp(`<a class="button" href="${href}">(<!--.*?-->)?Go to (<!--.*?-->)?${section}`));
	});
});

describe('the first line of a screen', () => {
	it('of what each can do names what no till takes though an account could, and how many', async () => {
		const says = await verdictOf('/connect/abilities');
		const { table } = await desk.data<{
			table: { verdict: { text: string; working?: { steps: { title: string }[] } }[] };
		}>('/connect/abilities');
		const [, figure] = table.verdict;
		expect(says).toMatch(/^No till takes \d+ ways? to pay that your accounts could/);
		expect(figure!.text).toContain(String(figure!.working!.steps.length));
		// the web shop takes cards in EUR, GBP and JPY: those are not among them
		expect(figure!.working!.steps.map((one) => one.title)).not.toContain('Card, EUR');
		expect(figure!.working!.steps.map((one) => one.title)).toContain('Card, USD');
	});
	it('of side by side says when it cannot be given, and why', async () => {
		expect(await verdictOf('/connect/compare')).toMatch(/^No verdict: only Fernhall can carry what you take by card/);
	});
	it('of the grid says that every currency has something, or leads to the least change where one has not', async () => {
		expect(await verdictOf('/accept')).toContain('Every published till has something to pay by');
		const form = { name: 'Web shop', mode: 'live', colour: '#2f4b3c' };
		await desk.act('/accept/tills/web-shop/settings', { ...form, currencies: ['EUR', 'GBP', 'JPY', 'CHF'] });
		expect(await verdictOf('/accept')).toMatch(/^1 till and currency pair has nothing to pay by ?: Web shop in CHF\./);
		const { grid } = await desk.data<{ grid: { nothing: { href: string; currency: string }[] } }>('/accept');
		expect(grid.nothing).toHaveLength(1);
		expect(await page(grid.nothing[0]!.href)).toMatch(/No change of ours would offer|The least change/);
		await desk.act('/accept/tills/web-shop/settings', { ...form, currencies: ['EUR', 'GBP', 'JPY'] });
	});
	it('of the arrivals and of a connection’s notifications tells what is missing', async () => {
		expect(await verdictOf('/watch')).toMatch(/^Nothing is stuck : all \d+ notifications? that came found their place/);
		expect(await verdictOf(`/connect/connections/${fernhall}/notifications`)).toMatch(
			/^All \d+ notifications that you need are switched on/
		);
	});
	it('of a replay tells what the draft would have meant', async () => {
		expect(await verdictOf('/accept/tills/web-shop/replay')).toMatch(
			/^Over these 90 days, as published, nobody who paid would have met nothing/
		);
	});
});

describe('the grid', () => {
	interface Grid {
		grid: { rows: { key: string; name: string; sub: string; under: string; cells: { marks: unknown[] }[] }[] };
	}
	it('folds schemes that are taken alike into one row, and opens them where they differ', async () => {
		const { grid } = await desk.data<Grid>('/accept');
		const card = grid.rows.find((one) => one.name === 'Card')!;
		expect(card.sub.split(', ').sort()).toEqual(['Corvid', 'Mainsail', 'Tessel']);
		const held = await desk.act('/accept/tills/new', {
			name: 'Fair',
			mode: 'live',
			currencies: ['EUR'],
			colour: '#2f4b3c'
		});
		expect(held.location).toBe('/accept/tills/fair');
		await desk.act('/accept/tills/fair/offers/new?/save', {
			on: 'on',
			revision: '0',
			carrier: `connection:${fernhall}:card`,
			name: 'Card',
			currencies: ['EUR'],
			schemes: ['tessel'],
			fundings: ['debit'],
			regions: ['domestic'],
			boundCurrency: 'EUR',
			countryRule: 'any'
		});
		await desk.act('/accept/tills/fair?/publish', { revision: '1', reason: '' });
		const { grid: wider } = await desk.data<Grid>('/accept');
		const under = wider.rows.filter((one) => one.under === 'Card');
		expect(under.map((one) => one.name)).toEqual(['Corvid, Mainsail', 'Tessel']);
		expect(under.map((one) => one.cells.map((cell) => cell.marks.length > 0))).toEqual([
			[true, false],
			[true, true]
		]);
	});
	it('leads from a cell that is not taken to the least change for that method alone', async () => {
		const shown = await page(
			'/accept/tills/fair/ask?currency=EUR&amount=5000&minor=yes&which=published&method=credit-transfer'
		);
		expect(plain(shown)).toContain('The least change that offers credit transfer');
		expect(plain(shown)).not.toContain('Let Card take');
	});
});

describe('an offer', () => {
	it('says to what share of the last payers it was shown, by currency', async () => {
		const { offers } = await desk.data<{
			offers: { name: string; share?: { shown: number; of: number; byCurrency: { currency: string; of: number }[] } }[];
		}>('/accept/tills/web-shop');
		const [card, transfer] = offers;
		expect([card!.share!.shown, card!.share!.of]).toEqual([1, 1]);
		expect([transfer!.share!.shown, transfer!.share!.byCurrency]).toEqual([1, [{ currency: 'EUR', shown: 1, of: 1 }]]);
		const empty = await desk.data<{ offers: { share?: object }[] }>('/accept/tills/fair');
		expect(empty.offers[0]!.share).toBeUndefined();
	});
	it('takes limits in several currencies, each with two sums, and says which is wrong', async () => {
		const { offers, revision } = await desk.data<{ offers: { id: string; name: string }[]; revision: number }>(
			'/accept/tills/web-shop'
		);
		const at = `/accept/tills/web-shop/offers/${offers[0]!.id}`;
		const form = {
			on: 'on',
			revision: String(revision),
			carrier: `connection:${fernhall}:card`,
			name: 'Card',
			currencies: ['EUR', 'GBP', 'JPY'],
			schemes: ['corvid', 'mainsail', 'tessel'],
			fundings: ['debit', 'credit', 'prepaid'],
			regions: ['domestic', 'regional', 'international'],
			boundCurrency: 'EUR',
			minimum: '1.00',
			countryRule: 'except',
			countries: 'US CA'
		};
		const wrong = await desk.act(`${at}?/save`, { ...form, moreCurrencies: ['GBP'], moreFrom: ['9'], moreTo: ['3'] });
		expect(says(wrong)).toMatch(/GBP: the largest amount is below the smallest/);
		const kept = await desk.act(`${at}?/save`, {
			...form,
			moreCurrencies: ['GBP', 'JPY'],
			moreFrom: ['2.00', ''],
			moreTo: ['', '50000']
		});
		expect(kept.type).toBe('redirect');
		const shown = plain(await page('/accept/tills/web-shop'));
		for (const text of ['from 1.00 EUR', 'from 2.00 GBP', 'to 50,000 JPY']) expect(shown).toContain(text);
		const asked = plain(await page('/accept/tills/web-shop/ask?currency=EUR&amount=20.00&country=US'));
		expect(asked).toContain('It is not for payers in Canada, United States; this payer’s is United States.');
		const { revision: now } = await desk.data<{ revision: number }>('/accept/tills/web-shop');
		await desk.act('/accept/tills/web-shop?/discard', { revision: String(now) });
	});
	it('may not be called like another one in any language', async () => {
		await desk.act('/accept/tills/web-shop/settings', {
			name: 'Web shop',
			mode: 'live',
			colour: '#2f4b3c',
			currencies: ['EUR', 'GBP', 'JPY'],
			languages: ['en', 'nl', 'fr']
		});
		const { offers } = await desk.data<{ offers: { id: string; name: string }[] }>('/accept/tills/web-shop');
		const [card, transfer] = offers;
		const base = { on: 'on', currencies: ['EUR'], boundCurrency: 'EUR', countryRule: 'any' };
		const [row] = await rows<{ id: string }>(world, 'SELECT id FROM offline_methods');
		const say = (revision: number, name: string) =>
			desk.act(`/accept/tills/web-shop/offers/${transfer!.id}?/save`, {
				...base,
				revision: String(revision),
				carrier: `offline:${row!.id}:credit-transfer`,
				name: 'Credit transfer',
				textLanguages: ['nl', 'fr'],
				textNames: [name, 'Virement'],
				textNotes: ['Wij houden het tien dagen bij.', ''],
				textNotesAfter: ['', '']
			});
		await say(0, 'Card');
		const refused = await desk.act('/accept/tills/web-shop?/publish', { revision: '1', reason: 'limits' });
		expect(says(refused)).toMatch(/are both called “Card” in Nederlands/);
		await say(1, 'Overschrijving');
		expect((await desk.act('/accept/tills/web-shop?/publish', { revision: '2', reason: 'limits' })).type).toBe(
			'success'
		);
		expect(card!.name).toBe('Card');
	});
});

describe('a payer’s page', () => {
	it('speaks one language whole: its text, its title, its offers, and says which', async () => {
		const address = await desk.address('84.50', 'SPEAKS-1');
		const dutch = await page(address, { 'accept-language': 'nl-BE,nl;q=0.9' });
		for (const text of [
			'<html lang="nl"',
			'<title>Betaal 84,50 EUR aan Wren &amp; Alder Strings</title>',
			'Overschrijving',
			'Wij houden het tien dagen bij.'
		])
			expect(dutch).toContain(text);
		expect(dutch).toContain('U vult uw kaartnummer in: ongeveer een minuut.');
		const french = await page(address, { 'accept-language': 'fr-CH' });
		for (const text of ['<html lang="fr"', 'Virement', 'Vous faites un virement']) expect(french).toContain(text);
		// a language that we do not have: the till's first, whole
		expect(await page(address, { 'accept-language': 'ja' })).toContain('<html lang="en"');
	});
	it('is told to no search engine, and errors speak the reader’s language, too', async () => {
		const answer = await desk.get(await desk.address('10.00', 'SPEAKS-2'));
		expect(answer.headers.get('x-robots-tag')).toContain('noindex');
		const gone = await desk.get('/pay/nowhere?x=1', { 'accept-language': 'de' });
		expect([gone.status, await gone.text()]).toEqual([
			404,
			expect.stringContaining('Diese Zahlungsseite gibt es nicht.')
		]);
		const receipt = await desk.get('/paid/nothing', { 'accept-language': 'fr' });
		expect([receipt.status, await receipt.text()]).toEqual([404, expect.stringContaining('Ce reçu n’existe pas.')]);
	});
	it('keeps the way that was chosen open when the payer comes back', async () => {
		const address = await desk.address('84.50', 'KEEPS-1');
		const way = await desk.way(address, 'Credit transfer');
		const isOpen = async (at: string, cookie: string) =>
			(await page(at, { cookie })).includes('<section aria-label="Credit transfer"');
		expect(await isOpen(address, '')).toBe(false);
		const chosen = await desk.get(`${address}&way=${way}`);
		const cookie = chosen.headers
			.getSetCookie()
			.find((one) => one.startsWith('purse_way='))!
			.split(';')[0]!;
		expect(await isOpen(address, cookie)).toBe(true);
		// another order begins as it did
		expect(await isOpen(await desk.address('84.50', 'KEEPS-2'), cookie)).toBe(false);
	});
	it('goes on by itself without JavaScript while it waits, and gives what is copied', async () => {
		const address = await desk.address('312.00', 'COPY-1');
		const chosen = await desk.act(address, { way: await desk.way(address, 'Credit transfer') });
		const shown = await page(chosen.location!);
		expect(shown.match(/class="copy[^"]*" aria-label="Copy: /g)!.length).toBeGreaterThanOrEqual(4);
		expect(shown).toMatch(/<a[^>]*download="COPY-1.png"[^>]*>Save the code as a picture/);
		expect(shown).toMatch(/<title>Transfer 312.00 EUR: order COPY-1<\/title>/);
	});
});

describe('what every page is sent with', () => {
	it('is compressed where it may be, and a stream of events is not', async () => {
		const answer = await desk.get('/needs-you', { 'accept-encoding': 'gzip' });
		expect(answer.headers.get('content-encoding')).toBe('gzip');
		const live = await desk.get('/live?since=0', { 'accept-encoding': 'gzip', accept: 'text/event-stream' });
		expect(live.headers.get('content-type')).toContain('text/event-stream');
		expect(live.headers.get('content-encoding')).toBeNull();
		await live.body!.cancel();
	});
	it('has icons that are kept, and says to robots that nothing is for them', async () => {
		for (const [path, type] of [
			['/favicon.ico', 'image/x-icon'],
			['/purse.svg', 'image/svg+xml'],
			['/robots.txt', 'text/plain']
		] as const) {
			const answer = await freshFetch(world.app.address + path);
			expect([path, answer.status, answer.headers.get('content-type')]).toEqual([
				path,
				200,
				expect.stringContaining(type)
			]);
			expect(answer.headers.get('cache-control')).toContain('max-age=86400');
		}
		expect(await (await freshFetch(`${world.app.address}/robots.txt`)).text()).toContain('Disallow: /');
	});
});

describe('the script of a page', () => {
	it('is no more than 250 KB compressed at first load, on every page', () => {
		interface Chunk {
			file: string;
			imports?: string[];
		}
		const manifest = JSON.parse(readFileSync('.svelte-kit/output/client/.vite/manifest.json', 'utf8')) as Record<
			string,
			Chunk
		>;
		const gather = (key: string, found: Set<string>): Set<string> => {
			if (found.has(key) || !manifest[key]) return found;
			found.add(key);
			for (const one of manifest[key].imports ?? []) gather(one, found);
			return found;
		};
		const keys = Object.keys(manifest);
		const nodes = keys.filter((key) => /nodes\/\d+\.js$/.test(key));
		expect(nodes.length).toBeGreaterThan(40);
		const size = (key: string) => gzipSync(readFileSync(join('build/client', manifest[key]!.file))).length;
		const sizes = new Map(keys.filter((key) => manifest[key]!.file.endsWith('.js')).map((key) => [key, size(key)]));
		// what every page carries: the start, and the layouts of the whole and of the desk
		const shared = new Set<string>();
		for (const key of keys.filter((one) => /(start|app)\.js$|nodes\/(0|2)\.js$/.test(one))) gather(key, shared);
		const heavy = nodes.flatMap((node) => {
			const all = [...gather(node, new Set(shared))].reduce((sum, key) => sum + (sizes.get(key) ?? 0), 0);
			return all > 250_000 ? [`${node}: ${all}`] : [];
		});
		expect(heavy).toEqual([]);
	});
});

describe('the margin', () => {
	it('says what is worth knowing of a section now, with the figures of its screens', async () => {
		const worth = async (path: string) =>
			(await desk.layout<{ worth: { title: string; steps: { title: string; sub?: string; sum?: string }[] } }>(path))
				.worth;
		const takings = await worth('/takings');
		expect(takings.title).toMatch(/^Today, /);
		const taken = takings.steps.find((one) => one.title === 'EUR taken')!;
		const [row] = await rows<{ n: number; minor: number }>(
			world,
			`SELECT COUNT(*) AS n, SUM(taken) AS minor FROM payments WHERE currency = 'EUR' AND taken > 0 AND trial_id IS NULL`
		);
		expect([taken.sub, taken.sum]).toEqual([
			`${row!.n} payment${row!.n === 1 ? '' : 's'}`,
			`${(row!.minor / 100).toFixed(2)} EUR`
		]);
		const connect = await worth('/connect/processors');
		expect(connect.steps[0]).toMatchObject({ title: 'Live', sum: '1' });
		const accept = await worth('/accept');
		expect(accept.steps.map((one) => one.title)).toContain('Nobody met an empty checkout');
		expect(JSON.stringify(await worth('/watch'))).toContain('Fernhall');
	});
});
