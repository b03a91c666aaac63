import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { billing, type Billing } from '../world/billing.ts';
import { CARDS } from '../world/steps.ts';

// Pay links: what a payer meets, what they may not do, and what the link has brought.

let world: World;
let desk: Desk;
let bill: Billing;
let tillId: string;
let offers: { id: string; name: string }[];
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall', 'mailbox', 'texts'] });
	desk = new Desk(world);
	await desk.openWebShop();
	bill = await billing(desk);
	tillId = (await rows<{ id: string }>(world, `SELECT id FROM tills WHERE slug = 'web-shop'`))[0]!.id;
	offers = JSON.parse(
		(await rows<{ offers: string }>(world, `SELECT offers FROM lineup_versions WHERE state = 'published'`))[0]!.offers
	);
});
afterAll(() => world.end());

const settings = (more: object) => ({
	title: 'A gift',
	currency: 'EUR',
	asksFor: 'fixed sum',
	fixed: 2500,
	asksName: 'may',
	asksMail: 'may',
	...more
});
async function make(more: object): Promise<{ id: string; slug: string; address: string }> {
	const made = await desk.act('/bill/links/new?/save', {
		tillId,
		revision: '0',
		settings: JSON.stringify(settings(more))
	});
	if (made.type !== 'redirect') throw new Error(JSON.stringify(made));
	const id = /links\/([^?]+)/.exec(made.location!)![1]!;
	const { slug } = (await rows<{ slug: string }>(world, 'SELECT slug FROM pay_links WHERE id = ?', [id]))[0]!;
	return { id, slug, address: `${world.app.address}/link/${slug}` };
}
const payer = () => new Desk(world);
const says = (answer: { data?: Record<string, unknown> }) => JSON.stringify(answer.data ?? {});
const wayOf = (name: string) => offers.find((one) => one.name === name)!.id;

