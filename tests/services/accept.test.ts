import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectAt, idOf } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk, type ActionAnswer } from '../world/desk.ts';
import { freshFetch, makeWorld, until, type World } from '../world/index.ts';

let world: World;
let desk: Desk;
let fernhall: string;
let brackwater: string;
let offline: string;
const shop = '/accept/tills/web-shop';

beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { with: ['fernhall', 'brackwater', 'halfpenny'] });
	desk = new Desk(world);
	({ connection: fernhall, offline } = await desk.openWebShop());
	brackwater = idOf(await connectAt(desk, 'brackwater'));
});
afterAll(() => world.end());

const says = (answer: ActionAnswer) => JSON.stringify(answer.data ?? answer);
const text = async (path: string) =>
	(await (await desk.get(path)).text()).replace(/<!--.*?-->/g, '').replace(/\s+/g, ' ');
const draftRevision = async (slug = 'web-shop') =>
	(
		await rows<{ revision: number }>(
			world,
			`SELECT revision FROM lineup_versions WHERE state = 'draft' AND till_id = (SELECT id FROM tills WHERE slug = ?)`,
			[slug]
		)
	)[0]?.revision ?? 0;
interface NamedOffer {
	id?: string;
	name: string;
	method: string;
	routes: Record<string, { first: { kind: string; name: string }; standby?: { kind: string; name: string } }>;
	conditions?: Record<string, unknown>;
	[more: string]: unknown;
}
interface File {
	kind: string;
	version: number;
	offers: NamedOffer[];
}
const exported = async (slug = 'web-shop', which = 'published') =>
	(await (await desk.get(`/accept/tills/${slug}/file/json?which=${which}`)).json()) as File;
const take = async (file: object, slug = 'web-shop') =>
	desk.act(`/accept/tills/${slug}/file?/take`, {
		text: JSON.stringify(file),
		revision: String(await draftRevision(slug))
	});
const discard = async (slug = 'web-shop') =>
	desk.act(`/accept/tills/${slug}?/discard`, { revision: String(await draftRevision(slug)) });
const publish = async (reason = '', slug = 'web-shop') =>
	desk.act(`/accept/tills/${slug}?/publish`, { revision: String(await draftRevision(slug)), reason });

describe('a till', () => {
	it('keeps its kind, what it asks and how its page looks, and its page shows it', async () => {
		const picture = `data:image/png;base64,${Buffer.from('a picture').toString('base64')}`;
		const form = {
			name: 'Bench',
			kind: 'invoice sheet',
			fulfil: 'when settled',
			mode: 'live',
			currencies: ['EUR', 'GBP'],
			colour: '#2d4a5e',
			heading: 'The bench',
			button: 'Pay for the repair',
			languages: ['nl', 'fr'],
			asksAddress: 'must',
			asksPhone: 'may',
			delivers: 'on',
			landing: 'https://shop.wrenalder.example/thanks',
			logo: picture
		};
		expect((await desk.act('/accept/tills/new', form)).location).toBe('/accept/tills/bench');
		for (const [change, pattern] of [
			[{ landing: 'javascript:alert(1)' }, /begins with https/],
			[{ logo: 'data:image/svg+xml;base64,AAAA' }, /PNG, JPEG or WebP/],
			[{ currencies: [] as string[] }, /at least one currency/],
			[{ kind: 'bazaar' }, /kind/]
		] as const)
			expect(says(await desk.act('/accept/tills/bench/settings', { ...form, ...change }))).toMatch(pattern);
		const file = await exported();
		const card = file.offers.find((one) => one.method === 'card')!;
		await take({ ...file, offers: [{ ...card, routes: { EUR: card.routes.EUR } }] }, 'bench');
		expect(says(await publish('', 'bench'))).toMatch(/Nothing would be offered in: GBP/);
		expect((await publish('No pounds at the bench yet', 'bench')).type).toBe('success');
		const made = await desk.act('/accept/tills/bench/address', {
			amount: '120.00',
			currency: 'EUR',
			reference: 'B-1',
			name: 'Ana',
			mail: 'ana@payer.example'
		});
		const address = String(made.data!.address);
		const page = await (await desk.get(address, { 'accept-language': 'fr-BE, en;q=0.5' })).text();
		for (const word of ['The bench', 'Pay for the repair', 'Adresse de livraison', 'Commande B-1', picture])
			expect(page).toContain(word);
		expect(await (await desk.get(address, { 'accept-language': 'ja' })).text()).toContain('Leveringsadres');
		// what must be told is asked for before any charge, and kept
		const way = /id:"([^"]+)",name:"Card"/.exec(page)![1]!;
		const token = await desk.token('9901200000000007');
		expect(page).toMatch(/country:"BE"/);
		const asked = await desk.act(address, { way, token, told_phone: '12' });
		expect(says(asked)).toMatch(/kijk naar wat is aangeduid/);
		expect(asked.data!.errors).toMatchObject({
			told_name: 'Vul dit in.',
			told_street: 'Vul dit in.',
			told_city: 'Vul dit in.'
		});
		// the page says which language it speaks, its title too, and is not to be found by others
		expect(page).toMatch(/<html lang="fr"/);
		expect(page).toMatch(/<title>Payer 120,00 EUR à The bench<\/title>/);
		const paid = await desk.act(address, {
			way,
			token,
			told_name: 'Noor Claes',
			told_street: 'Bowstraat 12',
			told_postcode: '9000',
			told_city: 'Gent',
			told_country: 'BE',
			told_note: 'My card is 9901200000000007'
		});
		expect(paid.location).toMatch(/^\/paid\//);
		const [payment] = await rows<{ details: string }>(
			world,
			`SELECT details FROM payment_requests WHERE payment_id = (SELECT id FROM payments WHERE reference = 'B-1')`
		);
		expect(payment!.details).toContain('Bowstraat 12');
		expect(payment!.details).not.toContain('9901200000000007');
		expect(await text(paid.location!)).toContain('https://shop.wrenalder.example/thanks');
		// receipt and refusals speak the payer’s language, too
		expect(await (await desk.get(paid.location!, { 'accept-language': 'fr' })).text()).toContain('Payé, merci');
	});
});

