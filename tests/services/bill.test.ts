import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { billing, type Billing } from '../world/billing.ts';
import { quickestOf } from '../world/quickest.ts';
import { CARDS } from '../world/steps.ts';

// Billing from end to end: a thing of the price list, an invoice, its number, the link in the mail, paid.

let world: World;
let desk: Desk;
let bill: Billing;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200' }, { with: ['fernhall', 'mailbox', 'texts'] });
	desk = new Desk(world);
	await desk.openWebShop();
	bill = await billing(desk);
});
afterAll(async () => {
	if (process.env.SHOW)
		console.log(
			world.app.output
				.split('\n')
				.filter((line) => /"level":50/.test(line))
				.join('\n')
				.slice(0, 3000)
		);
	await world.end();
});

/** The columns of the database in which one of some texts stands. A word that is found no more may stay in an index of words for a while. */
async function placesOfText(texts: readonly string[]): Promise<string[]> {
	const columns = await rows<{ name: string; col: string }>(
		world,
		`SELECT m.name, c.name AS col FROM sqlite_master m JOIN pragma_table_info(m.name) c
		 WHERE m.type = 'table' AND m.sql NOT LIKE 'CREATE VIRTUAL%' AND m.name NOT GLOB '*_words_*' ORDER BY 1, 2`
	);
	const found: string[] = [];
	for (const { name, col } of columns) {
		const where = texts.map((text) => `instr(lower(CAST("${col}" AS TEXT)), '${text.toLowerCase()}') > 0`).join(' OR ');
		if ((await rows(world, `SELECT 1 FROM "${name}" WHERE ${where} LIMIT 1`)).length) found.push(`${name}.${col}`);
	}
	return found;
}

describe('an invoice', () => {
	it('goes from the price list to paid, by the link in the mail', async () => {
		const item = await bill.item({ code: 'ROSIN', name: 'Amber rosin', tax: 'standard 210000', price_EUR: '12.10' });
		const payer = await bill.payer({ name: 'Bram Peeters', mail: 'bram@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Amber rosin', quantity: '2', price: '12.10', item }]);
		expect(await bill.act(id, 'send', { mail: 'on' })).toMatchObject({ type: 'success' });
		const row = await bill.row(id);
		expect(row).toMatchObject({
			number: `INV-${bill.year}-0001`,
			total: 2420,
			net: 2000,
			tax: 420,
			open: 2420,
			state: 'sent'
		});
		const mail = await bill.mail('bram@payer.example', /Invoice/);
		expect(mail.subject).toContain(row.number);
		const link = /https?:\/\/\S+\/invoice\/\S+/.exec(mail.text)![0];
		const page = await (await new Desk(world).get(link)).text();
		expect(page).toContain('24.20');
		const paying = await new Desk(world).act(`${link}?/pay`, {});
		expect(paying.type).toBe('redirect');
		await desk.giveCard(paying.location!, CARDS.approved);
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		expect(await bill.row(id)).toMatchObject({ placed: 2420, open: 0, nextDue: '' });
		const receipt = await bill.mail('bram@payer.example', /Received/);
		expect(receipt.text).toContain('24.20 EUR');
		// one figure wherever it stands
		expect(await bill.proof()).toEqual({ agrees: true });
		expect(await rows(world, 'SELECT SUM(minor) AS sum FROM places')).toEqual([{ sum: 2420 }]);
	});
});

