import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectAt, consentAt, idOf, NAMES } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk, type ActionAnswer } from '../world/desk.ts';
import { makeWorld, type World } from '../world/index.ts';

let world: World;
let desk: Desk;
beforeAll(async () => {
	world = await makeWorld({}, { with: NAMES });
	desk = new Desk(world);
	await desk.setUp();
});
afterAll(() => world.end());

const page = async (path: string) => (await desk.get(path)).text();
const says = (answer: ActionAnswer) =>
	JSON.stringify([answer.data?.says, answer.data?.trouble, answer.data?.errors, answer.data?.form]);
const DETAILS = {
	name: 'Wren & Alder Strings',
	country: 'BE',
	homeCurrency: 'EUR',
	timeZone: 'Europe/Brussels'
};

describe('business details', () => {
	it('are asked for by processors; what is missing is counted, and led to', async () => {
		expect(await page('/connect/processors')).toContain('7 details missing');
		const shown = await page('/connect/processors/fernhall');
		expect(shown).toContain('7 of 7 missing');
		for (const href of [
			'/connect/business#legalName',
			'/connect/business#street',
			'/connect/domains#domain',
			'/connect/bank-accounts#iban'
		])
			expect(shown).toContain(`href="${href}"`);
	});
	it('refuse what is no telephone number, mail or address, and keep what was typed', async () => {
		const answer = await desk.act('/connect/business', {
			...DETAILS,
			phone: 'call me',
			mail: 'not a mail',
			social: 'wren',
			legalName: 'x'.repeat(200)
		});
		expect(answer.type).toBe('failure');
		for (const text of ['+32 9 555 01 70', 'Give a mail address', 'with https', 'At most 120 characters', 'call me'])
			expect(says(answer)).toContain(text);
	});
	it('fill the readiness as they are given', async () => {
		await desk.act('/connect/business', {
			...DETAILS,
			legalName: 'Wren & Alder Strings BV',
			legalForm: 'BV',
			taxNumber: 'BE 0123.456.749',
			street: 'Bowstraat 12',
			postcode: '9000',
			city: 'Gent',
			representative: 'Ilse Verhaeren'
		});
		expect(await page('/connect/processors/fernhall')).toContain('2 of 7 missing');
		await desk.act('/connect/domains?/add', { domain: 'https://Shop.WrenAlder.example/cart', page: '/cart' });
		await desk.act('/connect/bank-accounts?/add', {
			name: 'Current',
			holder: 'Wren & Alder Strings BV',
			iban: 'BE68 5390 0754 7034',
			currency: 'EUR'
		});
		expect(await page('/connect/processors/fernhall')).toContain('all there');
	});
	it('leave a trail of what changed, and of nothing else', async () => {
		const [last] = await rows<{ before: string; after: string }>(
			world,
			`SELECT before, after FROM audit WHERE object_kind = 'business' ORDER BY id DESC LIMIT 1`
		);
		expect(JSON.parse(last!.after)).toMatchObject({ legalName: 'Wren & Alder Strings BV', city: 'Gent' });
		expect(JSON.parse(last!.after)).not.toHaveProperty('industry');
	});
});

describe('the catalogue', () => {
	it.each([
		['country=CH', ['Tallybridge'], ['Ostrel', 'Halfpenny']],
		['method=pay-later', ['Sundial Split'], ['Fernhall']],
		['currency=JPY', ['Fernhall', 'Tallybridge'], ['Ostrel']],
		['way=consent', ['Tallybridge'], ['Quillon Direct']],
		['method=card&currency=GBP&country=BE', ['Halfpenny', 'Brackwater'], ['Sundial']]
	])('filters by %s', async (query, shown, hidden) => {
		const list = /<ul[\s\S]*<\/ul>/.exec(await page(`/connect/processors?${query}`))![0];
		for (const name of shown) expect(list).toContain(`Connect ${name}`);
		for (const name of hidden) expect(list).not.toContain(`Connect ${name}`);
	});
	it('says so when nothing is like that, and ignores what is no filter', async () => {
		expect(await page('/connect/processors?method=pay-later&currency=JPY')).toContain('No processor is like that.');
		expect((await desk.get('/connect/processors?country=%3Cscript%3E')).status).toBe(200);
		expect((await desk.get('/connect/processors/nobody')).status).toBe(404);
	});
});

describe('brands', () => {
	const save = (change: object) =>
		desk.act('/connect/brands?/save', {
			name: 'Wren Bows',
			country: 'GB',
			homeCurrency: 'GBP',
			colour: '#5b2b4a',
			statementName: 'WREN BOWS',
			...change
		});
	it('are refused without name, country or currency', async () => {
		const answer = await save({ name: '', country: '', homeCurrency: 'XXQ' });
		expect(Object.keys(answer.data!.errors as object)).toEqual(['name', 'country', 'homeCurrency']);
		expect((answer.data!.values as { statementName: string }).statementName).toBe('WREN BOWS');
	});
	it('let an account of their country be connected, and stay while one hangs on them', async () => {
		await consentAt(desk, 'tallybridge');
		const british = () => desk.act('/connect/processors/tallybridge?/connect', { mode: 'live', account: 'TB-UK-7' });
		expect(says(await british())).toMatch(/yours is in BE/);
		expect((await save({})).type).toBe('success');
		idOf(await british());
		const [brand] = await rows<{ id: string }>(world, 'SELECT id FROM brands');
		expect(says(await desk.act('/connect/brands?/remove', { id: brand!.id }))).toMatch(
			/is connected for this brand’s country/
		);
	});
	it('change without becoming another', async () => {
		const [brand] = await rows<{ id: string }>(world, 'SELECT id FROM brands');
		await save({ id: brand!.id, name: 'Wren Bows & Cases' });
		expect(await rows(world, 'SELECT id, name FROM brands')).toEqual([{ id: brand!.id, name: 'Wren Bows & Cases' }]);
		expect(await page(`/connect/brands?brand=${brand!.id}`)).toContain('Change Wren Bows &amp; Cases');
	});
});