describe('payers and groups', () => {
	const load = (content: string) => desk.upload('/bill/payers?/import', {}, 'file', 'payers.csv', content);
	it('are taken in from a file whole or not at all, each fault by its line', async () => {
		const wrong = await load('name,mail,country\nA,not mail,BE\nB,b@x.example,XX\nC,b@x.example,\n');
		expect(says(wrong)).toMatch(/Line 2, mail.*Line 3, country/);
		expect(says(await load('who,what\n'))).toMatch(/must name the columns/);
		expect(says(await load(Buffer.from('name,mail\nZoë,z@x.example', 'latin1') as unknown as string))).toMatch(/UTF-8/);
		expect(await rows(world, 'SELECT id FROM payers')).toEqual([]);
		const sound =
			'name,mail,country,online,groups\nAstrid School,office@astrid.example,BE,no,Schools;Music\nAna,ana@payer.example,DE,yes,\n';
		expect(says(await load(sound))).toMatch(/2 new, 0 known payers; new groups Schools, Music/);
		expect(says(await load(sound))).toMatch(/0 new, 2 known/);
		expect(await text('/bill/payers?q=astrid')).toContain('Music, Schools');
	});
	it('are known by mail at the payer’s page, and kept while an offer asks for their group', async () => {
		const file = await exported();
		const transfer = file.offers.find((one) => one.method === 'credit-transfer')!;
		const schools = {
			...file,
			offers: file.offers.map((one) =>
				one === transfer ? { ...one, conditions: { groups: { rule: 'only', values: ['Schools'] } } } : one
			)
		};
		await take(schools);
		// above what the card’s account carries, payers who are in no school had the transfer alone
		expect(says(await publish())).toMatch(/Nothing would be offered in: EUR, from 25,000.01 up; group: /);
		expect((await publish('Large sums are for schools')).type).toBe('success');
		const offered = async (mail: string) =>
			(await (await desk.get(await desk.address('40.00', `G-${mail.split('@')[0]}`, 'EUR', { mail }))).text()).includes(
				'Credit transfer'
			);
		expect([
			await offered('office@astrid.example'),
			await offered('ana@payer.example'),
			await offered('no@body.example')
		]).toEqual([true, false, false]);
		const [group] = await rows<{ id: string }>(world, `SELECT id FROM payer_groups WHERE name = 'Schools'`);
		expect(says(await desk.act('/bill/payers?/ungroup', { id: group!.id }))).toMatch(
			/Offers of Web shop ask for it|ask for this group/
		);
		expect((await desk.act(`${shop}/history`, { number: '1' })).type).toBe('success');
	});
	it('can be added, changed and removed by hand', async () => {
		const save = (form: Record<string, string>) =>
			desk.act(`/bill/payers/${form.id ?? 'new'}?/save`, { country: '', online: '', ...form });
		expect(says(await save({ name: '', mail: 'x' }))).toMatch(/Give the payer/);
		expect(says(await save({ name: 'Twin', mail: 'ANA@payer.example' }))).toMatch(/Ana has this mail address/);
		expect((await save({ name: 'Lotte', mail: 'lotte@payer.example' })).type).toBe('redirect');
		const [row] = await rows<{ id: string }>(world, `SELECT id FROM payers WHERE name = 'Lotte'`);
		await save({ id: row!.id, name: 'Lotte de Wit', mail: 'lotte@payer.example', country: 'nl' });
		expect(await rows(world, `SELECT name, country FROM payers WHERE id = ?`, [row!.id])).toEqual([
			{ name: 'Lotte de Wit', country: 'NL' }
		]);
		await desk.act(`/bill/payers/${row!.id}?/remove`, {});
		expect(await rows(world, `SELECT id FROM payers WHERE id = ?`, [row!.id])).toEqual([]);
		expect(says(await desk.act('/bill/payers?/group', { group: 'schools' }))).toMatch(/already/);
	});
});

