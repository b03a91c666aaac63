import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk, type ActionAnswer } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

let world: World;
let desk: Desk;
let ids: { connection: string; offline: string };
beforeAll(async () => {
	world = await makeWorld();
	desk = new Desk(world);
	ids = await desk.openWebShop();
});
afterAll(() => world.end());

const errors = (answer: ActionAnswer) =>
	(answer.data?.form as { errors: Record<string, unknown> } | undefined)?.errors ?? {};
const page = async (path: string) => {
	const answer = await desk.get(path);
	return { status: answer.status, text: await answer.text() };
};

describe('the business', () => {
	const save = (change: object) =>
		desk.act('/connect/business', {
			name: 'Wren & Alder Strings',
			country: 'BE',
			homeCurrency: 'EUR',
			timeZone: 'Europe/Brussels',
			...change
		});
	it('lists what depends on country and home currency first, and changes nothing before it is meant', async () => {
		for (const change of [{ country: 'NL' }, { homeCurrency: 'GBP' }]) {
			const answer = await save(change);
			expect(answer.status).toBe(409);
			expect(JSON.stringify(answer.data?.hangs)).toMatch(/1 connection,.*1 offline method,.*1 till,/);
		}
		expect(await rows(world, 'SELECT country, home_currency FROM business')).toEqual([
			{ country: 'BE', home_currency: 'EUR' }
		]);
	});
	it('changes them once it is meant, and back', async () => {
		expect((await save({ homeCurrency: 'GBP', meant: 'on' })).type).toBe('success');
		expect((await save({ homeCurrency: 'EUR', meant: 'on' })).type).toBe('success');
	});
	it('changes its name and time zone, and payers read the new name at once', async () => {
		expect((await save({ name: 'Wren & Alder', timeZone: 'Europe/London' })).type).toBe('success');
		expect(await (await fetch(await desk.address('84.50', 'D-1'))).text()).toContain('Wren &amp; Alder</b>');
		await save({});
	});
});

describe('an offer', () => {
	const offer = (change: object) =>
		desk.act('/accept/tills/web-shop/offers/new?/save', {
			revision: '0',
			on: 'on',
			carrier: `connection:${ids.connection}:card`,
			name: 'Second card',
			currencies: ['EUR'],
			schemes: ['corvid'],
			fundings: ['debit'],
			regions: ['domestic'],
			boundCurrency: 'EUR',
			countryRule: 'any',
			...change
		});
	it.each([
		['limits turned round', { minimum: '50.00', maximum: '20.00' }, 'maximum', /nobody would ever see/],
		['a limit in words', { minimum: 'twenty' }, 'minimum', /not an amount/],
		['a limit that can be read two ways', { minimum: '1.250' }, 'minimum', /two ways/],
		['no currency', { currencies: [] }, 'currencies', /at least one currency/],
		['no scheme', { schemes: [] }, 'schemes', /at least one scheme/],
		['an unknown country', { countryRule: 'only', countries: 'BE XX' }, 'countries', /XX: no such country/],
		['no country', { countryRule: 'except', countries: '' }, 'countries', /Name at least one/],
		['a route that is gone', { carrier: 'connection:gone' }, 'carrier', /cannot be used/],
		['itself as standby', { standby: `same` }, 'standby', /cannot be used/],
		['no name', { name: ' ' }, 'name', /name payers will read/]
	])('with %s is told where it stands, and keeps what was typed', async (_, change, field, says) => {
		const answer = await offer(change);
		expect([answer.type, JSON.stringify(errors(answer)[field])]).toEqual(['failure', expect.stringMatching(says)]);
		expect(await rows(world, `SELECT id FROM lineup_versions WHERE state = 'draft'`)).toEqual([]);
	});
	it('of a name that is there already can be drafted, but not published', async () => {
		expect((await offer({ name: 'CARD' })).type).toBe('redirect');
		const refused = await desk.act('/accept/tills/web-shop?/publish', { revision: '1', reason: '' });
		expect(JSON.stringify(refused.data)).toContain('Two offers are called “CARD” and could meet: EUR, 0.50 to 19.99.');
		const asked = await page('/accept/tills/web-shop/ask?amount=84.50&currency=EUR&country=BE');
		expect(asked.text).toContain('“CARD” is already shown above');
		await desk.act('/accept/tills/web-shop?/discard', { revision: '1' });
	});
	it('only for some countries shows to them alone, and the margin says why', async () => {
		await offer({ name: 'Dutch card', countryRule: 'only', countries: 'nl, NL' });
		const at = async (country: string) =>
			(await page(`/accept/tills/web-shop/ask?amount=84.50&currency=EUR&country=${country}&which=draft`)).text;
		expect(await at('NL')).toContain('Offered at 84.50 EUR: 3 of 3');
		expect(await at('BE')).toContain('It is only for payers in Netherlands; this payer’s is Belgium.');
		expect(await at('')).toContain('It is only for payers in Netherlands; this payer’s is not known.');
		await desk.act('/accept/tills/web-shop?/discard', { revision: '1' });
	});
});

