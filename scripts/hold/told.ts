import { openDatabase, rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld, until } from '../../tests/world/index.ts';
import { Listener } from '../../tests/world/listener.ts';
import type { Figure } from './figure.ts';

const COUNT = 10_000;
const KILLS = 5;

/** Events that are told to a program of the business while the server is ended five times in their middle. */
export async function told(): Promise<Figure[]> {
	const world = await makeWorld({ JUSTPURSE_ROUND_MS: '500', JUSTPURSE_PRIVATE_HOSTS: '127.0.0.1' });
	const shop = await Listener.open();
	try {
		const desk = new Desk(world);
		await desk.setUp();
		await desk.act('/watch/endpoints/new', {
			address: shop.address,
			description: 'Shop',
			all: 'no',
			kind: ['payer.changed']
		});
		let made = 0;
		const more = async (count: number) => {
			const database = await openDatabase(world);
			await database.run(
				`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?)
				 INSERT INTO events (kind, object_kind, object_id, at, payload) SELECT 'payer.changed', 'payer', 'k' || (? + i), ?, '{}' FROM n`,
				[count, made, Date.now()]
			);
			await database.close();
			made += count;
		};
		for (let kill = 0; kill < KILLS; kill++) {
			await more(COUNT / KILLS);
			const before = shop.heard.length;
			await until('some are heard', async () => shop.heard.length > before + 300 * (kill + 1), 120_000);
			await world.app.kill();
			await world.app.start();
		}
		await until(
			'all are delivered',
			async () => {
				const [row] = await rows<{ n: number }>(
					world,
					`SELECT COUNT(*) AS n FROM hook_deliveries WHERE state = 'delivered'`
				);
				return row!.n >= COUNT;
			},
			600_000
		);
		const heard = new Set(shop.heard.map((one) => (JSON.parse(one.body) as { object: { id: string } }).object.id));
		const invented = [...heard].filter((one) => !/^k\d+$/.test(one) || Number(one.slice(1)) > COUNT).length;
		return [
			{
				name: `of ${COUNT} events told over ${KILLS} kills: lost or invented`,
				value: COUNT - heard.size + 2 * invented,
				unit: '',
				wanted: '0',
				holds: heard.size === COUNT && invented === 0
			},
			{
				name: 'told more than once, since their answer was not kept',
				value: shop.heard.length - heard.size,
				unit: '',
				wanted: 'few',
				holds: shop.heard.length - heard.size < COUNT / 10
			}
		];
	} finally {
		await shop.close();
		await world.end();
	}
}
