import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { billing, type Billing } from '../world/billing.ts';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';

// Bank debits that the business begins by a payer's mandate: announced with sum and day, made on the day, once, or ended with
// a reason that everybody is told.

let world: World;
let desk: Desk;
let bill: Billing;
beforeAll(async () => {
	world = await makeWorld(
		{ JUSTPURSE_ROUND_MS: '200', JUSTPURSE_ALERTS_MS: '300', JUSTPURSE_PAYERS_PER_ADDRESS: '1000' },
		{ movesClock: true, with: ['fernhall', 'quillon', 'mailbox', 'texts'] }
	);
	desk = new Desk(world);
	await desk.openWebShop();
	await prepare(desk, 'quillon');
	const quillon = idOf(await connectAt(desk, 'quillon'));
	bill = await billing(desk);
	await desk.act('/accept/tills/new', { name: 'bench', mode: 'live', currencies: ['EUR'], colour: '#2f4b3c' });
	await desk.act('/accept/tills/bench/offers/new?/save', {
		on: 'on',
		storing: 'on',
		boundCurrency: 'EUR',
		countryRule: 'any',
		revision: '0',
		carrier: `connection:${quillon}:bank-debit`,
		name: 'Bank debit',
		currencies: ['EUR']
	});
	const published = await desk.act('/accept/tills/bench?/publish', { revision: '1', reason: '' });
	if (published.type !== 'success') throw new Error(JSON.stringify(published));
}, 120_000);
afterAll(() => world.end());

interface DebitRow {
	id: number;
	state: string;
	why: string;
	day: string;
	minor: number;
	noticeDays: number;
	paymentId: number | null;
}
const debitsOf = (invoice: number) =>
	rows<DebitRow>(
		world,
		`SELECT id, state, why, day, minor, notice_days AS noticeDays, payment_id AS paymentId FROM announced_debits
		 WHERE invoice_id = ? ORDER BY id`,
		[invoice]
	);
const ended = (invoice: number) =>
	until('the debit is ended', async () => (await debitsOf(invoice)).find((one) => one.state !== 'announced'));
/** Moves the clock past a debit's day, by a day: whatever the hour is here, it is after six on its day. */
async function passTo(day: string): Promise<void> {
	for (;;) {
		const now = (await desk.data<{ today: string }>(`/bill/invoices/${someInvoice}`)).today;
		if (now > day) return;
		await desk.act('/needs-you?/pass', { step: 'day' });
	}
}
let someInvoice = 0;
/** What Quillon was asked to collect of a sum. */
const collected = async (minor: number) =>
	(await world.at<{ minor: number }[]>('quillon', 'payments')).filter((one) => one.minor === minor);

let count = 0;
/** A payer who keeps an account at a first payment. */
async function payerWithMandate(name: string) {
	const mail = `debit${++count}@payer.example`;
	const payer = { id: await bill.payer({ name, mail }), mail, hand: new Desk(world) };
	const link = new URL((await desk.data<{ view: { link: string } }>(`/bill/payers/${payer.id}`)).view.link).pathname;
	const first = await bill.invoice(payer.id, [{ text: 'Rehair', price: '20.00' }], { till: 'bench' });
	someInvoice = first;
	await bill.act(first, 'approve');
	const { location } = await payer.hand.act(`${link}?/pay`, { currency: 'EUR', invoice: String(first) });
	const page = await payer.hand.data<{ ways: { id: string; keep: string }[] }>(
		location!.replace(world.app.address, '')
	);
	const begun = await payer.hand.act(location!, { way: page.ways[0]!.id, keep: 'yes' });
	const signed = await fetch(begun.location!, {
		method: 'POST',
		body: new URLSearchParams({ act: 'approve', iban: 'BE68539007547034' }),
		redirect: 'manual'
	});
	await payer.hand.get(signed.headers.get('location')!);
	await until(
		'the mandate is stored',
		async () => (await rows(world, 'SELECT 1 FROM stored_methods WHERE payer_id = ?', [payer.id])).length === 1
	);
	return { ...payer, link, words: page.ways[0]!.keep };
}
async function owe(payer: { id: string }, price: string): Promise<number> {
	const id = await bill.invoice(payer.id, [{ text: 'Rehair', price }], { till: 'bench' });
	await bill.act(id, 'approve');
	return id;
}
interface Shown {
	storedId: number;
	day: string;
	minor: number;
	noticeDays: number;
	why: string;
}
const shown = async (invoice: number) =>
	(await desk.data<{ view: { collectables: Shown[] } }>(`/bill/invoices/${invoice}`)).view.collectables;
