import { createHmac } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ACCOUNTS, connectAt, idOf, keysOf, NAMES, prepare } from '../world/connections.ts';
import { ConsoleHand } from '../world/console.ts';
import { rows } from '../world/database.ts';
import { Desk, type ActionAnswer } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { shopDay } from '../world/shopTime.ts';

let world: World;
let desk: Desk;
const ids: Record<string, string> = {};
const page = async (path: string) => (await desk.get(path)).text();
const says = (answer: ActionAnswer) => JSON.stringify([answer.data?.trouble, answer.data?.says, answer.data?.errors]);

interface Row {
	id: number;
	token: string;
	stage: string;
	method: string;
	processor_id: string;
	expected_fee: number | null;
	charged_fee: number | null;
	next: string | null;
}
const paymentOf = async (reference: string) =>
	(
		await rows<Row>(
			world,
			'SELECT p.*, r.token, r.next, r.details FROM payments p LEFT JOIN payment_requests r ON r.payment_id = p.id WHERE p.reference = ? ORDER BY p.id DESC',
			[reference]
		)
	)[0]!;
const reaches = (reference: string, stage: string) =>
	until(`${reference} is ${stage}`, async () => {
		const row = await paymentOf(reference);
		return row?.stage === stage ? row : undefined;
	});

/** Lists the events that a processor set up by hand should tell of. */
const listenByHand = async (name: string, topics: string[]) => {
	const [row] = await rows<{ hook_key: string }>(world, `SELECT hook_key FROM connections WHERE id = '${ids[name]}'`);
	await world.at(name, 'listener', {
		id: 'by-hand',
		account: ACCOUNTS[name],
		mode: 'live',
		address: `${world.app.address}/hooks/${row!.hook_key}`,
		topics,
		secret: ''
	});
};

beforeAll(async () => {
	world = await makeWorld({}, { with: NAMES });
	desk = new Desk(world);
	await desk.openWebShop();
	ids.fernhall = (await rows<{ id: string }>(world, 'SELECT id FROM connections'))[0]!.id;
	for (const name of NAMES.slice(1)) {
		await prepare(desk, name);
		ids[name] = idOf(await connectAt(desk, name));
	}
	await listenByHand('quillon', [
		'mandate_signed',
		'money_collected',
		'mandate_refused',
		'money_returned_to_payer',
		'money_certain',
		'debit_bounced',
		'transfer_to_you'
	]);
	await listenByHand('ostrel', ['paid', 'declined', 'expired', 'repaid', 'booked', 'forwarded']);
	let revision = 0;
	const offers: [string, string, string, object?][] = [
		['tallybridge', 'account-wallet', 'Tallybridge wallet'],
		['brackwater', 'bank-redirect', 'Your bank’s page'],
		['quillon', 'bank-debit', 'Bank debit'],
		['quillon', 'credit-transfer', 'Transfer, matched'],
		['sundial', 'pay-later', 'In four parts'],
		['ostrel', 'bank-app', 'Bank app']
	];
	await desk.act('/accept/tills/new', {
		name: 'Bow shop',
		mode: 'live',
		currencies: ['EUR'],
		colour: '#2f4b3c',
		domain: 'shop.wrenalder.example'
	});
	for (const [name, method, title] of offers) {
		const answer = await desk.act('/accept/tills/bow-shop/offers/new?/save', {
			on: 'on',
			revision: String(revision++),
			carrier: `connection:${ids[name]}:${method}`,
			name: title,
			currencies: ['EUR'],
			boundCurrency: 'EUR',
			countryRule: 'any'
		});
		if (answer.type !== 'redirect') throw new Error(JSON.stringify(answer));
	}
	const wallet = await desk.act('/accept/tills/bow-shop/offers/new?/save', {
		on: 'on',
		revision: String(revision++),
		carrier: `connection:${ids.fernhall}:device-wallet`,
		name: 'Tapfold',
		currencies: ['EUR'],
		schemes: ['corvid', 'mainsail', 'tessel'],
		fundings: ['debit', 'credit', 'prepaid', 'commercial'],
		regions: ['domestic', 'regional', 'international'],
		boundCurrency: 'EUR',
		countryRule: 'any'
	});
	if (wallet.type !== 'redirect') throw new Error(JSON.stringify(wallet));
	await desk.act('/accept/tills/bow-shop?/publish', { revision: String(revision), reason: '' });
});
afterAll(() => world.end());