describe('a pay link', () => {
	it('with a single method offers that one alone, and is paid', async () => {
		const link = await make({ title: 'Transfer only', ways: [wayOf('Card')] });
		const page = await (await payer().get(link.address)).text();
		expect(page).toContain('25.00');
		const begun = await payer().act(link.address, { name: 'Ana', mail: 'ana@payer.example' });
		const pay = await (await payer().get(begun.location!)).text();
		expect(pay).toContain('Card');
		expect(pay).not.toContain('Credit transfer');
		await desk.giveCard(begun.location!, CARDS.approved);
		const stand = await until('it is paid', async () => {
			const { stand: now } = await desk.data<{
				stand: { visits: number; starts: number; paid: number; sums: string[] };
			}>(`/bill/links/${link.id}`);
			return now.paid === 1 && now;
		});
		expect(stand).toMatchObject({ visits: 1, starts: 1, paid: 1, sums: ['25.00 EUR'] });
		expect((await bill.mail('ana@payer.example', /Received/)).text).toContain('25.00 EUR');
	});
	it('changes what the same address shows, and keeps how it was', async () => {
		const link = await make({ title: 'Changing' });
		const saved = await desk.act(`/bill/links/${link.id}?/save`, {
			tillId,
			revision: '1',
			settings: JSON.stringify(settings({ title: 'Changed', fixed: 3000 }))
		});
		expect(saved.type).toBe('success');
		expect(await (await payer().get(link.address)).text()).toContain('30.00');
		const stale = await desk.act(`/bill/links/${link.id}?/save`, {
			tillId,
			revision: '1',
			settings: JSON.stringify(settings({ title: 'Stale' }))
		});
		expect(says(stale)).toMatch(/Somebody else changed/);
		expect(await rows(world, 'SELECT revision FROM pay_link_versions WHERE link_id = ? ORDER BY 1', [link.id])).toEqual(
			[{ revision: 1 }, { revision: 2 }]
		);
	});
	it('gives the last place to one of two who take it at once', async () => {
		const link = await make({ title: 'Workshop', cap: 1 });
		const both = await Promise.all(
			[1, 2, 3].map((n) => payer().act(link.address, { name: `Payer ${n}`, mail: `place${n}@payer.example` }))
		);
		expect(both.filter((one) => one.type === 'redirect')).toHaveLength(1);
		expect(
			both
				.filter((one) => one.type === 'failure')
				.map(says)
				.join()
		).toMatch(/All places are taken/);
		// given back when it expires unpaid
		await world.app.kill();
		const { openDatabase } = await import('../world/database.ts');
		const db = await openDatabase(world);
		await db.run('UPDATE orders SET expires_at = 1 WHERE id = (SELECT order_id FROM order_claims WHERE link_id = ?)', [
			link.id
		]);
		await db.close();
		await world.app.start();
		expect((await payer().act(link.address, { name: 'Late', mail: 'late@payer.example' })).type).toBe('redirect');
	});
	it('ends on its day, and when it is closed', async () => {
		const over = await make({ title: 'Over', until: '2020-01-01' });
		expect(says(await payer().act(over.address, { name: 'Late' }))).toMatch(/time for this is over/);
		const closed = await make({ title: 'Closed' });
		await desk.act(`/bill/links/${closed.id}?/close`, { on: 'yes' });
		expect(await (await payer().get(closed.address)).text()).toContain('This page is closed');
		expect((await payer().act(closed.address, { name: 'Late' })).type).toBe('failure');
	});
	it('asks for a sum within its bounds, and for its own fields', async () => {
		const link = await make({
			title: 'Any sum',
			asksFor: 'free sum',
			free: { least: 500, most: 10_000, suggested: [1000] },
			fields: [
				{ id: 'day', label: 'Day', kind: 'date', must: true, choices: [] },
				{ id: 'size', label: 'Size', kind: 'choice', choices: ['4/4', '1/2'], must: false }
			]
		});
		const give = (form: Record<string, string>) => payer().act(link.address, { 'field-day': '2027-01-01', ...form });
		expect(says(await give({}))).toMatch(/Give a sum/);
		expect(says(await give({ sum: '4.99' }))).toMatch(/too small: at least/);
		expect(says(await give({ sum: '100.01' }))).toMatch(/too large/);
		expect(says(await give({ sum: '10', 'field-day': 'soon', 'field-size': '3/4' }))).toMatch(
			/give a day.*choose one/s
		);
		const begun = await give({ sum: '12,50', 'field-size': '4/4' });
		expect(begun.type).toBe('redirect');
		expect(await (await payer().get(begun.location!)).text()).toContain('12.50');
	});
	it('sells goods of the price list, as many as there are, with a code once a payer', async () => {
		const strings = await bill.item({
			code: 'STR',
			name: 'Strings',
			tax: 'standard 210000',
			price_EUR: '40.00',
			stock: '3'
		});
		await desk.act('/bill/codes?/add', {
			code: 'EARLY',
			name: 'Early bird',
			off: '10 %',
			currency: 'EUR',
			least: '50.00',
			from: '',
			until: '',
			uses: '2',
			usesEach: '1'
		});
		const link = await make({
			title: 'Strings by link',
			asksFor: 'goods',
			goods: [{ item: strings, most: 5, fixed: false }],
			takesCodes: true
		});
		const buy = (count: string, code: string, mail: string) =>
			payer().act(link.address, { [`quantity-${strings}`]: count, code, mail, name: 'B' });
		expect(says(await buy('0', '', 'a@payer.example'))).toMatch(/Choose something/);
		expect(says(await buy('4', '', 'a@payer.example'))).toMatch(/not so many/);
		expect(says(await buy('1', 'NONE', 'a@payer.example'))).toMatch(/no such code/);
		expect(says(await buy('1', 'early', 'a@payer.example'))).toMatch(/larger sums/);
		const first = await buy('2', 'early', 'a@payer.example');
		expect(first.type).toBe('redirect');
		expect(await (await payer().get(first.location!)).text()).toContain('72.00');
		// the stock that an order holds is gone for others
		expect(says(await buy('2', '', 'b@payer.example'))).toMatch(/not so many/);
		expect((await buy('1', '', 'b@payer.example')).type).toBe('redirect');
	});
	it('takes fields that its address fills in, unless they were altered or damaged on the way', async () => {
		const link = await make({ title: 'Prefilled', asksFor: 'free sum', free: { least: 0, most: 0, suggested: [] } });
		const made = await desk.act(`/bill/links/${link.id}?/prefill`, {
			sum: '64.00',
			name: 'Ana Müller+Söhne',
			mail: 'ana+1@payer.example'
		});
		const address = String(made.data!.prefilled);
		expect(address).toContain('Ana%20M%C3%BCller%2BS%C3%B6hne');
		const page = await (await payer().get(address)).text();
		expect(page).toContain('64.00');
		expect(page).toContain('ana+1@payer.example');
		expect((await payer().get(address.replace('64.00', '6.00'))).status).toBe(400);
		expect((await payer().get(address.replace('%40', '%2540'))).status).toBe(400);
		expect((await payer().get(address.replace('%2B1', '+1'))).status).toBe(400);
		expect((await payer().get(`${link.address}?sum=%E0%A4`)).status).toBe(400);
		// an outside program's template is not signed: the page names who asks and what for
		expect(await (await payer().get(`${link.address}?sum=12.00&reference=SHOP-9`)).text()).toContain('12.00');
		const begun = await payer().act(`${link.address}?sum=12.00&reference=SHOP-9`, { sum: '12.00', name: 'A' });
		expect(await (await payer().get(begun.location!)).text()).toContain('SHOP-9');
		const fixedOne = await make({ title: 'Signed only' });
		expect((await payer().get(`${fixedOne.address}?name=Eve`)).status).toBe(400);
	});
	it('stands on a web page by one script that sets nothing inline', async () => {
		const link = await make({ title: 'On a page' });
		const script = await fetch(`${world.app.address}/inset/${link.slug}.js`);
		expect(script.headers.get('content-type')).toContain('javascript');
		const text = await script.text();
		expect(text).toContain(link.address);
		expect(text).not.toMatch(/innerHTML|setAttribute\('style|document\.write/);
		expect((await fetch(`${world.app.address}/inset/none.js`)).status).toBe(404);
	});
});

describe('an invoice in another language', () => {
	it('is written in the payer’s own, by mail and on the page', async () => {
		const who = await bill.payer({ name: 'Claire Martin', mail: 'claire@payer.example', language: 'fr' });
		const id = await bill.invoice(who, [{ text: 'Archet', price: '50.00' }]);
		await bill.act(id, 'send', { mail: 'on' });
		const mail = await bill.mail('claire@payer.example', /Facture/);
		expect(mail.text).toContain('50,00');
		const link = /https?:\/\/\S+\/invoice\/\S+/.exec(mail.text)![0];
		const page = await (await payer().get(link)).text();
		expect(page).toMatch(/<html lang="fr/);
		expect(page).toContain('Payer 50,00');
	});
	it('is sent by text to a payer who is written to so, once', async () => {
		const who = await bill.payer({ name: 'Text Payer', phone: '+32 470 12 34 56', channel: 'text' });
		const id = await bill.invoice(who, [{ text: 'Rosin', price: '9.00' }]);
		await Promise.all([bill.act(id, 'send', { text: 'on' }), bill.act(id, 'send', { text: 'on' })]);
		const texts = await until('the text came', async () => {
			const all = await world.at<{ to: string; text: string }[]>('texts', 'texts');
			return all.length > 0 && all;
		});
		expect(texts.filter((one) => one.to === '+32 470 12 34 56')).toHaveLength(1);
	});
});

describe('a template', () => {
	const save = (more: Record<string, string>) =>
		desk.act('/bill/templates?/save', {
			event: 'invoice',
			channel: 'mail',
			language: 'en',
			brand: '',
			variant: '',
			subject: 'Yours',
			body: 'See {{invoice.link}}',
			...more
		});
	it('is refused, with the place, where it cannot work', async () => {
		expect(says(await save({ body: 'Pay\n{{invoice.lnk}} now' }))).toMatch(
			/Line 2, sign 1: There is no fill-in.*did you mean \{\{invoice.link\}\}/
		);
		expect(says(await save({ body: 'Pay {{invoice.total}}' }))).toMatch(
			/needs \{\{invoice.link\}\} or \{\{owed.link\}\}/
		);
		expect(says(await save({ body: '{{refund.amount}} {{invoice.link}}' }))).toMatch(
			/not known when this message is sent/
		);
		expect(says(await save({ body: 'See {{invoice.link' }))).toMatch(/not closed/);
	});
	it('writes what is sent, by the variant that a payer was given', async () => {
		expect(
			(await save({ variant: 'Schools', subject: 'For {{payer.company}}', body: 'Dear school: {{owed.link}}' })).type
		).toBe('success');
		const who = await bill.payer({
			name: 'Office',
			company: 'Atheneum',
			mail: 'office@astrid-school.example',
			template: 'Schools',
			street: 'Laan 1',
			city: 'Gent',
			country: 'BE'
		});
		const id = await bill.invoice(who, [{ text: 'Setup', price: '100.00' }]);
		await bill.act(id, 'send', { mail: 'on' });
		const mail = await bill.mail('office@astrid-school.example', /For Atheneum/);
		expect(mail.text).toMatch(/Dear school: https?:\/\/\S+\/owed\//);
	});
});

describe('pay links by the interface', () => {
	const ask = async (path: string, method = 'GET', body?: object, key = '') => {
		const answer = await fetch(`${world.app.address}/api/v1/pay-links${path}`, {
			method,
			headers: {
				authorization: `Bearer ${await token()}`,
				...(body ? { 'content-type': 'application/json' } : {}),
				...(key ? { 'idempotency-key': `pay-links-${key}` } : {})
			},
			body: body && JSON.stringify(body)
		});
		return { status: answer.status, location: answer.headers.get('location'), body: (await answer.json()) as Made };
	};
	interface Made {
		link: string;
		address: string;
		revision: number;
		fixedMinor: number;
		isClosed: boolean;
		left: number | null;
		orders: number;
		paid: number;
		takenMinor: Record<string, number>;
		goods: { code: string; most: number; isFixed: boolean }[];
		faults?: { pointer: string }[];
		links?: { link: string }[];
		fields: { id: string }[];
	}
	let made = '';
	const token = async () => (made ||= await desk.makeToken('links', ['billing']));
	const gift = {
		title: 'Gift by the interface',
		till: 'web-shop',
		currency: 'EUR',
		asksFor: 'fixed sum',
		fixedMinor: 1_500
	};

	it('are made once for one key, read, changed at the same address, and told with what they brought', async () => {
		const [first, again] = [
			await ask('', 'POST', { ...gift, cap: 2 }, 'link-1'),
			await ask('', 'POST', { ...gift, cap: 2 }, 'link-1')
		];
		expect([first.status, again.status]).toEqual([201, 201]);
		expect(again.body.link).toBe(first.body.link);
		expect(first.location).toBe(`/api/v1/pay-links/${first.body.link}`);
		expect(first.body).toMatchObject({ revision: 1, fixedMinor: 1_500, left: 2, orders: 0, takenMinor: {} });
		const begun = await payer().act(first.body.address, { name: 'Ana', mail: 'ana@payer.example' });
		await desk.giveCard(begun.location!, CARDS.approved);
		await until('the link tells its payment', async () => (await ask(`/${first.body.link}`)).body.paid === 1);
		expect((await ask(`/${first.body.link}`)).body).toMatchObject({ orders: 1, left: 1, takenMinor: { EUR: 1_500 } });
		const changed = await ask(`/${first.body.link}`, 'PUT', { ...gift, fixedMinor: 2_000, revision: 1 });
		expect(changed).toMatchObject({
			status: 200,
			body: { revision: 2, fixedMinor: 2_000, address: first.body.address }
		});
		expect(await (await payer().get(first.body.address)).text()).toContain('20.00');
		expect((await ask(`/${first.body.link}`, 'PUT', { ...gift, revision: 1 })).status).toBe(409);
		expect((await ask('')).body.links!.map((one) => one.link)).toContain(first.body.link);
	});
	it('are closed and opened again, and their address says so', async () => {
		const { body } = await ask('', 'POST', { ...gift, title: 'To be closed' }, 'link-2');
		expect((await ask(`/${body.link}/close`, 'POST', {}, 'close-1')).body.isClosed).toBe(true);
		expect((await payer().act(body.address, { name: 'Ana', mail: 'ana@payer.example' })).type).toBe('failure');
		expect((await ask(`/${body.link}/open`, 'POST', {}, 'open-1')).body.isClosed).toBe(false);
		expect((await payer().act(body.address, { name: 'Ana', mail: 'ana@payer.example' })).type).toBe('redirect');
	});
	it('give addresses that fill in what one payer is asked, and nothing that was altered', async () => {
		const { body } = await ask(
			'',
			'POST',
			{
				...gift,
				title: 'For one',
				asksFor: 'free sum',
				free: { leastMinor: 500 },
				fields: [{ id: 'seat', label: 'Seat', kind: 'text' }]
			},
			'link-3'
		);
		const filled = await ask(
			`/${body.link}/prefilled`,
			'POST',
			{ values: { sum: '31.50', name: 'Ana Müller' }, fields: { seat: 'B 12' } },
			'fill-1'
		);
		expect(filled.status).toBe(200);
		const page = await (await payer().get(filled.body.address)).text();
		expect(page).toContain('31.50');
		expect(page).toContain('Ana Müller');
		expect(page).toContain('B 12');
		const altered = await (await payer().get(filled.body.address.replace('31.50', '1.50'))).text();
		expect(altered).not.toContain('value="1.50"');
		expect(
			(await ask(`/${body.link}/prefilled`, 'POST', { fields: { row: '3' } }, 'fill-2')).body.faults
		).toMatchObject([{ pointer: '/fields/row' }]);
	});
	it('are refused with the place of what cannot be', async () => {
		const pointers = async (more: object, key: string) =>
			(await ask('', 'POST', { ...gift, ...more }, key)).body.faults?.map((one) => one.pointer);
		expect(await pointers({ till: 'nowhere' }, 'w-1')).toEqual(['/till']);
		expect(await pointers({ currency: 'CHF' }, 'w-2')).toEqual(['/currency']);
		expect(await pointers({ fixedMinor: undefined }, 'w-3')).toEqual(['/fixedMinor']);
		expect(await pointers({ asksFor: 'goods', goods: [{ code: 'NONE', most: 1 }] }, 'w-4')).toEqual(['/goods/0/code']);
		expect(await pointers({ landing: 'address', landingAddress: 'ftp://x' }, 'w-5')).toEqual(['/landingAddress']);
		expect((await ask('', 'POST', { ...gift, colours: 'red' }, 'w-6')).body.faults?.[0]).toMatchObject({
			detail: expect.stringContaining('colours')
		});
		expect((await ask('/none')).status).toBe(404);
	});
	it('sell goods of the price list by their code, and keep what the interface does not name', async () => {
		await bill.item({ code: 'LINK-1', name: 'A cake of rosin', tax: 'standard 210000', price_EUR: '8.00' });
		const { body } = await ask(
			'',
			'POST',
			{ ...gift, title: 'Goods', asksFor: 'goods', fixedMinor: undefined, goods: [{ code: 'LINK-1', most: 3 }] },
			'g-1'
		);
		expect(body.goods).toEqual([{ code: 'LINK-1', most: 3, isFixed: false }]);
		const [{ settings: before }] = (await rows<{ settings: string }>(
			world,
			'SELECT settings FROM pay_links WHERE id = ?',
			[body.link]
		)) as [{ settings: string }];
		const database = await openDatabase(world);
		await database.run('UPDATE pay_links SET settings = ? WHERE id = ?', [
			JSON.stringify({ ...JSON.parse(before), colour: '#6b2d2a' }),
			body.link
		]);
		await database.close();
		await ask(`/${body.link}`, 'PUT', {
			...gift,
			title: 'Goods',
			asksFor: 'goods',
			fixedMinor: undefined,
			goods: [{ code: 'LINK-1', most: 2 }]
		});
		const [{ settings }] = (await rows<{ settings: string }>(world, 'SELECT settings FROM pay_links WHERE id = ?', [
			body.link
		])) as [{ settings: string }];
		expect(JSON.parse(settings)).toMatchObject({ colour: '#6b2d2a', goods: [{ most: 2 }] });
	});
});
