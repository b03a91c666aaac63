import { readFileSync, readdirSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { billing, type Billing } from '../world/billing.ts';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { shopDay } from '../world/shopTime.ts';
import { CARDS } from '../world/steps.ts';

// Cards and mandates that payers let processors keep: agreed to at a payment, paid by again, ended here and there.

let world: World;
let desk: Desk;
let bill: Billing;
const ids: Record<string, string> = {};
beforeAll(async () => {
	world = await makeWorld(
		{ JUSTPURSE_ROUND_MS: '200', JUSTPURSE_ALERTS_MS: '300', JUSTPURSE_PAYERS_PER_ADDRESS: '1000' },
		{ movesClock: true, with: ['fernhall', 'brackwater', 'quillon', 'mailbox', 'texts'] }
	);
	desk = new Desk(world);
	ids.fernhall = (await desk.openWebShop()).connection;
	ids.brackwater = idOf(await connectAt(desk, 'brackwater'));
	await prepare(desk, 'quillon');
	ids.quillon = idOf(await connectAt(desk, 'quillon'));
	bill = await billing(desk);
	await openTill('bench', [
		{ carrier: `connection:${ids.fernhall}:card`, name: 'Card' },
		{ carrier: `connection:${ids.quillon}:bank-debit`, name: 'Bank debit' }
	]);
	await openTill('lessons', [{ carrier: `connection:${ids.brackwater}:card`, name: 'Card' }]);
}, 120_000);
afterAll(async () => {
	if (process.env.SHOW)
		console.log(
			world.app.output
				.split('\n')
				.filter((line) => /"level":[45]0/.test(line))
				.join('\n')
				.slice(0, 5000)
		);
	await world.end();
});

async function openTill(name: string, offers: { carrier: string; name: string }[]): Promise<void> {
	await desk.act('/accept/tills/new', { name, mode: 'live', currencies: ['EUR'], colour: '#2f4b3c' });
	for (const [at, offer] of offers.entries()) {
		const isCard = offer.carrier.endsWith(':card');
		const saved = await desk.act(`/accept/tills/${name}/offers/new?/save`, {
			on: 'on',
			storing: 'on',
			boundCurrency: 'EUR',
			countryRule: 'any',
			revision: String(at),
			...offer,
			currencies: ['EUR'],
			...(isCard
				? {
						schemes: ['corvid', 'mainsail', 'tessel'],
						fundings: ['debit', 'credit', 'prepaid'],
						regions: ['domestic', 'regional', 'international']
					}
				: {})
		});
		if (saved.type === 'failure') throw new Error(JSON.stringify(saved));
	}
	const published = await desk.act(`/accept/tills/${name}?/publish`, { revision: String(offers.length), reason: '' });
	if (published.type !== 'success') throw new Error(JSON.stringify(published));
}

interface StoredRow {
	id: number;
	state: string;
	isDefault: number;
	method: string;
	expires: string;
	consent: string;
	tokenSealed: string;
	forgottenAt: number | null;
	endedWhy: string;
	mandate: string | null;
}
const storedOf = (payer: string) =>
	rows<StoredRow>(
		world,
		`SELECT id, state, is_default AS isDefault, method, expires, consent, token_sealed AS tokenSealed, forgotten_at AS forgottenAt,
		 ended_why AS endedWhy, mandate FROM stored_methods WHERE payer_id = ? ORDER BY id`,
		[payer]
	);
const linkOf = (payer: string) =>
	desk.data<{ view: { link: string } }>(`/bill/payers/${payer}`).then((page) => new URL(page.view.link).pathname);

interface PayPage {
	open: string;
	ways: { id: string; name: string; keep: string; stored: boolean; takes: string }[];
	elsewhere: string[];
	mayStore: boolean;
	signedInAs: string;
}
let count = 0;
/** A payer of their own, with a browser of their own. */
async function newPayer(name: string): Promise<{ id: string; mail: string; hand: Desk }> {
	const mail = `stored${++count}@payer.example`;
	return { id: await bill.payer({ name, mail }), mail, hand: new Desk(world) };
}
/** Bills a payer, who goes from their signed address to the page at which it is paid. */
async function owe(
	payer: { id: string; hand: Desk },
	price: string,
	till = 'bench'
): Promise<{ id: number; at: string }> {
	const id = await bill.invoice(payer.id, [{ text: 'Rehair', price }], { till });
	await bill.act(id, 'approve');
	const paying = await payer.hand.act(`${await linkOf(payer.id)}?/pay`, { currency: 'EUR', invoice: String(id) });
	if (!paying.location) throw new Error(JSON.stringify(paying));
	return { id, at: paying.location };
}
const wayNamed = async (hand: Desk, at: string, name: string) =>
	(await hand.data<PayPage>(at.replace(world.app.address, ''))).ways.find((one) => one.name === name)!;
const pageOf = (hand: Desk, at: string) => hand.data<PayPage>(at.replace(world.app.address, ''));
async function payAndKeep(payer: { id: string; hand: Desk }, at: string, number = CARDS.approved) {
	const { id } = await wayNamed(payer.hand, at, 'Card');
	return payer.hand.act(at, { way: id, token: await desk.token(number), keep: 'yes' });
}
const paid = (id: number) => until(`invoice ${id} is paid`, async () => (await bill.row(id)).state === 'paid');
const charges = async () =>
	(await world.at<{ state: string; minor: number }[]>('fernhall', 'payments')).filter((one) => one.state === 'taken');

describe('a card', () => {
	it('is kept with the payer’s consent, told by mail, and paid by again without card fields', async () => {
		const payer = await newPayer('Bram Peeters');
		const first = await owe(payer, '84.50');
		const page = await pageOf(payer.hand, first.at);
		expect([page.signedInAs, page.ways[0]!.keep]).toEqual([
			'Bram Peeters',
			'Keep this card for my next payments to Wren & Alder Strings. Fernhall keeps it, not the shop, and I can end it at any time.'
		]);
		expect((await payAndKeep(payer, first.at)).type).toBe('redirect');
		await paid(first.id);
		const [stored, ...more] = await storedOf(payer.id);
		expect(more).toEqual([]);
		expect(stored).toMatchObject({ state: 'active', isDefault: 1, method: 'card', expires: '2029-09' });
		expect(JSON.parse(stored!.consent)).toMatchObject({
			words: page.ways[0]!.keep,
			language: 'en',
			address: expect.stringMatching(/\d/)
		});
		const mail = await bill.mail(payer.mail, /is kept/);
		expect(mail.text).toContain('nothing is taken without you');

		const second = await owe(payer, '21.40');
		const again = await pageOf(payer.hand, second.at);
		expect(again.ways[0]).toMatchObject({ id: `stored-${stored!.id}`, name: 'Corvid 0007', stored: true });
		expect([again.open, again.ways[0]!.takes]).toEqual([
			`stored-${stored!.id}`,
			'Kept at Fernhall, good until 30/09/2029'
		]);
		const before = (await charges()).length;
		// pressed twice at once: one charge
		const both = await Promise.all([
			payer.hand.act(second.at, { way: again.open }),
			payer.hand.act(second.at, { way: again.open })
		]);
		expect(both.map((one) => one.type)).toEqual(['redirect', 'redirect']);
		await paid(second.id);
		expect((await charges()).slice(before).map((one) => one.minor)).toEqual([2_140]);
		const [payment] = await rows<{ id: number; storedId: number; scheme: string }>(
			world,
			`SELECT p.id, r.stored_id AS storedId, k.scheme FROM payments p JOIN payment_requests r ON r.payment_id = p.id
			 JOIN payment_kinds k ON k.id = p.kind_id WHERE p.minor = 2140 AND p.taken > 0`
		);
		expect(payment).toMatchObject({ storedId: stored!.id, scheme: 'corvid' });
		expect(await (await desk.get(`/takings/payments/${payment!.id}`)).text()).toMatch(/Stored method/);
		expect(await bill.proof()).toEqual({ agrees: true });
	});

	it('is not offered to somebody who has only the order’s address, and not to another payer', async () => {
		const payer = await newPayer('Lotte de Wit');
		const first = await owe(payer, '30.00');
		await payAndKeep(payer, first.at);
		await paid(first.id);
		const second = await owe(payer, '40.00');
		const [stored] = await storedOf(payer.id);
		const stranger = new Desk(world);
		const seen = await pageOf(stranger, second.at);
		expect([seen.ways.some((one) => one.stored), seen.ways.some((one) => one.keep), seen.mayStore]).toEqual([
			false,
			false,
			true
		]);
		const other = await newPayer('Other One');
		await owe(other, '10.00');
		for (const hand of [stranger, other.hand]) {
			expect((await hand.act(second.at, { way: `stored-${stored!.id}` })).status).toBe(409);
			expect((await pageOf(hand, second.at)).ways.some((one) => one.stored)).toBe(false);
		}
		// who signs in by a code comes back to the order, and has it
		const back = second.at.replace(world.app.address, '');
		await stranger.act(`${world.app.address}/owed?/code`, { mail: payer.mail });
		const code = /\d{3} \d{3}/.exec((await bill.mail(payer.mail, /code/i)).text)![0];
		const entered = await stranger.act(`${world.app.address}/owed?/enter`, { mail: payer.mail, code, back });
		expect(entered.location).toBe(back);
		expect((await pageOf(stranger, second.at)).open).toBe(`stored-${stored!.id}`);
		const evil = await stranger.get(`/owed?back=${encodeURIComponent('//evil.example/pay/x?')}`);
		expect(evil.headers.get('location')).toBe('/owed/mine');
	});

	it('works at its own processor alone: a till whose route differs says so', async () => {
		const payer = await newPayer('Noor Claes');
		const first = await owe(payer, '30.00');
		await payAndKeep(payer, first.at);
		await paid(first.id);
		const second = await owe(payer, '40.00', 'lessons');
		const page = await pageOf(payer.hand, second.at);
		expect([page.ways.map((one) => one.name), page.elsewhere]).toEqual([['Card'], ['Corvid 0007']]);
		expect(await (await payer.hand.get(second.at)).text()).toContain('cannot be used here');
		// and a card of Brackwater's is kept there
		const { publicKey: _, ...keys } = { publicKey: '', number: await world.keyOf('brackwater', 'number', 'live') };
		const answer = await fetch(`${world.addressOf('brackwater')}/fields/token`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ key: keys.number, number: CARDS.approved, expiry: '09/29', code: '123' })
		});
		const { token } = (await answer.json()) as { token: string };
		const card = await wayNamed(payer.hand, second.at, 'Card');
		await payer.hand.act(second.at, { way: card.id, token, keep: 'yes' });
		await paid(second.id);
		expect((await storedOf(payer.id)).map((one) => [one.state, one.isDefault])).toEqual([
			['active', 1],
			['active', 0]
		]);
		const third = await owe(payer, '15.00', 'lessons');
		const now = await pageOf(payer.hand, third.at);
		expect((await payer.hand.act(third.at, { way: now.open })).type).toBe('redirect');
		await paid(third.id);
		// the desk says where each can be used
		const view = await desk.data<{ view: { stored: { open: { tills: { name: string }[] }[] } } }>(
			`/bill/payers/${payer.id}`
		);
		expect(view.view.stored.open.map((one) => one.tills.map((till) => till.name))).toEqual([
			['Web shop', 'bench'],
			['lessons']
		]);
	});

	it('that was declined, or without the box ticked, is not kept', async () => {
		const payer = await newPayer('Declined One');
		const { id, at } = await owe(payer, '50.00');
		expect((await payAndKeep(payer, at, CARDS.declined)).status).toBe(402);
		const card = await wayNamed(payer.hand, at, 'Card');
		await payer.hand.act(at, { way: card.id, token: await desk.token(CARDS.approved) });
		await paid(id);
		expect(await storedOf(payer.id)).toEqual([]);
		// an offer that does not let payers store keeps nothing, whatever the form says
		const other = await owe(payer, '60.00', 'web-shop');
		await payAndKeep(payer, other.at);
		await paid(other.id);
		expect(await storedOf(payer.id)).toEqual([]);
	});

	it('kept anew takes the place of the older one', async () => {
		const payer = await newPayer('Twice Kept');
		for (const price of ['31.00', '32.00']) {
			const { id, at } = await owe(payer, price);
			await payAndKeep(payer, at);
			await paid(id);
		}
		expect((await storedOf(payer.id)).map((one) => [one.state, one.isDefault, one.endedWhy])).toEqual([
			['ended', 0, 'kept again'],
			['active', 1, '']
		]);
	});

	it('is sealed: its token stands nowhere in the clear', async () => {
		const kept = await world.at<{ id: string }[]>('fernhall', 'kept');
		expect(kept.length).toBeGreaterThan(2);
		const texts = await rows<Record<string, string>>(world, 'SELECT * FROM stored_methods');
		for (const { id } of kept) expect(JSON.stringify(texts)).not.toContain(id);
		const logs = readdirSync(world.folder).filter((name) => name.endsWith('.log'));
		for (const name of logs)
			for (const { id } of kept) expect(readFileSync(`${world.folder}/${name}`, 'utf8')).not.toContain(id);
		for (const { id } of kept) expect(world.app.output).not.toContain(id);
	});
});

