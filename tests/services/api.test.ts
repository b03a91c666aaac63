import { createHash, createHmac } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { freshFetch, makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// A shop's day by the interface: orders are made, paid, looked after, refunded; nothing is done twice, nobody sees more than
// they may.

let world: World;
let desk: Desk;
let token: string;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { movesClock: true });
	desk = new Desk(world);
	await desk.openWebShop();
	token = await desk.makeToken('shop');
});
afterAll(() => world.end());

const call = async <T = Record<string, unknown>>(
	method: string,
	path: string,
	body?: object,
	{ by = token, headers = {} }: { by?: string; headers?: Record<string, string> } = {}
): Promise<{ status: number; body: T; headers: Headers }> => {
	const answer = await freshFetch(`${world.app.address}/api/v1${path}`, {
		method,
		headers: { authorization: `Bearer ${by}`, ...(body ? { 'content-type': 'application/json' } : {}), ...headers },
		...(body ? { body: JSON.stringify(body) } : {})
	});
	const text = await answer.text();
	return { status: answer.status, body: (text ? JSON.parse(text) : {}) as T, headers: answer.headers };
};
interface Checkout {
	checkout: number;
	address: string;
	state: string;
	paidMinor: number;
	payments: number[];
	metadata: object;
	outsideReference: string;
}
interface Payment {
	payment: number;
	stage: string;
	capturedMinor: number;
	refundedMinor: number;
	refundableMinor: number;
	expectedFeeMinor: number | null;
	chargedFeeMinor: number | null;
	transfer: { iban: string; reference: string; leftMinor: number } | null;
	acts: { act: string; can: boolean; why: string }[];
}
const order = (reference: string, more: object = {}) => ({
	till: 'web-shop',
	currency: 'EUR',
	amountMinor: 8_450,
	reference,
	...more
});
const make = async (reference: string, more: object = {}) => {
	const { body, status } = await call<Checkout>('POST', '/checkouts', order(reference, more));
	if (status !== 201) throw new Error(JSON.stringify(body));
	return body;
};
const read = async (id: number) => (await call<Checkout>('GET', `/checkouts/${id}`)).body;
const key = (name: string) => ({ headers: { 'idempotency-key': `day-${name}-000` } });