describe('asking what a payer would see', () => {
	it.each([
		['twelve', 'EUR', 'is not an amount'],
		['12.345', 'EUR', 'can be read two ways'],
		['0', 'EUR', 'is zero'],
		['-3', 'EUR', 'is negative'],
		['5.00', 'XXQ', 'is not a currency code']
	])('of %s %s says what is wrong', async (amount, currency, says) => {
		expect((await page(`/accept/tills/web-shop/ask?amount=${amount}&currency=${currency}`)).text).toContain(says);
	});
	it('of a currency that the till does not take gives every reason', async () => {
		const { text } = await page('/accept/tills/web-shop/ask?amount=50.00&currency=CHF&country=CH');
		for (const reason of [
			'Why nothing at 50.00 CHF',
			'The till takes EUR, GBP, JPY, not CHF.',
			'No route is set for CHF.',
			'an empty checkout'
		])
			expect(text).toContain(reason);
	});
	it('says how it read an amount that could be meant otherwise', async () => {
		expect((await page('/accept/tills/web-shop/ask?amount=1.284,50&currency=EUR')).text).toContain(
			'Read as 1,284.50 EUR.'
		);
	});
});

describe('a till', () => {
	it('that is not there is a plain page, and so is a payment, an arrival, a connection', async () => {
		for (const path of [
			'/accept/tills/nowhere',
			'/takings/payments/999',
			'/takings/payments/x',
			'/takings/by/nothing/1',
			'/watch/arrivals/999',
			'/connect/connections/x',
			'/connect/offline/x',
			'/connect/processors/x',
			'/nowhere'
		]) {
			const { status, text } = await page(path);
			expect([path, status, /There is no|There is nothing/.test(text)]).toEqual([path, 404, true]);
		}
	});
	it('takes another currency, and refuses to take none', async () => {
		const save = (currencies: string[]) =>
			desk.act('/accept/tills/web-shop/settings', { name: 'Web shop', mode: 'live', currencies, colour: '#2f4b3c' });
		expect((await save([])).type).toBe('failure');
		expect((await save(['EUR', 'GBP', 'JPY', 'CHF'])).type).toBe('success');
		expect((await page('/accept/tills/web-shop')).text).toContain('CHF');
		await save(['EUR', 'GBP', 'JPY']);
	});
	it('of the same name gets an address of its own', async () => {
		const answer = await desk.act('/accept/tills/new', {
			name: 'Web  Shop!',
			mode: 'test',
			currencies: ['EUR'],
			colour: '#2f4b3c'
		});
		expect(answer.location).toBe('/accept/tills/web-shop-2');
	});
});

describe('finding', () => {
	it('finds tills, connections, methods and payments by the beginning of their reference', async () => {
		await new Desk(world).giveCard(await desk.address('84.50', 'D-FIND-1'), CARDS.approved);
		const found = async (text: string) =>
			(
				(await (await desk.get(`/find?q=${encodeURIComponent(text)}`, { accept: 'application/json' })).json()) as {
					kind: string;
					name: string;
					href: string;
				}[]
			).map((one) => [one.kind, one.name]);
		expect(await found('web shop')).toEqual([['Till', 'Web shop']]);
		expect(await found('fern')).toEqual([
			['Connection', 'Fernhall'],
			['Do', 'Connect Fernhall']
		]);
		expect(await found('credit')).toEqual([['Offline method', 'Credit transfer']]);
		expect(await found('D-FIND')).toEqual([['Payment', 'D-FIND-1']]);
		expect(await found('%')).toEqual([]);
	});
	it('searches payments by name and mail, and pages by key', async () => {
		expect((await page('/takings?q=ana%40payer')).text).toContain('D-FIND-1');
		expect((await page('/takings?q=nobody')).text).toContain('No payment is like this');
		expect((await page('/takings?before=2020-01-01_1-1')).text).not.toContain('D-FIND-1');
		expect((await page('/takings?before=x')).text).toContain('D-FIND-1');
		expect((await page('/takings?stage=captured')).text).toContain('D-FIND-1');
		expect((await page('/takings?till=web-shop')).text).toContain('D-FIND-1');
	});
});

describe('what a reader’s browser asks for', () => {
	it('decides how figures are written', async () => {
		const text = await (await desk.get('/takings', { 'accept-language': 'nl-BE' })).text();
		expect(text).toContain('84,50');
		for (const language of ['*', 'xx-nonsense-yyyyyyyyyyyyyy', ''])
			expect((await desk.get('/takings', { 'accept-language': language })).status).toBe(200);
	});
});

describe('prices that change at Fernhall, and keys that end there', () => {
	it('are noticed when the account is read again: revoked keys stop the connection', async () => {
		const signIn = await fetch(`${world.fernhall.address}/console/sign-in`, {
			method: 'POST',
			body: new URLSearchParams({ mail: 'ilse@wrenalder.example', password: 'ferns-and-hall' }),
			redirect: 'manual'
		});
		const { secretKey } = await world.keys();
		await fetch(`${world.fernhall.address}/console/keys/end`, {
			method: 'POST',
			headers: { cookie: signIn.headers.getSetCookie()[0]!.split(';')[0]! },
			body: new URLSearchParams({ key: secretKey }),
			redirect: 'manual'
		});
		const answer = await desk.act(`/connect/connections/${ids.connection}?/reread`, {});
		expect(answer).toMatchObject({
			type: 'failure',
			data: { trouble: expect.stringContaining('has revoked this secret key') }
		});
		expect((await page('/needs-you')).text).toContain('Fernhall does not accept its credentials any more.');
		const asked = (await page('/accept/tills/web-shop/ask?amount=84.50&currency=EUR&country=BE')).text;
		expect(asked).toContain('Fernhall is not verified; there is no standby.');
		// the other way still stands, so the checkout is not empty
		expect(await new Desk(world).way(await desk.address('84.50', 'D-9'), 'Credit transfer')).toBeTruthy();
		await until(
			'the trail tells it',
			async () =>
				(await rows<{ act: string }>(world, `SELECT act FROM audit WHERE act = 'found not valid any more'`)).length ===
				1
		);
	});
});
