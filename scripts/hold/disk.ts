import { execFileSync } from 'node:child_process';
import { closeSync, mkdirSync, openSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld, until } from '../../tests/world/index.ts';
import { CARDS } from '../../tests/world/steps.ts';
import { many, timed, type Figure } from './figure.ts';
import { helloTo } from '../../tests/world/hello.ts';

/** Fills a disk to its last byte. @returns makes the room again */
function fillUp(folder: string): () => void {
	const path = join(folder, 'ballast');
	const file = openSync(path, 'w');
	for (let size = 1_048_576; size >= 512;) {
		try {
			if (writeSync(file, Buffer.alloc(size)) < size) size /= 2;
		} catch {
			size /= 2;
		}
	}
	closeSync(file);
	return () => rmSync(path);
}

/** A disk that is really full, while payers pay and processors send: a small one of its own, in memory. It takes root to make one. */
export async function disk(): Promise<Figure[]> {
	const world = await makeWorld({ JUSTPURSE_ROUND_MS: '300' }, { start: false });
	const folder = world.app.folder;
	mkdirSync(folder, { recursive: true });
	execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=90m,mode=700', 'tmpfs', folder]);
	try {
		await world.app.start();
		const desk = new Desk(world);
		await desk.openWebShop();
		const { send } = await helloTo(world);
		const health = async () => (await fetch(`${world.app.address}/health`)).status;
		const addresses = [];
		for (let n = 0; n < 8; n++) addresses.push(await desk.address('84.50', `DISK-${n}`));
		await new Desk(world).giveCard(addresses[0]!, CARDS.approved);

		const makeRoom = fillUp(folder);
		const heard = new Set<string>();
		let refused = 0;
		const tryOnce = async (id: string) => {
			const status = await send(id).catch(() => 0);
			if (status >= 200 && status < 300) heard.add(id);
			else refused++;
		};
		await many(400, 20, (n) => tryOnce(`disk-${n}`));
		// some pay just now, and are told whatever is so
		for (const address of addresses.slice(1))
			await new Desk(world).giveCard(address, CARDS.approved).catch(() => undefined);
		await until('the server says that it cannot write', async () => (await health()) === 503);
		makeRoom();
		const back = await timed(() => until('it is well again', async () => (await health()) === 200));
		// as every sender does, and as payers do
		await many(400, 20, async (n) => {
			while (!heard.has(`disk-${n}`)) await tryOnce(`disk-${n}`);
		});
		for (const address of addresses) await new Desk(world).giveCard(address, CARDS.approved).catch(() => undefined);
		await until('every order is paid', async () => {
			const paid = await rows<{ n: number }>(
				world,
				`SELECT COUNT(*) AS n FROM orders WHERE reference LIKE 'DISK-%' AND paid = 8450`
			);
			return paid[0]!.n === addresses.length;
		});
		const [kept] = await rows<{ n: number }>(
			world,
			`SELECT COUNT(DISTINCT event_id) AS n FROM arrivals WHERE event_id LIKE 'disk-%'`
		);
		// what the processor took is what the orders were paid with
		const [taken] = await rows<{ n: number }>(world, `SELECT SUM(taken) AS n FROM payments`);
		const there = await world.control<{ minor: number; takenAt?: string }[]>('payments');
		const told = there.reduce((sum, one) => (one.takenAt ? sum + one.minor : sum), 0);
		return [
			{
				name: `notifications that were answered well on a full disk and are not kept (${refused} were refused)`,
				value: heard.size - kept!.n,
				unit: '',
				wanted: '0, and some refused',
				holds: heard.size === kept!.n && refused > 0
			},
			{
				name: 'minor units that the processor took and no payment tells, or the other way round',
				value: Math.abs(told - taken!.n) + Math.abs(taken!.n - addresses.length * 8_450),
				unit: '',
				wanted: '0',
				holds: told === taken!.n && taken!.n === addresses.length * 8_450
			},
			{
				name: 'until the server is well again once there is room',
				value: back / 1_000,
				unit: 's',
				wanted: 'under 10',
				holds: back < 10_000
			}
		];
	} finally {
		await world.app.kill();
		execFileSync('umount', [folder]);
		await world.end();
	}
}
