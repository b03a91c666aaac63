import { rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld, until } from '../../tests/world/index.ts';
import { many, type Figure } from './figure.ts';
import { helloTo } from '../../tests/world/hello.ts';

const COUNT = 10_000;
const AT_ONCE = 100;
const KILLS = 5;

/** Notifications that come while the server is ended five times in their middle: each is kept once, and worked on. */
export async function kills(): Promise<Figure[]> {
	const world = await makeWorld({ JUSTPURSE_ROUND_MS: '500' });
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		const answered = new Set<string>();
		const { send } = await helloTo(world);
		let done = 0;
		const killing = (async () => {
			for (let kill = 1; kill <= KILLS; kill++) {
				await until('its share is sent', async () => done >= (COUNT * kill) / (KILLS + 1), 120_000);
				await world.app.kill();
				await world.app.start();
			}
		})();
		await many(COUNT, AT_ONCE, async (n) => {
			const id = `kept-${n}`;
			// a sender tries again until it is answered, as every processor does
			for (let tries = 0; tries < 200; tries++)
				try {
					await send(id);
					answered.add(id);
					break;
				} catch {
					await new Promise((next) => setTimeout(next, 100));
				}
			done++;
		});
		await killing;
		const begun = performance.now();
		await until(
			'all are worked on',
			async () => {
				const [row] = await rows<{ n: number }>(
					world,
					`SELECT COUNT(*) AS n FROM arrivals WHERE event_id LIKE 'kept-%' AND state = 'done'`
				);
				return row!.n >= COUNT;
			},
			120_000
		);
		const seconds = (performance.now() - begun) / 1000;
		const [kept] = await rows<{ n: number; different: number }>(
			world,
			`SELECT COUNT(*) AS n, COUNT(DISTINCT event_id) AS different FROM arrivals WHERE event_id LIKE 'kept-%'`
		);
		const lost = answered.size - kept!.different;
		const doubled = kept!.n - kept!.different;
		return [
			{
				name: `of ${COUNT} notifications over ${KILLS} kills, ${AT_ONCE} at once: lost or doubled`,
				value: lost + doubled,
				unit: '',
				wanted: '0',
				holds: lost === 0 && doubled === 0 && answered.size === COUNT
			},
			{
				name: 'worked off after the last start',
				value: seconds,
				unit: 's',
				wanted: 'within 20',
				holds: seconds <= 20
			}
		];
	} finally {
		await world.end();
	}
}