describe('bank accounts', () => {
	const add = (change: object) =>
		desk.act('/connect/bank-accounts?/add', {
			name: 'Second',
			holder: 'Wren & Alder',
			iban: 'BE68 5390 0754 7034',
			currency: 'GBP',
			...change
		});
	it('refuse a wrong IBAN, a wrong BIC, and the same account in the same currency', async () => {
		expect(says(await add({ iban: 'BE69 5390 0754 7034' }))).toMatch(/check digits/);
		expect(says(await add({ iban: 'BE68' }))).toMatch(/IBAN|characters/);
		expect(says(await add({ bic: 'NOPE' }))).toMatch(/8 or 11 letters/);
		expect(says(await add({ currency: 'EUR' }))).toMatch(/there already/);
		expect((await add({})).type).toBe('success');
	});
	it('are removed when nothing pays out to them', async () => {
		const [account] = await rows<{ id: string }>(world, `SELECT id FROM bank_accounts WHERE currency = 'GBP'`);
		expect(says(await desk.act('/connect/bank-accounts?/remove', { id: account!.id }))).toContain('removed');
		expect(await page('/connect/bank-accounts')).not.toContain('Second');
	});
});

describe('the chart of accounts', () => {
	it('has a start, takes new accounts, renames by number, and refuses what is none', async () => {
		expect(await page('/connect/ledger')).toContain('Clearing, card processors');
		const save = (number: string, name: string, kind = 'expense') =>
			desk.act('/connect/ledger?/save', { number, name, kind });
		expect(says(await save('no number', 'x'))).toMatch(/12 letters and digits/);
		expect(says(await save('6561', '', 'expense'))).toMatch(/Give it a name/);
		expect((await save('6561', 'Fees, web')).type).toBe('success');
		expect((await save('6561', 'Fees, web shop')).type).toBe('success');
		expect(await rows(world, `SELECT name FROM ledger_accounts WHERE number = '6561'`)).toEqual([
			{ name: 'Fees, web shop' }
		]);
		expect(says(await desk.act('/connect/ledger?/remove', { number: '6561' }))).toContain('removed');
	});
});

describe('domains', () => {
	it('are kept as hosts, once, and refused when they are none', async () => {
		expect(await rows(world, 'SELECT domain, page FROM domains')).toEqual([
			{ domain: 'shop.wrenalder.example', page: '/cart' }
		]);
		const add = (domain: string, path = '/') => desk.act('/connect/domains?/add', { domain, page: path });
		expect(says(await add('shop.wrenalder.example'))).toMatch(/there already/);
		for (const wrong of ['', 'two words', '-x.example', 'a'.repeat(130)])
			expect(says(await add(wrong))).toMatch(/domain alone/);
		expect(says(await add('other.example', 'cart'))).toMatch(/begins with/);
	});
	it('that lead into a private network are not looked at', async () => {
		await connectAt(desk, 'sundial');
		const [row] = await rows<{ id: string }>(world, `SELECT id FROM connections WHERE processor = 'sundial'`);
		await world.at('sundial', 'account/SUN-104233', { waiting: [] });
		await desk.act(`/connect/connections/${row!.id}?/reread`, {});
		await desk.act('/connect/domains?/add', { domain: '127.0.0.1:81', page: '/' });
		await desk.act('/connect/domains?/look', { domain: '127.0.0.1:81', connection: row!.id });
		expect(await page('/connect/domains')).toContain('private network');
	});
	it('serve nothing under a name that has no proof', async () => {
		const answer = await fetch(`${world.app.address}/.well-known/fernhall-tapfold`);
		expect(answer.status).toBe(404);
	});
	it('go, with what was proven of them', async () => {
		await desk.act('/connect/domains?/remove', { domain: '127.0.0.1:81' });
		expect(await rows(world, `SELECT * FROM page_codes WHERE domain = '127.0.0.1:81'`)).toEqual([]);
	});
});

describe('every page of Connect', () => {
	it('stands behind the sign-in, and does not break on what is not there', async () => {
		const stranger = new Desk(world);
		const paths = [
			'business',
			'brands',
			'bank-accounts',
			'ledger',
			'domains',
			'processors',
			'abilities',
			'compare',
			'files',
			'candidates/new',
			'offline/new',
			'abilities/csv',
			'compare/csv',
			'rate-card-schema',
			'consent/tallybridge'
		];
		for (const path of paths) {
			const answer = await stranger.get(`/connect/${path}`);
			expect([path, answer.status, answer.headers.get('location')]).toEqual([
				path,
				303,
				expect.stringMatching(/^\/sign-in/)
			]);
			expect([path, (await desk.get(`/connect/${path}`)).status]).toEqual([path, 200]);
		}
		for (const part of ['', '/settings', '/notifications', '/keys', '/account', '/rates'])
			expect((await desk.get(`/connect/connections/nothing${part}`)).status).toBe(404);
		for (const path of ['candidates/nothing', 'offline/nothing'])
			expect((await desk.get(`/connect/${path}`)).status).toBe(404);
	});
	it('refuses forms from another site', async () => {
		const answer = await fetch(`${world.app.address}/connect/brands?/save`, {
			method: 'POST',
			headers: { origin: 'http://elsewhere.example', 'content-type': 'application/x-www-form-urlencoded' },
			body: 'name=x'
		});
		expect(answer.status).toBe(403);
	});
});
