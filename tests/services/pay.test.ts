import { counted } from '../../src/lib/core/counted.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

interface Row {
	id: number;
	reference: string;
	stage: string;
	minor: number;
	taken: number;
	refunded: number;
	refundable: number;
	expected_fee: number | null;
	charged_fee: number | null;
	net: number | null;
	reached_step: number;
	creditor_reference: string;
	token: string;
}

let world: World;
let desk: Desk;
let payer: Desk;
beforeAll(async () => {
	world = await makeWorld();
	desk = new Desk(world);
	payer = new Desk(world);
	await desk.openWebShop();
});
afterAll(() => world.end());

const payment = async (reference: string): Promise<Row> =>
	(
		await rows<Row>(
			world,
			'SELECT p.*, r.token, r.next, r.details FROM payments p LEFT JOIN payment_requests r ON r.payment_id = p.id WHERE p.reference = ? ORDER BY p.id DESC',
			[reference]
		)
	)[0]!;
const charged = async () =>
	(await world.control<{ ours: string; state: string }[]>('payments')).filter((one) => one.state === 'taken').length;

describe('the address of a payer', () => {
	it('cannot be altered, broken or guessed', async () => {
		const address = await desk.address('84.50', 'WA-1');
		const cases: [string, RegExp][] = [
			[address.replace('84.50', '8.45'), /was changed after it was made/],
			[address.replace('sign=', 'sign=x'), /was changed after it was made/],
			[address.replace(/&sign=.*/, ''), /is not signed/],
			[address.replace('ana', '%ZZ'), /damaged/],
			[address.replace('reference=', 'reference=A&reference='), /twice/]
		];
		for (const [altered, pattern] of cases) {
			const answer = await payer.get(altered);
			expect([answer.status, await answer.text()]).toEqual([400, expect.stringMatching(pattern)]);
		}
		expect((await payer.get('/pay/nowhere?amount=1.00')).status).toBe(404);
		expect(await rows(world, 'SELECT id FROM payments')).toEqual([]);
	});
	it.each([
		['84.505', 'EUR', /2 decimals/],
		['12800.50', 'JPY', /no decimals/],
		['-5.00', 'EUR', /negative/],
		['0.00', 'EUR', /zero/],
		['99999999999999.00', 'EUR', /too large/],
		['eighty', 'EUR', /not an amount/],
		['10.00', 'CHF', /takes EUR, GBP, JPY, not CHF/]
	])('is not built for %s %s', async (amount, currency, pattern) => {
		const answer = await desk.act('/accept/tills/web-shop/address', { amount, currency, reference: 'WA-1' });
		expect([answer.type, JSON.stringify(answer.data)]).toEqual(['failure', expect.stringMatching(pattern)]);
	});
	it('carries any name and any mail as it was', async () => {
		const address = await desk.address('84.50', 'WA 2/ü', 'EUR', {
			name: 'Zoë & “Bram” 花',
			mail: 'a+b@payer.example',
			purpose: '100% = x?'
		});
		const page = await (await payer.get(address)).text();
		expect(page).toContain('Zoë &amp; “Bram” 花, a+b@payer.example');
		expect(page).toContain('Order WA 2/ü, 100% = x?');
	});
});

