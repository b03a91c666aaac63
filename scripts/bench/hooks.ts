import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { openDatabase, rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld, until } from '../../tests/world/index.ts';
import type { Ratio } from './ratio.ts';

const ENDPOINTS = 50;
const HANGING = 5;
const EVENTS = 100;

/**
 * 5,000 events to 50 endpoints, once with five that hang and once without: the other 45 must have theirs within twice the
 * time. The events are there at once; the time is that from their coming to the last of the 45's.
 */
export async function hooks(): Promise<Ratio> {
	let isHanging = false;
	const server = createServer((request, response) => {
		request.resume();
		request.on('end', () => {
			if (isHanging && Number(request.url!.slice(1)) < HANGING) return;
			response.writeHead(204).end();
		});
	});
	await new Promise<void>((done) => server.listen(0, '127.0.0.1', () => done()));
	const { port } = server.address() as AddressInfo;
	const world = await makeWorld({ JUSTPURSE_PRIVATE_HOSTS: '127.0.0.1' });
	try {
		const desk = new Desk(world);
		await desk.setUp();
		for (let n = 0; n < ENDPOINTS; n++) {
			const made = await desk.act('/watch/endpoints/new', {
				address: `http://127.0.0.1:${port}/${n}`,
				description: '',
				all: 'no',
				kind: ['payer.changed']
			});
			if (made.type !== 'success') throw new Error(JSON.stringify(made));
		}
		const ids = (await rows<{ id: number }>(world, 'SELECT id FROM hook_endpoints ORDER BY id')).map((one) => one.id);
		const others = ids.slice(HANGING);
		const run = async (): Promise<number> => {
			const database = await openDatabase(world);
			await database.run(
				`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
				 INSERT INTO events (kind, object_kind, object_id, at, payload) SELECT 'payer.changed', 'payer', 'p', ?, '{}' FROM n`,
				[EVENTS, Date.now()]
			);
			const [newest] = await database.rows<{ last: number }>('SELECT MAX(id) AS last FROM events');
			await database.close();
			const begun = performance.now();
			// what wakes the worker
			await desk.act(`/watch/endpoints/${ids[0]!}?/resume`, {});
			await until(
				'the others have theirs',
				async () => {
					const [row] = await rows<{ n: number }>(
						world,
						`SELECT COUNT(*) AS n FROM hook_deliveries WHERE state = 'delivered' AND event_id > ? AND event_id <= ? AND endpoint_id IN (${others.join()})`,
						[newest!.last - EVENTS, newest!.last]
					);
					return row!.n === others.length * EVENTS;
				},
				180_000
			);
			return performance.now() - begun;
		};
		const [without, again] = [await run(), await run()];
		isHanging = true;
		const withThem = await run();
		const floor = Math.min(without, again);
		const ratio = withThem / floor;
		return {
			name: `${ENDPOINTS * EVENTS} deliveries to ${ENDPOINTS} endpoints, ${HANGING} of which hang`,
			ratio,
			wanted: 'at most 2',
			holds: ratio <= 2,
			detail: `the other ${others.length} have theirs in ${(withThem / 1000).toFixed(1)} s, ${(floor / 1000).toFixed(1)} s without the five`
		};
	} finally {
		server.closeAllConnections();
		await new Promise((done) => server.close(done));
		await world.end();
	}
}