describe('a checkout', () => {
	it('tells that it was paid, by which payment, with its fees; its address has nothing of the payer in it', async () => {
		const made = await make('API-1', { name: 'Ana Müller', mail: 'ana@payer.example', metadata: { basket: '77' } });
		expect(made.address).toMatch(/\/pay\/web-shop\?order=\d+\.[\w-]{43}$/);
		expect(
			(await call('POST', '/checkouts', order('API-1', { name: 'Ana Müller', mail: 'ana@payer.example' }))).status
		).toBe(200);
		expect(await read(made.checkout)).toMatchObject({
			state: 'open',
			paidMinor: 0,
			payments: [],
			metadata: { basket: '77' },
			address: made.address
		});
		expect((await desk.giveCard(made.address, CARDS.approved)).type).toBe('redirect');
		const paid = await read(made.checkout);
		expect(paid).toMatchObject({ state: 'paid', paidMinor: 8_450, address: null });
		const { body: payment } = await call<Payment>('GET', `/payments/${paid.payments[0]}`);
		expect(payment).toMatchObject({
			stage: 'captured',
			capturedMinor: 8_450,
			expectedFeeMinor: 132,
			refundableMinor: 8_450
		});
		expect(payment.acts.find((one) => one.act === 'capture')).toMatchObject({
			can: false,
			why: 'It is captured already.'
		});
		const { body: list } = await call<{ payments: Payment[] }>('GET', '/payments?reference=API-1');
		expect(list.payments.map((one) => one.payment)).toEqual(paid.payments);
	});
	it('is told to its payer with lines and delivery, and is not asked for what the shop knows', async () => {
		const lines = [
			{ name: 'Strings', quantity: 2, amountMinor: 6_450 },
			{ name: 'Rosin', amountMinor: 2_000 }
		];
		const address = { name: 'Ana', street: 'Kouter 12', postcode: '9000', city: 'Gent', country: 'BE' };
		const wrong = await call<{ faults: { pointer: string }[] }>(
			'POST',
			'/checkouts',
			order('API-L0', { lines: lines.slice(1) })
		);
		expect([wrong.status, wrong.body.faults[0]!.pointer]).toEqual([422, '/lines']);
		const made = await make('API-L1', { lines, address, cancelTo: 'https://shop.wrenalder.example/basket' });
		const page = await (await desk.get(made.address)).text();
		for (const text of ['2 × Strings', '64.50', 'Kouter 12, 9000 Gent', 'https://shop.wrenalder.example/basket'])
			expect(page).toContain(text);
	});
	it('leads back to the shop with what became of it, signed so that the shop can check it', async () => {
		const made = await make('API-R1', { returnTo: 'https://shop.wrenalder.example/done?from=purse' });
		const { location } = await desk.giveCard(made.address, CARDS.approved);
		const page = await (await desk.get(location!)).text();
		const href = /href="(https:\/\/shop\.wrenalder\.example\/done[^"]+)"/.exec(page)![1]!.replaceAll('&amp;', '&');
		const back = new URL(href).searchParams;
		expect(Object.fromEntries(back)).toMatchObject({
			from: 'purse',
			checkout: String(made.checkout),
			reference: 'API-R1',
			state: 'paid'
		});
		const own = createHash('sha256').update(token).digest('hex');
		expect(back.get('sign')).toBe(
			createHmac('sha256', own).update([made.checkout, 'API-R1', 'paid'].join('\n')).digest('base64url')
		);
	});
	it('is cancelled while nothing was paid, and then takes no payment; one that is paid is not', async () => {
		const made = await make('API-C1');
		expect((await call<Checkout>('POST', `/checkouts/${made.checkout}/cancel`, {})).body.state).toBe('cancelled');
		expect((await desk.get(made.address)).status).toBe(400);
		expect((await call('POST', '/checkouts', order('API-C1'))).status).toBe(409);
		expect((await call('POST', '/checkouts', order('API-C1', { replace: true }))).status).toBe(201);
		const paid = await make('API-C2');
		await desk.giveCard(paid.address, CARDS.approved);
		expect((await call('POST', `/checkouts/${paid.checkout}/cancel`, {})).status).toBe(409);
		expect((await read(paid.checkout)).state).toBe('paid');
	});
	it('expires at its time, and takes no payment after it', async () => {
		const made = await make('API-E1', { expiresAt: new Date(Date.now() + 3_600_000).toISOString() });
		expect((await desk.get(made.address)).status).toBe(200);
		await desk.act('/needs-you?/pass', { step: 'day' });
		expect((await read(made.checkout)).state).toBe('expired');
		expect((await desk.get(made.address)).status).toBe(400);
		const past = await call('POST', '/checkouts', order('API-E2', { expiresAt: '2020-01-01T00:00:00Z' }));
		expect(past.status).toBe(422);
		expect(
			(await call<{ checkouts: Checkout[] }>('GET', '/checkouts?state=expired')).body.checkouts.map(
				(one) => one.checkout
			)
		).toEqual([made.checkout]);
	});
	it('is listed page by page, each once, the newest first', async () => {
		for (let n = 0; n < 7; n++) await make(`API-P${n}`);
		const seen: number[] = [];
		let cursor = '';
		do {
			const { body } = await call<{ checkouts: Checkout[]; next: string | null }>(
				'GET',
				`/checkouts?limit=3${cursor ? `&cursor=${cursor}` : ''}`
			);
			seen.push(...body.checkouts.map((one) => one.checkout));
			cursor = body.next ?? '';
		} while (cursor);
		const all = await rows<{ id: number }>(world, 'SELECT id FROM orders ORDER BY id DESC');
		expect(seen).toEqual(all.map((one) => one.id));
		for (const bad of ['limit=0', 'limit=x', 'cursor=y', 'state=gone'])
			expect((await call('GET', `/checkouts?${bad}`)).status).toBe(400);
	});
	it('takes the reference of an outside program', async () => {
		const made = await make('API-O1');
		const { body } = await call<Checkout>('PUT', `/checkouts/${made.checkout}/reference`, {
			outsideReference: 'BK-77120'
		});
		expect(body.outsideReference).toBe('BK-77120');
		expect((await desk.data<{ lines: unknown[] }>('/takings?q=BK-77')).lines).toEqual([]);
		await desk.giveCard(made.address, CARDS.approved);
		expect(
			(await desk.data<{ lines: { reference: string }[] }>('/takings?q=BK-77')).lines.map((one) => one.reference)
		).toEqual(['API-O1']);
	});
});

