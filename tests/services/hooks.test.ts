import { Webhook } from 'standardwebhooks';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { bodyOf, isHookEvent } from '../../src/lib/core/hooks/index.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { Listener, type Heard } from '../world/listener.ts';
import { CARDS } from '../world/steps.ts';

// Outgoing hooks: what a program of the business hears, whatever it answers and whoever is killed.

let world: World;
let desk: Desk;
const open: Listener[] = [];
const listen = async () => {
	const made = await Listener.open();
	open.push(made);
	return made;
};
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200', JUSTPURSE_PRIVATE_HOSTS: '127.0.0.1' });
	desk = new Desk(world);
	await desk.openWebShop();
});
afterEach(async () => {
	for (const one of open.splice(0)) await one.close();
	for (const { id } of await rows<{ id: number }>(world, `SELECT id FROM hook_endpoints WHERE state <> 'removed'`))
		await desk.act(`/watch/endpoints/${id}?/remove`, {});
});
afterAll(() => world.end());

const add = async (address: string, kinds: string[] = []) => {
	const answer = await desk.act('/watch/endpoints/new', {
		address,
		description: 'Stock',
		all: kinds.length ? 'no' : 'yes',
		kind: kinds
	});
	if (answer.type !== 'success') throw new Error(JSON.stringify(answer));
	return answer.data as unknown as { id: number; secret: string };
};
/** What lies in the past, and what happened elsewhere. */
const sql = async (text: string, given: unknown[]) => {
	const database = await openDatabase(world);
	await database.run(text, given);
	await database.close();
};
let order = 0;
const pay = async () => {
	const reference = `HK-${++order}`;
	await new Desk(world).giveCard(await desk.address('84.50', reference), CARDS.approved);
	await until('it is captured', async () => {
		const [told] = await rows<{ n: number }>(
			world,
			`SELECT COUNT(*) AS n FROM events e JOIN payments p ON p.id = e.object_id AND p.reference = ? WHERE e.kind = 'payment.captured'`,
			[reference]
		);
		return told!.n > 0;
	});
	return reference;
};
interface Delivery {
	id: number;
	kind: string;
	state: string;
	tries: number;
	says: string;
	next: number;
	event: number;
}
const deliveries = (endpoint: number) =>
	rows<Delivery>(
		world,
		`SELECT id, kind, state, tries, says, next_at AS next, event_id AS event FROM hook_deliveries WHERE endpoint_id = ? ORDER BY id`,
		[endpoint]
	);
const stateOf = async (endpoint: number) =>
	(
		await rows<{ state: string; says: string }>(world, 'SELECT state, says FROM hook_endpoints WHERE id = ?', [
			endpoint
		])
	)[0]!;

/** what was mailed to those who look after the application */
const subjects = async () =>
	(await rows<{ subject: string }>(world, `SELECT subject FROM outbox WHERE event = 'staff' ORDER BY id`)).map(
		(one) => one.subject
	);

describe('an endpoint', () => {
	it('hears of a payment, signed so that the library of Standard Webhooks verifies it, in the shape of its schema', async () => {
		const shop = await listen();
		const { secret } = await add(shop.address);
		await pay();
		await until('it hears', async () => shop.kinds().includes('payment.captured'));
		for (const { headers, body } of shop.heard) {
			const told = new Webhook(secret).verify(body, headers as Record<string, string>) as { type: string; id: string };
			expect(told.id).toBe(headers['webhook-id']);
			if (!isHookEvent(told.type)) throw new Error(`${told.type} is in no list`);
			expect(bodyOf(told.type).parse(told)).toEqual(told);
		}
		const captured = shop.heard.map((one) => JSON.parse(one.body)).find((one) => one.type === 'payment.captured');
		expect(captured.data).toMatchObject({ minor: 8_450, taken: 8_450, currency: 'EUR', method: 'card', mode: 'live' });
	});
	it('hears only of what it asked for, and of nothing from before it was there', async () => {
		await pay();
		const [last] = await rows<{ id: number }>(world, 'SELECT MAX(id) AS id FROM events');
		await until(
			'all of it is looked at',
			async () =>
				(await rows<{ done: number }>(world, `SELECT done FROM event_readers WHERE name = 'hooks'`))[0]!.done >=
				last!.id
		);
		const books = await listen();
		const { id } = await add(books.address, ['payment.captured', 'invoice.paid']);
		await pay();
		await until('it hears', async () => books.heard.length > 0);
		await pay();
		await until('it hears twice', async () => books.heard.length > 1);
		expect(books.kinds()).toEqual(['payment.captured', 'payment.captured']);
		const sequences = books.heard.map((one) => (JSON.parse(one.body) as { sequence: number }).sequence);
		expect(sequences[1]).toBeGreaterThan(sequences[0]!);
		await until('both are kept as delivered', async () =>
			(await deliveries(id)).every((one) => one.state === 'delivered')
		);
		expect(await deliveries(id)).toHaveLength(2);
	});
	it('is refused with what was typed, where its address is none, or nothing is chosen', async () => {
		for (const address of ['nowhere', 'ftp://shop.example/x', 'https://a:b@shop.example/'])
			expect(await desk.act('/watch/endpoints/new', { address, all: 'yes' })).toMatchObject({
				type: 'failure',
				status: 400,
				data: { typed: { address } }
			});
		expect(await desk.act('/watch/endpoints/new', { address: 'https://shop.example/', all: 'no' })).toMatchObject({
			data: { errors: { kinds: 'Choose at least one event.' } }
		});
	});
	it('in a private network is not called, unless the installation allows it by name', async () => {
		const { id } = await add('http://localhost:8099/');
		const answer = await desk.act(`/watch/endpoints/${id}?/test`, {});
		expect(answer).toMatchObject({ type: 'failure', data: { trouble: expect.stringContaining('private network') } });
	});
});