describe('a line-up as a file', () => {
	it('goes out and comes in; an import shows its difference first and names each fault by its path', async () => {
		const file = await exported();
		expect(JSON.stringify(file)).not.toContain(fernhall);
		const look = (given: unknown) =>
			desk.act(`${shop}/file?/look`, { text: typeof given === 'string' ? given : JSON.stringify(given) });
		expect(says(await look(file))).toContain('"says":[]');
		const from5 = {
			...file,
			offers: file.offers.map((one) =>
				one.method === 'card' ? { ...one, conditions: { amounts: [{ currency: 'GBP', minimum: 1_000 }] } } : one
			)
		};
		expect(says(await look(from5))).toMatch(/GBP is no longer taken from 0\.\d\d to 9\.99 at Web shop\./);
		expect(await draftRevision()).toBe(0);
		expect(says(await look('{'))).toMatch(/It is not JSON/);
		const broken = JSON.parse(JSON.stringify(file)) as File;
		broken.offers[0]!.routes.EUR!.first.name = 'Nobody';
		expect(says(await look(broken))).toMatch(/offers\.0\.routes\.EUR\.first\.name.*No connection is called “Nobody”/);
		expect(says(await take(broken))).toMatch(/Nobody/);
		expect(await draftRevision()).toBe(0);
		// a draft that somebody changed meanwhile is not overwritten
		await take(from5);
		expect(says(await desk.act(`${shop}/file?/take`, { text: JSON.stringify(file), revision: '0' }))).toMatch(
			/Somebody changed this draft/
		);
		// a situation that becomes empty needs a reason
		expect(says(await publish())).toMatch(/Nothing would be offered in: GBP, up to 9.99|GBP, 0\.\d\d to 9\.99/);
		expect((await publish('Small sums in pounds cost too much')).type).toBe('success');
		expect((await desk.act(`${shop}/history`, { number: '1' })).type).toBe('success');
	});
	it('is copied to other tills as drafts, kept as a template, and begun from one', async () => {
		await desk.act('/accept/tills/new', {
			name: 'Fair',
			kind: 'pay link',
			mode: 'live',
			currencies: ['EUR'],
			colour: '#2d4a5e'
		});
		await desk.act('/accept/tills/new', {
			name: 'Try',
			kind: 'web checkout',
			mode: 'test',
			currencies: ['EUR'],
			colour: '#2d4a5e'
		});
		expect(says(await desk.act(`${shop}/file?/copy`, { to: ['fair', 'try'] }))).toMatch(
			/A draft is made at Fair.*Left out: Try is a test till/
		);
		expect(says(await desk.act(`${shop}/file?/copy`, { to: 'fair' }))).toMatch(/Fair has a draft already/);
		expect((await exported('fair', 'draft')).offers.map((one) => one.name)).toEqual(['Card', 'Credit transfer']);
		expect(await text('/accept/tills/fair')).toContain('Card names GBP, JPY, which Fair does not take');
		expect(says(await desk.act(`${shop}/file?/keep`, { name: '' }))).toMatch(/Give the template a name/);
		expect((await desk.act(`${shop}/file?/keep`, { name: 'Cards and transfer' })).type).toBe('success');
		const [template] = await rows<{ id: string }>(world, 'SELECT id FROM lineup_templates');
		await discard('fair');
		await desk.act('/accept/tills/fair/file?/begin', { id: template!.id, revision: '0' });
		expect((await exported('fair', 'draft')).offers).toHaveLength(2);
		await publish('Only cards at the fair', 'fair');
	});
	it('has a published schema that its own export meets', async () => {
		const named = async (name: string) =>
			(await (await desk.get(`/api/v1/schemas/${name}.json`)).json()) as Record<string, unknown>;
		const [schema, offer] = await Promise.all([named('LineUp'), named('NamedOffer')]);
		const ajv = addFormats.default(new Ajv2020({ strict: false }));
		ajv.addSchema(offer);
		// what was published under the former name is still read
		expect((await exported()) as object).toMatchObject({ kind: 'line-up', format: 1 });
		expect(ajv.validate(schema, await exported())).toBe(true);
		expect(ajv.validate(schema, { ...(await exported()), offers: [{ name: 'x' }] })).toBe(false);
	});
});