describe('a card', () => {
	it('is charged once, priced, and told of', async () => {
		const address = await desk.address('84.50', 'WA-10');
		const answer = await payer.giveCard(address, CARDS.approved);
		expect(answer).toMatchObject({ type: 'redirect', location: expect.stringMatching(/^\/paid\//) });
		expect(await payment('WA-10')).toMatchObject({
			stage: 'captured',
			taken: 8450,
			expected_fee: 132,
			charged_fee: 132,
			net: 8318
		});
		// opened again, the address shows the receipt; the same form sent again charges nothing
		expect((await payer.get(address)).headers.get('location')).toBe(answer.location);
		const before = await charged();
		expect((await payer.act(address, { way: 'any', token: 'x' })).type).toBe('failure');
		expect(await charged()).toBe(before);
		await until(
			'told by notification too',
			async () =>
				(await rows(world, `SELECT id FROM arrivals WHERE topic = 'payment.taken' AND state = 'done'`)).length === 1
		);
		expect(
			await rows(
				world,
				`SELECT kind FROM payment_events WHERE payment_id = (SELECT id FROM payments WHERE reference = 'WA-10') ORDER BY id`
			)
		).toEqual([{ kind: 'requested' }, { kind: 'captured' }]);
	});
	it('is charged once when two tabs pay at the same time', async () => {
		const address = await desk.address('15.00', 'WA-11');
		const way = await payer.way(address, 'Card');
		const tokens = await Promise.all([
			payer.token(CARDS.approved),
			payer.token(CARDS.approved),
			payer.token(CARDS.approved)
		]);
		const before = await charged();
		const answers = await Promise.all(tokens.map((token) => payer.act(address, { way, token })));
		expect(answers.map((one) => one.type)).toEqual(['redirect', 'redirect', 'redirect']);
		expect(new Set(answers.map((one) => one.location)).size).toBe(1);
		expect(await charged()).toBe(before + 1);
	});
	it('that is declined leaves the order open for another one', async () => {
		const address = await desk.address('31.00', 'WA-12');
		const answer = await payer.giveCard(address, CARDS.declined);
		expect(answer).toMatchObject({
			type: 'failure',
			status: 402,
			data: {
				says: 'Card declined: there was not enough money. Nothing was charged. Try another card, or choose another way.'
			}
		});
		expect(await payment('WA-12')).toMatchObject({ stage: 'failed', taken: 0 });
		expect((await payer.giveCard(address, CARDS.approved)).type).toBe('redirect');
		expect(
			(await rows<Row>(world, `SELECT * FROM payments WHERE reference = 'WA-12'`)).map((one) => one.stage)
		).toEqual(['failed', 'captured']);
	});
	it('whose type is not taken is refused before any charge, and counted', async () => {
		const address = await desk.address('44.00', 'WA-13');
		const before = (await world.control<unknown[]>('payments')).length;
		const answer = await payer.giveCard(address, CARDS.commercial);
		expect(answer).toMatchObject({
			type: 'failure',
			status: 422,
			data: {
				says: expect.stringMatching(
					/does not take this kind of card \(Corvid, business card, ending in 0000\)\. Nothing was charged/
				)
			}
		});
		expect((await world.control<unknown[]>('payments')).length).toBe(before);
		expect(await rows(world, `SELECT id FROM payments WHERE reference = 'WA-13'`)).toEqual([]);
		expect(await rows(world, `SELECT kind, minor FROM unmet WHERE reference = 'WA-13'`)).toEqual([
			{ kind: 'card type', minor: 4400 }
		]);
	});
	it('in another currency is priced at the day’s rate, as Fernhall prices it', async () => {
		await payer.giveCard(await desk.address('46.20', 'WA-14', 'GBP'), '9931300000000009');
		await payer.giveCard(await desk.address('12800', 'WA-15', 'JPY'), '9901400000000003');
		for (const reference of ['WA-14', 'WA-15']) {
			const row = await payment(reference);
			expect([reference, row.charged_fee]).toEqual([reference, row.expected_fee]);
			expect(row.expected_fee).toBeGreaterThan(0);
		}
	});
	it('number never reaches the application', () => {
		const files = ['purse.sqlite', 'purse.sqlite-wal']
			.map((name) => readFileSync(join(world.app.folder, name), 'latin1'))
			.join('');
		for (const number of [CARDS.approved, CARDS.declined, CARDS.commercial]) {
			expect(files).not.toContain(number);
			expect(world.app.output).not.toContain(number);
		}
	});
	it('charged wrongly shows as a difference', async () => {
		await world.faults({ wrongFee: true });
		await payer.giveCard(await desk.address('100.00', 'WA-16'), CARDS.regional);
		await world.faults({ wrongFee: false });
		// 1.55 % + 0.18 promised, 2.95 % + 0.22 charged
		expect(await payment('WA-16')).toMatchObject({ expected_fee: 173, charged_fee: 317 });
		// what the fee check makes of it stands on the first page, and leads to the case
		await until('the fee check tells it', async () => {
			const text = await (await desk.get('/needs-you')).text();
			return text.includes('Charged otherwise than agreed') && text.includes('1.44 EUR');
		});
	});
});

describe('money back', () => {
	it('goes back in part, in whole, and never twice', async () => {
		await payer.giveCard(await desk.address('84.50', 'WA-20'), CARDS.approved);
		const { id } = await payment('WA-20');
		const path = `/takings/payments/${id}`;
		const refund = (amount: string, key: string) => desk.act(`${path}?/refund`, { amount, key });
		expect(await refund('30.00', 'refund-key-1')).toMatchObject({
			type: 'success',
			data: { says: '30.00 EUR refunded through Fernhall.' }
		});
		expect(await refund('30.00', 'refund-key-1')).toMatchObject({
			data: { says: expect.stringContaining('not refunded twice') }
		});
		expect(await refund('31.00', 'refund-key-1')).toMatchObject({
			type: 'failure',
			data: { refundWrong: expect.stringContaining('another refund'), amount: '31.00' }
		});
		expect(await refund('54.51', 'refund-key-2')).toMatchObject({
			type: 'failure',
			data: { refundWrong: 'At most 54.50 EUR is left to refund.' }
		});
		expect(await payment('WA-20')).toMatchObject({
			stage: 'part refunded',
			refunded: 3000,
			expected_fee: 91,
			charged_fee: 91
		});
		expect((await refund('54.50', 'refund-key-3')).type).toBe('success');
		expect(await payment('WA-20')).toMatchObject({
			stage: 'refunded',
			refunded: 8450,
			refundable: 0,
			expected_fee: 18,
			charged_fee: 18
		});
	});
	it('is heard of when it was given back at Fernhall’s console', async () => {
		await payer.giveCard(await desk.address('50.00', 'WA-21'), CARDS.approved);
		const made = (await world.control<{ id: string; minor: number }[]>('payments')).find((one) => one.minor === 5_000)!;
		const signIn = await fetch(`${world.fernhall.address}/console/sign-in`, {
			method: 'POST',
			body: new URLSearchParams({ mail: 'ilse@wrenalder.example', password: 'ferns-and-hall' }),
			redirect: 'manual'
		});
		await fetch(`${world.fernhall.address}/console/payments/${made.id}`, {
			method: 'POST',
			headers: { cookie: signIn.headers.getSetCookie()[0]!.split(';')[0]! },
			body: new URLSearchParams({ act: 'refund', sum: '20.00' }),
			redirect: 'manual'
		});
		await until('the refund to appear here', async () => (await payment('WA-21')).refunded === 2000);
	});
	it('whose answer is lost is held, asked after, and done once', async () => {
		await payer.giveCard(await desk.address('60.00', 'WA-22'), CARDS.approved);
		const { id } = await payment('WA-22');
		await world.faults({ loseAnswer: true });
		const answer = await desk.act(`/takings/payments/${id}?/refund`, { amount: '25.00', key: 'refund-key-9' });
		expect(answer.data?.says).toMatch(/not known yet/);
		await world.faults({ loseAnswer: false });
		await until(
			'the outcome',
			async () =>
				(await rows<{ state: string }>(world, `SELECT state FROM actions WHERE key = 'refund-key-9'`))[0]?.state ===
				'done'
		);
		expect(await payment('WA-22')).toMatchObject({ refunded: 2500 });
	});
});

describe('a charge whose answer is lost', () => {
	it('is asked after, and nothing else begins meanwhile', async () => {
		const address = await desk.address('70.00', 'WA-30');
		// nothing tells what became of it, however long the machine takes to get on
		await world.faults({ loseAnswer: true, keepsOutcomes: true, silent: true });
		const answer = await payer.giveCard(address, CARDS.approved);
		const page = await (await payer.get(answer.location!)).text();
		expect(page).toContain('whether you were charged');
		expect((await payer.get(address)).headers.get('location')).toBe(answer.location);
		await world.faults({ loseAnswer: false, keepsOutcomes: false, silent: false });
		await until('the outcome', async () => (await payment('WA-30')).stage === 'captured');
		expect((await rows<Row>(world, `SELECT id FROM payments WHERE reference = 'WA-30'`)).length).toBe(1);
		expect((await world.control<{ minor: number }[]>('payments')).filter((one) => one.minor === 7_000).length).toBe(1);
		expect(await (await payer.get(answer.location!)).text()).toContain('Paid, thank you');
	});
	it('that never came is closed at Fernhall, so that a late one does nothing, and may be paid again', async () => {
		const address = await desk.address('71.00', 'WA-31');
		const token = await payer.token(CARDS.approved);
		const way = await payer.way(address, 'Card');
		// every answer waits past our patience: the charge is still on its way when it is asked after
		await world.faults({ slow: 10_600 });
		const waiting = payer.act(address, { way, token });
		await new Promise((next) => setTimeout(next, 200));
		// the reading of the token is let through, the charge is not
		const answer = await waiting;
		await world.faults({ slow: 0 });
		expect(answer).toMatchObject({ type: 'failure', status: 502 });
		expect(JSON.stringify(answer.data)).toContain('Nothing was charged');
		expect((await payer.giveCard(address, CARDS.approved)).type).toBe('redirect');
		expect((await world.control<{ minor: number }[]>('payments')).filter((one) => one.minor === 7_100).length).toBe(1);
	});
});

describe('a credit transfer', () => {
	it('waits under a reference of its own, and takes what came: part, whole, too much, taken back', async () => {
		const address = await desk.address('240.00', 'WA-40');
		const way = await payer.way(address, 'Credit transfer');
		const chosen = await payer.act(address, { way });
		expect((await payer.act(address, { way })).location).toBe(chosen.location);
		const page = await (await payer.get(chosen.location!)).text();
		const row = await payment('WA-40');
		expect(row.creditor_reference).toMatch(/^RF\d\dWA40\d+$/);
		for (const text of [
			'BE68 5390 0754 7034',
			row.creditor_reference.replace(/(.{4})(?=.)/g, '$1 '),
			'data:image/png;base64,',
			'Wren &amp; Alder Strings'
		])
			expect(page).toContain(text);
		const record = (amount: string, key: string, more: Record<string, string> = {}) =>
			desk.act(`/takings/payments/${row.id}?/receive`, {
				amount,
				how: 'credit transfer',
				day: new Date().toISOString().slice(0, 10),
				note: 'statement 12',
				key,
				...more
			});
		expect((await record('100,00', 'receipt-1')).data?.says).toMatch(/140.00 EUR is still missing/);
		expect((await record('100,00', 'receipt-1')).data?.says).toMatch(/not recorded twice/);
		expect(await payment('WA-40')).toMatchObject({ stage: 'part received', taken: 10_000 });
		const over = await record('150.00', 'receipt-2', { how: 'cash' });
		expect(over.data?.says).toMatch(/10.00 EUR more than asked/);
		expect(await payment('WA-40')).toMatchObject({ stage: 'received', taken: 25_000 });
		await desk.act(`/takings/payments/${row.id}?/reverse`, { event: String(over.data?.undo) });
		// what was recorded by mistake stays to be seen
		expect(
			(await rows<{ kind: string }>(world, `SELECT kind FROM payment_events WHERE payment_id = ?`, [row.id])).map(
				(one) => one.kind
			)
		).toEqual(expect.arrayContaining(['received', 'receipt reversed']));
		expect(await payment('WA-40')).toMatchObject({ stage: 'part received', taken: 10_000 });
		expect(await record('5.00', 'receipt-3', { day: '2999-01-01' })).toMatchObject({
			type: 'failure',
			data: { receiveWrong: '01/01/2999 has not come yet.', typed: { amount: '5.00' } }
		});
		expect(
			(await rows(world, `SELECT id FROM audit WHERE object_kind = 'payment' AND object_id = ?`, [String(row.id)]))
				.length
		).toBe(3);
	});
	it('is not offered below its limit, nor in another currency', async () => {
		await expect(payer.way(await desk.address('19.99', 'WA-41'), 'Credit transfer')).rejects.toThrow();
		await expect(payer.way(await desk.address('50.00', 'WA-42', 'GBP'), 'Credit transfer')).rejects.toThrow();
		expect(await payer.way(await desk.address('20.00', 'WA-43'), 'Credit transfer')).toBeTruthy();
	});
	it('is no longer waited for once the order is paid by card', async () => {
		const address = await desk.address('25.00', 'WA-44');
		await payer.act(address, { way: await payer.way(address, 'Credit transfer') });
		await payer.giveCard(address, CARDS.approved);
		expect(
			(await rows<Row>(world, `SELECT stage FROM payments WHERE reference = 'WA-44' ORDER BY id`)).map(
				(one) => one.stage
			)
		).toEqual(['voided', 'captured']);
	});
});

describe('an empty checkout', () => {
	it('says so, is counted once, and shows on the first page', async () => {
		const [row] = await rows<{ id: string }>(world, 'SELECT id FROM connections');
		await desk.act(`/connect/connections/${row!.id}?/pause`, {});
		const address = await desk.address('12.00', 'WA-50', 'GBP');
		for (let i = 0; i < 2; i++) expect(await (await payer.get(address)).text()).toContain('There is no way to pay');
		expect(await rows(world, `SELECT kind, minor FROM unmet WHERE reference = 'WA-50'`)).toEqual([
			{ kind: 'nothing offered', minor: 1200 }
		]);
		expect(await (await desk.get('/needs-you')).text()).toContain(
			'Payers met an empty checkout at Web shop this week.'
		);
		await desk.act(`/connect/connections/${row!.id}?/pause`, {});
		expect(await payer.way(address, 'Card')).toBeTruthy();
	});
	it('is not counted when an administrator looks, and nothing can be paid in a preview', async () => {
		const [row] = await rows<{ id: string }>(world, 'SELECT id FROM connections');
		await desk.act(`/connect/connections/${row!.id}?/pause`, {});
		const address = await desk.address('13.00', 'WA-52', 'GBP');
		await payer.get(`${address}&preview`);
		expect(await rows(world, `SELECT id FROM unmet WHERE reference = 'WA-52'`)).toEqual([]);
		await desk.act(`/connect/connections/${row!.id}?/pause`, {});
		const way = await payer.way(address, 'Card');
		const answer = await payer.act(`${address}&preview`, { way, token: await payer.token(CARDS.approved) });
		expect(answer).toMatchObject({ type: 'failure', data: { says: 'This is a preview: nothing is paid here.' } });
		expect(await rows(world, `SELECT id FROM payments WHERE reference = 'WA-52'`)).toEqual([]);
	});
	it('a failing processor is noticed after five technical errors, and again sound by a probe', async () => {
		const address = await desk.address('12.00', 'WA-51', 'GBP');
		const way = await payer.way(address, 'Card');
		await world.faults({ errors: true });
		for (let i = 0; i < 5; i++) expect((await payer.act(address, { way, token: `none-${i}` })).status).toBe(502);
		expect(await (await payer.get(address)).text()).toContain('There is no way to pay');
		await world.faults({ errors: false });
		const [row] = await rows<{ id: string }>(world, 'SELECT id FROM connections');
		for (let i = 0; i < 3; i++) await desk.act(`/connect/connections/${row!.id}?/reread`, {});
		expect(await payer.way(address, 'Card')).toBeTruthy();
		expect(
			(await rows<{ change: string }>(world, 'SELECT change FROM connection_changes ORDER BY id')).map(
				(one) => one.change
			)
		).toEqual(['failing', 'sound']);
	});
});

describe('a draft', () => {
	it('is not overwritten unseen by somebody else', async () => {
		const order = async () =>
			(
				await rows<{ offers: string }>(
					world,
					`SELECT offers FROM lineup_versions WHERE state IN ('draft', 'published') ORDER BY state LIMIT 1`
				)
			)[0]!;
		const ids = (JSON.parse((await order()).offers) as { id: string }[]).map((one) => one.id);
		expect(
			(await desk.act('/accept/tills/web-shop?/order', { revision: '0', order: [...ids].reverse().join(' ') })).type
		).toBe('success');
		const late = await desk.act('/accept/tills/web-shop?/order', { revision: '0', order: ids.join(' ') });
		expect(late).toMatchObject({
			type: 'failure',
			status: 409,
			data: { trouble: expect.stringContaining('Nothing was overwritten') }
		});
		expect((JSON.parse((await order()).offers) as { id: string }[]).map((one) => one.id)).toEqual([...ids].reverse());
		expect((await desk.act('/accept/tills/web-shop?/publish', { revision: '1', reason: 'transfer first' })).type).toBe(
			'success'
		);
		expect((await desk.act('/accept/tills/web-shop/history', { number: '1' })).data?.says).toMatch(
			/Version 3 is in force/
		);
	});
	it('that would empty a currency is published only with a reason', async () => {
		const versions = await rows<{ offers: string }>(
			world,
			`SELECT offers FROM lineup_versions WHERE state = 'published'`
		);
		const card = (JSON.parse(versions[0]!.offers) as { id: string; method: string }[]).find(
			(one) => one.method === 'card'
		)!;
		await desk.act(`/accept/tills/web-shop/offers/${card.id}?/remove`, { revision: '0', name: 'Card', carrier: 'x' });
		const refused = await desk.act('/accept/tills/web-shop?/publish', { revision: '1', reason: '' });
		expect(JSON.stringify(refused.data)).toContain('Nothing would be offered in: GBP, any amount · JPY, any amount');
		expect((await desk.act('/accept/tills/web-shop?/discard', { revision: '1' })).type).toBe('success');
	});
});

describe('side by side', () => {
	it('counts what happened at our own tills: refunds with what they give back, and declined attempts', async () => {
		const shown = async (query = '') => {
			for (;;) {
				const text = (await (await desk.get(`/connect/compare${query}`)).text()).replace(/<!--.*?-->/g, '');
				if (!text.includes('Pricing the payments')) return text;
				await new Promise((next) => setTimeout(next, 50));
			}
		};
		const [told] = await rows<{ refunded: number; failed: number; captured: number }>(
			world,
			`SELECT (SELECT COUNT(*) FROM payments WHERE refunded > 0 AND captured_at IS NOT NULL AND connection_id IS NOT NULL) AS refunded,
			 (SELECT COUNT(DISTINCT payment_id) FROM payment_events JOIN payments p ON p.id = payment_id
			  WHERE kind = 'failed' AND p.connection_id IS NOT NULL) AS failed,
			 (SELECT COUNT(*) FROM payments WHERE captured_at IS NOT NULL AND taken > 0 AND connection_id IS NOT NULL) AS captured`
		);
		expect(Math.min(told!.refunded, told!.failed)).toBeGreaterThan(0);
		const page = await shown();
		expect(page).toContain(`${told!.captured} captured payments`);
		expect(page).toContain(`${told!.refunded} refunds`);
		expect(page).toContain(counted(told!.failed, 'declined attempt', 'en-GB'));
		const declined = await shown('?look=declined');
		expect(declined).toContain('Web shop');
		expect(declined).toContain('not enough money');
		// what a refund gave back is told beside the fee of its payment
		const [connection] = await rows<{ id: string }>(world, `SELECT id FROM connections WHERE processor = 'fernhall'`);
		expect(await shown(`?look=${connection!.id}~method~card`)).toMatch(
			/84\.50 EUR refunded[\s\S]*1\.32 EUR, 1\.14 EUR back/
		);
	});
});
