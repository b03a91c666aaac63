import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { Listener } from '../world/listener.ts';
import { CARDS } from '../world/steps.ts';

// The clock of the machine is set forward and back by hours, while payments come, fail and are told on.

const HOUR = 3_600_000;
const folder = mkdtempSync(join(tmpdir(), 'purse-clock-'));
const file = join(folder, 'off');
const setClock = (ms: number) => writeFileSync(file, String(ms));
let world: World;
let shop: Listener;
beforeAll(async () => {
	setClock(0);
	world = await makeWorld({
		JUSTPURSE_ROUND_MS: '300',
		JUSTPURSE_PRIVATE_HOSTS: '127.0.0.1',
		MACHINE_CLOCK_FILE: file,
		NODE_OPTIONS: `--import=${pathToFileURL('tests/world/machineClock.mjs').href}`
	});
	shop = await Listener.open();
});
afterAll(async () => {
	await shop.close();
	await world.end();
	rmSync(folder, { recursive: true, force: true });
});

it('loses nothing, doubles nothing, and goes on by itself when it is right again', { timeout: 180_000 }, async () => {
	const desk = new Desk(world);
	await desk.openWebShop();
	await desk.act('/watch/endpoints/new', {
		address: shop.address,
		description: 'Stock',
		all: 'no',
		kind: ['payment.captured']
	});
	const pay = async (reference: string) =>
		void (await new Desk(world).giveCard(await desk.address('84.50', reference), CARDS.approved));
	// each delivery fails once, whatever the clock says then, and its next try is put off by that
	const failed = new Set<unknown>();
	shop.answers = ({ headers }) => {
		const id = headers['webhook-id'];
		if (failed.has(id)) return 200;
		failed.add(id);
		return 500;
	};
	const references: string[] = [];
	for (const hours of [0, 6, -2, 30, -30, 0]) {
		setClock(hours * HOUR);
		for (let n = 0; n < 2; n++) {
			const reference = `CLOCK-${references.length}`;
			references.push(reference);
			// a session may have ended by this clock
			expect((await desk.signIn()).type).toBe('redirect');
			await pay(reference);
		}
	}
	await until('every payment is captured once', async () => {
		const found = await rows<{ reference: string; taken: number }>(
			world,
			`SELECT reference, taken FROM payments WHERE reference LIKE 'CLOCK-%' ORDER BY id`
		);
		return JSON.stringify(found) === JSON.stringify(references.map((reference) => ({ reference, taken: 8_450 })));
	});
	await until('every capture is told on', async () => {
		const [left] = await rows<{ n: number }>(
			world,
			`SELECT COUNT(*) AS n FROM hook_deliveries WHERE kind = 'payment.captured' AND state = 'delivered'`
		);
		return left!.n === references.length;
	});
	await until('every notification is worked on', async () => {
		const states = await rows<{ state: string }>(world, `SELECT DISTINCT state FROM arrivals`);
		return states.length > 0 && states.every((one) => one.state === 'done');
	});
	const told = await rows<{ n: number }>(
		world,
		`SELECT COUNT(*) AS n FROM events WHERE kind = 'payment.captured' GROUP BY object_id`
	);
	expect(told.map((one) => one.n)).toEqual(references.map(() => 1));
	expect((await fetch(`${world.app.address}/health`)).status).toBe(200);
});