const announce = async (invoice: number) => {
	const [one] = await shown(invoice);
	return bill.act(invoice, 'debit', {
		storedId: String(one!.storedId),
		day: one!.day,
		minor: String(one!.minor)
	});
};
const daysBetween = (from: string, to: string) => (Date.parse(to) - Date.parse(from)) / 86_400_000;

describe('a debit that the business begins', () => {
	it('is told to its payer fourteen days before, and made on its day, once', async () => {
		const payer = await payerWithMandate('Ana Müller');
		expect(payer.words).toBe(
			'Let Quillon Direct collect later sums that I owe Wren & Alder Strings from the same account. Each is told to me at least 14 days before, unless I pay it here myself. I can end it at any time.'
		);
		expect((await bill.mail(payer.mail, /is kept/)).text).toContain('at least 14 days before');
		const invoice = await owe(payer, '412.00');
		const [one] = await shown(invoice);
		const { today } = await desk.data<{ today: string }>(`/bill/invoices/${invoice}`);
		expect(one).toMatchObject({ minor: 41_200, noticeDays: 14, why: '' });
		expect(daysBetween(today, one!.day)).toBeGreaterThanOrEqual(14);
		// what was looked at is what is announced
		const other = await bill.act(invoice, 'debit', { storedId: String(one!.storedId), day: one!.day, minor: '41100' });
		expect(other.data?.trouble).toMatch(/^The debit would be another one by now: 412.00 EUR/);
		const both = await Promise.all([announce(invoice), announce(invoice)]);
		expect(both.map((answer) => answer.type).sort()).toEqual(['failure', 'success']);
		const { subject, text } = await bill.mail(payer.mail, /will be collected from your account on/);
		const day = one!.day.split('-').reverse().join('/');
		expect(subject).toBe(`412.00 EUR will be collected from your account on ${day}`);
		expect(text).toMatch(/Mandate qdM\w+\. On your statement it says Quillon Direct for Wren & Alder/);
		expect(text).toContain('···· 7034');
		// desk and payer see it; nothing is collected yet, and nothing is on its way
		expect(await (await desk.get(`/bill/invoices/${invoice}`)).text()).toMatch(/is collected on/);
		expect(await (await payer.hand.get(payer.link)).text()).toMatch(/412\.00 EUR will be collected on .* 7034/);
		expect(await (await desk.get('/bill/invoices?show=debit')).text()).toContain((await bill.row(invoice)).number);
		expect([await collected(41_200), (await bill.row(invoice)).promised]).toEqual([[], 0]);

		await passTo(one!.day);
		const made = await ended(invoice);
		expect(made).toMatchObject({ state: 'made', minor: 41_200 });
		expect((await collected(41_200)).length).toBe(1);
		expect((await bill.row(invoice)).promised).toBe(41_200);
		expect(
			await rows(world, 'SELECT minor, stage, payer_mail AS mail FROM payments WHERE id = ?', [made!.paymentId])
		).toEqual([{ minor: 41_200, stage: 'pending', mail: payer.mail }]);
		// it was told once: not again when the bank is asked
		await until('its events are told', async () => {
			const [row] = await rows<{ left: number }>(
				world,
				`SELECT (SELECT MAX(id) FROM events) - done AS left FROM event_readers WHERE name = 'messages'`
			);
			return row!.left === 0;
		});
		expect(
			(await bill.mails(payer.mail)).filter((mail) => /412\.00 EUR will be collected/.test(mail.subject))
		).toHaveLength(1);
		const told = await rows<{ kind: string }>(
			world,
			`SELECT kind FROM events WHERE object_id = ? AND kind LIKE 'debit.%' ORDER BY id`,
			[String(invoice)]
		);
		expect(told.map((event) => event.kind)).toEqual(['debit.announced', 'debit.made']);
	});

	it('can be called off before, and its payer is told', async () => {
		const payer = await payerWithMandate('Bram Peeters');
		const invoice = await owe(payer, '413.00');
		await announce(invoice);
		const [debit] = await debitsOf(invoice);
		const answer = await bill.act(invoice, 'callOff', { debit: String(debit!.id) });
		expect(answer.type).toBe('success');
		expect((await bill.mail(payer.mail, /^Nothing is collected on/)).text).toContain('413.00 EUR');
		// called off is called off: another can be announced, and both are kept
		expect((await bill.act(invoice, 'callOff', { debit: String(debit!.id) })).type).toBe('success');
		expect((await announce(invoice)).type).toBe('success');
		expect((await debitsOf(invoice)).map((one) => one.state)).toEqual(['called off', 'announced']);
	});

	it('is not made where its payer has paid meanwhile, and takes no more than is left', async () => {
		const payer = await payerWithMandate('Noor Claes');
		const whole = await owe(payer, '414.00');
		const part = await owe(payer, '415.00');
		await announce(whole);
		await announce(part);
		await bill.mail(payer.mail, /^415.00 EUR will be collected/);
		const { today } = await desk.data<{ today: string }>(`/bill/invoices/${part}`);
		const receive = (invoice: number, amount: string) =>
			bill.act(invoice, 'receive', { amount, how: 'cash', day: today, note: '', key: `cash-${invoice}-0001` });
		await receive(whole, '414.00');
		await receive(part, '400.00');
		expect(await ended(whole)).toMatchObject({ state: 'called off', why: 'It is paid, or its money is on its way.' });
		await passTo((await debitsOf(part))[0]!.day);
		expect(await ended(part)).toMatchObject({ state: 'made' });
		expect([
			(await collected(41_400)).length,
			(await collected(41_500)).length,
			(await collected(1_500)).length
		]).toEqual([0, 0, 1]);
		expect((await bill.row(part)).promised).toBe(1_500);
		expect(await bill.proof()).toEqual({ agrees: true });
	});

	it('is begun once, also where the application ends while the processor is asked', async () => {
		const payer = await payerWithMandate('Killed Between');
		const invoice = await owe(payer, '416.00');
		await announce(invoice);
		const [debit] = await debitsOf(invoice);
		await until('its payer was told', async () =>
			(await bill.mails(payer.mail)).some((one) => /416/.test(one.subject))
		);
		await world.at('quillon', 'faults', { slow: 3_000 });
		await passTo(debit!.day);
		await until('the processor is being asked', async () => (await collected(41_600)).length === 1);
		await world.app.kill();
		await world.at('quillon', 'faults', { slow: 0 });
		await world.app.start();
		await ended(invoice);
		expect((await debitsOf(invoice)).map((one) => one.state)).toEqual(['made']);
		await until('it is on its way', async () => (await bill.row(invoice)).promised === 41_600);
		expect((await collected(41_600)).length).toBe(1);
	});

	it('is not made by a mandate that ended; it is told under Needs you, and found', async () => {
		const payer = await payerWithMandate('Ends It');
		const invoice = await owe(payer, '417.00');
		await announce(invoice);
		const [{ id }] = (await rows<{ id: number }>(world, 'SELECT id FROM stored_methods WHERE payer_id = ?', [
			payer.id
		])) as [{ id: number }];
		await payer.hand.act(`${payer.link}?/stored`, { id: String(id), act: 'end', name: '7034' });
		expect(await ended(invoice)).toMatchObject({ state: 'not made', why: 'The mandate is ended.' });
		await bill.mail(payer.mail, /^Nothing is collected on/);
		expect(await (await desk.get('/needs-you')).text()).toMatch(
			/A bank debit that was announced was not made, and its invoice is still open/
		);
		expect(await (await desk.get('/bill/invoices?show=undebited')).text()).toContain((await bill.row(invoice)).number);
		expect(await (await desk.get(`/bill/invoices/${invoice}`)).text()).toMatch(/was not made\. The mandate is ended/);
		expect((await shown(invoice)).length).toBe(0);
	});

	it('is not made where its payer could not be told, and is told at once', async () => {
		const payer = await payerWithMandate('Never Told');
		const invoice = await owe(payer, '418.00');
		await world.at('mailbox', 'faults', { refuses: [payer.mail] });
		await announce(invoice);
		expect((await ended(invoice))!.why).toBe('Its payer could not be told: the message was not taken.');
		await world.at('mailbox', 'faults', {});
		// what would tell of a debit that is not made does not go out later
		const [message] = await rows<{ id: number }>(
			world,
			`SELECT id FROM outbox WHERE to_address = ? AND event = 'debit announced'`,
			[payer.mail]
		);
		const again = await desk.act(`/bill/messages/${message!.id}`, {});
		expect(JSON.stringify(again.data)).toContain('This debit is not to be made any more.');
		expect((await bill.mails(payer.mail)).some((one) => /418|Nothing is collected/.test(one.subject))).toBe(false);
	});

	it('is not announced by a mandate whose payer agreed to begin each debit, nor of what is held, void or paid', async () => {
		const payer = await payerWithMandate('Agreed Before');
		const invoice = await owe(payer, '419.00');
		const database = await openDatabase(world);
		// words of before that told no days
		await database.run(`UPDATE stored_methods SET consent = json_remove(consent, '$.noticeDays') WHERE payer_id = ?`, [
			payer.id
		]);
		expect((await shown(invoice))[0]!.why).toMatch(/^Agreed Before agreed to debits that they begin themselves/);
		expect((await announce(invoice)).data?.trouble).toMatch(/agreed to debits that they begin themselves/);
		// who agreed to fourteen days keeps them, whatever is set later; who agrees later has the days of then
		await database.run(`UPDATE stored_methods SET consent = json_set(consent, '$.noticeDays', 14) WHERE payer_id = ?`, [
			payer.id
		]);
		await database.close();
		const { settings } = await desk.data<{ settings: Record<string, never> }>('/bill/settings');
		const set = (noticeDays: string) =>
			desk.act('/bill/settings?/billing', {
				...Object.fromEntries(Object.entries(settings).filter(([, value]) => typeof value !== 'object')),
				noticeDays,
				tellPaid: '',
				fields: ''
			});
		for (const wrong of ['0', '61', 'two', '']) expect((await set(wrong)).data?.trouble).toMatch(/noticeDays/);
		expect((await set('3')).type).toBe('success');
		expect((await shown(invoice))[0]!.noticeDays).toBe(14);
		const later = await payerWithMandate('Agreed Later');
		expect(later.words).toContain('at least 3 days before');
		const second = await owe(later, '420.00');
		expect((await shown(second))[0]!.noticeDays).toBe(3);
		await bill.act(second, 'hold', { on: 'yes' });
		expect(await shown(second)).toEqual([]);
		await bill.act(second, 'hold', { on: 'no' });
		await announce(second);
		await bill.act(second, 'void', { reason: 'made twice' });
		expect(await ended(second)).toMatchObject({ state: 'called off', why: 'The invoice is void.' });
		await bill.mail(later.mail, /^Nothing is collected on/);
	});

	it('that its bank declines is told as not made', async () => {
		const payer = await payerWithMandate('Declined Debit');
		const invoice = await owe(payer, '421.00');
		await announce(invoice);
		const [debit] = await debitsOf(invoice);
		await until('its payer was told', async () =>
			(await bill.mails(payer.mail)).some((one) => /421/.test(one.subject))
		);
		// the mandate is over at the bank, and nobody here knows
		const kept = (await world.at<{ id: string }[]>('quillon', 'kept')).at(-1)!;
		await world.at('quillon', `kept/${kept.id}/end`, { why: 'ended by its bank' });
		await passTo(debit!.day);
		await ended(invoice);
		expect((await bill.row(invoice)).open).toBe(42_100);
		expect(await (await desk.get(`/bill/invoices/${invoice}`)).text()).toMatch(/announced for .* was not made/);
		expect(await bill.proof()).toEqual({ agrees: true });
	});
});