describe('publishing', () => {
	it('refuses two names that could meet, with the situation, and lets those that never do', async () => {
		const file = await exported();
		const twin = (conditions: object) => ({
			...file,
			offers: [
				...file.offers.map((one) =>
					one.method === 'card' ? { ...one, conditions: { amounts: [{ currency: 'EUR', minimum: 5_000 }] } } : one
				),
				{
					method: 'card',
					name: 'Card',
					routes: { EUR: { first: { kind: 'connection', name: 'Brackwater Acquiring' } } },
					conditions
				}
			]
		});
		await take(twin({ amounts: [{ currency: 'EUR', maximum: 6_000 }] }));
		expect(says(await publish())).toMatch(/Two offers are called “Card” and could meet: EUR, 50.00 to 60.00/);
		await take(twin({ amounts: [{ currency: 'EUR', maximum: 4_999 }] }));
		expect((await publish('Small sums through Brackwater')).type).toBe('success');
		expect((await desk.act(`${shop}/history`, { number: '1' })).type).toBe('success');
	});
	it('keeps processors apart that may not share a till', async () => {
		idOf(await connectAt(desk, 'halfpenny'));
		const file = await exported();
		await take({
			...file,
			offers: [
				...file.offers,
				{ method: 'card', name: 'Another card', routes: { EUR: { first: { kind: 'connection', name: 'Halfpenny' } } } }
			]
		});
		expect(says(await publish())).toMatch(/Fernhall and Halfpenny may not stand at one till/);
		await discard();
	});
	it('tells when a draft is based on a version that was replaced, and compares any two versions', async () => {
		const file = await exported();
		await take({ ...file, offers: file.offers.slice(0, 1) });
		expect((await desk.act(`${shop}/history`, { number: '2' })).type).toBe('success');
		const [{ n: last } = { n: 0 }] = await rows<{ n: number }>(
			world,
			`SELECT MAX(number) AS n FROM lineup_versions WHERE till_id = (SELECT id FROM tills WHERE slug = 'web-shop')`
		);
		expect(await text(shop)).toMatch(new RegExp(`version ${last}\\s+is in force since`));
		expect(await text(`${shop}/history?from=1&to=2`)).toMatch(/From version 1 to version 2/);
		await discard();
		await desk.act(`${shop}/history`, { number: '1' });
	});
	it('finds what a till should ask for and does not', async () => {
		await desk.act(`${shop}/settings`, {
			name: 'Web shop',
			mode: 'live',
			currencies: ['EUR', 'GBP', 'JPY'],
			colour: '#2f4b3c',
			delivers: 'on'
		});
		expect(await text(`${shop}/situations`)).toContain('asks for no address');
	});
});

