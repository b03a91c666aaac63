import { Webhook } from 'standardwebhooks';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { createServer, type Server } from 'node:http';
import { connect, type AddressInfo } from 'node:net';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { freshFetch, makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

interface Arrival {
	id: number;
	event_id: string;
	state: string;
	tries: number;
	says: string;
	body: string;
}
const arrivals = (world: World) => rows<Arrival>(world, 'SELECT * FROM arrivals ORDER BY id');
const refused = (world: World) =>
	rows<{ reason: string; count: number }>(world, 'SELECT reason, count FROM refused_arrivals ORDER BY reason');

describe('a notification', () => {
	let world: World;
	let desk: Desk;
	let hook: { address: string; secret: string };
	beforeAll(async () => {
		world = await makeWorld();
		desk = new Desk(world);
		await desk.openWebShop();
		hook = (await world.control<{ address: string; secret: string }[]>('listeners'))[0]!;
		await until('the first one', async () => (await arrivals(world)).length === 1);
	});
	afterAll(() => world.end());

	const send = (
		id: string,
		body: string,
		{ at = new Date(), secret = hook.secret, address = hook.address, headers = {} as Record<string, string> } = {}
	) =>
		freshFetch(address, {
			method: 'POST',
			headers: {
				'content-type': 'application/json',
				'webhook-id': id,
				'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
				'webhook-signature': new Webhook(secret).sign(id, at, body),
				...headers
			},
			body
		});
	const event = (id: string, more: object = {}) =>
		JSON.stringify({ id, topic: 'listener.hello', at: new Date().toISOString(), ...more });

	it('that is forged gets 401, is counted and not stored', async () => {
		const before = (await arrivals(world)).length;
		expect(
			(
				await send('e-forged', event('e-forged'), {
					secret: `whsec_${Buffer.from('some other key that is long enough').toString('base64')}`
				})
			).status
		).toBe(401);
		expect((await freshFetch(hook.address, { method: 'POST', body: event('e-bare') })).status).toBe(401);
		await until('both counted', async () => (await refused(world)).length === 2);
		expect(await refused(world)).toEqual([
			{ reason: 'forged', count: 1 },
			{ reason: 'malformed', count: 1 }
		]);
		expect((await arrivals(world)).length).toBe(before);
	});
	it('that is old is refused, though its signature is right', async () => {
		expect((await send('e-old', event('e-old'), { at: new Date(Date.now() - 301_000) })).status).toBe(401);
		expect((await send('e-early', event('e-early'), { at: new Date(Date.now() + 400_000) })).status).toBe(401);
		await until('counted', async () => (await refused(world)).find((one) => one.reason === 'old')?.count === 2);
	});
	it('that comes twice, or fifty times at once, is stored once and answered 2xx each time', async () => {
		const before = (await arrivals(world)).length;
		const answers = await Promise.all(Array.from({ length: 50 }, () => send('e-double', event('e-double'))));
		expect(new Set(answers.map((one) => one.status))).toEqual(new Set([200]));
		expect((await send('e-double', event('e-double', { changed: true }))).status).toBe(200);
		expect((await arrivals(world)).length).toBe(before + 1);
	});
	it('for nobody, or far too large, is turned away', async () => {
		expect((await send('e-x', event('e-x'), { address: hook.address.replace(/[^/]+$/, 'nobody') })).status).toBe(404);
		expect((await send('e-large', event('e-large', { padding: 'x'.repeat(300_000) }))).status).toBe(413);
	});
	it('whose body drips for ten seconds is told that it did not come in time, and the next one is taken', async () => {
		const { hostname, port, pathname } = new URL(hook.address);
		const socket = connect({ host: hostname, port: Number(port) });
		let answer = '';
		socket.setEncoding('utf8').on('data', (text: string) => (answer += text));
		socket.on('error', () => {});
		const ended = new Promise<void>((done) => socket.once('close', () => done()));
		socket.write(`POST ${pathname} HTTP/1.1\r\nhost: ${hostname}\r\ncontent-length: 200\r\n\r\n{`);
		const dripping = setInterval(() => socket.write('x'), 500);
		expect((await send('e-beside', event('e-beside'))).status).toBe(200);
		await ended.finally(() => clearInterval(dripping));
		expect(answer).toMatch(/^HTTP\/1\.1 408 [\s\S]*It did not come in time\. Please send it again\.$/);
		expect((await send('e-behind', event('e-behind'))).status).toBe(200);
		expect((await arrivals(world)).filter((one) => /^e-be(side|hind)$/.test(one.event_id)).length).toBe(2);
	});
	it('is stored without a card number that somebody put into it', async () => {
		await send('e-number', event('e-number', { note: `paid with ${CARDS.approved}` }));
		const stored = (await arrivals(world)).find((one) => one.event_id === 'e-number')!;
		expect(stored.body).toContain('•••• 0007');
		expect(stored.body).not.toContain(CARDS.approved);
	});
	it('that does not fit waits, is tried again by fetching afresh, and holds up no other', async () => {
		await send('e-nonsense', '{"id":"e-nonsense","topic":7}');
		await until('put off', async () =>
			(await arrivals(world)).find((one) => one.event_id === 'e-nonsense' && one.state === 'retry' && one.tries >= 1)
		);
		await send('e-after', event('e-after'));
		await until('the next one done', async () =>
			(await arrivals(world)).find((one) => one.event_id === 'e-after' && one.state === 'done')
		);
		const stuck = (await arrivals(world)).find((one) => one.event_id === 'e-nonsense')!;
		expect(stuck.says).toMatch(/not its usual form/);
		const page = await (await desk.get(`/watch/arrivals/${stuck.id}`)).text();
		expect(page).toContain('Run again');
		const tries = stuck.tries;
		await desk.act(`/watch/arrivals/${stuck.id}`, {});
		await until(
			'run again',
			async () => (await arrivals(world)).find((one) => one.event_id === 'e-nonsense')!.tries !== tries
		);
	});
	it('moves the payment, whoever is first to tell: answer, notification or a gap filled later', async () => {
		const payer = new Desk(world);
		await world.faults({ silent: true });
		await payer.giveCard(await desk.address('84.50', 'WA-60'), CARDS.approved);
		await world.control('night', { mode: 'live', step: 'settle' });
		await world.faults({ silent: false });
		await until(
			'settled',
			async () =>
				(await rows<{ stage: string }>(world, `SELECT stage FROM payments WHERE reference = 'WA-60'`))[0]?.stage ===
				'settled'
		);
		await world.control('night', { mode: 'live', step: 'pay out' });
		await until(
			'paid out',
			async () =>
				(
					await rows<{ stage: string; reached_step: number }>(
						world,
						`SELECT stage, reached_step FROM payments WHERE reference = 'WA-60'`
					)
				)[0]?.reached_step === 4
		);
		expect(await rows(world, `SELECT kind, COUNT(*) AS n FROM payment_events GROUP BY kind ORDER BY kind`)).toEqual(
			['captured', 'paid out', 'requested', 'settled'].map((kind) => ({ kind, n: 1 }))
		);
	});
	it('that comes twice is counted as a double, and not among what was refused', async () => {
		const count = async () => (await refused(world)).find((one) => one.reason === 'double')?.count ?? 0;
		await until('they are counted', async () => (await count()) >= 50);
		const page = await desk.data<{ refused: { reason: string }[] }>('/watch');
		expect(page.refused.some((one) => one.reason === 'double')).toBe(false);
		const pulse = await desk.data<{ rows: { doubles: string }[] }>('/watch/pulse');
		expect(Number(pulse.rows[0]!.doubles)).toBe(await count());
	});
	it('is found by words of its payload, the beginning of the last one too, but not by a card number', async () => {
		await send('e-words', event('e-words', { note: 'Rosin for Zoë, lot 4711-B' }));
		await until('it is done', async () =>
			(await arrivals(world)).some((one) => one.event_id === 'e-words' && one.state === 'done')
		);
		const found = async (text: string) =>
			(await desk.data<{ arrivals: { id: number }[] }>(`/watch?find=${encodeURIComponent(text)}`)).arrivals.map(
				(one) => one.id
			);
		const mine = (await arrivals(world)).find((one) => one.event_id === 'e-words')!.id;
		for (const text of ['rosin', 'ROSIN zoe', '4711-B', 'for ros', 'lot 47'])
			expect([text, await found(text)]).toEqual([text, [mine]]);
		expect(await found('violin')).toEqual([]);
		expect(await found('"*:( NEAR')).toEqual([]);
		expect(await found(CARDS.approved)).toEqual([]);
	});
	it('is run again with all others of a span, and changes nothing twice', async () => {
		const before = await rows(world, 'SELECT kind, object FROM payment_events ORDER BY id');
		const day = (ms: number) => new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/Brussels' }).format(ms);
		const [connection] = await rows<{ id: string }>(world, 'SELECT id FROM connections');
		const answer = await desk.act('/watch?/again', {
			connection: connection!.id,
			from: day(Date.now() - 86_400_000),
			to: day(Date.now())
		});
		expect((answer.data as { says: string }).says).toMatch(/^\d+ arrivals are run again/);
		await until('all are done again', async () =>
			(await arrivals(world)).filter((one) => one.event_id !== 'e-nonsense').every((one) => one.state === 'done')
		);
		expect(await rows(world, 'SELECT kind, object FROM payment_events ORDER BY id')).toEqual(before);
		expect(await desk.act('/watch?/again', { connection: 'nobody', from: '', to: '' })).toMatchObject({
			type: 'failure'
		});
	});
	it('is told to open screens as it comes', async () => {
		const page = await desk.get('/live', { accept: 'text/event-stream' });
		const reader = page.body!.pipeThrough(new TextDecoderStream()).getReader();
		await send('e-live', event('e-live'));
		let heard = '';
		await until('the stream', async () => (heard += (await reader.read()).value ?? '').includes('data: arrivals'));
		await reader.cancel();
	});
	it('is told to a screen that was loaded before it came and listens only after it', async () => {
		const { liveSince } = await desk.layout<{ liveSince: number }>('/takings');
		await send('e-gap', event('e-gap'));
		const page = await desk.get(`/live?since=${liveSince}`, { accept: 'text/event-stream' });
		const reader = page.body!.pipeThrough(new TextDecoderStream()).getReader();
		let heard = '';
		await until('the stream', async () => (heard += (await reader.read()).value ?? '').includes('data: arrivals'));
		await reader.cancel();
	});
});

describe('kill -9', () => {
	let world: World | undefined;
	let proxy: Server | undefined;
	afterEach(async () => {
		proxy?.closeAllConnections();
		await new Promise<void>((done) => (proxy ? proxy.close(() => done()) : done()));
		await world?.end();
		[world, proxy] = [undefined, undefined];
	});

	/** A payment taken while Fernhall says nothing; then the listener is led through a gate of the test. */
	async function silentPayment(): Promise<World> {
		world = await makeWorld();
		const desk = new Desk(world);
		await desk.openWebShop();
		await until(
			'the first notification worked on',
			async () => (await arrivals(world!)).some((one) => one.state === 'done'),
			20_000
		);
		await world.faults({ silent: true });
		await new Desk(world).giveCard(await desk.address('84.50', 'WA-70'), CARDS.approved);
		await world.control('night', { mode: 'live', step: 'settle' });
		return world;
	}
	/** The application again, so that it waits for ever at one point: however slow the machine, the kill comes in time. */
	async function startHeld(world: World, env: Record<string, string>): Promise<void> {
		await world.app.kill();
		await world.app.start(env);
		await world.faults({ silent: false });
	}
	const deliveries = (world: World) =>
		world.control<{ topic: string; done: boolean; sending: boolean }[]>('deliveries');
	const settled = async (world: World) => {
		await until(
			'the payment to be settled',
			async () =>
				(await rows<{ stage: string }>(world, `SELECT stage FROM payments WHERE reference = 'WA-70'`))[0]?.stage ===
				'settled',
			30_000
		);
		expect(await rows(world, `SELECT kind, COUNT(*) AS n FROM payment_events GROUP BY kind ORDER BY kind`)).toEqual(
			['captured', 'requested', 'settled'].map((kind) => ({ kind, n: 1 }))
		);
		expect(await rows(world, `SELECT reference, taken FROM payments`)).toEqual([{ reference: 'WA-70', taken: 8450 }]);
	};

	it('between arrival and storing: nothing is lost, because nothing was answered', async () => {
		// arrivals wait for company until they are killed
		const world = await silentPayment();
		const before = (await arrivals(world)).length;
		await startHeld(world, { JUSTPURSE_GATHER_MS: '600000' });
		await until('it is being sent', async () => (await deliveries(world)).some((one) => one.sending));
		await world.app.kill();
		expect((await arrivals(world)).length).toBe(before);
		await world.app.start({ JUSTPURSE_GATHER_MS: '0' });
		await settled(world);
	});
	it('between storing and the answer: the sender tries again, and it is worked on once', async () => {
		world = await makeWorld();
		const target = new URL(world.app.address);
		const desk = new Desk(world);
		await desk.openWebShop();
		await new Desk(world).giveCard(await desk.address('84.50', 'WA-70'), CARDS.approved);
		await until('told', async () => (await arrivals(world!)).filter((one) => one.state === 'done').length === 2);
		const hook = (await world.control<{ address: string; secret: string }[]>('listeners'))[0]!;
		// a gate that lets a notification in, and kills the application the moment its answer comes out
		let answered = 0;
		proxy = createServer((request, response) => {
			const chunks: Buffer[] = [];
			request.on('data', (chunk: Buffer) => chunks.push(chunk));
			request.on('end', () => {
				void fetch(target.origin + request.url, {
					method: 'POST',
					headers: request.headers as Record<string, string>,
					body: Buffer.concat(chunks)
				})
					.then(async () => {
						answered++;
						await world!.app.kill();
						response.destroy();
					})
					.catch(() => response.destroy());
			});
		});
		await new Promise<void>((done) => proxy!.listen(0, '127.0.0.1', () => done()));
		const gate = `http://127.0.0.1:${(proxy.address() as AddressInfo).port}`;
		const at = new Date();
		// what Fernhall would have told of the payment, had it not been silent
		const made = (await world.control<{ topic: string; body: string }[]>('deliveries'))
			.map((one) => JSON.parse(one.body) as { topic: string; payment: object })
			.find((one) => one.topic === 'payment.taken')!.payment;
		const settledAt = new Date().toISOString();
		const body = JSON.stringify({
			id: 'e-kill',
			topic: 'money.settled',
			at: settledAt,
			payment: { ...made, settledAt }
		});
		const post = (origin: string) =>
			fetch(hook.address.replace(target.origin, origin), {
				method: 'POST',
				headers: {
					'content-type': 'application/json',
					'webhook-id': 'e-kill',
					'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
					'webhook-signature': new Webhook(hook.secret).sign('e-kill', at, body)
				},
				body
			});
		await expect(post(gate)).rejects.toThrow();
		expect(answered).toBe(1);
		expect((await arrivals(world)).filter((one) => one.event_id === 'e-kill')).toHaveLength(1);
		await world.app.start();
		expect((await post(target.origin)).status).toBe(200);
		await settled(world);
		expect((await arrivals(world)).filter((one) => one.event_id === 'e-kill')).toHaveLength(1);
	});
	it('between the answer and the work: what was stored is worked on after the start', async () => {
		const world = await silentPayment();
		await startHeld(world, { JUSTPURSE_WORK_DELAY_MS: '600000', JUSTPURSE_ROUND_MS: '600000' });
		await until('stored, and not worked on', async () => (await arrivals(world)).some((one) => one.state === 'stored'));
		await until('answered', async () =>
			(await deliveries(world)).some((one) => one.topic === 'money.settled' && one.done)
		);
		await world.app.kill();
		expect((await arrivals(world)).some((one) => one.state === 'stored')).toBe(true);
		await world.app.start({ JUSTPURSE_WORK_DELAY_MS: '0', JUSTPURSE_ROUND_MS: '300' });
		await settled(world);
	});
	it('between a charge and its answer: it is asked after at the next start, and charged once', async () => {
		world = await makeWorld();
		const desk = new Desk(world);
		await desk.openWebShop();
		const payer = new Desk(world);
		const address = await desk.address('84.50', 'WA-71');
		const [way, token] = [await payer.way(address, 'Card'), await payer.token(CARDS.approved)];
		await world.faults({ silent: true });
		const paying = payer.act(address, { way, token }).catch(() => undefined);
		// slow from the moment the charge is under way: the token was read before
		await until('the charge is begun', async () => (await rows(world!, `SELECT key FROM actions`)).length === 1);
		await world.app.kill();
		await paying;
		await world.app.start();
		expect((await payer.get(address)).status).toBe(303);
		await until(
			'the outcome',
			async () =>
				(await rows<{ stage: string }>(world!, `SELECT stage FROM payments WHERE reference = 'WA-71'`)).some((one) =>
					['captured', 'failed'].includes(one.stage)
				),
			45_000
		);
		const taken = (await world.control<unknown[]>('payments')).length;
		const [row] = await rows<{ stage: string }>(world, `SELECT stage FROM payments WHERE reference = 'WA-71'`);
		expect(row!.stage).toBe(taken ? 'captured' : 'failed');
	}, 90_000);
});

describe('Fernhall', () => {
	it('keeps its state over a restart, and sends on what it had not sent', async () => {
		const world = await makeWorld();
		const desk = new Desk(world);
		await desk.openWebShop();
		await world.faults({ silent: true });
		await new Desk(world).giveCard(await desk.address('84.50', 'WA-80'), CARDS.approved);
		const before = await world.control('payments');
		await world.restartFernhall();
		expect(await world.control('payments')).toEqual(before);
		await world.faults({ silent: false });
		await until(
			'what waited',
			async () => (await rows(world, `SELECT id FROM arrivals WHERE topic = 'payment.taken'`)).length === 1
		);
		await world.end();
	});
});

describe('a word that stands in very many', () => {
	let world: World;
	let desk: Desk;
	beforeAll(async () => {
		world = await makeWorld();
		desk = new Desk(world);
		await desk.openWebShop();
	});
	afterAll(() => world.end());
	it('is sought whole, page by page; one that stands in few is also the beginning of others', async () => {
		const [connection] = await rows<{ id: string }>(world, 'SELECT id FROM connections');
		const database = await openDatabase(world);
		const add = async (word: string, count: number) => {
			await database.run(
				`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
				 INSERT INTO arrivals (connection_id, event_id, received_at, headers, body, checks, state, tries, topic, done_at)
				 SELECT ?, ? || '-' || i, 1780000000000, '{}', '{"note":"' || ? || '"}', '[]', 'done', 1, 'word', 1780000000000 FROM n`,
				[count, connection!.id, word, word]
			);
			await database.run(
				`INSERT INTO arrivals_text (rowid, body) SELECT id, body FROM arrivals WHERE event_id LIKE ? || '-%'`,
				[word]
			);
		};
		for (const [word, count] of [
			['zebra', 120],
			['zebrafish', 3],
			['quokka', 4],
			['quokkas', 2]
		] as const)
			await add(word, count);
		await database.close();
		const page = (query: string) =>
			desk.data<{ arrivals: { id: number }[]; more: boolean; last: number }>(`/watch?${query}`);
		const seen: number[] = [];
		let before = '';
		for (;;) {
			const { arrivals: list, more, last } = await page(`find=zebra${before}`);
			seen.push(...list.map((one) => one.id));
			if (!more) break;
			before = `&before=${last}`;
		}
		expect([seen.length, new Set(seen).size]).toEqual([120, 120]);
		expect((await page('find=zebraf')).arrivals).toHaveLength(3);
		expect((await page('find=quokka')).arrivals).toHaveLength(6);
	});
});