const addressOf = async (amount: string, reference: string): Promise<string> => {
	const answer = await desk.act('/accept/tills/bow-shop/address', {
		amount,
		currency: 'EUR',
		reference,
		name: 'Ana Müller',
		mail: 'ana@payer.example'
	});
	return String(answer.data!.address);
};
/** Chooses a way at the payer's page. @returns where the payer is led */
const choose = async (address: string, name: string, token = ''): Promise<string> => {
	const answer = await desk.act(address, { way: await desk.way(address, name), token });
	if (answer.type !== 'redirect') throw new Error(JSON.stringify(answer));
	return answer.location!;
};
/** What a payer does at a processor's own page. @returns where they are sent back to */
const atDoor = async (door: string, act: 'approve' | 'refuse', boxes: Record<string, string> = {}) =>
	(await fetch(door, { method: 'POST', body: new URLSearchParams({ act, ...boxes }), redirect: 'manual' })).headers.get(
		'location'
	);

describe('ways that the payer finishes elsewhere', () => {
	it.each([
		['Tallybridge wallet', 'tallybridge', 'W-1', {}],
		['Your bank’s page', 'brackwater', 'B-1', {}]
	])('%s: on and back, told by a notification, priced as charged', async (way, name, reference, boxes) => {
		const door = await choose(await addressOf('84.50', reference), way);
		expect(new URL(door).origin).toBe(world.addressOf(name));
		expect((await paymentOf(reference)).stage).toBe('requested');
		const back = await atDoor(door, 'approve', boxes);
		expect(await page(back!)).toContain('Paid, thank you');
		const paid = await reaches(reference, 'captured');
		expect(paid.next).toBeNull();
		expect(paid.charged_fee).not.toBeNull();
		expect(paid.expected_fee).toBe(paid.charged_fee);
	});
	it('says what is not finished, and lets the payer go on or choose another way', async () => {
		const address = await addressOf('60.00', 'B-2');
		const door = await choose(address, 'Your bank’s page');
		const { token } = await paymentOf('B-2');
		const open = await page(`/paid/${token}`);
		expect(open).toContain('Not finished yet');
		expect(open).toContain(door);
		expect(await page(address)).toContain('Tallybridge wallet');
		expect(await atDoor(door, 'refuse')).toContain('/paid/');
		await reaches('B-2', 'failed');
		expect(await page(`/paid/${token}`)).toContain('Not paid');
	});
	it('refunds the wallet through the account it was taken in, also after another was chosen', async () => {
		const choices = `/connect/connections/${ids.tallybridge}/account?/choose`;
		expect((await desk.act(choices, { choice: 'TB-CH-3', meant: 'on' })).type).toBe('redirect');
		const { id } = await paymentOf('W-1');
		const answer = await desk.act(`/takings/payments/${id}?/refund`, { amount: '10.00', key: 'refund-w1-000001' });
		expect(says(answer)).toContain('10.00 EUR refunded through Tallybridge');
		expect((await desk.act(choices, { choice: 'TB-EU-1', meant: 'on' })).type).toBe('redirect');
	});
});

/** What a processor holds of an order, by our token. */
const heldAt = async (name: string, reference: string) => {
	const tokens = (
		await rows<{ token: string }>(
			world,
			'SELECT token FROM payment_requests WHERE payment_id IN (SELECT id FROM payments WHERE reference = ?)',
			[reference]
		)
	).map((one) => one.token);
	return (await world.at<{ id: string; ours: string; state: string }[]>(name, 'payments')).filter((one) =>
		tokens.includes(one.ours)
	);
};