describe('pausing everywhere', () => {
	it('tells each till’s effect first, holds at once, and ends by itself', async () => {
		const file = await exported();
		await take({
			...file,
			offers: file.offers.map((one) =>
				one.method === 'card'
					? {
							...one,
							routes: {
								...one.routes,
								EUR: { ...one.routes.EUR!, standby: { kind: 'connection', name: 'Brackwater Acquiring' } }
							}
						}
					: one
			)
		});
		expect((await publish()).type).toBe('success');
		const told = await text(`/accept/pauses?what=connection:${fernhall}`);
		expect(told).toContain('Card in EUR goes through Brackwater Acquiring, which stands by.');
		expect(told).toContain('Card in GBP is withheld.');
		expect(told).toMatch(/Some payers would meet nothing in .*GBP/);
		const pause = (what: string, until = '') => desk.act('/accept/pauses?/pause', { what, until, reason: 'a test' });
		expect(says(await pause('connection:nobody'))).toMatch(/not in use/);
		expect(says(await pause(`connection:${fernhall}`, '2020-01-01T10:00'))).toMatch(/has passed already/);
		expect((await pause(`connection:${fernhall}`)).type).toBe('success');
		expect(says(await pause(`connection:${fernhall}`))).toMatch(/paused already/);
		const shown = async (currency: string) =>
			(await (await desk.get(await desk.address('84.50', `P-${currency}`, currency))).text()).replace(/\s+/g, ' ');
		expect(await shown('EUR')).toContain('Brackwater');
		expect(await shown('GBP')).toContain('There is no way to pay');
		expect(await text('/accept')).toMatch(/Brackwater Acquiring · standby/);
		expect(await text(shop)).toContain('paused: Brackwater Acquiring carries it now');
		const [row] = await rows<{ id: string }>(world, 'SELECT id FROM pauses WHERE ended_at IS NULL');
		await desk.act('/accept/pauses?/resume', { id: row!.id });
		expect(await shown('GBP')).not.toContain('There is no way to pay');
		// until a time: the worker ends it
		await pause('currency:GBP', '2099-01-01T00:00');
		expect(await shown('GBP')).toContain('There is no way to pay');
		const db = await openDatabase(world);
		await db.run('UPDATE pauses SET until = ? WHERE ended_at IS NULL', [Date.now() + 300]);
		await db.close();
		await until(
			'it ended',
			async () => (await rows(world, 'SELECT id FROM pauses WHERE ended_at IS NULL')).length === 0
		);
		expect(await shown('GBP')).not.toContain('There is no way to pay');
	});
	it('of a card scheme refuses its cards before any charge', async () => {
		await desk.act('/accept/pauses?/pause', { what: 'scheme:corvid', until: '', reason: '' });
		const address = await desk.address('30.00', 'P-corvid');
		expect(says(await desk.giveCard(address, '9901200000000007'))).toMatch(/does not take this brand of card/);
		expect((await desk.giveCard(address, '9931100000000003')).type).not.toBe('error');
		const [row] = await rows<{ id: string }>(world, 'SELECT id FROM pauses WHERE ended_at IS NULL');
		await desk.act('/accept/pauses?/resume', { id: row!.id });
	});
});

describe('the grid', () => {
	it('shows every till by method and scheme, pivots, filters, and exports the same', async () => {
		const shown = await text('/accept');
		for (const word of ['Web shop', 'Bench', 'Corvid', 'Tessel', 'Credit transfer', 'Fernhall'])
			expect(shown).toContain(word);
		expect(await text('/accept?across=connection')).toContain(`/connect/connections/${fernhall}`);
		expect(await text('/accept?across=currency&method=credit-transfer')).not.toContain('Corvid');
		const csv = await (await desk.get('/accept/csv?till=web-shop&currency=EUR')).text();
		expect(csv.split('\n')[0]).toContain('till,method,scheme,currency,offer,through,standby,conditions,now');
		expect(csv).toMatch(/Web shop,Card,Corvid,EUR,Card,Fernhall,Brackwater Acquiring,/);
		expect(csv).toMatch(/Web shop,Credit transfer,,EUR,Credit transfer,Credit transfer,,from 20.00 EUR,accepted/);
		expect(csv).not.toContain('Bench');
	});
});

describe('a trial payment', () => {
	it('goes through the draft in test mode, and is kept apart', async () => {
		const begin = (form: Record<string, string> = {}) =>
			desk.act(`${shop}/trial`, { amount: '25.00', currency: 'EUR', which: 'published', outcome: 'approved', ...form });
		expect(says(await begin({ amount: 'x' }))).toMatch(/trouble/);
		expect(says(await begin({ currency: 'CHF' }))).toMatch(/takes EUR, GBP, JPY/);
		expect(says(await begin({ which: 'draft' }))).toMatch(/no draft/);
		const first = await begin();
		const sheet = await text(first.location!);
		expect(sheet).toContain('not connected in test mode');
		await desk.connect(await world.keys('test'), 'test');
		const made = await begin();
		const trial = await text(made.location!);
		expect(trial).toContain('9901 2000 0000 0007');
		const address = /href="([^"]*\/pay\/web-shop\?[^"]*)"/.exec(trial)![1]!.replaceAll('&amp;', '&');
		const page = await (await desk.get(address)).text();
		expect(page).toContain('Test: nothing is really charged');
		const way = /id:"([^"]+)",name:"Card"/.exec(page)![1]!;
		const { publicKey } = await world.keys('test');
		const token = (
			(await (
				await fetch(`${world.fernhall.address}/fields/token`, {
					method: 'POST',
					headers: { 'content-type': 'application/json' },
					body: JSON.stringify({ key: publicKey, number: '9901200000000007', expiry: '09/29', code: '123' })
				})
			).json()) as { token: string }
		).token;
		expect((await desk.act(address, { way, token })).location).toMatch(/^\/paid\//);
		const [payment] = await rows<{ mode: string; trial_id: string }>(
			world,
			`SELECT mode, trial_id FROM payments WHERE reference LIKE 'TRIAL-%'`
		);
		expect(payment!.mode).toBe('test');
		await until('it was heard of', async () => (await text(made.location!)).includes('Heard of it'));
		expect(await text(shop)).toMatch(/version \d+, .*: Card captured/);
		// another order under a trial’s cover is refused
		const other = (await desk.address('9.00', 'T-2')).replace(/$/, `&trial=${payment!.trial_id}`);
		expect((await desk.get(other)).status).toBe(400);
	});
});