describe('what moves money', () => {
	it('needs a key, and is done once for it: a refund in parts, never more than is left', async () => {
		const made = await make('API-M1');
		await desk.giveCard(made.address, CARDS.approved);
		const [id] = (await read(made.checkout)).payments;
		const refund = (amountMinor: number | undefined, name: string) =>
			call<{ payment: Payment; detail: string }>(
				'POST',
				`/payments/${id}/refunds`,
				{ ...(amountMinor ? { amountMinor } : {}), reason: 'came back' },
				key(name)
			);
		expect((await call('POST', `/payments/${id}/refunds`, { amountMinor: 100 })).status).toBe(400);
		for (let n = 0; n < 3; n++) expect((await refund(3_000, 'm1')).body.payment.refundedMinor).toBe(3_000);
		expect((await refund(9_000, 'm2')).status).toBe(409);
		expect(await read(made.checkout)).toMatchObject({ state: 'part refunded', paidMinor: 5_450, address: null });
		expect((await refund(undefined, 'm3')).body.payment).toMatchObject({
			refundedMinor: 8_450,
			refundableMinor: 0,
			stage: 'refunded'
		});
		expect((await refund(undefined, 'm4')).status).toBe(409);
		expect(await read(made.checkout)).toMatchObject({ state: 'refunded', paidMinor: 0, address: null });
		const listed = async (state: string) =>
			(await call<{ checkouts: Checkout[] }>('GET', `/checkouts?limit=100&state=${state}`)).body.checkouts.map(
				(one) => one.checkout
			);
		expect([await listed('refunded'), (await listed('open')).includes(made.checkout)]).toEqual([
			[made.checkout],
			false
		]);
		const events = await rows<{ minor: number }>(
			world,
			`SELECT minor FROM payment_events WHERE payment_id = ? AND kind = 'refunded'`,
			[id]
		);
		expect(events.map((one) => one.minor).sort()).toEqual([3_000, 5_450]);
	});
	it('is recorded for a transfer, whose details are there for the shop’s own mail', async () => {
		const made = await make('API-T1');
		await desk.act(made.address, { way: await desk.way(made.address, 'Credit transfer') });
		const [id] = (await read(made.checkout)).payments;
		const { body: before } = await call<Payment>('GET', `/payments/${id}`);
		expect(before.transfer).toMatchObject({ leftMinor: 8_450, iban: expect.stringMatching(/^[A-Z]{2}\d\d /) });
		const receipt = (amountMinor: number, name: string) =>
			call<{ payment: Payment }>(
				'POST',
				`/payments/${id}/receipts`,
				{ amountMinor, how: 'credit transfer' },
				key(name)
			);
		expect((await receipt(5_000, 't1')).body.payment).toMatchObject({ stage: 'part received', capturedMinor: 5_000 });
		expect((await receipt(5_000, 't1')).body.payment.capturedMinor).toBe(5_000);
		expect((await receipt(3_450, 't2')).body.payment).toMatchObject({ stage: 'received', transfer: { leftMinor: 0 } });
		expect((await read(made.checkout)).state).toBe('paid');
	});
});