describe('a delivery that fails', () => {
	it('is tried again after five seconds with the same id and a new signature, and its log tells every answer', async () => {
		const shop = await listen();
		const { id, secret } = await add(shop.address, ['payment.captured']);
		shop.answers = () => (shop.heard.length === 1 ? 500 : 200);
		await pay();
		await until('it hears twice', async () => shop.heard.length === 2);
		const [first, second] = shop.heard as [Heard, Heard];
		expect(second.headers['webhook-id']).toBe(first.headers['webhook-id']);
		expect(second.body).toBe(first.body);
		expect(second.at - first.at).toBeGreaterThan(4_000);
		for (const { headers, body } of shop.heard) new Webhook(secret).verify(body, headers as Record<string, string>);
		await until('it is delivered', async () => (await deliveries(id))[0]!.state === 'delivered');
		const [delivery] = await deliveries(id);
		const page = await desk.data<{ looked: { body: string; tries: { says: string; status: number }[] } }>(
			`/watch/endpoints/${id}?delivery=${delivery!.id}`
		);
		expect(page.looked.tries.map((one) => one.says)).toEqual(['answered 500: The shelf is full', 'answered 200']);
		expect(page.looked.body).toBe(first.body);
	});
	it('by a redirect is not led on, and 410 switches the endpoint off', async () => {
		const shop = await listen();
		const { id } = await add(shop.address, ['payment.captured']);
		shop.answers = () => 302;
		await pay();
		await until('it was tried', async () => (await deliveries(id))[0]?.tries === 1);
		expect(shop.heard).toHaveLength(1);
		expect((await deliveries(id))[0]!.says).toContain('led on to');
		shop.answers = () => 410;
		await desk.act(`/watch/endpoints/${id}?/again`, { delivery: String((await deliveries(id))[0]!.id) });
		await until('it is off', async () => (await stateOf(id)).state === 'off');
		await until('that is mailed', async () => (await subjects()).includes(`${shop.address} is switched off`));
	});
	it('holds up no other endpoint, however long it hangs', async () => {
		const [hangs, works] = [await listen(), await listen()];
		hangs.answers = () => 'hang';
		await add(hangs.address, ['payment.captured']);
		await add(works.address, ['payment.captured']);
		for (let n = 0; n < 6; n++) await pay();
		await until('the other has all', async () => works.heard.length === 6);
		expect(hangs.heard.length).toBeLessThanOrEqual(4);
	});
	it('for three days pauses the endpoint, with a mail after a day and one at the end; switched on, all that waited comes', async () => {
		const shop = await listen();
		const { id } = await add(shop.address, ['payment.captured']);
		shop.answers = () => 503;
		await pay();
		await until('it was tried', async () => (await deliveries(id))[0]?.tries === 1);
		const ago = async (hours: number) => {
			await sql('UPDATE hook_endpoints SET failing_since = ? WHERE id = ?', [Date.now() - hours * 3_600_000, id]);
			const tries = (await deliveries(id))[0]!.tries;
			await sql('UPDATE hook_deliveries SET next_at = 0 WHERE endpoint_id = ?', [id]);
			await until('it was tried again', async () => (await deliveries(id))[0]!.tries > tries);
		};
		await ago(25);
		await until('that is mailed', async () => (await subjects()).includes(`Nothing reaches ${shop.address}`));
		expect((await stateOf(id)).state).toBe('on');
		await ago(73);
		await until('it is paused', async () => (await stateOf(id)).state === 'paused');
		await until('that is mailed too', async () => (await subjects()).includes(`${shop.address} is paused`));
		const before = shop.heard.length;
		await pay();
		await until('it is planned', async () => (await deliveries(id)).length === 2);
		expect(shop.heard.length).toBe(before);
		shop.answers = () => 200;
		await desk.act(`/watch/endpoints/${id}?/resume`, {});
		await until('all is delivered', async () => (await deliveries(id)).every((one) => one.state === 'delivered'));
	});
});