describe('what is shown at the desk and at the payer’s page', () => {
	it('is the same for any payer, currency and amount', async () => {
		const token = await newToken('compare');
		let state = 20_417;
		const draw = (n: number) => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) % n;
		for (let n = 0; n < 200; n++) {
			const currency = ['EUR', 'GBP', 'JPY'][draw(3)]!;
			const minor = 1 + draw(draw(2) ? 3_000 : 400_000);
			const country = ['', 'BE', 'NL', 'JP'][draw(4)]!;
			const mail = ['', 'ana@payer.example', 'office@astrid.example'][draw(3)]!;
			const order = { till: 'web-shop', currency, amountMinor: minor, reference: `SAME-${n}`, country, mail };
			const made = (await (await call('POST', '/checkouts', order, token)).json()) as {
				address: string;
				offered: number;
			};
			const page = await (await desk.get(made.address)).text();
			const onPage = [...page.matchAll(/\{id:"[^"]+",name:"([^"]+)",note:/g)].map((match) => match[1]);
			const answered = (await (
				await call(
					'POST',
					'/tills/web-shop/answer',
					{
						currency,
						amountMinor: minor,
						...(country ? { country } : {}),
						...(mail ? { payerMail: mail } : {}),
						orderedBy: 'interface'
					},
					token
				)
			).json()) as { offered: { name: string }[] };
			expect([n, onPage]).toEqual([n, answered.offered.map((one) => one.name)]);
			expect(made.offered).toBe(onPage.length);
		}
	});
});

async function newToken(name: string): Promise<string> {
	return desk.makeToken(name);
}
const call = (method: string, path: string, body: unknown, token: string, headers: Record<string, string> = {}) =>
	freshFetch(`${world.app.address}/api/v1${path}`, {
		method,
		headers: {
			authorization: `Bearer ${token}`,
			...(body === undefined ? {} : { 'content-type': 'application/json' }),
			...headers
		},
		...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) })
	});

