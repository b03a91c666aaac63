import autocannon from 'autocannon';
import { createHmac } from 'node:crypto';
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { connectAt, idOf } from '../../tests/world/connections.ts';
import { rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { freePort, makeWorld, until } from '../../tests/world/index.ts';
import type { Ratio } from './ratio.ts';

const AT_ONCE = 50;
const SECONDS = 6;

/** One hook that is told something: its path, and how a notification with an id is proven there. */
interface Hook {
	readonly path: string;
	sign(id: string): { body: string; headers: Record<string, string> };
}
const padding = 'x'.repeat(500);
const hexOf = (secret: string, body: string) => createHmac('sha256', secret).update(body).digest('hex');

/** A hook of each dialect: signed headers, a digest of the body, a shared word, and one that must be called back. */
const HOOKS: Record<string, (secret: string) => Hook['sign']> = {
	fernhall: (secret) => {
		const key = Buffer.from(secret.replace('whsec_', ''), 'base64');
		return (id) => {
			const at = String(Math.floor(Date.now() / 1000));
			const body = JSON.stringify({ id, topic: 'listener.hello', at: '2026-11-24T10:00:00.000Z', padding });
			const signature = createHmac('sha256', key).update(`${id}.${at}.${body}`).digest('base64');
			return {
				body,
				headers: { 'webhook-id': id, 'webhook-timestamp': at, 'webhook-signature': `v1,${signature}` }
			};
		};
	},
	brackwater: (secret) => (id) => {
		const body = JSON.stringify({ EVENT: id, TYPE: 'ECHO', AT: '1790000000.000', padding });
		return { body, headers: { 'brackwater-digest': hexOf(secret, body) } };
	},
	tallybridge: (secret) => (id) => ({
		body: JSON.stringify({ greeting: id, about: 'listener/greeting', moment: '2026-11-24T10:00:00.000Z', padding }),
		headers: { 'tally-word': secret }
	}),
	ostrel: () => (id) => ({ body: JSON.stringify({ ring: id, padding }), headers: {} })
};

/** Tells the hooks in turn, each notification with an id of its own, fifty at once; gives how many were answered 2xx in a second. */
async function load(origin: string, hooks: readonly Hook[], prefix: string): Promise<number> {
	let count = 0;
	const result = await autocannon({
		url: origin,
		connections: AT_ONCE,
		duration: SECONDS,
		method: 'POST',
		requests: [
			{
				setupRequest: (request) => {
					const hook = hooks[count++ % hooks.length]!;
					const { body, headers } = hook.sign(`${prefix}-${count}`);
					return { ...request, path: hook.path, body, headers: { 'content-type': 'application/json', ...headers } };
				}
			}
		]
	});
	if (result.non2xx || result.errors) throw new Error(`${result.non2xx} refused, ${result.errors} failed`);
	return result['2xx'] / result.duration;
}

/** The same rows, committed in groups by a bare Node server that checks nothing. */
async function bareServer(): Promise<{ address: string; stop: () => void }> {
	const folder = mkdtempSync(join(tmpdir(), 'purse-bare-'));
	const port = await freePort();
	const child = fork(new URL('./bareServer.mjs', import.meta.url), [join(folder, 'bare.sqlite'), String(port)], {
		execArgv: []
	});
	const address = `http://127.0.0.1:${port}/`;
	await until('the bare server', async () => (await fetch(address)).status === 200);
	return {
		address,
		stop: () => {
			child.kill('SIGKILL');
			rmSync(folder, { recursive: true, force: true });
		}
	};
}

export async function arrivals(): Promise<Ratio> {
	// the work after the answer is put off, so that both servers do the same: store durably, then answer
	const names = Object.keys(HOOKS);
	const world = await makeWorld(
		{ JUSTPURSE_WORK_DELAY_MS: '600000', JUSTPURSE_UNCONFIRMED: '100000000' },
		{ with: names }
	);
	const bare = await bareServer();
	try {
		const desk = new Desk(world);
		await desk.setUp();
		const hooks: Hook[] = [];
		for (const name of names) {
			const id = idOf(await connectAt(desk, name));
			const [row] = await rows<{ key: string }>(world, 'SELECT hook_key AS key FROM connections WHERE id = ?', [id]);
			const [listener] = await world.at<{ secret: string }[]>(name, 'listeners');
			hooks.push({ path: `/hooks/${row!.key}`, sign: HOOKS[name]!(listener?.secret ?? '') });
		}
		const rounds: { ours: number; floor: number }[] = [];
		for (let round = 0; round < 3; round++) {
			const floor = await load(bare.address, hooks, `bare-${round}`);
			const ours = await load(world.app.address, hooks, `ours-${round}`);
			rounds.push({ ours, floor });
		}
		rounds.sort((a, b) => a.ours / a.floor - b.ours / b.floor);
		const { ours, floor } = rounds[1]!;
		const ratio = ours / floor;
		return {
			name: 'arrivals of every dialect stored before they are answered, against a bare server',
			ratio,
			wanted: 'at least 0.7',
			holds: ratio >= 0.7,
			detail: `${ours.toFixed(0)} a second, floor ${floor.toFixed(0)}, ${AT_ONCE} at once, median of 3 rounds`
		};
	} finally {
		bare.stop();
		await world.end();
	}
}