describe('money on its way', () => {
	it('stands at the invoices that it is for, each with its own part, and at no other of the same payer', async () => {
		const payer = await payerWithMandate('Several Owed');
		const [first, second, third] = [await owe(payer, '31.00'), await owe(payer, '32.00'), await owe(payer, '33.00')];
		const paying = await payer.hand.act(`${payer.link}?/pay`, {
			currency: 'EUR',
			invoice: [String(second), String(third)]
		});
		const { open } = await payer.hand.data<{ open: string }>(paying.location!.replace(world.app.address, ''));
		expect((await payer.hand.act(paying.location!, { way: open })).type).toBe('redirect');
		await until('it is on its way', async () => (await bill.row(third)).promised === 3_300);
		const shownAt = async (id: number) =>
			(
				await desk.data<{ view: { payments: { coming: string; amount: string }[] } }>(`/bill/invoices/${id}`)
			).view.payments.map((one) => [one.coming, one.amount]);
		expect([await shownAt(first), await shownAt(second), await shownAt(third)]).toEqual([
			[],
			[['32.00', '65.00']],
			[['33.00', '65.00']]
		]);
		expect((await bill.row(first)).promised).toBe(0);
		expect(await bill.proof()).toEqual({ agrees: true });
		// who pays all of the rest pays what nothing is on its way for, and no part of it goes to the others
		const rest = await payer.hand.act(`${payer.link}?/pay`, { currency: 'EUR', all: 'yes' });
		const [asked] = await rows<{ minor: number; reference: string; invoices: string }>(
			world,
			`SELECT o.minor, o.reference, c.invoice_ids AS invoices FROM orders o JOIN order_claims c ON c.order_id = o.id
			 WHERE c.payer_id = ? ORDER BY o.id DESC LIMIT 1`,
			[payer.id]
		);
		expect(asked).toEqual({
			minor: 3_100,
			reference: (await bill.row(first)).number,
			invoices: JSON.stringify([first])
		});
		expect(rest.location).toContain('/pay/bench');
	});
});