describe('one open payment of an order', () => {
	it('the same address posted twenty times makes one payment at the processor, and leads to the same page', async () => {
		const address = await addressOf('84.50', 'ONE-1');
		const way = await desk.way(address, 'Your bank’s page');
		const answers = await Promise.all(Array.from({ length: 20 }, () => desk.act(address, { way })));
		const later = await desk.act(address, { way });
		expect(answers.every((one) => one.type === 'redirect')).toBe(true);
		expect(new URL(later.location!).origin).toBe(world.addressOf('brackwater'));
		expect(await heldAt('brackwater', 'ONE-1')).toHaveLength(1);
		expect(await rows(world, `SELECT id FROM payments WHERE reference = 'ONE-1'`)).toHaveLength(1);
	});
	it.each([
		['Tallybridge wallet', 'tallybridge'],
		['Your bank’s page', 'brackwater'],
		['Bank debit', 'quillon'],
		['Transfer, matched', 'quillon'],
		['Bank app', 'ostrel']
	])('another way than %s cancels it at %s before it begins', async (first, name) => {
		const reference = `ONE-${first}`;
		const address = await addressOf('70.00', reference);
		await choose(address, first);
		await choose(address, first === 'Your bank’s page' ? 'Tallybridge wallet' : 'Your bank’s page');
		expect((await heldAt(name, reference)).map((one) => one.state)).toContain('ended');
		const open = await rows<{ method: string }>(
			world,
			`SELECT method FROM payments WHERE reference = ? AND open = 1 AND taken = 0`,
			[reference]
		);
		expect(open).toHaveLength(1);
	});
	it('a payer who was faster than the cancelling has paid, and no second charge begins', async () => {
		const address = await addressOf('71.00', 'FAST-1');
		await choose(address, 'Your bank’s page');
		const { processor_id } = await paymentOf('FAST-1');
		// approved at the bank while its notification is on its way
		await world.at('brackwater', 'faults', { silent: true });
		await world.at('brackwater', `act/${processor_id}`, { act: 'approve' });
		const to = await choose(address, 'Tallybridge wallet');
		expect(to).toMatch(/^\/paid\//);
		expect(await page(to)).toContain('Paid, thank you');
		expect(await heldAt('tallybridge', 'FAST-1')).toEqual([]);
		await world.at('brackwater', 'faults', { silent: false });
	});
	it('money that still comes twice counts, is told, and goes back in one press', async () => {
		const address = await addressOf('72.00', 'TWICE-1');
		await choose(address, 'Your bank’s page');
		const first = await paymentOf('TWICE-1');
		// the processor does not answer: it cannot be cancelled there yet
		await world.at('brackwater', 'faults', { down: true });
		const door = await choose(address, 'Tallybridge wallet');
		await atDoor(door, 'approve');
		await until('the wallet is paid', async () => (await paymentOf('TWICE-1')).stage === 'captured');
		await world.at('brackwater', `act/${first.processor_id}`, { act: 'approve' });
		const both = await until('both are counted', async () => {
			const paid = await rows<Row & { contradiction: string }>(
				world,
				`SELECT * FROM payments WHERE reference = 'TWICE-1' AND taken > 0`
			);
			return paid.length === 2 ? paid : undefined;
		});
		await world.at('brackwater', 'faults', { down: false });
		expect(both.find((one) => one.id === first.id)!.contradiction).toBe('captured after it had ended');
		const needs = (await page('/needs-you')).replace(/<!--.*?-->/g, '');
		expect(needs).toContain('TWICE-1 was paid twice');
		expect(needs).toContain('Refund 72.00 EUR');
		const [order] = await rows<{ paid: number }>(world, `SELECT paid FROM orders WHERE reference = 'TWICE-1'`);
		expect(order!.paid).toBe(14_400);
		const answer = await desk.act(`/takings/payments/${first.id}?/refund`, { amount: '72.00', key: 'refund-twice-01' });
		expect(says(answer)).toContain('72.00 EUR refunded');
		expect((await page('/needs-you')).replace(/<!--.*?-->/g, '')).not.toContain('TWICE-1 was paid twice');
	}, 180_000);
	it('what was given up while its processor could not be reached is cancelled there as soon as it can', async () => {
		const address = await addressOf('61.00', 'CANCEL-1');
		await choose(address, 'Your bank’s page');
		await world.at('brackwater', 'faults', { down: true });
		await choose(address, 'Tallybridge wallet');
		const cancels = () =>
			rows<{ state: string }>(
				world,
				`SELECT a.state FROM actions a JOIN payments p ON p.id = a.payment_id WHERE p.reference = 'CANCEL-1' AND a.act = 'cancel'
				 ORDER BY a.created_at`
			);
		await until('nobody knows whether it arrived', async () => (await cancels())[0]?.state === 'unknown');
		await world.at('brackwater', 'faults', { down: false });
		await until(
			'it is cancelled there',
			async () => (await heldAt('brackwater', 'CANCEL-1'))[0]!.state === 'ended',
			30_000
		);
		// the first one never came and is closed; another was sent, and that was all
		await until('its outcome is known', async () =>
			(await cancels()).every((one) => one.state !== 'unknown' && one.state !== 'planned')
		);
		expect((await cancels()).map((one) => one.state)).toEqual(['refused', 'done']);
	}, 180_000);
	it('a reference is one order: another sum or payer under it is a conflict, or replaces it when that is said', async () => {
		const build = (amount: string, more: Record<string, string> = {}) =>
			desk.act('/accept/tills/bow-shop/address', {
				amount,
				currency: 'EUR',
				reference: 'DAY-2',
				name: 'Ana Müller',
				mail: 'ana@payer.example',
				...more
			});
		const first = String((await build('49.90')).data!.address);
		// the same payer in another spelling is the same order, not a second one
		expect(String((await build('49.90', { name: 'Ana  MÜLLER' })).data!.address)).toBe(first);
		const other = await build('49.91');
		expect(other.type).toBe('failure');
		expect(JSON.stringify(other.data)).toContain('DAY-2 is an order of 49.90 EUR for Ana Müller at this till already');
		const door = await choose(first, 'Your bank’s page');
		const replaced = String((await build('49.91', { replace: 'on' })).data!.address);
		expect(await page(first)).toContain('This order was replaced by a later one');
		await until('it is cancelled there', async () => (await heldAt('brackwater', 'DAY-2'))[0]!.state === 'ended');
		expect(door).toBeTruthy();
		await atDoor(await choose(replaced, 'Tallybridge wallet'), 'approve');
		await reaches('DAY-2', 'captured');
		// what is paid is not replaced
		expect(JSON.stringify((await build('10.00', { replace: 'on' })).data)).toContain(
			'it is paid or its money is on its way'
		);
	});
});

describe('a bank debit', () => {
	it('is signed, pending, collected, certain, and may come back', async () => {
		const door = await choose(await addressOf('40.00', 'Q-1'), 'Bank debit');
		await atDoor(door, 'approve', { iban: 'BE68539007547034', holder: 'Ana Müller', name: 'Ana Müller' });
		const pending = await reaches('Q-1', 'pending');
		expect(await page(`/paid/${pending.token}`)).toContain('the money is under way');
		await world.at('quillon', `act/${pending.processor_id}`, { act: 'submit' });
		const taken = await reaches('Q-1', 'captured');
		// 0.7 % of 40.00 is 0.28, above the floor
		expect([taken.expected_fee, taken.charged_fee]).toEqual([28, 28]);
		await world.at('quillon', `act/${pending.processor_id}`, { act: 'bounce' });
		await reaches('Q-1', 'returned');
	});
	it('is not paid twice: a payer who comes back finds it under way', async () => {
		const address = await addressOf('41.00', 'Q-2');
		await atDoor(await choose(address, 'Bank debit'), 'approve', {
			iban: 'BE68539007547034',
			holder: 'Ana Müller',
			name: 'Ana Müller'
		});
		await reaches('Q-2', 'pending');
		expect((await desk.get(address)).headers.get('location')).toMatch(/^\/paid\//);
	});
});

describe('a transfer that the processor matches', () => {
	it('tells where to transfer to, and is found when it comes', async () => {
		const to = await choose(await addressOf('95.00', 'T-1'), 'Transfer, matched');
		expect(to).toMatch(/^\/paid\//);
		const shown = await page(to);
		expect(shown).toContain('BE71 0961 2345 6769');
		const { processor_id } = await paymentOf('T-1');
		await world.at('quillon', `act/${processor_id}`, { act: 'match' });
		await reaches('T-1', 'captured');
		expect(await page(to)).toContain('Paid, thank you');
	});
});

describe('a bank app', () => {
	it('shows a code and an app switch, and believes only what it calls back for', async () => {
		const to = await choose(await addressOf('31.50', 'O-1'), 'Bank app');
		const shown = await page(to);
		expect(shown).toContain('Approve it in your bank');
		expect(shown).toContain('data:image/png;base64,');
		const { processor_id, next } = await paymentOf('O-1');
		expect(JSON.parse(next!)).toMatchObject({ kind: 'code', code: expect.stringMatching(/^ostrel-pay:/) });
		await world.at('ostrel', `act/${processor_id}`, { act: 'approve' });
		await reaches('O-1', 'captured');
		const [arrival] = await rows<{ checks: string; state: string }>(
			world,
			`SELECT * FROM arrivals WHERE connection_id = '${ids.ostrel}' AND topic = 'paid'`
		);
		expect(arrival!.checks).toContain('Called back');
	});
	it('keeps nothing of a ring that Ostrel never made, and takes only so many unconfirmed', async () => {
		const [row] = await rows<{ hook_key: string }>(
			world,
			`SELECT hook_key FROM connections WHERE id = '${ids.ostrel}'`
		);
		const ring = (id: string) =>
			fetch(`${world.app.address}/hooks/${row!.hook_key}`, { method: 'POST', body: JSON.stringify({ ring: id }) });
		expect((await ring('forged-1')).status).toBe(200);
		await until('it is dropped', async () => {
			const kept = await rows(world, `SELECT id FROM arrivals WHERE event_id = 'forged-1'`);
			const refused = await rows<{ count: number }>(
				world,
				`SELECT count FROM refused_arrivals WHERE connection_id = '${ids.ostrel}' AND reason = 'forged'`
			);
			return kept.length === 0 && refused[0]?.count === 1;
		});
		expect((await ring('')).status).toBe(400);
		await world.at('ostrel', 'faults', { down: true });
		const answers = await Promise.all(Array.from({ length: 560 }, (_, n) => ring(`flood-${n}`)));
		const taken = answers.filter((one) => one.status === 200).length;
		expect(taken).toBeGreaterThan(300);
		expect(taken).toBeLessThanOrEqual(500);
		expect(answers.some((one) => one.status === 429)).toBe(true);
		await world.at('ostrel', 'faults', { down: false });
	}, 180_000);
});

describe('pay later', () => {
	it('is withheld until its code is on the shop’s page, and then offered', async () => {
		await desk.act('/connect/domains?/add', { domain: 'shop.wrenalder.example', page: '/' });
		const address = await addressOf('148.00', 'S-1');
		expect(await page(address)).not.toContain('In four parts');
		expect(await page('/accept/tills/bow-shop/ask?amount=148.00&currency=EUR')).toContain('lacks the page code');
		const look = () =>
			desk.act('/connect/domains?/look', { domain: 'shop.wrenalder.example', connection: ids.sundial! });
		await look();
		expect(await page('/connect/domains')).toContain('The code is not on /');
		const code = /data-shop="[^"]+"/.exec(
			(await page(`/connect/domains?code=${ids.sundial}`)).replaceAll('&quot;', '"')
		);
		expect(code).toBeTruthy();
		await fetch(`${world.addressOf('shop')}/edit`, {
			method: 'POST',
			body: new URLSearchParams({ code: `<div class="sundial-parts" ${code![0]} hidden></div>` })
		});
		await look();
		expect(await page('/connect/domains')).toContain('On the page');
		expect(await page(address)).toContain('In four parts');
		const door = await choose(address, 'In four parts');
		await atDoor(door, 'approve', { birthday: '1990-05-01', born: '1990-05-01' });
		const paid = await reaches('S-1', 'captured');
		// 3.90 % of 148.00 + 0.30
		expect([paid.expected_fee, paid.charged_fee]).toEqual([607, 607]);
	});
	it('is held first where money is taken later, then taken in part, or let go of', async () => {
		const settings = `/connect/connections/${ids.sundial}/settings?/money`;
		expect((await desk.act(settings, { capture: 'later' })).type).toBe('success');
		const hold = async (reference: string) => {
			const door = await choose(await addressOf('148.00', reference), 'In four parts');
			await atDoor(door, 'approve', { birthday: '1990-05-01', born: '1990-05-01' });
			return reaches(reference, 'authorised');
		};
		const held = await hold('S-2');
		expect(await page(`/takings/payments/${held.id}`)).toContain('is held and not captured yet');
		const act = (id: number, form: Record<string, string>) => desk.act(`/takings/payments/${id}?/held`, form);
		expect((await act(held.id, { act: 'capture', amount: '200.00', key: 'held-s2-00001' })).data?.heldWrong).toMatch(
			/At most/
		);
		expect(says(await act(held.id, { act: 'capture', amount: '100.00', key: 'held-s2-00002' }))).toContain(
			'100.00 EUR captured'
		);
		await reaches('S-2', 'captured');
		const other = await hold('S-3');
		expect(says(await act(other.id, { act: 'cancel', key: 'held-s3-00001' }))).toContain('nothing is held any more');
		await reaches('S-3', 'voided');
		expect((await desk.act(settings, { capture: 'at once' })).type).toBe('success');
	});
});

describe('a device wallet', () => {
	const prove = () =>
		desk.act('/connect/domains?/prove', { domain: 'shop.wrenalder.example', connection: ids.fernhall! });
	it('is withheld until the domain is proven; a proof that cannot be found says why', async () => {
		const address = await addressOf('25.00', 'D-1');
		expect(await page(address)).not.toContain('Tapfold');
		// this domain leads to the shop, where our file is not
		await prove();
		expect(await page('/connect/domains')).toContain('✕ Failing');
		expect(await page('/needs-you')).toContain('wallet proof of Fernhall fails on shop.wrenalder.example');
	});
	it('is offered on a domain that leads here, where the processor finds its file', async () => {
		await desk.act('/connect/domains?/add', { domain: 'pay.wrenalder.example', page: '/' });
		await desk.act('/connect/domains?/prove', { domain: 'pay.wrenalder.example', connection: ids.fernhall! });
		expect(await page('/connect/domains')).toContain('✓ Proven');
		await desk.act('/accept/tills/bow-shop/settings', {
			name: 'Bow shop',
			mode: 'live',
			currencies: ['EUR'],
			colour: '#2f4b3c',
			domain: 'pay.wrenalder.example'
		});
		const address = await addressOf('25.00', 'D-2');
		expect(await page(address)).toContain('Tapfold');
		const { publicKey } = await keysOf(desk, 'fernhall');
		const token = (
			(await (
				await fetch(`${world.addressOf('fernhall')}/fields/wallet`, {
					method: 'POST',
					headers: { 'content-type': 'application/json' },
					body: JSON.stringify({ key: publicKey })
				})
			).json()) as { token: string }
		).token;
		await choose(address, 'Tapfold', token);
		const paid = await reaches('D-2', 'captured');
		expect([paid.method, paid.expected_fee === paid.charged_fee]).toEqual(['device-wallet', true]);
	});
});

describe('rotation and the end', () => {
	it('keeps both pairs valid until the chosen time, then ends the old one at the processor', async () => {
		const before = await keysOf(desk, 'halfpenny');
		const hand = await new ConsoleHand(world.addressOf('halfpenny'), 'halfpenny').signIn();
		await hand.press('keys/make', { mode: 'live', kind: 'secret', account: ACCOUNTS.halfpenny! });
		const after = await keysOf(desk, 'halfpenny');
		expect(after.secretKey).not.toBe(before.secretKey);
		const keys = `/connect/connections/${ids.halfpenny}/keys`;
		const until_ = new Date(Date.now() + 3_600_000);
		const local = new Intl.DateTimeFormat('sv-SE', {
			timeZone: 'Europe/Brussels',
			dateStyle: 'short',
			timeStyle: 'short'
		})
			.format(until_)
			.replace(' ', 'T');
		expect(says(await desk.act(`${keys}?/rotate`, { ...before, when: 'later', until: local }))).toMatch(
			/in use already/
		);
		expect(says(await desk.act(`${keys}?/rotate`, { ...after, when: 'later', until: '2020-01-01T10:00' }))).toMatch(
			/over already/
		);
		expect(says(await desk.act(`${keys}?/rotate`, { ...after, when: 'later', until: local }))).toMatch(
			/stay valid until then/
		);
		expect(await page(keys)).toContain(`•••• ${before.secretKey!.slice(-4)}`);
		const old = async () =>
			(await world.at<{ key: string; revoked?: string }[]>('halfpenny', 'keys')).find(
				(one) => one.key === before.secretKey
			)!;
		expect((await old()).revoked).toBeUndefined();
		expect((await desk.act(`/connect/connections/${ids.halfpenny}?/reread`, {})).type).toBe('success');
		expect((await desk.act(`${keys}?/retire`, {})).type).toBe('success');
		expect((await old()).revoked).toBeTruthy();
		expect((await desk.act(`/connect/connections/${ids.halfpenny}?/reread`, {})).type).toBe('success');
	});
	it('takes notifications of the old and the new secret while a notice token rotates', async () => {
		const hand = await new ConsoleHand(world.addressOf('quillon'), 'quillon').signIn();
		const before = (await keysOf(desk, 'quillon')).noticeToken!;
		await hand.press('keys/make', { mode: 'live', kind: 'notice', account: ACCOUNTS.quillon! });
		const after = (await keysOf(desk, 'quillon')).noticeToken!;
		const answer = await desk.act(`/connect/connections/${ids.quillon}/keys?/rotate`, {
			noticeToken: after,
			when: 'later',
			until: `${shopDay(Date.now() + 7 * 86_400_000)}T18:00`
		});
		const [row] = await rows<{ hook_key: string; old_hook_secret_sealed: string | null }>(
			world,
			`SELECT hook_key, old_hook_secret_sealed FROM connections WHERE id = '${ids.quillon}'`
		);
		expect(before).not.toBe(after);
		{
			expect([answer.type, says(answer)]).toEqual(['success', expect.stringMatching(/New credentials are in use/)]);
			expect(row!.old_hook_secret_sealed).toBeTruthy();
			for (const [token, status] of [
				[before, 200],
				[after, 200],
				['somebody else’s', 401]
			] as const) {
				const body = JSON.stringify({
					note_id: `note-${token.slice(-6)}`,
					what: 'hello_there',
					on: new Date().toISOString()
				});
				const told = await fetch(`${world.app.address}/hooks/${row!.hook_key}`, {
					method: 'POST',
					headers: { 'quillon-seal': createHmac('sha256', token).update(body).digest('hex') },
					body
				});
				expect([token === before, told.status]).toEqual([token === before, status]);
			}
		}
	});
	it('lists what disconnecting would hurt, does nothing before it is meant, and leaves what is down alone', async () => {
		const keys = `/connect/connections/${ids.sundial}/keys`;
		const shown = await page(keys);
		expect(shown).toContain('would be offered to nobody');
		expect(says(await desk.act(`${keys}?/disconnect`, {}))).toMatch(/tick that you have read/);
		await world.at('sundial', 'faults', { down: true });
		expect(says(await desk.act(`${keys}?/disconnect`, { sure: 'on' }))).toMatch(/Nothing was disconnected/);
		await world.at('sundial', 'faults', { down: false });
		expect(
			await rows(world, `SELECT id FROM connections WHERE id = '${ids.sundial}' AND removed_at IS NULL`)
		).toHaveLength(1);
	});
	it('disconnects: revoked at the processor, withheld at the till, and the history comes back when it is connected again', async () => {
		const before = await keysOf(desk, 'sundial');
		expect((await desk.act(`/connect/connections/${ids.sundial}/keys?/disconnect`, { sure: 'on' })).type).toBe(
			'redirect'
		);
		const dead = (await world.at<{ key: string; revoked?: string }[]>('sundial', 'keys')).find(
			(one) => one.key === before.token
		);
		expect(dead!.revoked).toBeTruthy();
		expect(await world.at<unknown[]>('sundial', 'listeners')).toEqual([]);
		expect(await page(await addressOf('148.00', 'S-9'))).not.toContain('In four parts');
		const { id } = await paymentOf('S-1');
		expect((await desk.get(`/takings/payments/${id}`)).status).toBe(200);
		const hand = await new ConsoleHand(world.addressOf('sundial'), 'sundial').signIn();
		await hand.press('keys/make', { mode: 'live', kind: 'token', account: ACCOUNTS.sundial! });
		expect(idOf(await connectAt(desk, 'sundial'))).toBe(ids.sundial);
		await desk.act('/accept/tills/bow-shop/settings', {
			name: 'Bow shop',
			mode: 'live',
			currencies: ['EUR'],
			colour: '#2f4b3c',
			domain: 'shop.wrenalder.example'
		});
		expect(await page(await addressOf('148.00', 'S-9'))).toContain('In four parts');
		const refund = await desk.act(`/takings/payments/${id}?/refund`, { amount: '48.00', key: 'refund-s1-000001' });
		expect(says(refund)).toContain('48.00 EUR refunded through Sundial Split');
	});
});

describe('settings', () => {
	it('choose the payout rhythm at the processor, an account of its currency, and ledger accounts of the chart', async () => {
		await desk.act('/connect/bank-accounts?/add', {
			name: 'Current',
			holder: 'Wren & Alder',
			iban: 'BE68 5390 0754 7034',
			currency: 'EUR'
		});
		await desk.act('/connect/bank-accounts?/add', {
			name: 'Sterling',
			holder: 'Wren & Alder',
			iban: 'BE68 5390 0754 7034',
			currency: 'GBP'
		});
		const banks = await rows<{ id: string; currency: string }>(world, 'SELECT id, currency FROM bank_accounts');
		const of = (currency: string) => banks.find((one) => one.currency === currency)!.id;
		const settings = `/connect/connections/${ids.brackwater}/settings?/money`;
		const base = {
			capture: 'at once',
			schedule: 'weekly',
			clearingAccount: '5800',
			feeAccount: '6560',
			cutOff: '18:00'
		};
		expect(says(await desk.act(settings, { ...base, bankAccountId: of('GBP') }))).toMatch(/settles in EUR/);
		expect(says(await desk.act(settings, { ...base, clearingAccount: '9999' }))).toMatch(/no such account/);
		expect(says(await desk.act(settings, { ...base, cutOff: '25:00' }))).toMatch(/A time such as/);
		expect(says(await desk.act(settings, { ...base, bankAccountId: of('EUR') }))).toMatch(/kept/);
		const [account] = await world.at<{ rhythm?: string }[]>('brackwater', 'accounts');
		expect(account!.rhythm).toBe('WEEKLY');
		expect(says(await desk.act('/connect/bank-accounts?/remove', { id: of('EUR') }))).toMatch(/pays out to it/);
		expect(says(await desk.act('/connect/ledger?/remove', { number: '5800' }))).toMatch(/books on it/);
	});
	it('keep both statement lines within the processor’s limits', async () => {
		const path = `/connect/connections/${ids.brackwater}/settings?/descriptor`;
		expect(says(await desk.act(path, { descriptor: 'WREN ALDER', shortDescriptor: 'TOO LONG FOR IT' }))).toMatch(
			/at most 12 fit/
		);
		expect(says(await desk.act(path, { descriptor: 'WREN ALDER', shortDescriptor: 'WREN' }))).toMatch(/will say WREN/);
	});
});

describe('offline methods of every kind', () => {
	it('are cleaned of what does not belong, kept, offered, chosen and read by the payer', async () => {
		const made = await desk.act('/connect/offline/new?kind=cash', {
			kind: 'cash',
			name: 'Cash when you collect',
			currencies: 'EUR',
			instructions:
				'<p>At the <b>counter</b>, see <a href="https://wrenalder.example/find" onclick="x()">here</a><script>alert(1)</script><img src=x onerror=x()> <a href="javascript:x()">no</a></p>',
			afterNote: 'Please bring the sum.',
			pictureCode: 'https://pay.example/wren',
			referenceStyle: 'none',
			termDays: '7',
			followUp: 'Front desk'
		});
		const id = /offline\/([^?]+)/.exec(made.location!)![1]!;
		const [row] = await rows<{ instructions: string }>(
			world,
			`SELECT instructions FROM offline_methods WHERE id = '${id}'`
		);
		expect(row!.instructions).toContain('<strong>counter</strong>');
		for (const bad of ['script', 'onclick', 'onerror', 'javascript', '<img'])
			expect(row!.instructions).not.toContain(bad);
		const [till] = await rows<{ revision: number }>(
			world,
			`SELECT revision FROM lineup_versions WHERE state = 'draft' AND till_id = (SELECT id FROM tills WHERE slug = 'bow-shop')`
		);
		await desk.act('/accept/tills/bow-shop/offers/new?/save', {
			on: 'on',
			revision: String(till?.revision ?? 0),
			carrier: `offline:${id}:cash`,
			name: 'Cash',
			currencies: ['EUR'],
			boundCurrency: 'EUR',
			countryRule: 'any'
		});
		await desk.act('/accept/tills/bow-shop?/publish', { revision: String((till?.revision ?? 0) + 1), reason: '' });
		const to = await choose(await addressOf('18.00', 'C-1'), 'Cash');
		const shown = await page(to);
		expect(shown).toContain('<strong>counter</strong>');
		expect(shown).toContain('Code to scan');
		expect(shown).toContain('To be paid by');
		expect(await page(`/connect/offline/${id}`)).toContain('Chosen 1 times');
		expect(says(await desk.act(`/connect/offline/${id}?/remove`, {}))).toMatch(/offered at Bow shop/);
	});
	it('share a threshold, below which none is offered', async () => {
		const [row] = await rows<{ id: string }>(world, `SELECT id FROM offline_methods WHERE kind = 'cash'`);
		expect((await desk.act(`/connect/offline/${row!.id}?/common`, { common: 'five' })).type).toBe('failure');
		await desk.act(`/connect/offline/${row!.id}?/common`, { common: '20.00' });
		expect(await page(await addressOf('18.00', 'C-2'))).not.toContain('name:"Cash"');
		expect(await page('/accept/tills/bow-shop/ask?amount=18.00&currency=EUR')).toContain('set for all offline methods');
		await desk.act(`/connect/offline/${row!.id}?/common`, { common: '' });
	});
	it('refuse a message that the receipt has no room for', async () => {
		const answer = await desk.act('/connect/offline/new?kind=own', {
			kind: 'own',
			name: 'Barter',
			currencies: 'EUR',
			afterNote: 'word '.repeat(60),
			termDays: '5'
		});
		expect(JSON.stringify(answer.data)).toContain('Too long for the receipt');
	});
});
