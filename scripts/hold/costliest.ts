import { readFileSync } from 'node:fs';
import { Desk } from '../../tests/world/desk.ts';
import { rows } from '../../tests/world/database.ts';
import { connectAt, idOf, prepare } from '../../tests/world/connections.ts';
import { makeWorld, type World } from '../../tests/world/index.ts';
import type { Figure } from './figure.ts';

const TIMES = 150;
/** A tick of the kernel's clock is ten milliseconds. */
const TICK_MS = 10;

/** Processor time that the server has used, in milliseconds. */
function usedBy(world: World): number {
	const stat = readFileSync(`/proc/${world.app.child!.pid}/stat`, 'utf8').split(') ')[1]!.split(' ');
	return (Number(stat[11]) + Number(stat[12])) * TICK_MS;
}

/** What anyone may send without a sign-in: the processor time of each, on average. */
export async function costliest(): Promise<Figure[]> {
	const world = await makeWorld({}, { with: ['fernhall', 'ostrel'] });
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		await prepare(desk, 'ostrel');
		const ostrel = idOf(await connectAt(desk, 'ostrel'));
		const hooks = await rows<{ id: string; key: string }>(world, 'SELECT id, hook_key AS key FROM connections');
		const { address: origin } = world.app;
		const address = await desk.address('20.00', 'COST-1');
		const post = (to: string, body: string, type = 'application/x-www-form-urlencoded') =>
			fetch(to, { method: 'POST', headers: { origin, 'content-type': type }, body });
		const digits = '9901'.repeat(4_000);
		const tried: Record<string, () => Promise<Response>> = {
			'the sign-in page': () => fetch(`${origin}/sign-in`),
			'16 KB of fields to it': () => post(`${origin}/sign-in`, 'a&'.repeat(8_000)),
			'a payer’s page': () => fetch(address),
			'a way that is not there, with 60 KB of text': () =>
				post(address, `way=none&told_note=${digits.repeat(4).slice(0, 60_000)}`),
			'an address that was changed': () => fetch(`${address}0`),
			'the interface without a token, a body of 1 MB': () =>
				post(`${origin}/api/v1/checkouts`, '['.repeat(999_000), 'application/json'),
			'the document of the interface': () => fetch(`${origin}/api/v1/openapi.json`),
			'a forged notification of 250 KB': () =>
				fetch(`${origin}/hooks/${hooks.find((one) => one.id !== ostrel)!.key}`, {
					method: 'POST',
					headers: {
						'content-type': 'application/json',
						'webhook-id': 'x',
						'webhook-timestamp': String(Math.floor(Date.now() / 1000)),
						'webhook-signature': 'v1,x'
					},
					body: digits.repeat(16).slice(0, 250_000)
				}),
			'a notification to be called back, 16 KB of digits': () =>
				post(
					`${origin}/hooks/${hooks.find((one) => one.id === ostrel)!.key}`,
					JSON.stringify({ ring: `r${Math.random()}`, text: digits.slice(0, 15_000) }),
					'application/json'
				)
		};
		const figures: Figure[] = [];
		for (const [name, send] of Object.entries(tried)) {
			for (let n = 0; n < 20; n++) await (await send()).text();
			const before = usedBy(world);
			for (let n = 0; n < TIMES; n++) await (await send()).text();
			const each = (usedBy(world) - before) / TIMES;
			figures.push({
				name: `processor time of ${name}`,
				value: each,
				unit: 'ms',
				wanted: 'at most 20',
				holds: each <= 20
			});
		}
		return figures;
	} finally {
		await world.end();
	}
}