describe('a token', () => {
	it('is good for what it was made for, at its tills, until its day, and no longer', async () => {
		const little = await desk.makeToken('little', ['tills']);
		expect((await call('GET', '/tills', undefined, { by: little })).status).toBe(200);
		const refused = await call<{ code: string }>('GET', '/payments', undefined, { by: little });
		expect([refused.status, refused.body.code]).toEqual([403, 'not-allowed']);
		const test = await desk.makeToken('test', ['tills', 'checkouts', 'payments'], { mode: 'test' });
		expect((await call<{ tills: unknown[] }>('GET', '/tills', undefined, { by: test })).body.tills).toEqual([]);
		expect((await call('GET', '/tills/web-shop', undefined, { by: test })).status).toBe(404);
		expect((await call('POST', '/checkouts', order('API-X1'), { by: test })).status).toBe(404);
		expect((await call<{ payments: unknown[] }>('GET', '/payments', undefined, { by: test })).body.payments).toEqual(
			[]
		);
		const made = await make('API-X2');
		expect((await call('GET', `/checkouts/${made.checkout}`, undefined, { by: test })).status).toBe(404);
	});
	it('is rotated with both good for a week; what is revoked is taken back in one press', async () => {
		const first = await desk.makeToken('turning');
		const [{ id }] = (await rows<{ id: string }>(world, `SELECT id FROM tokens WHERE name = 'turning'`)) as [
			{ id: string }
		];
		const second = String((await desk.act('/accept/tokens?/rotate', { id })).data!.token);
		expect(second).not.toBe(first);
		const status = async (by: string) => (await call('GET', '/tills', undefined, { by })).status;
		expect([await status(first), await status(second)]).toEqual([200, 200]);
		await desk.act('/accept/tokens?/revoke', { id });
		expect([await status(first), await status(second)]).toEqual([401, 401]);
		await desk.act('/accept/tokens?/restore', { id });
		expect(await status(second)).toBe(200);
		for (let n = 0; n < 8; n++) await desk.act('/needs-you?/pass', { step: 'day' });
		await until('the clock has moved', async () => (await status(first)) === 401);
		expect(await status(second)).toBe(200);
	});
	it('tells how many requests are left, and a stranger who guesses is told to wait', async () => {
		const { headers } = await call('GET', '/tills');
		expect(Number(headers.get('ratelimit-limit'))).toBeGreaterThan(100);
		expect(Number(headers.get('ratelimit-remaining'))).toBeLessThan(Number(headers.get('ratelimit-limit')));
		const answers = await Promise.all(
			Array.from({ length: 90 }, (_, n) => call('GET', '/tills', undefined, { by: `jpt_${'x'.repeat(40)}${100 + n}` }))
		);
		const late = answers.filter((one) => one.status === 429);
		expect(late.length).toBeGreaterThan(20);
		expect(Number(late[0]!.headers.get('retry-after'))).toBeGreaterThan(0);
		// who has a good token is not kept out by them
		expect((await call('GET', '/tills')).status).toBe(200);
	});
});

describe('a draft', () => {
	it('is written by the ETag that was read, discarded, and an earlier version is put back', async () => {
		const till = () =>
			call<{ lineUp: object; draft: object | null; published: { version: number } }>('GET', '/tills/web-shop');
		const { body, headers } = await till();
		const etag = headers.get('etag')!;
		expect(etag).toBe('"0"');
		const put = (match: Record<string, string>) =>
			call('PUT', '/tills/web-shop/draft', { lineUp: body.lineUp }, { headers: match });
		expect((await put({})).status).toBe(428);
		expect((await put({ 'if-match': '"7"' })).status).toBe(412);
		expect((await put({ 'if-match': etag })).status).toBe(200);
		expect((await put({ 'if-match': etag })).status).toBe(412);
		expect((await call('DELETE', '/tills/web-shop/draft', undefined, { headers: { 'if-match': '"1"' } })).status).toBe(
			204
		);
		expect((await till()).body.draft).toBe(null);
		const back = await call<{ version: number }>('POST', '/tills/web-shop/versions/1/restore');
		expect([back.status, back.body.version]).toEqual([200, body.published.version + 1]);
		expect((await call('POST', '/tills/web-shop/versions/99/restore')).status).toBe(409);
	});
});