describe('the interface', () => {
	let token: string;
	beforeAll(async () => {
		token = await newToken('shop');
	});
	it('shows a token once, keeps only its digest, and refuses it once it is revoked', async () => {
		expect(token).toMatch(/^jpt_[\w-]{43}$/);
		const files = ['purse.sqlite', 'purse.sqlite-wal']
			.map((name) => readFileSync(`${world.app.folder}/${name}`, 'latin1'))
			.join('');
		expect(files).not.toContain(token);
		expect(await text('/accept/tokens')).not.toContain(token);
		const mine = await newToken('short-lived');
		expect((await call('GET', '/tills', undefined, mine)).status).toBe(200);
		const [row] = await rows<{ id: string }>(world, `SELECT id FROM tokens WHERE name = 'short-lived'`);
		await desk.act('/accept/tokens?/revoke', { id: row!.id });
		const refused = await call('GET', '/tills', undefined, mine);
		expect([refused.status, refused.headers.get('www-authenticate')]).toEqual([401, 'Bearer realm="Just Purse"']);
		expect(says(await desk.act('/accept/tokens?/make', { name: '', scope: 'tills' }))).toMatch(/what the token is for/);
	});
	it('answers as its own document says, every answer and every problem', async () => {
		const document = (await (await fetch(`${world.app.address}/api/v1/openapi.json`)).json()) as {
			openapi: string;
			paths: Record<
				string,
				Record<string, { responses: Record<string, { content: Record<string, { schema: { $ref: string } }> }> }>
			>;
			components: { schemas: Record<string, object> };
		};
		expect(document.openapi).toBe('3.1.0');
		const ajv = addFormats.default(new Ajv2020({ strict: false, allErrors: true }));
		ajv.addSchema(document, 'document');
		const seen = new Set<string>();
		const check = async (path: string, method: string, answer: Response) => {
			const described = document.paths[path]![method]!.responses[String(answer.status)];
			expect([path, method, answer.status, !!described]).toEqual([path, method, answer.status, true]);
			const type = answer.headers.get('content-type')!;
			const { schema } = described!.content[type]!;
			const body: unknown = await answer.json();
			const valid = ajv.validate({ $ref: `document${schema.$ref}` }, body);
			expect([path, answer.status, ajv.errorsText(), valid]).toEqual([path, answer.status, 'No errors', true]);
			seen.add(`${method} ${path} ${answer.status}`);
			return body as Record<string, unknown>;
		};
		const nobody = 'jpt_'.padEnd(47, 'x');
		await check('/tills', 'get', await call('GET', '/tills', undefined, token));
		await check('/tills', 'get', await call('GET', '/tills', undefined, nobody));
		const till = await check('/tills/{till}', 'get', await call('GET', '/tills/web-shop', undefined, token));
		await check('/tills/{till}', 'get', await call('GET', '/tills/nowhere', undefined, token));
		const lineUp = till.lineUp as File;
		const put = (body: unknown) => call('PUT', '/tills/web-shop/draft', body, token);
		const changed = {
			...lineUp,
			offers: lineUp.offers.map((one) =>
				one.method === 'card' ? { ...one, note: 'Sure at once, says the interface.' } : one
			)
		};
		const written = await check('/tills/{till}/draft', 'put', await put({ revision: 0, lineUp: changed }));
		expect(written.changes).toEqual(['Card says something else to the payer.']);
		await check('/tills/{till}/draft', 'put', await put({ revision: 0, lineUp: changed }));
		await check('/tills/{till}/draft', 'put', await put({ revision: 1, lineUp: { ...changed, offers: [{}] } }));
		const unknown = JSON.parse(JSON.stringify(changed)) as File;
		unknown.offers[0]!.routes.EUR!.first.name = 'Nobody';
		const told = await check('/tills/{till}/draft', 'put', await put({ revision: 1, lineUp: unknown }));
		expect(told.faults).toEqual([
			{ pointer: '/lineUp/offers/0/routes/EUR/first/name', detail: 'No connection is called “Nobody”.' }
		]);
		await check('/tills/{till}/draft', 'put', await put('{'));
		await check(
			'/tills/{till}/draft',
			'put',
			await call('PUT', '/tills/web-shop/draft', '{}', token, { 'content-type': 'text/plain' })
		);
		await check('/tills/{till}/draft', 'put', await put('x'.repeat(1_000_001)));
		const go = (body: unknown) => call('POST', '/tills/web-shop/publish', body, token);
		await check('/tills/{till}/publish', 'post', await go({ revision: 7 }));
		await check('/tills/{till}/publish', 'post', await go({ revision: 'one' }));
		const version = await check(
			'/tills/{till}/publish',
			'post',
			await go({ revision: 1, reason: 'through the interface' })
		);
		expect(await text(`${shop}/history`)).toMatch(new RegExp(`>${String(version.version)}<[\\s\\S]*token shop`));
		const ask = (body: unknown, slug = 'web-shop') => call('POST', `/tills/${slug}/answer`, body, token);
		const answered = await check(
			'/tills/{till}/answer',
			'post',
			await ask({ currency: 'EUR', amountMinor: 1_000, country: 'BE' })
		);
		expect(answered).toMatchObject({
			till: 'web-shop',
			offered: [{ name: 'Card', note: 'Sure at once, says the interface.', through: 'Fernhall', place: 'in the page' }],
			withheld: [{ name: 'Credit transfer', reasons: [{ check: 'amount' }] }]
		});
		await check('/tills/{till}/answer', 'post', await ask({ currency: 'EUR', amountMinor: 10.5 }));
		await check('/tills/{till}/answer', 'post', await ask({ currency: 'EUR', amountMinor: 1, groups: ['Nobody'] }));
		await check('/tills/{till}/answer', 'post', await ask({ currency: 'EUR', amountMinor: 1 }, 'nowhere'));
		const order = { till: 'web-shop', currency: 'EUR', amountMinor: 8_450, reference: 'API-1', goods: 'strings' };
		const checkout = (body: unknown) => call('POST', '/checkouts', body, token);
		const made = await check('/checkouts', 'post', await checkout(order));
		const again = await check('/checkouts', 'post', await checkout(order));
		expect(again).toEqual(made);
		expect((await desk.get(String(made.address))).status).toBe(200);
		await check('/checkouts', 'post', await checkout({ ...order, currency: 'CHF' }));
		await check('/checkouts', 'post', await checkout({ ...order, till: 'nowhere' }));
		await check('/checkouts', 'post', await checkout({ ...order, surprise: 1 }));
		expect(seen.size).toBeGreaterThanOrEqual(20);
		expect((await call('GET', '/nothing', undefined, token)).headers.get('content-type')).toBe(
			'application/problem+json'
		);
	});
});

