import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { helloTo } from '../world/hello.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { Listener } from '../world/listener.ts';
import { CARDS } from '../world/steps.ts';

// A database that is locked for a while, and one that refuses to keep something: nothing is lost, and it goes on by itself.

let world: World;
let desk: Desk;
let hello: Awaited<ReturnType<typeof helloTo>>;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '200', JUSTPURSE_PRIVATE_HOSTS: '127.0.0.1' });
	desk = new Desk(world);
	await desk.openWebShop();
	hello = await helloTo(world);
});
afterAll(() => world.end());

/** the id that the server gave what was sent last */
let asked = '';
const send = async (id: string): Promise<number> => {
	const answer = await hello.ask(id).catch(() => undefined);
	asked = answer?.headers.get('x-request-id') ?? '';
	return answer?.status ?? 0;
};
/** As every processor does: it tries again until it is answered. */
const sendUntilHeard = async (id: string): Promise<number> => {
	for (let tries = 1; ; tries++) {
		const status = await send(id);
		if (status >= 200 && status < 300) return tries;
		await new Promise((next) => setTimeout(next, 200));
	}
};
const kept = async (like: string) =>
	(await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM arrivals WHERE event_id LIKE ?`, [like]))[0]!.n;
const run = async (...statements: string[]) => {
	const database = await openDatabase(world);
	for (const one of statements) await database.run(one);
	await database.close();
};

describe('a database that somebody holds locked', () => {
	it('keeps what was not answered with the sender, and everything once afterwards', { timeout: 120_000 }, async () => {
		const database = await openDatabase(world);
		await database.run('BEGIN EXCLUSIVE');
		let answered = 0;
		const sent = Array.from({ length: 20 }, (_, n) => sendUntilHeard(`locked-${n}`).then(() => answered++));
		try {
			await until(
				'the server says that it cannot write',
				async () => (await fetch(`${world.app.address}/health`)).status === 503,
				30_000
			);
			// the sender hears nothing good as long as nothing can be kept
			expect(answered).toBe(0);
		} finally {
			await database.run('COMMIT');
			await database.close();
		}
		await Promise.all(sent);
		expect(await kept('locked-%')).toBe(20);
		const [double] = await rows<{ n: number }>(
			world,
			`SELECT COUNT(*) - COUNT(DISTINCT event_id) AS n FROM arrivals WHERE event_id LIKE 'locked-%'`
		);
		expect(double!.n).toBe(0);
		await until('the server is well', async () => (await fetch(`${world.app.address}/health`)).status === 200, 30_000);
		await until('all are worked on', async () => {
			const [row] = await rows<{ n: number }>(
				world,
				`SELECT COUNT(*) AS n FROM arrivals WHERE event_id LIKE 'locked-%' AND state <> 'done'`
			);
			return row!.n === 0;
		});
	});
});

describe('a database that does not keep something', () => {
	it('an arrival that cannot be stored is not answered as if it were', async () => {
		await run(
			`CREATE TRIGGER full_disk BEFORE INSERT ON arrivals WHEN NEW.event_id LIKE 'full-%' BEGIN SELECT RAISE(ABORT, 'disk I/O error'); END`
		);
		const status = await send('full-1');
		expect(status).toBe(503);
		// the log tells why, under the id that the sender was given
		expect(asked).toMatch(/^[\da-f-]{36}$/);
		await until('the log tells it', async () =>
			world.app.output.split('\n').some((line) => line.includes(asked) && line.includes('disk I/O error'))
		);
		// others are not held up by it
		expect(await sendUntilHeard('beside-1')).toBeGreaterThan(0);
		expect(await kept('beside-%')).toBe(1);
		await run('DROP TRIGGER full_disk');
		expect(await sendUntilHeard('full-1')).toBe(1);
		expect(await kept('full-%')).toBe(1);
	});

	it('a notification of which neither the effect nor the failure can be kept ends nothing, and is worked on later', async () => {
		await run(
			`CREATE TRIGGER not_worked BEFORE UPDATE ON arrivals WHEN NEW.event_id LIKE 'unkept-%' BEGIN SELECT RAISE(ABORT, 'disk I/O error'); END`
		);
		expect(await sendUntilHeard('unkept-1')).toBe(1);
		await until('it was tried', async () => world.app.output.includes('worked on again later'));
		// the server runs on, and others are worked on
		expect(await sendUntilHeard('beside-2')).toBe(1);
		expect((await fetch(`${world.app.address}/empty`)).status).toBe(200);
		await run('DROP TRIGGER not_worked');
		await until('it is worked on', async () => {
			const states = await rows<{ state: string }>(
				world,
				`SELECT state FROM arrivals WHERE event_id IN ('unkept-1', 'beside-2')`
			);
			return states.length === 2 && states.every((one) => one.state === 'done');
		});
	});

	it(
		'a delivery whose outcome cannot be kept stops no other and no lane, and is made again',
		{ timeout: 90_000 },
		async () => {
			const [stock, books] = [await Listener.open(), await Listener.open()];
			try {
				const add = async (address: string): Promise<number> => {
					const form = { address, description: 'Shop', all: 'no', kind: ['payment.captured'] };
					return Number((await desk.act('/watch/endpoints/new', form)).data!.id);
				};
				const [unkept, sound] = [await add(stock.address), await add(books.address)];
				await run(
					`CREATE TRIGGER not_kept BEFORE UPDATE ON hook_deliveries WHEN NEW.endpoint_id = ${unkept} BEGIN SELECT RAISE(ABORT, 'disk I/O error'); END`
				);
				await new Desk(world).giveCard(await desk.address('84.50', 'TROUBLE-1'), CARDS.approved);
				const heard = (one: Listener) => new Set(one.heard.map((told) => told.headers['webhook-id'])).size;
				await until('both have heard it', async () => heard(stock) === 1 && heard(books) === 1, 30_000);
				const states = (endpoint: number) =>
					rows<{ state: string }>(world, `SELECT state FROM hook_deliveries WHERE endpoint_id = ?`, [endpoint]);
				await until('the sound one is kept as delivered', async () => (await states(sound))[0]?.state === 'delivered');
				expect(await states(unkept)).toEqual([{ state: 'waiting' }]);
				// the server goes on: the next payment is taken and told
				await new Desk(world).giveCard(await desk.address('84.50', 'TROUBLE-2'), CARDS.approved);
				await until('the next is told, too', async () => heard(books) === 2, 30_000);
				expect((await fetch(`${world.app.address}/health`)).status).toBe(200);
				await run('DROP TRIGGER not_kept');
				await until(
					'what was not kept is delivered after all',
					async () => (await states(unkept)).every((one) => one.state === 'delivered'),
					60_000
				);
				// told again under the same id, so that the program knows it for the same
				expect(heard(stock)).toBe(2);
			} finally {
				await stock.close();
				await books.close();
			}
		}
	);

	it('a fee check that cannot be kept is made again, and finds the same', { timeout: 60_000 }, async () => {
		await run(`CREATE TRIGGER no_case BEFORE INSERT ON discrepancies BEGIN SELECT RAISE(ABORT, 'disk I/O error'); END`);
		await run(
			`UPDATE payments SET charged_fee = charged_fee + 7, fee_difference = fee_difference + 7 WHERE reference IN ('TROUBLE-1', 'TROUBLE-2')`
		);
		const due = async () => (await rows<{ n: number }>(world, 'SELECT COUNT(*) AS n FROM fee_checks_due'))[0]!.n;
		await until('it is due', async () => (await due()) > 0);
		// payments go on meanwhile
		await new Desk(world).giveCard(await desk.address('84.50', 'TROUBLE-3'), CARDS.approved);
		await until('it is captured', async () => {
			const [row] = await rows<{ stage: string }>(world, `SELECT stage FROM payments WHERE reference = 'TROUBLE-3'`);
			return row?.stage === 'captured';
		});
		expect(await rows(world, 'SELECT 1 FROM discrepancies')).toEqual([]);
		expect(await due()).toBeGreaterThan(0);
		await run('DROP TRIGGER no_case');
		await until('it is found', async () => (await rows(world, 'SELECT 1 FROM discrepancies')).length > 0, 45_000);
		const [sum] = await rows<{ over: number; count: number }>(
			world,
			'SELECT SUM(over) AS over, SUM(count) AS count FROM discrepancies'
		);
		expect(sum).toEqual({ over: 14, count: 2 });
		await until('nothing is due any more', async () => (await due()) === 0);
	});
});