describe('the end of a stored method', () => {
	it('is told to the processor, again and again until it answers', async () => {
		const payer = await newPayer('Ends It');
		const { id, at } = await owe(payer, '33.00');
		await payAndKeep(payer, at);
		await paid(id);
		const [stored] = await storedOf(payer.id);
		await world.faults({ down: true });
		const link = await linkOf(payer.id);
		const ended = await payer.hand.act(`${link}?/stored`, { id: String(stored!.id), act: 'end', name: 'Corvid 0007' });
		expect(ended.data).toEqual({ kept: 'Corvid 0007 is removed.' });
		await until('it is ended here', async () => (await storedOf(payer.id))[0]!.state === 'ended');
		expect((await storedOf(payer.id))[0]!.forgottenAt).toBeNull();
		await world.faults({ down: false });
		await until(
			'the processor has forgotten it',
			async () => (await storedOf(payer.id))[0]!.forgottenAt !== null,
			60_000
		);
		expect((await storedOf(payer.id))[0]!.tokenSealed).toBe('');
		const kept = await world.at<{ ended?: string }[]>('fernhall', 'kept');
		expect(kept.at(-1)!.ended).toBe('the shop ended it');
		// nobody else's is ended by a number in a form
		const other = await newPayer('Not Theirs');
		await payer.hand.act(`${await linkOf(other.id)}?/stored`, { id: String(stored!.id), act: 'default' });
		expect(await storedOf(other.id)).toEqual([]);
	});

	it('waits for nobody else’s processor', async () => {
		const first = await newPayer('Ends Before');
		const kept = await owe(first, '37.00');
		await payAndKeep(first, kept.at);
		await paid(kept.id);
		// more than a round asks for, all before it, at a processor that is down
		await world.at('quillon', 'faults', { down: true });
		const changed: Record<string, string> = {
			connection_id: 'c.id',
			processor: 'c.processor',
			account_id: 'c.account_id',
			token_hash: 'hex(randomblob(16))',
			state: `'ended'`,
			forgotten_at: 'NULL'
		};
		const columns = (await rows<{ name: string }>(world, `SELECT name FROM pragma_table_info('stored_methods')`))
			.map((one) => one.name)
			.filter((name) => name !== 'id');
		const database = await openDatabase(world);
		await database.run(
			`WITH RECURSIVE n (n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM n WHERE n < 130)
			 INSERT INTO stored_methods (${columns.join(', ')}) SELECT ${columns.map((name) => changed[name] ?? `s.${name}`).join(', ')}
			 FROM n JOIN stored_methods s ON s.payer_id = ? JOIN connections c ON c.id = ?`,
			[first.id, ids.quillon]
		);
		const waiting = () =>
			rows<{ n: number }>(
				world,
				`SELECT COUNT(*) AS n FROM stored_methods WHERE state = 'ended' AND forgotten_at IS NULL`
			);
		expect((await waiting())[0]!.n).toBe(130);
		const payer = await newPayer('Ends Fairly');
		const { id, at } = await owe(payer, '36.00');
		await payAndKeep(payer, at);
		await paid(id);
		const [stored] = await storedOf(payer.id);
		const act = { id: String(stored!.id), act: 'end', name: 'Corvid 0007' };
		await payer.hand.act(`${await linkOf(payer.id)}?/stored`, act);
		await until('its processor has forgotten it', async () => (await storedOf(payer.id))[0]!.forgottenAt !== null);
		expect((await waiting())[0]!.n).toBe(130);
		await world.at('quillon', 'faults', { down: false });
		await until('the other is told of all', async () => (await waiting())[0]!.n === 0, 60_000);
		// nothing but this test has made them
		await database.run('DELETE FROM stored_methods WHERE payer_id = ? AND connection_id = ?', [first.id, ids.quillon]);
		await database.close();
	});

	it('is learned from a refusal: nothing is charged, and the payer chooses anew', async () => {
		const payer = await newPayer('Bank Ended');
		const first = await owe(payer, '34.00');
		await payAndKeep(payer, first.at);
		await paid(first.id);
		const kept = (await world.at<{ id: string }[]>('fernhall', 'kept')).at(-1)!;
		await world.at('fernhall', `kept/${kept.id}/end`, { why: 'ended by its bank' });
		const second = await owe(payer, '35.00');
		const { open } = await pageOf(payer.hand, second.at);
		const refused = await payer.hand.act(second.at, { way: open });
		expect([refused.status, refused.data]).toEqual([
			402,
			{ says: 'Corvid 0007 cannot be used any more. Nothing was charged. Please choose another way.' }
		]);
		expect((await storedOf(payer.id))[0]).toMatchObject({
			state: 'ended',
			endedWhy: 'This card is kept no more: ended by its bank.'
		});
		expect((await bill.row(second.id)).open).toBe(3_500);
		await payAndKeep(payer, second.at);
		await paid(second.id);
	});

	it('holds for a charge that was about to begin', async () => {
		const payer = await newPayer('In Between');
		const first = await owe(payer, '38.00');
		await payAndKeep(payer, first.at);
		await paid(first.id);
		const [stored] = await storedOf(payer.id);
		const second = await owe(payer, '39.00');
		// another way stands open, and its processor takes its time to cancel it
		const debit = await wayNamed(payer.hand, second.at, 'Bank debit');
		await payer.hand.act(second.at, { way: debit.id });
		await world.at('quillon', 'faults', { slow: 2_000 });
		const paying = payer.hand.act(second.at, { way: `stored-${stored!.id}` });
		await until(
			'the other way is being cancelled',
			async () => (await rows(world, `SELECT 1 FROM actions WHERE act = 'cancel' AND minor = 3900`)).length > 0
		);
		await desk.act(`/bill/payers/${payer.id}?/stored`, { id: String(stored!.id), act: 'end', name: 'Corvid 0007' });
		const answer = await paying;
		await world.at('quillon', 'faults', { slow: 0 });
		expect([answer.status, answer.data?.says]).toEqual([
			409,
			'Corvid 0007 cannot be used any more. Nothing was charged. Please choose another way.'
		]);
		expect((await charges()).filter((one) => one.minor === 3_900)).toEqual([]);
		expect((await bill.row(second.id)).open).toBe(3_900);
	});

	it('is made at the desk, where it can be suspended and put first, too', async () => {
		const payer = await newPayer('At Desk');
		const first = await owe(payer, '36.00');
		await payAndKeep(payer, first.at);
		await paid(first.id);
		const [stored] = await storedOf(payer.id);
		const act = (what: string) =>
			desk.act(`/bill/payers/${payer.id}?/stored`, { id: String(stored!.id), act: what, name: 'Corvid 0007' });
		expect((await act('suspend')).type).toBe('success');
		const second = await owe(payer, '37.00');
		expect((await pageOf(payer.hand, second.at)).ways.some((one) => one.stored)).toBe(false);
		expect((await payer.hand.act(second.at, { way: `stored-${stored!.id}` })).status).toBe(409);
		await act('resume');
		await act('default');
		expect((await storedOf(payer.id))[0]).toMatchObject({ state: 'active', isDefault: 1 });
		expect((await pageOf(payer.hand, second.at)).open).toBe(`stored-${stored!.id}`);
		await act('end');
		expect((await pageOf(payer.hand, second.at)).ways.some((one) => one.stored)).toBe(false);
		const trail = await rows<{ act: string }>(
			world,
			`SELECT act FROM audit WHERE object_id = ? AND act LIKE '%stored method%' ORDER BY id`,
			[payer.id]
		);
		expect(trail.map((one) => one.act.split(':')[0])).toEqual([
			'suspended a stored method',
			'resumed a stored method',
			'put a stored method first',
			'ended a stored method'
		]);
		// the payer can be removed once nothing is owed: what may be shown of the card goes with them
		await payAndKeep(payer, second.at);
		await paid(second.id);
		expect((await desk.act(`/bill/payers/${payer.id}?/remove`, {})).type).toBe('redirect');
		for (const row of await rows<{ state: string; card: string | null }>(
			world,
			'SELECT state, card FROM stored_methods WHERE payer_id = ?',
			[payer.id]
		))
			expect(row).toEqual({ state: 'ended', card: null });
	});
});

