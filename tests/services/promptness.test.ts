import { afterAll, beforeAll, it } from 'vitest';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { settlementFile } from '../world/settlement.ts';

// What follows from facts that came is worked out at once, not in the next round of the worker.

let world: World;
beforeAll(async () => {
	world = await makeWorld({ JUSTPURSE_ROUND_MS: '600000' }, { with: ['fernhall'] });
});
afterAll(() => world.end());

it('a file is merged, priced and checked in one go', async () => {
	const desk = new Desk(world);
	await desk.setUp();
	await prepare(desk, 'fernhall');
	await desk.confirmPrices(idOf(await connectAt(desk, 'fernhall')));
	const lines = Array.from({ length: 40 }, (_, n) => ({
		id: `PR-${n}`,
		at: Date.parse('2026-10-05T10:00:00Z') + n * 60_000,
		minor: 5_000,
		fee: 999
	}));
	await desk.upload('/connect/files?/take', { processor: 'fernhall' }, 'file', 'prompt.csv', settlementFile(lines));
	await until('what was charged wrongly is found', async () => {
		const [found] = await rows<{ n: number }>(world, 'SELECT COALESCE(SUM(count), 0) AS n FROM discrepancies');
		return found!.n === lines.length;
	});
});