describe('a single payment under tiers', () => {
	it('is expected by the volume of its month before it', async () => {
		const file = await exported();
		await take({
			...file,
			offers: file.offers.map((one) =>
				one.method === 'card'
					? { ...one, routes: { EUR: { first: { kind: 'connection', name: 'Brackwater Acquiring' } } } }
					: one
			)
		});
		expect((await publish('Cards in EUR alone')).type).toBe('success');
		const number = await world.keyOf('brackwater', 'number');
		const pay = async (reference: string) => {
			const address = await desk.address('100.00', reference);
			const { token } = (await (
				await freshFetch(`${world.addressOf('brackwater')}/fields/token`, {
					method: 'POST',
					headers: { 'content-type': 'application/json' },
					body: JSON.stringify({ key: number, number: '9901100000000009', expiry: '09/29', code: '123' })
				})
			).json()) as { token: string };
			const paid = await desk.act(address, { way: await desk.way(address, 'Card'), token });
			expect([reference, paid.location, says(paid)]).toEqual([
				reference,
				expect.stringMatching(/^\/paid\//),
				expect.anything()
			]);
			return until('it is priced', async () => {
				const [row] = await rows<{ fee: number | null }>(
					world,
					'SELECT expected_fee AS fee FROM payments WHERE reference = ?',
					[reference]
				);
				return row?.fee ?? undefined;
			});
		};
		// interchange 0.20 and scheme fee 0.03, the markup 0.35 % and 0.04: each part by itself
		expect(await pay('TIER-1')).toBe(20 + 3 + 35 + 4);
		const db = await openDatabase(world);
		await db.run(
			`INSERT INTO payments (origin, mode, processor, connection_id, account_id, processor_id, till_id, kind_id, method, currency, minor,
			 stage, reached_step, taken, base_minor, captured_at, day, account_day, created_at)
			 SELECT 'console', mode, processor, ?, account_id, 'VOLUME', till_id, kind_id, method, currency, 4000000, 'captured', 2,
			 4000000, 4000000, captured_at - 1, day, account_day, created_at FROM payments WHERE reference = 'TIER-1'`,
			[brackwater]
		);
		await db.close();
		// 40,000.00 before it: the markup is 0.28 % and 0.04
		expect(await pay('TIER-2')).toBe(20 + 3 + 28 + 4);
		await desk.act(`${shop}/history`, { number: '1' });
	});
});

describe('replay', () => {
	it('answers past payments under the draft, and counts recorded empty answers', async () => {
		const header =
			'payment,captured_at,source,method,currency,amount_minor,entry,scheme,funding,issuer,fee_currency,fee_minor,base_minor,rate,refunded_minor,disputed_minor';
		const day = 86_400_000;
		const at = Date.now() - 3 * day;
		const line = (n: number, minor: number) =>
			`FH-R-${n},${new Date(at - n * 60_000).toISOString()},Web shop,card,EUR,${minor},online,corvid,debit,BE,EUR,20,${minor},,0,0`;
		const minors = [500, 1_500, 2_500, 9_000];
		const total = minors.reduce((a, b) => a + b, 0);
		const csv = `${[header, ...minors.map((minor, n) => line(n, minor)), `total,,${minors.length},,EUR,${total},,,,,EUR,${20 * minors.length},,,,`].join('\n')}\n`;
		const uploaded = await desk.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', 'fernhall.csv', csv);
		expect(says(uploaded)).toMatch(/4 of its|4 payments/);
		const file = await exported();
		await take({
			...file,
			offers: file.offers.map((one) =>
				one.method === 'card'
					? {
							...one,
							routes: { ...one.routes, EUR: { first: { kind: 'connection', name: 'Brackwater Acquiring' } } },
							conditions: { amounts: [{ currency: 'EUR', minimum: 1_000 }] }
						}
					: one
			)
		});
		let shown = '';
		await until('the replay is done', async () => {
			shown = await text(`${shop}/replay?days=30`);
			return !shown.includes('Stop the replay');
		});
		// of the file: one too small for the draft; what was paid here before is there, too
		expect(shown).toMatch(/Other route/);
		expect(shown).toMatch(/Nothing offered/);
		expect(shown).toContain('move from Fernhall to Brackwater Acquiring');
		expect(shown).toMatch(/by the draft:/);
		expect(shown).toMatch(/empty answers? (is|are) recorded/);
		await discard();
		expect(await text(`${shop}/replay?days=365`)).toMatch(/There is no draft|Stop the replay/);
		expect(brackwater && offline).toBeTruthy();
	});
});