describe('a mandate', () => {
	it('is signed once, shown by the end of its account, and collects again without a page', async () => {
		const payer = await newPayer('Ana Müller');
		const first = await owe(payer, '40.00');
		const debit = await wayNamed(payer.hand, first.at, 'Bank debit');
		expect(debit.keep).toContain('Each is told to me at least 14 days before');
		// first without the box, then with it: the first request is withdrawn
		const once = await payer.hand.act(first.at, { way: debit.id });
		const begun = await payer.hand.act(first.at, { way: debit.id, keep: 'yes' });
		expect(begun.location).not.toBe(once.location);
		const same = await payer.hand.act(first.at, { way: debit.id, keep: 'yes' });
		expect(same.location).toBe(begun.location);
		expect(await (await desk.get(`/bill/payers/${payer.id}`)).text()).toMatch(/bank debit to be kept is asked for/);
		expect(await (await fetch(begun.location!)).text()).toContain('until you end it');
		const sign = (iban: string) =>
			fetch(begun.location!, {
				method: 'POST',
				body: new URLSearchParams({ act: 'approve', iban }),
				redirect: 'manual'
			});
		expect((await sign('BE69539007547034')).status).toBe(422);
		const signed = await sign('BE68 5390 0754 7034');
		expect(signed.status).toBe(303);
		// the payer comes back, and the processor is asked
		await payer.hand.get(signed.headers.get('location')!);
		await until('the mandate is stored', async () => (await storedOf(payer.id)).length === 1);
		const [stored] = await storedOf(payer.id);
		expect(JSON.parse(stored!.mandate!)).toMatchObject({
			last4: '7034',
			use: 'recurring',
			creditor: 'Quillon Direct for Wren & Alder Strings'
		});
		expect(stored!.mandate).not.toContain('5390');
		const requests = await world.at<{ state: string }[]>('quillon', 'payments');
		expect(requests.filter((one) => one.state === 'pending').length).toBe(1);

		const second = await owe(payer, '41.00');
		const page = await pageOf(payer.hand, second.at);
		expect(page.ways[0]!.takes).toMatch(/^Mandate qdM\w+ at Quillon Direct$/);
		const paying = await payer.hand.act(second.at, { way: page.open });
		expect(paying.location).toMatch(/\/paid\//);
		expect(await rows(world, `SELECT stage FROM payments WHERE minor = 4100`)).toEqual([{ stage: 'pending' }]);
		expect(await (await desk.get(`/bill/payers/${payer.id}`)).text()).toMatch(/recurring, for Quillon Direct/);
		// each debit is told in writing before it comes: sum, day, mandate, account
		const told = (sum: string) => bill.mail(payer.mail, new RegExp(`^${sum} EUR will be collected`));
		for (const sum of ['40.00', '41.00']) {
			const { subject, text } = await told(sum);
			expect(subject).toMatch(/ EUR will be collected from your account by \d\d\/\d\d\/\d{4}$/);
			expect(text).toMatch(/Mandate qdM\w+, .*···· 7034\. On your statement it says Quillon Direct for Wren & Alder/);
		}
		const [day] = /\d\d\/\d\d\/\d{4}/.exec((await told('41.00')).subject)!;
		const [{ id: paymentId }] = (await rows<{ id: number }>(world, `SELECT id FROM payments WHERE minor = 4100`)) as [
			{ id: number }
		];
		expect(await (await desk.get(`/takings/payments/${paymentId}`)).text()).toContain(day);
		expect((await bill.mails(payer.mail)).filter((one) => /will be collected/.test(one.subject)).length).toBe(2);
	});
	it('of one time stands at its payment, and is not kept', async () => {
		const payer = await newPayer('One Time');
		const { at } = await owe(payer, '42.00');
		const debit = await wayNamed(payer.hand, at, 'Bank debit');
		const begun = await payer.hand.act(at, { way: debit.id });
		const signed = await fetch(begun.location!, {
			method: 'POST',
			body: new URLSearchParams({ act: 'approve', iban: 'BE68539007547034' }),
			redirect: 'manual'
		});
		await payer.hand.get(signed.headers.get('location')!);
		const request = await until('its mandate is known', async () =>
			(
				await rows<{ id: number; mandate: string | null }>(
					world,
					'SELECT p.id, r.mandate FROM payments p JOIN payment_requests r ON r.payment_id = p.id WHERE p.minor = 4200'
				)
			).find((one) => one.mandate)
		);
		expect(JSON.parse(request.mandate!)).toMatchObject({ use: 'one time', last4: '7034' });
		expect(await (await desk.get(`/takings/payments/${request.id}`)).text()).toMatch(/one time, for Quillon Direct/);
		expect(await storedOf(payer.id)).toEqual([]);
	});
});

describe('as time passes', () => {
	it('a card’s payer is asked once to renew it, and then it ends; a mandate ends unused', async () => {
		const payer = await newPayer('Time Passes');
		const { id, at } = await owe(payer, '43.00');
		await payAndKeep(payer, at);
		await paid(id);
		const [row] = await rows<{ now: number }>(world, `SELECT MAX(created_at) AS now FROM stored_methods`);
		const month = shopDay(row!.now).slice(0, 7);
		// a card that ends this month: as if it had been kept long ago
		const db = await import('../world/database.ts').then((m) => m.openDatabase(world));
		await db.run(`UPDATE stored_methods SET expires = ? WHERE payer_id = ?`, [month, payer.id]);
		const mail = await bill.mail(payer.mail, /ends on/);
		expect(mail.subject).toMatch(/^Corvid 0007 ends on \d\d\/\d\d\/\d{4}$/);
		const need = await until('it is told on Needs you', async () =>
			(await (await desk.get('/needs-you')).text()).match(/A stored card ends by/)
		);
		expect(need).toBeTruthy();
		expect(await (await desk.get('/bill/payers')).text()).toMatch(/Stored cards that end within 30 days: 1/);
		for (let week = 0; week < 5; week++) await desk.act('/needs-you?/pass', { step: 'week' });
		await until('the card has ended', async () => (await storedOf(payer.id))[0]!.endedWhy === 'the card has expired');
		expect((await bill.mails(payer.mail)).filter((one) => /ends on/.test(one.subject)).length).toBe(1);
		// a mandate unused for 36 months and a day
		const [mandate] = await rows<{ id: number; payer: string }>(
			world,
			`SELECT id, payer_id AS payer FROM stored_methods WHERE method = 'bank-debit'`
		);
		await db.run(`UPDATE stored_methods SET used_at = used_at - ? WHERE id = ?`, [37 * 31 * 86_400_000, mandate!.id]);
		await until('the mandate has ended', async () => (await storedOf(mandate!.payer))[0]!.state === 'ended');
		expect((await storedOf(mandate!.payer))[0]!.endedWhy).toBe('not used for 36 months');
		await db.close();
	});
	it('each is told to outside programs, once', async () => {
		const told = await rows<{ kind: string; n: number }>(
			world,
			`SELECT kind, COUNT(*) AS n FROM events WHERE kind LIKE 'stored_method.%' GROUP BY kind ORDER BY kind`
		);
		const all = await rows<{ n: number; ended: number }>(
			world,
			`SELECT COUNT(*) AS n, SUM(state = 'ended') AS ended FROM stored_methods`
		);
		expect(told.find((one) => one.kind === 'stored_method.stored')!.n).toBe(all[0]!.n);
		expect(told.find((one) => one.kind === 'stored_method.ended')!.n).toBe(all[0]!.ended);
		expect(told.find((one) => one.kind === 'stored_method.ending')!.n).toBe(1);
	});
});
