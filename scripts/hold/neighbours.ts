import { connectAt, idOf, prepare } from '../../tests/world/connections.ts';
import { rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld, until } from '../../tests/world/index.ts';
import { CARDS } from '../../tests/world/steps.ts';
import { timed, type Figure } from './figure.ts';

/** One processor that hangs with open outcomes, and a file of 100,000 payers on its way in: another one's notification. */
export async function neighbours(): Promise<Figure[]> {
	const world = await makeWorld(
		{ JUSTPURSE_ROUND_MS: '500', JUSTPURSE_FILE_WAIT_MS: '8000' },
		{ with: ['fernhall', 'ostrel'] }
	);
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		await prepare(desk, 'ostrel');
		const ostrel = idOf(await connectAt(desk, 'ostrel'));
		// twenty charges whose outcome is not known, at a processor that hangs
		const orders: [string, string, string][] = [];
		for (let n = 0; n < 20; n++) {
			const address = await desk.address('20.00', `HANG-${n}`);
			orders.push([address, await desk.way(address, 'Card'), await desk.token(CARDS.approved)]);
		}
		await world.faults({ loseAnswer: true });
		await Promise.all(orders.map(([address, way, token]) => desk.act(address, { way, token })));
		await world.faults({ loseAnswer: false, slow: 120_000 });
		const people = ['name,mail', ...Array.from({ length: 100_000 }, (_, n) => `Payer ${n},payer${n}@many.example`)];
		const importing = desk.upload('/bill/payers?/import', {}, 'file', 'payers.csv', people.join('\n'));
		await until(
			'it has begun',
			async () => {
				const [row] = await rows<{ n: number }>(world, 'SELECT COUNT(*) AS n FROM payers');
				return row!.n > 0;
			},
			60_000
		);
		const [hook] = await rows<{ key: string }>(world, 'SELECT hook_key AS key FROM connections WHERE id = ?', [ostrel]);
		const send = (id: string) =>
			fetch(`${world.app.address}/hooks/${hook!.key}`, {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ ring: id })
			});
		let slowest = 0;
		for (let n = 0; n < 20; n++)
			slowest = Math.max(slowest, await timed(async () => void (await (await send(`ring-${n}`)).text())));
		const worked = await timed(() =>
			until(
				'it is worked on',
				async () => {
					const [row] = await rows<{ n: number }>(
						world,
						`SELECT COUNT(*) AS n FROM arrivals WHERE event_id LIKE 'ring-%' AND tries = 0`
					);
					return row!.n === 0;
				},
				60_000
			)
		);
		const [left] = await rows<{ n: number }>(world, 'SELECT COUNT(*) AS n FROM payers');
		await importing;
		return [
			{
				name: `a notification is answered while a neighbour hangs and payers come in (${left!.n} of 100,000 by then)`,
				value: slowest,
				unit: 'ms',
				wanted: 'under 250',
				holds: slowest < 250
			},
			{ name: 'and is worked on', value: worked / 1000, unit: 's', wanted: 'within 2', holds: worked < 2_000 }
		];
	} finally {
		await world.end();
	}
}