describe('numbers', () => {
	it('have no gap and no double when many approve at once, and approving twice is once', async () => {
		const payer = await bill.payer({ name: 'Lotte de Wit', mail: 'lotte@payer.example' });
		const ids: number[] = [];
		for (let n = 0; n < 12; n++) ids.push(await bill.invoice(payer, [{ text: 'Rehair', price: '64.00' }]));
		await Promise.all(ids.flatMap((id) => [bill.act(id, 'approve'), bill.act(id, 'approve')]));
		const numbers = (await Promise.all(ids.map((id) => bill.row(id)))).map((row) => row.number).sort();
		expect(new Set(numbers).size).toBe(12);
		const all = await rows<{ number: string }>(
			world,
			`SELECT number FROM invoices WHERE number LIKE 'INV-%' ORDER BY number`
		);
		expect(all.map((row) => Number(row.number.slice(-4)))).toEqual(all.map((_, at) => at + 1));
		const voided = await bill.act(ids[0]!, 'void', { reason: 'Written twice' });
		expect(voided.type).toBe('success');
		expect(await bill.row(ids[0]!)).toMatchObject({ state: 'void', open: 0, number: (await bill.row(ids[0]!)).number });
		for (const id of ids.slice(1)) await bill.act(id, 'void', { reason: 'Only a test' });
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it('survive a kill between number and store', async () => {
		const payer = await bill.payer({ name: 'Kill Test', mail: 'kill@payer.example' });
		const ids: number[] = [];
		for (let n = 0; n < 6; n++) ids.push(await bill.invoice(payer, [{ text: 'Setup', price: '10.00' }]));
		const acts = ids.map((id) => bill.act(id, 'approve').catch(() => undefined));
		await new Promise((next) => setTimeout(next, 12));
		await world.app.kill();
		await Promise.all(acts);
		await world.app.start();
		for (const id of ids) await bill.act(id, 'approve');
		const all = await rows<{ number: string }>(
			world,
			`SELECT number FROM invoices WHERE number LIKE 'INV-%' ORDER BY number`
		);
		expect(all.map((row) => Number(row.number.slice(-4)))).toEqual(all.map((_, at) => at + 1));
	});
});

describe('a draft', () => {
	it('is not approved while something is wrong, and says what', async () => {
		const payer = await bill.payer({
			name: 'Ana',
			company: 'Ana Müller GmbH',
			mail: 'ana-gmbh@payer.example',
			country: 'DE'
		});
		const id = await bill.invoice(payer, [{ text: 'Lesson', price: '30.00', category: 'exempt', rate: 0 }]);
		expect(JSON.stringify((await bill.act(id, 'approve')).data)).toMatch(
			/Say why it is exempt.*address: street, city and country/
		);
		const empty = await bill.invoice(payer, []);
		expect(JSON.stringify((await bill.act(empty, 'approve')).data)).toMatch(/There is no line/);
		const dues = await bill.invoice(payer, [{ text: 'Bow', price: '100.00' }], {
			content: { billTo: { name: 'Ana' }, dues: { kind: 'by hand', dues: [{ day: '2027-01-01', minor: 4000 }] } }
		});
		expect(JSON.stringify((await bill.act(dues, 'approve')).data)).toMatch(/dues add up to/);
		const swiss = await bill.invoice(payer, [{ text: 'Bow', price: '100.00' }], {
			currency: 'CHF',
			content: { billTo: { name: 'Ana' } }
		});
		expect(JSON.stringify((await bill.act(swiss, 'approve')).data)).toMatch(/does not take CHF/);
		expect((await bill.row(swiss)).number).toBe('');
	});
	it('is not overwritten by whoever saw an older one', async () => {
		const payer = await bill.payer({ name: 'Two Hands', mail: 'two@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'First', price: '10.00' }]);
		const again = await desk.act(`/bill/invoices/${id}?/save`, {
			draft: JSON.stringify({
				revision: 0,
				payerId: payer,
				tillId: null,
				currency: 'EUR',
				until: '',
				content: { lines: [] }
			})
		});
		expect(again).toMatchObject({ type: 'failure', status: 409 });
		expect(JSON.stringify(again.data)).toMatch(/Somebody else changed/);
		expect((await bill.row(id)).total).toBe(1000);
		await bill.act(id, 'remove');
		expect(await bill.row(id)).toBeUndefined();
	});
	it('refuses quantities and sums that are none', async () => {
		const payer = await bill.payer({ name: 'Big', mail: 'big@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'A million strings', quantity: '1000000', price: '12.10' }]);
		expect((await bill.row(id)).total).toBe(1_210_000_000);
		const zero = await bill.invoice(payer, [{ text: 'Nothing', quantity: '0', price: '12.10' }]);
		expect(JSON.stringify((await bill.act(zero, 'approve')).data)).toMatch(/more than nothing/);
		const free = await bill.invoice(payer, [
			{ text: 'Gift', price: '10.00', discount: { kind: 'sum', minor: 99_999 } }
		]);
		expect(JSON.stringify((await bill.act(free, 'approve')).data)).toMatch(/total is nothing/);
	});
});

describe('credit, part and over-payment', () => {
	it('of a payer is given back by the card it came by: the sum is asked for from the payer’s page, and no invoice changes', async () => {
		const payer = await bill.payer({ name: 'Given Back', mail: 'givenback@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Two bows', price: '80.00' }]);
		await bill.act(id, 'send', { mail: 'on' });
		const link = `${world.app.address}/invoice/${(await bill.row(id)).token}`;
		const paying = await new Desk(world).act(`${link}?/pay`, {});
		await desk.giveCard(paying.location!, CARDS.approved);
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		// it is credited afterwards
		const note = await bill.act(id, 'creditNote');
		await bill.act(Number(/invoices\/(\d+)/.exec(note.location!)![1]), 'approve');
		const held = async () =>
			(
				await desk.data<{ view: { credit: string[]; creditFrom: { id: number; says: string; typed: string }[] } }>(
					`/bill/payers/${payer}`
				)
			).view;
		const before = await held();
		expect(before.credit).toEqual(['80.00 EUR']);
		expect(before.creditFrom).toMatchObject([{ says: '80.00 EUR', typed: '80.00' }]);
		const { id: payment, typed } = before.creditFrom[0]!;
		// the payment's page opens with that sum
		const page = await (await desk.get(`/takings/payments/${payment}?refund=${typed}`)).text();
		expect(page).toMatch(/name="amount"[^>]*value="80\.00"/);
		const answer = await desk.act(`/takings/payments/${payment}?/refund`, {
			amount: '30.00',
			key: 'credit-given-back-1'
		});
		expect(answer.type).toBe('success');
		await until('a part is given back', async () => (await held()).credit[0] === '50.00 EUR');
		await desk.act(`/takings/payments/${payment}?/refund`, { amount: '50.00', key: 'credit-given-back-2' });
		await until('all of it is given back', async () => (await held()).credit.length === 0);
		expect(await bill.row(id)).toMatchObject({ open: 0, credited: 8_000 });
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it('keeps open = total − placed − credited, and what is too much as the payer’s credit', async () => {
		const payer = await bill.payer({ name: 'Credit Payer', mail: 'credit@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Case', price: '100.00' }], {
			content: { dues: { kind: 'deposit', deposit: { ppm: 300_000 }, days: 0, rest: 30 } }
		});
		await bill.act(id, 'approve');
		const take = (amount: string, key: string) =>
			bill.act(id, 'receive', { amount, how: 'cash', day: today(), note: '', key: `bill-key-${key}` });
		expect((await take('30.00', 'a1')).type).toBe('success');
		expect((await take('30.00', 'a1')).type).toBe('success');
		expect(await bill.row(id)).toMatchObject({ placed: 3000, open: 7000, state: 'part paid' });
		const note = await bill.act(id, 'creditNote');
		const credit = Number(/invoices\/(\d+)/.exec(note.location!)![1]);
		expect((await bill.act(credit, 'approve')).type).toBe('success');
		// credited whole: what was paid stands as credit
		expect(await bill.row(id)).toMatchObject({ placed: 0, credited: 10_000, open: 0 });
		expect(await rows(world, 'SELECT SUM(unplaced) AS sum FROM payments WHERE payer_id = ?', [payer])).toEqual([
			{ sum: 3000 }
		]);
		const next = await bill.invoice(payer, [{ text: 'Rosin', price: '20.00' }]);
		await bill.act(next, 'approve');
		expect((await bill.act(next, 'credit')).type).toBe('success');
		expect(await bill.row(next)).toMatchObject({ state: 'paid', open: 0 });
		expect(await rows(world, 'SELECT SUM(unplaced) AS sum FROM payments WHERE payer_id = ?', [payer])).toEqual([
			{ sum: 1000 }
		]);
		expect(JSON.stringify((await bill.act(id, 'creditNote')).data ?? {})).toMatch(/credited whole/);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it('a refund takes places back, and what was paid is open again', async () => {
		const payer = await bill.payer({ name: 'Refund Payer', mail: 'refund@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Strings', price: '84.50' }]);
		await bill.act(id, 'send', { mail: 'on' });
		const { token } = await bill.row(id);
		const paying = await new Desk(world).act(`${world.app.address}/invoice/${token}?/pay`, {});
		await desk.giveCard(paying.location!, CARDS.approved);
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		const [payment] = await rows<{ id: number }>(world, 'SELECT payment_id AS id FROM places WHERE invoice_id = ?', [
			id
		]);
		await desk.act(`/takings/payments/${payment!.id}?/refund`, { amount: '30.00', key: 'bill-refund-1' });
		await until('it is open again', async () => (await bill.row(id)).open === 3000);
		expect(await bill.row(id)).toMatchObject({ placed: 5450, state: 'part paid' });
		expect((await bill.mail('refund@payer.example', /Refunded/)).text).toContain('30.00 EUR');
		expect(await bill.proof()).toEqual({ agrees: true });
	});
});

describe('a quote', () => {
	it('is sent, opened, accepted once by its payer, and becomes the invoice', async () => {
		const payer = await bill.payer({ name: 'Quote Payer', mail: 'quote@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'New bridge', price: '385.00' }], {
			kind: 'quote',
			content: { dues: { kind: 'deposit', deposit: { ppm: 300_000 }, days: 0, rest: 30 } }
		});
		expect((await bill.act(id, 'send', { mail: 'on' })).type).toBe('success');
		const link = /https?:\/\/\S+\/invoice\/\S+/.exec((await bill.mail('quote@payer.example', /Quote/)).text)![0];
		const payersOwn = new Desk(world);
		await payersOwn.get(link);
		expect((await bill.row(id)).state).toBe('opened');
		expect((await payersOwn.act(`${link}?/answer`, { name: '', answer: 'accepted' })).type).toBe('failure');
		const accepted = await Promise.all([
			payersOwn.act(`${link}?/answer`, { name: 'Quinten Payer', answer: 'accepted' }),
			new Desk(world).act(`${link}?/answer`, { name: 'Quinten Payer', answer: 'accepted' })
		]);
		expect(new Set(accepted.map((one) => one.location)).size).toBe(1);
		const { madeId } = await bill.row(id);
		expect(await bill.row(madeId!)).toMatchObject({ total: 38_500, open: 38_500, state: 'approved' });
		const dues = await rows<{ minor: number }>(
			world,
			'SELECT minor FROM invoice_dues WHERE invoice_id = ? ORDER BY n',
			[madeId]
		);
		expect(dues.map((one) => one.minor)).toEqual([11_550, 26_950]);
		// the first due is what may be paid at once
		const paying = await payersOwn.act(`${world.app.address}${accepted[0]!.location!.split('?')[0]}?/pay`, {});
		expect(await (await payersOwn.get(paying.location!)).text()).toContain('115.50');
		// declined and expired ones are no more accepted
		const other = await bill.invoice(payer, [{ text: 'Bow', price: '50.00' }], { kind: 'quote' });
		await bill.act(other, 'send', { mail: 'on' });
		await bill.act(other, 'answer', { who: 'Quinten', answer: 'declined' });
		expect(JSON.stringify((await bill.act(other, 'answer', { who: 'Quinten', answer: 'accepted' })).data)).toMatch(
			/declined/
		);
	});
});

describe('money that nobody claims', () => {
	let invoice: number;
	beforeAll(async () => {
		const payer = await bill.payer({ name: 'Collège Sainte-Cécile', mail: 'compta@cecile-school.example' });
		invoice = await bill.invoice(payer, [{ text: 'Setup of eight violins', price: '640.05' }]);
		await bill.act(invoice, 'approve');
	});
	const incoming = (amount: string, more: Record<string, string>, key: string) =>
		methods().then((method) =>
			desk.act('/takings/unplaced/new', {
				amount,
				currency: 'EUR',
				day: today(),
				method,
				key: `incoming-${key}`,
				...more
			})
		);
	const methods = async () => (await rows<{ id: string }>(world, 'SELECT id FROM offline_methods LIMIT 1'))[0]!.id;
	it('is placed by itself where its reference proves what it is for', async () => {
		const { creditorReference } = await bill.row(invoice);
		const answer = await incoming(
			'40.05',
			{ text: `thanks ${creditorReference.replace(/(.{4})/g, '$1 ')}`, from: 'Compta' },
			'sure-0001'
		);
		expect(answer.location).toMatch(/placed\+by\+its\+reference|placed%20by%20its%20reference/);
		expect(await bill.row(invoice)).toMatchObject({ placed: 4005, open: 60_000 });
	});
	it('is suggested with its reasons, placed, split, and taken back', async () => {
		const { number } = await bill.row(invoice);
		const answer = await incoming(
			'600.00',
			{ text: `facture ${number}`, from: 'College Sainte Cecile', iban: 'BE68 5390 0754 7034' },
			'likely-01'
		);
		const id = /unplaced\/(\d+)/.exec(answer.location!)![1]!;
		expect(await rows(world, 'SELECT unplaced FROM payments WHERE id = ?', [id])).toEqual([{ unplaced: 60_000 }]);
		const { money } = await desk.data<{
			money: { suggestions: { isSure: boolean; reasons: string[]; parts: { invoiceId: number; minor: number }[] }[] };
		}>(`/takings/unplaced/${id}`);
		expect(money.suggestions[0]!.parts).toMatchObject([{ invoiceId: invoice, minor: 60_000 }]);
		expect(money.suggestions[0]!.reasons.join()).toMatch(
			/its number stands in the text.*exactly what is open.*the payer’s name/
		);
		const tooMuch = await desk.act(`/takings/unplaced/${id}?/place`, { [`part-${invoice}`]: '600.01' });
		expect(JSON.stringify(tooMuch.data)).toMatch(/more than is left|is open on/);
		expect((await desk.act(`/takings/unplaced/${id}?/suggested`, { part: `${invoice}:60000` })).type).toBe('success');
		expect(await bill.row(invoice)).toMatchObject({ state: 'paid', open: 0 });
		expect((await desk.act(`/takings/unplaced/${id}?/back`, { invoice: String(invoice) })).type).toBe('success');
		expect(await bill.row(invoice)).toMatchObject({ state: 'part paid', open: 60_000 });
		// set aside it is nobody’s, and can be taken back
		await desk.act(`/takings/unplaced/${id}?/aside`, { on: 'yes', reason: 'a loan between friends' });
		expect(await rows(world, 'SELECT unplaced FROM payments WHERE id = ?', [id])).toEqual([{ unplaced: 0 }]);
		await desk.act(`/takings/unplaced/${id}?/aside`, {});
		expect(await rows(world, 'SELECT unplaced FROM payments WHERE id = ?', [id])).toEqual([{ unplaced: 60_000 }]);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
});

describe('the payer’s own page', () => {
	it('shows all that is owed and pays it at once, by a signed link or a code', async () => {
		const payer = await bill.payer({ name: 'Own Page', mail: 'own@payer.example' });
		for (const price of ['10.00', '20.00', '30.00']) {
			const id = await bill.invoice(payer, [{ text: 'Lesson', price }]);
			await bill.act(id, 'approve');
		}
		const hand = new Desk(world);
		await hand.act(`${world.app.address}/owed?/code`, { mail: 'own@payer.example' });
		const code = /\d{3} \d{3}/.exec((await bill.mail('own@payer.example', /code/i)).text)![0];
		expect(
			(await hand.act(`${world.app.address}/owed?/enter`, { mail: 'own@payer.example', code: '000 000' })).type
		).toBe('failure');
		expect((await hand.act(`${world.app.address}/owed?/enter`, { mail: 'own@payer.example', code })).location).toBe(
			'/owed/mine'
		);
		const page = await (await hand.get('/owed/mine')).text();
		expect(page).toContain('60.00');
		const paying = await hand.act(`${world.app.address}/owed/mine?/pay`, { currency: 'EUR', all: 'yes' });
		await desk.giveCard(paying.location!, CARDS.approved);
		await until(
			'all is paid',
			async () =>
				(await rows<{ open: number }>(world, 'SELECT SUM(open) AS open FROM invoices WHERE payer_id = ?', [payer]))[0]!
					.open === 0
		);
		expect(
			(
				await rows<{ n: number }>(
					world,
					'SELECT COUNT(*) AS n FROM places p JOIN invoices i ON i.id = p.invoice_id WHERE i.payer_id = ?',
					[payer]
				)
			)[0]!.n
		).toBe(3);
		expect((await new Desk(world).get(`/owed/${payer}.forged`)).status).toBe(404);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it('lists what is open whatever its age, behind a hundred newer documents', async () => {
		const payer = await bill.payer({ name: 'Long Owed', mail: 'long@payer.example' });
		const old = await bill.invoice(payer, [{ text: 'Old bow', price: '77.00' }]);
		await bill.act(old, 'approve');
		const quote = await bill.invoice(payer, [{ text: 'Old offer', price: '88.00' }], { kind: 'quote' });
		await bill.act(quote, 'send', { mail: 'on' });
		const newer = await bill.invoice(payer, [{ text: 'Not sent yet', price: '1.00' }]);
		const columns = (await rows<{ name: string }>(world, `SELECT name FROM pragma_table_info('invoices')`))
			.map((one) => one.name)
			.filter((name) => name !== 'id');
		const database = await openDatabase(world);
		await database.run(
			`WITH RECURSIVE n (n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM n WHERE n < 120)
			 INSERT INTO invoices (${columns.join(', ')}) SELECT ${columns.map((name) => (name === 'token' ? 'lower(hex(randomblob(16)))' : name)).join(', ')}
			 FROM n JOIN invoices ON invoices.id = ?`,
			[newer]
		);
		await database.close();
		const { number, token } = await bill.row(old);
		const { link } = (await desk.data<{ view: { link: string } }>(`/bill/payers/${payer}`)).view;
		const page = await (await new Desk(world).get(link)).text();
		expect(page).toContain('77.00');
		expect(page).toContain(`/invoice/${token}`);
		expect(page).toContain(number);
		expect(page).toContain('88.00');
		const desks = await desk.data<{ view: { ruler: unknown[]; moreInvoices: boolean } }>(`/bill/payers/${payer}`);
		expect(desks.view).toMatchObject({ moreInvoices: true });
		expect(desks.view.ruler.length).toBe(1);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it('speaks the payer’s language to the end, and so do the receipt and its mail', async () => {
		const payer = await bill.payer({ name: 'Parle Français', mail: 'parle@payer.example', language: 'fr' });
		const id = await bill.invoice(payer, [{ text: 'Leçon', price: '40.00' }]);
		await bill.act(id, 'approve');
		const { view } = await desk.data<{ view: { link: string } }>(`/bill/payers/${payer}`);
		const paying = await desk.act(`${view.link}?/pay`, { currency: 'EUR', all: 'yes' });
		await desk.giveCard(paying.location!, CARDS.approved);
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		const mail = await bill.mail('parle@payer.example', /reçu/i);
		expect(mail.text).toMatch(/Carte/);
		expect(mail.text).not.toMatch(/\bCard\b/);
		const page = await (await new Desk(world).get(view.link)).text();
		expect(page).toMatch(/, Carte</);
		expect(page).not.toMatch(/, Card</);
	});
	it('keeps the books and takes the person out when they are removed', async () => {
		const payer = await bill.payer({
			name: 'Leaving Person',
			mail: 'leaving@payer.example',
			phone: '+32 9 555 01 99',
			notes: 'likes tea'
		});
		const id = await bill.invoice(payer, [{ text: 'Rosin', price: '9.00' }]);
		await bill.act(id, 'approve');
		expect(JSON.stringify((await desk.act(`/bill/payers/${payer}?/remove`, {})).data)).toMatch(/owes something/);
		await bill.act(id, 'receive', { amount: '9.00', how: 'cash', day: today(), note: '', key: 'leaving-key-1' });
		expect((await desk.act(`/bill/payers/${payer}?/remove`, {})).type).toBe('redirect');
		const [row] = await rows<Record<string, string>>(
			world,
			'SELECT name, mail, phone, notes FROM payers WHERE id = ?',
			[payer]
		);
		expect(row).toMatchObject({ mail: '', phone: '', notes: '' });
		expect(row!.name).toMatch(/Removed payer/);
		expect(await bill.row(id)).toMatchObject({ state: 'paid', total: 900 });
	});
	it('leaves nothing of a person who was removed but what the books need, wherever it was written', async () => {
		const payer = await bill.payer({
			name: 'Vanish Quitely',
			mail: 'vanish@payer.example',
			phone: '+32 9 555 01 77',
			notes: 'likes quinces',
			street: 'Hazel Lane 77',
			postcode: '9000',
			city: 'Ghent',
			country: 'BE'
		});
		const id = await bill.invoice(payer, [{ text: 'Rosin', price: '9.00' }]);
		expect((await bill.act(id, 'send', { mail: 'on' })).type).toBe('success');
		await bill.mail('vanish@payer.example', /./);
		const paying = await new Desk(world).act(`/invoice/${(await bill.row(id)).token}?/pay`, {});
		// who pays an invoice does not type again what stands on it
		const { more } = (
			await rows<{ more: string }>(world, `SELECT more FROM orders WHERE mail = 'vanish@payer.example'`)
		)[0]!;
		expect(JSON.parse(more)).toMatchObject({
			address: { name: 'Vanish Quitely', street: 'Hazel Lane 77', postcode: '9000', city: 'Ghent', country: 'BE' },
			phone: '+32 9 555 01 77'
		});
		await desk.giveCard(paying.location!, CARDS.approved);
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		await bill.mail('vanish@payer.example', /Received/);
		const { number } = await bill.row(id);
		const takings = async (q: string) => (await desk.get(`/takings?q=${q}`)).text();
		expect(await takings('vanish@payer.example')).toContain(number);
		expect((await desk.act(`/bill/payers/${payer}?/remove`, {})).type).toBe('redirect');
		// the document itself stays, as tax law asks: whom it was made out to stands on it
		expect(await placesOfText(['Vanish', '555 01 77', 'quinces', 'Hazel Lane'])).toEqual([
			'invoices.content',
			'invoices.payer_name'
		]);
		expect(await takings('vanish@payer.example')).not.toContain(number);
		expect(await takings(number)).toContain('Removed payer');
		expect(await bill.proof()).toEqual({ agrees: true });
	});
	it('is not removed while an order of theirs is still to be paid outside of any processor', async () => {
		const payer = await bill.payer({ name: 'Still Waiting', mail: 'waiting@payer.example' });
		const address = await desk.address('240.00', 'DOOR-1', 'EUR', {
			name: 'Still Waiting',
			mail: 'waiting@payer.example'
		});
		await desk.act(address, { way: await desk.way(address, 'Credit transfer') });
		const answer = await desk.act(`/bill/payers/${payer}?/remove`, {});
		expect(JSON.stringify(answer.data)).toMatch(/has still to pay DOOR-1/);
		expect(await rows(world, `SELECT name FROM payers WHERE id = ?`, [payer])).toEqual([{ name: 'Still Waiting' }]);
		expect(await rows(world, `SELECT mail FROM orders WHERE reference = 'DOOR-1'`)).toEqual([
			{ mail: 'waiting@payer.example' }
		]);
	});
});

describe('mail', () => {
	const outbox = (to: string) =>
		rows<{ id: number; state: string; tries: number; says: string }>(
			world,
			'SELECT id, state, tries, says FROM outbox WHERE to_address = ? ORDER BY id',
			[to]
		);
	const sendTo = async (mail: string) => {
		const payer = await bill.payer({ name: 'Mail Payer', mail });
		const id = await bill.invoice(payer, [{ text: 'Rosin', price: '9.00' }]);
		await bill.act(id, 'send', { mail: 'on' });
		return id;
	};
	const fault = (faults: object) => world.at('mailbox', 'faults', faults);
	it('that one address is refused is told, and goes out when the address was mended', async () => {
		await fault({ refuses: ['bounced@payer.example'] });
		await sendTo('bounced@payer.example');
		await until('it is refused', async () => (await outbox('bounced@payer.example'))[0]?.state === 'refused');
		await fault({});
		const [row] = await outbox('bounced@payer.example');
		await desk.act(`/bill/messages/${row!.id}`, {});
		await bill.mail('bounced@payer.example', /Invoice/);
		expect(await bill.mails('bounced@payer.example')).toHaveLength(1);
	});
	it('waits while the server is down, and goes out once', async () => {
		await fault({ down: true });
		await sendTo('later@payer.example');
		await until(
			'it was tried',
			async () =>
				((await outbox('later@payer.example'))[0]?.tries ?? 0) > 0 &&
				(await outbox('later@payer.example'))[0]?.state === 'waiting'
		);
		await fault({});
		const [row] = await outbox('later@payer.example');
		await desk.act(`/bill/messages/${row!.id}`, {});
		await bill.mail('later@payer.example', /Invoice/);
		expect(await bill.mails('later@payer.example')).toHaveLength(1);
	});
	it('is told as not known when the connection drops after all of it was given, and not sent twice', async () => {
		await fault({ dropsAfterData: true });
		await sendTo('unknown@payer.example');
		await until('it is not known', async () => (await outbox('unknown@payer.example'))[0]?.state === 'unknown');
		await fault({});
		await new Promise((next) => setTimeout(next, 600));
		expect(await bill.mails('unknown@payer.example')).toHaveLength(1);
		// sending the invoice again is the same cause: nothing goes out by itself
		const [{ id }] = (await rows<{ id: number }>(
			world,
			`SELECT invoice_id AS id FROM outbox WHERE to_address = 'unknown@payer.example'`
		)) as [{ id: number }];
		await bill.act(id, 'send', { mail: 'on' });
		expect(await outbox('unknown@payer.example')).toHaveLength(1);
	});
});

/** Today as the business writes it. */
const today = () => new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/Brussels' }).format(new Date());

describe('the API of billing', () => {
	it('writes an invoice of the price list once for its key, sends it, and reads it as the desk has it', async () => {
		await bill.item({ code: 'API-1', name: 'Bow, rehaired', tax: 'reduced 60000', price_EUR: '68.00' });
		const payer = await bill.payer({ name: 'Api Payer', mail: 'api@payer.example' });
		const token = await desk.makeToken('billing');
		const ask = (path: string, body?: object, key = 'bill-api-1') =>
			fetch(`${world.app.address}/api/v1${path}`, {
				method: body ? 'POST' : 'GET',
				headers: {
					authorization: `Bearer ${token}`,
					...(body ? { 'content-type': 'application/json', 'idempotency-key': key } : {})
				},
				body: body && JSON.stringify(body)
			});
		const order = {
			payer,
			till: 'web-shop',
			currency: 'EUR',
			lines: [
				{ code: 'API-1', quantity: '2' },
				{ text: 'New tip', price: '24.00', tax: 'reduced', ratePpm: 60_000 }
			],
			outsideReference: 'SHOP-77',
			send: ['mail']
		};
		const [first, again] = [await ask('/invoices', order), await ask('/invoices', order)];
		expect([first.status, again.status]).toEqual([201, 201]);
		const made = (await first.json()) as { invoice: string; number: string; totalMinor: number; address: string };
		expect(await again.json()).toMatchObject({ invoice: made.invoice });
		expect(made).toMatchObject({ totalMinor: 16_000, outsideReference: 'SHOP-77' });
		expect(first.headers.get('location')).toBe(`/api/v1/invoices/${made.invoice}`);
		await bill.mail('api@payer.example', /Invoice/);
		const read = (await (await ask(`/invoices/${made.invoice}`)).json()) as { state: string; openMinor: number };
		expect([read.state, read.openMinor]).toEqual(['sent', (await bill.row(Number(made.invoice))).open]);
		const list = (await (await ask('/invoices?text=SHOP-77')).json()) as { invoices: { number: string }[] };
		expect(list.invoices.map((one) => one.number)).toEqual([made.number]);
		expect((await ask('/invoices', { ...order, lines: [{ code: 'NONE' }] }, 'bill-api-2')).status).toBe(422);
		expect((await ask('/invoices', { ...order, currency: 'CHF' }, 'bill-api-3')).status).toBe(422);
		expect(
			((await (await ask('/price-list')).json()) as { things: { code: string }[] }).things.map((one) => one.code)
		).toContain('API-1');
		const narrow = await desk.makeToken('only tills', ['tills']);
		expect(
			(await fetch(`${world.app.address}/api/v1/invoices`, { headers: { authorization: `Bearer ${narrow}` } })).status
		).toBe(403);
	});
});

describe('files of billing', () => {
	it('of payers are looked at first, found again by mail or number, and come out as they went in', async () => {
		const file = [
			'number,name,mail,company,street,postcode,city,country,language,prefers,groups',
			'N-1,Mail Known,known@payer.example,,,,,BE,,,',
			'N-2,No Mail,,Only Number BV,Laan 2,9000,Gent,BE,nl,offline,Orchestras'
		];
		const preview = await desk.upload('/bill/payers?/preview', {}, 'file', 'p.csv', file.join('\n'));
		expect(preview.data).toMatchObject({ preview: { added: 2, changed: 0, groups: ['Orchestras'] } });
		expect(await rows(world, `SELECT id FROM payers WHERE number = 'N-2'`)).toEqual([]);
		expect((await desk.upload('/bill/payers?/import', {}, 'file', 'p.csv', file.join('\n'))).data).toMatchObject({
			says: expect.stringContaining('2 new')
		});
		// a column that a later file has not got leaves what is known as it is
		const later = await desk.upload(
			'/bill/payers?/import',
			{},
			'file',
			'p.csv',
			'number,name,city\nN-2,No Mail,Brugge'
		);
		expect(JSON.stringify(later.data)).toContain('0 new, 1 known');
		expect(await rows(world, `SELECT company, city, prefers FROM payers WHERE number = 'N-2'`)).toEqual([
			{ company: 'Only Number BV', city: 'Brugge', prefers: 'offline' }
		]);
		const out = await (await desk.get('/bill/payers/csv')).text();
		expect(out).toMatch(/No Mail,,BE.*N-2,Only Number BV/);
		const faults = await desk.upload(
			'/bill/payers?/import',
			{},
			'file',
			'p.csv',
			'name,mail\nA,a@x.example\nB,\nA2,a@x.example'
		);
		expect(JSON.stringify(faults.data)).toMatch(
			/Line 3: a mail address or a number.*Line 4: a@x.example stands in line 2/
		);
	});
	it('of the price list go out and in again, and tell their faults by line', async () => {
		const out = await (await desk.get('/bill/prices/csv')).text();
		expect(out).toContain('price_EUR');
		const again = await desk.upload('/bill/prices?/import', {}, 'file', 'prices.csv', out);
		expect(JSON.stringify(again.data)).toMatch(/0 new/);
		const wrong = await desk.upload(
			'/bill/prices?/import',
			{},
			'file',
			'prices.csv',
			'code,name,price_EUR\nX-1,Thing,12.10\nX-1,Twice,3\nX-2,,4'
		);
		expect(JSON.stringify(wrong.data)).toMatch(/Line 3: the code X-1 stands in line 2.*Line 4, name/);
		expect(await rows(world, `SELECT id FROM price_items WHERE code LIKE 'X-%'`)).toEqual([]);
	});
});

describe('documents', () => {
	it('are a PDF with title and language, UBL, and a CSV of lines', async () => {
		const payer = await bill.payer({ name: 'Doc Payer', mail: 'doc@payer.example', country: 'BE', language: 'nl' });
		const id = await bill.invoice(payer, [{ text: 'Bow', price: '100.00' }]);
		expect((await desk.get(`/bill/invoices/${id}/ubl`)).status).toBe(409);
		await bill.act(id, 'approve');
		const { number, token } = await bill.row(id);
		let pdf = Buffer.alloc(0);
		const make = async () => (pdf = Buffer.from(await (await desk.get(`/bill/invoices/${id}/pdf`)).arrayBuffer()));
		expect(await quickestOf(5_000, make)).toBeLessThan(5_000);
		const text = pdf.toString('latin1');
		expect(text.slice(0, 5)).toBe('%PDF-');
		expect(text).toMatch(/\/Lang \(nl-BE\)/);
		expect(text).toMatch(/\/MarkInfo/);
		expect(text).toMatch(/FontFile/);
		expect((await fetch(`${world.app.address}/invoice/${token}/pdf`)).headers.get('content-type')).toBe(
			'application/pdf'
		);
		// the business has no tax number yet: it says so
		expect(await (await desk.get(`/bill/invoices/${id}/ubl`)).text()).toContain('no tax number');
		expect(await (await desk.get(`/bill/invoices/${id}/csv`)).text()).toContain(`${number},invoice,`);
	});
	it('never change once they are approved', async () => {
		const payer = await bill.payer({ name: 'Fixed', mail: 'fixed@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Bow', price: '100.00' }]);
		await bill.act(id, 'approve');
		const saved = await desk.act(`/bill/invoices/${id}?/save`, {
			draft: JSON.stringify({
				revision: 1,
				payerId: payer,
				tillId: null,
				currency: 'EUR',
				until: '',
				content: { lines: [] }
			})
		});
		expect(JSON.stringify(saved.data)).toMatch(/cannot change any more/);
		expect(JSON.stringify((await bill.act(id, 'remove')).data)).toMatch(/Only drafts can be removed/);
		expect((await bill.row(id)).total).toBe(10_000);
	});
});

describe('numbers as the administrator sets them', () => {
	it('begin later, never earlier, and are told before they are given', async () => {
		const save = (more: Record<string, string>) =>
			desk.act('/bill/settings?/series', {
				kind: 'quote',
				brandId: '',
				prefix: 'OFF-',
				year: 'two digits',
				digits: '3',
				start: '50',
				...more
			});
		await save({});
		const payer = await bill.payer({ name: 'Series', mail: 'series@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Bow', price: '10.00' }], { kind: 'quote' });
		await bill.act(id, 'send', { mail: 'on' });
		expect((await bill.row(id)).number).toMatch(/^OFF-\d\d-0\d\d$/);
		expect(JSON.stringify((await save({ prefix: 'a b' })).data)).toMatch(/Letters, digits/);
	});
	it('that come to the same letters and digits have creditor references of their own: money finds its invoice', async () => {
		const save = (more: Record<string, string>) =>
			desk.act('/bill/settings?/series', { kind: 'invoice', brandId: '', digits: '4', start: '1', ...more });
		const payer = await bill.payer({ name: 'Alike', mail: 'alike@payer.example' });
		const approved = async (price: string) => {
			const id = await bill.invoice(payer, [{ text: 'Bow', price }]);
			expect((await bill.act(id, 'approve')).type).toBe('success');
			return { id, row: await bill.row(id) };
		};
		expect((await save({ prefix: 'A', year: 'four digits' })).type).toBe('success');
		const one = await approved('31.00');
		const n = one.row.number.split('-')[1]!;
		expect((await save({ prefix: `A${bill.year}/`, year: 'none', start: String(Number(n)) })).type).toBe('success');
		const other = await approved('32.00');
		expect(other.row.number.replace(/\W/g, '')).toBe(one.row.number.replace(/\W/g, ''));
		expect(other.row.creditorReference).not.toBe(one.row.creditorReference);
		for (const each of [one, other]) expect(each.row.creditorReference).toMatch(/^RF\d\d[A-Z0-9]{1,21}$/);
		await save({ prefix: 'INV-', year: 'four digits' });
	});
	it('a business that approves first is asked, and approves what it looked at', async () => {
		const settings = {
			approval: 'first',
			pricing: 'with tax',
			taxName: 'Standard',
			taxCategory: 'standard',
			taxRate: '21',
			days: '14',
			quoteDays: '30',
			instructions: 'all',
			placesSure: 'on'
		};
		expect((await desk.act('/bill/settings?/billing', settings)).type).toBe('success');
		const payer = await bill.payer({ name: 'Approved First', mail: 'first@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Bow', price: '10.00' }]);
		expect(JSON.stringify((await bill.act(id, 'send', { mail: 'on' })).data)).toMatch(/must be approved first/);
		await bill.act(id, 'ask', { revision: '1' });
		const needs = await (await desk.get('/needs-you')).text();
		expect(needs).toContain('waits for your approval');
		expect(JSON.stringify((await bill.act(id, 'approve', { revision: '0' })).data)).toMatch(/changed since you looked/);
		expect((await bill.act(id, 'approve', { revision: '1' })).type).toBe('success');
		await desk.act('/bill/settings?/billing', { ...settings, approval: 'on sending' });
	});
});

describe('a gratuity', () => {
	it('is added by the payer, is no part of the invoice, and is refunded last', async () => {
		const till = (await rows<{ settings: string }>(world, `SELECT settings FROM tills WHERE slug = 'web-shop'`))[0]!;
		const form = JSON.parse(till.settings) as object;
		const saved = await desk.act('/accept/tills/web-shop/settings', {
			name: 'Web shop',
			kind: 'web checkout',
			mode: 'live',
			currencies: ['EUR', 'GBP', 'JPY'],
			colour: '#2f4b3c',
			gratuityShares: '5 12.5',
			gratuityOwn: 'on',
			languages: 'en'
		});
		expect([saved.type, form !== undefined]).toEqual(['success', true]);
		const payer = await bill.payer({ name: 'Kind Payer', mail: 'kind@payer.example' });
		const id = await bill.invoice(payer, [{ text: 'Setup', price: '52.64' }]);
		await bill.act(id, 'approve');
		const { token } = await bill.row(id);
		const paying = await new Desk(world).act(`${world.app.address}/invoice/${token}?/pay`, {});
		expect(await (await desk.get(paying.location!)).text()).toContain('12.5 %, 6.58');
		await desk.act(paying.location!, {
			way: await desk.way(paying.location!, 'Card'),
			token: await desk.token(CARDS.approved),
			gratuity: '125000'
		});
		await until('it is paid', async () => (await bill.row(id)).state === 'paid');
		const [payment] = (await rows<{ id: number; minor: number; gratuity: number; unplaced: number }>(
			world,
			'SELECT p.id AS id, p.minor AS minor, p.gratuity AS gratuity, p.unplaced AS unplaced FROM payments p JOIN places l ON l.payment_id = p.id WHERE l.invoice_id = ?',
			[id]
		)) as [{ id: number; minor: number; gratuity: number; unplaced: number }];
		expect(payment).toMatchObject({ minor: 5_922, gratuity: 658, unplaced: 0 });
		expect(
			await rows(world, 'SELECT paid, minor FROM orders WHERE id = (SELECT order_id FROM payments WHERE id = ?)', [
				payment.id
			])
		).toEqual([{ paid: 5_264, minor: 5_264 }]);
		await desk.act(`/takings/payments/${payment.id}?/refund`, { amount: '52.64', key: 'gratuity-refund-1' });
		await until('what was asked is open again', async () => (await bill.row(id)).open === 5_264);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
});
