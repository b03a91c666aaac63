import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { CARDS } from '../world/steps.ts';
import { freshFetch, makeWorld, type World } from '../world/index.ts';

let world: World;
let desk: Desk;
let token: string;
beforeAll(async () => {
	world = await makeWorld();
	desk = new Desk(world);
	await desk.setUp();
	await desk.openWebShop();
	token = await desk.makeToken('shop');
});
afterAll(() => world.end());

const call = (method: string, path: string, body: unknown, headers: Record<string, string> = {}) =>
	freshFetch(`${world.app.address}/api/v1${path}`, {
		method,
		headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json', ...headers },
		...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) })
	});
const order = (reference: string, more: object = {}) => ({
	till: 'web-shop',
	currency: 'EUR',
	amountMinor: 4_990,
	reference,
	...more
});
const checkout = (body: unknown, headers: Record<string, string> = {}) => call('POST', '/checkouts', body, headers);
interface Told {
	title: string;
	detail: string;
	faults?: { pointer: string; detail: string }[];
}
const ordersOf = (reference: string) =>
	rows<{ id: number; minor: number; replaced_by: number | null }>(
		world,
		'SELECT id, minor, replaced_by FROM orders WHERE reference = ? ORDER BY id',
		[reference]
	);

describe('a reference', () => {
	it('is one order at its till: another sum is a conflict, and told at the desk', async () => {
		expect((await checkout(order('DAY-2'))).status).toBe(201);
		expect((await checkout(order('DAY-2'))).status).toBe(200);
		const other = await checkout(order('DAY-2', { amountMinor: 4_991 }));
		expect([other.status, other.headers.get('content-type')]).toEqual([409, 'application/problem+json']);
		expect(((await other.json()) as Told).detail).toMatch(/49\.90|replace/);
		expect(await ordersOf('DAY-2')).toHaveLength(1);
		expect(
			JSON.stringify(
				await desk.act('/accept/tills/web-shop/address', { amount: '49.91', currency: 'EUR', reference: 'DAY-2' })
			)
		).toContain('is an order of');
	});
	it('of another payer is another order, and a conflict as well', async () => {
		expect((await checkout(order('DAY-3', { name: 'Ana Müller' }))).status).toBe(201);
		expect((await checkout(order('DAY-3', { name: 'Ana Mueller' }))).status).toBe(409);
	});
	it('is taken over by a later order that says so, and the old address says that it was replaced', async () => {
		const first = (await (await checkout(order('DAY-4'))).json()) as { address: string };
		const second = await checkout(order('DAY-4', { amountMinor: 5_000, replace: true }));
		expect(second.status).toBe(201);
		expect((await ordersOf('DAY-4')).map((one) => [one.minor, one.replaced_by !== null])).toEqual([
			[4_990, true],
			[5_000, false]
		]);
		const old = await desk.get(first.address);
		expect([old.status, await old.text()]).toEqual([400, expect.stringContaining('was replaced')]);
		expect((await desk.get(((await second.json()) as { address: string }).address)).status).toBe(200);
	});
	it('of an order that is paid is never taken over', async () => {
		const { address } = (await (await checkout(order('DAY-5'))).json()) as { address: string };
		await desk.giveCard(address, CARDS.approved);
		const answer = await checkout(order('DAY-5', { amountMinor: 1, replace: true }));
		expect([answer.status, ((await answer.json()) as Told).detail]).toEqual([409, expect.stringMatching(/paid/)]);
		expect(await ordersOf('DAY-5')).toMatchObject([{ minor: 4_990, replaced_by: null }]);
	});
});

describe('a request under an Idempotency-Key', () => {
	const key = { 'idempotency-key': 'order-6-first-try' };
	it('is done once: again it gets the same answer, also fifty at once', async () => {
		const answers = await Promise.all(Array.from({ length: 20 }, () => checkout(order('DAY-6'), key)));
		const statuses = new Set(answers.map((one) => one.status));
		statuses.delete(409);
		expect([...statuses]).toEqual([201]);
		expect(await ordersOf('DAY-6')).toHaveLength(1);
		const again = await checkout(order('DAY-6'), key);
		expect([again.status, again.headers.get('idempotent-replayed')]).toEqual([201, 'true']);
		expect(again.headers.get('location')).toBe(
			`/api/v1/checkouts/${((await again.json()) as { checkout: number }).checkout}`
		);
	});
	it('is refused when the key was used for something else, and when it is no key', async () => {
		expect((await checkout(order('DAY-7'), key)).status).toBe(422);
		expect((await checkout(order('DAY-7'), { 'idempotency-key': 'short' })).status).toBe(400);
		expect(await ordersOf('DAY-7')).toEqual([]);
	});
});