describe('a secret', () => {
	it('that is rotated stays good beside the new one', async () => {
		const shop = await listen();
		const { id, secret } = await add(shop.address, ['payment.captured']);
		const answer = await desk.act(`/watch/endpoints/${id}?/rotate`, {});
		const fresh = (answer.data as unknown as { secret: string }).secret;
		expect(fresh).not.toBe(secret);
		await pay();
		await until('it hears', async () => shop.heard.length === 1);
		const { headers, body } = shop.heard[0]!;
		for (const one of [secret, fresh]) new Webhook(one).verify(body, headers as Record<string, string>);
	});
	it('is in no trail, no page and no log', async () => {
		const shop = await listen();
		const { id, secret } = await add(shop.address);
		expect(JSON.stringify(await desk.data(`/watch/endpoints/${id}`))).not.toContain(secret);
		expect(JSON.stringify(await rows(world, 'SELECT * FROM audit'))).not.toContain(secret);
		expect(world.app.output).not.toContain(secret);
	});
});

describe('sending again', () => {
	it('sends a span: what was given up, or all that the endpoint wants, also from before it was there', async () => {
		await pay();
		// what happened before the endpoint was there is planned for nobody else any more
		await until(
			'all events are looked at',
			async () =>
				(await rows(world, `SELECT 1 FROM event_readers WHERE name = 'hooks' AND done = (SELECT MAX(id) FROM events)`))
					.length
		);
		const shop = await listen();
		const { id } = await add(shop.address, ['payment.captured']);
		const today = new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/Brussels' }).format(new Date());
		const all = await rows(world, `SELECT 1 FROM events WHERE kind = 'payment.captured'`);
		const answer = await desk.act(`/watch/endpoints/${id}?/again`, { from: today, to: today, what: 'all' });
		expect((answer.data as { says: string }).says).toContain(String(all.length));
		await until(
			'it has all',
			async () => new Set(shop.heard.map((one) => one.headers['webhook-id'])).size === all.length
		);
		expect(await desk.act(`/watch/endpoints/${id}?/again`, { from: '', to: today })).toMatchObject({
			type: 'failure',
			data: { trouble: 'Give a first and a last day, the first not after the last.' }
		});
	});
});

describe('kill -9', () => {
	it('loses no event and invents none: each is heard at least once', async () => {
		const shop = await listen();
		const { id } = await add(shop.address, ['payer.changed']);
		let made = 0;
		const more = async (count: number) => {
			await sql(
				`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
				 INSERT INTO events (kind, object_kind, object_id, at, payload) SELECT 'payer.changed', 'payer', 'k' || (? + i), ?, '{}' FROM n`,
				[count, made, Date.now()]
			);
			made += count;
		};
		for (let round = 0; round < 5; round++) {
			await more(200);
			const before = shop.heard.length;
			// somewhere on the way, wherever that is
			await until('some are heard', async () => shop.heard.length > before + 20 * round);
			await world.app.kill();
			await world.app.start();
		}
		await until(
			'all are delivered',
			async () => {
				const mine = await deliveries(id);
				return mine.length === made && mine.every((one) => one.state === 'delivered');
			},
			60_000
		);
		const heard = new Set(shop.heard.map((one) => (JSON.parse(one.body) as { object: { id: string } }).object.id));
		expect(heard.size).toBe(made);
		expect([...heard].every((one) => /^k\d+$/.test(one) && Number(one.slice(1)) <= made)).toBe(true);
	}, 120_000);
});