describe('what is accepted once', () => {
	it.each([
		['line breaks', { purpose: 'strings\nand a bow' }],
		['a tab', { name: 'Ana\tMüller' }],
		['a mail of 250 letters', { payer: { mail: `${'a'.repeat(235)}@payer.example` } }],
		['a long name', { name: 'ü'.repeat(300) }],
		['a long purpose', { purpose: '花'.repeat(600) }],
		['a sum above all limits', { amountMinor: 9e15 }],
		['a broken country', { country: 'b' }]
	])('works to the end, or is refused at once: %s', async (name, more) => {
		const answer = await checkout(order(`TO-${name}`.slice(0, 30), more));
		if (answer.status === 201)
			expect((await desk.get(((await answer.json()) as { address: string }).address)).status).toBe(200);
		else
			expect([answer.status, ((await answer.json()) as Told).faults?.[0]?.pointer]).toEqual([422, expect.any(String)]);
	});
	it.each([
		['NUL', { reference: 'NUL-\0' }],
		['half of a pair', { purpose: '\ud83d' }],
		['10^12 in GBP', { amountMinor: 10 ** 12, currency: 'GBP' }],
		['10^12 in EUR', { amountMinor: 10 ** 12 }]
	])('is never an error of ours, and leaves nothing half-done: %s', async (_name, more) => {
		const before = (await rows(world, 'SELECT id FROM orders')).length;
		const answer = await checkout(order(`N-${_name}`, more));
		expect(answer.status).toBeLessThan(500);
		const kept = (await rows(world, 'SELECT id FROM orders')).length - before;
		expect(kept).toBe(answer.status === 201 ? 1 : 0);
	});
	it('is told in the till’s name as well', async () => {
		expect((await call('GET', '/tills/a%00b', undefined)).status).toBe(400);
	});
});

describe('a problem', () => {
	it.each([
		['a method that is not taken', 'DELETE', '/checkouts', undefined, 405],
		['a path that is nowhere', 'GET', '/nothing', undefined, 404],
		['a broken path', 'GET', '/tills/%E0%A4%A', undefined, 400],
		['a body that is too large', 'POST', '/checkouts', `"${'x'.repeat(1_500_000)}"`, 413]
	])('is told by RFC 9457: %s', async (_name, method, path, body, status) => {
		const answer = await call(method, path, body);
		expect([answer.status, answer.headers.get('content-type')]).toEqual([status, 'application/problem+json']);
		expect(await answer.json()).toMatchObject({
			type: expect.stringMatching(/^urn:just-purse:problem:[a-z-]+$/),
			status,
			title: expect.any(String)
		});
	});
	it('of a broken target that no library sends is told so too', async () => {
		const { hostname, port } = new URL(world.app.address);
		const answer = await new Promise<{ status: number; type: string }>((done, failed) => {
			request({ hostname, port, path: '/api/v1/tills/%ZZ', headers: { authorization: `Bearer ${token}` } }, (got) => {
				got.resume();
				done({ status: got.statusCode!, type: String(got.headers['content-type']) });
			})
				.on('error', failed)
				.end();
		});
		expect(answer).toEqual({ status: 400, type: 'application/problem+json' });
	});
	it('escapes what its pointers name', async () => {
		const { lineUp } = (await (await call('GET', '/tills/web-shop', undefined)).json()) as {
			lineUp: { offers: { routes: object }[] };
		};
		const odd = { kind: 'connection', name: 'Fernhall' };
		lineUp.offers[0]!.routes = { EUR: { first: odd }, 'a/b~c': { first: odd } };
		const answer = await call('PUT', '/tills/web-shop/draft', { revision: 0, lineUp });
		const { faults } = (await answer.json()) as Told;
		expect([answer.status, faults?.map((one) => one.pointer)]).toEqual([
			422,
			expect.arrayContaining(['/lineUp/offers/0/routes/a~1b~0c'])
		]);
	});
});
