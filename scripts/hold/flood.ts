import autocannon from 'autocannon';
import { connect, type Socket } from 'node:net';
import { randomBytes } from 'node:crypto';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld } from '../../tests/world/index.ts';
import { many, percentile, timed, type Figure } from './figure.ts';
import { helloTo } from '../../tests/world/hello.ts';
import { memoryOf } from './process.ts';

const FORGED = 20_000;
const AT_ONCE = 100;
const DRIPPING = 300;
const CROOKED = 200;

/** Bodies that are too large, broken, or cut off, again and again over so many connections. @returns ends it, and tells how many were sent */
function sendCrooked(address: string): () => number {
	const { hostname, port, pathname } = new URL(address);
	const head = `POST ${pathname} HTTP/1.1\r\nhost: ${hostname}\r\n`;
	const large = Buffer.alloc(65_536, 0x61);
	let [isOver, count] = [false, 0];
	const open = new Set<Socket>();
	const send = (n: number) => {
		if (isOver) return;
		const socket = connect(Number(port), hostname);
		open.add(socket);
		count++;
		socket.on('error', () => {});
		socket.on('data', () => socket.destroy());
		socket.setTimeout(2_000, () => socket.destroy());
		socket.once('close', () => {
			open.delete(socket);
			// no faster than a quick attacker's own machine would
			setTimeout(() => send(n), 50);
		});
		if (n % 3 === 0) {
			socket.write(`${head}content-length: 50000000\r\n\r\n`);
			const pour = () => {
				while (!socket.destroyed && socket.write(large));
			};
			socket.on('drain', pour);
			pour();
		} else if (n % 3 === 1) socket.write(`${head}transfer-encoding: chunked\r\n\r\nzz\r\n{"id":\r\n`);
		else {
			socket.write(`${head}content-length: 5000\r\n\r\n{"id":"cut`);
			setTimeout(() => socket.destroy(), 20);
		}
	};
	for (let n = 0; n < CROOKED; n++) send(n);
	return () => {
		isOver = true;
		for (const socket of open) socket.destroy();
		return count;
	};
}

/** Forged notifications, a hundred at once, beside connections that send a byte now and then; honest ones in between. */
export async function flood(): Promise<Figure[]> {
	const world = await makeWorld();
	const drips: Socket[] = [];
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		const { address, signed, send } = await helloTo(world);
		await many(500, 20, async (n) => void (await send(`warm-${n}`)));
		const { hostname, port, pathname } = new URL(address);
		for (let n = 0; n < DRIPPING; n++) {
			const socket = connect(Number(port), hostname);
			socket.on('error', () => {});
			socket.write(`POST ${pathname} HTTP/1.1\r\nhost: ${hostname}\r\ncontent-length: 10000\r\n\r\n`);
			drips.push(socket);
		}
		const dripping = setInterval(() => {
			for (const socket of drips) if (socket.writable) socket.write('a');
		}, 500);
		const before = memoryOf(world);
		const endCrooked = sendCrooked(address);
		let most = before;
		const honest: number[] = [];
		let wrong = 0;
		let isOver = false;
		const watching = (async () => {
			for (let n = 0; !isOver; n++) {
				honest.push(await timed(async () => void ((await send(`honest-${n}`)) === 200 || wrong++)));
				most = Math.max(most, memoryOf(world));
				await new Promise((next) => setTimeout(next, 50));
			}
		})();
		// sent by a thread of its own, so that this one is free to time the honest ones
		const took = await timed(async () => {
			const result = await autocannon({
				url: address,
				connections: AT_ONCE,
				amount: FORGED,
				overallRate: 1_500,
				workers: 1,
				method: 'POST',
				...signed('forged', randomBytes(32))
			});
			if (result['2xx'] || result['5xx'] || result.errors) wrong++;
		});
		isOver = true;
		await watching;
		const crooked = endCrooked();
		clearInterval(dripping);
		const p95 = percentile(honest, 95);
		if (process.env.HOLD_SHOW) console.log(honest.map((one) => Math.round(one)).join(' '));
		return [
			{
				name: `memory grows under ${FORGED} forged notifications (${Math.round(took / 1000)} s), ${DRIPPING} dripping connections and ${crooked} large, broken or cut bodies from ${CROOKED} more`,
				value: most - before,
				unit: 'MB',
				wanted: 'under 150',
				holds: most - before < 150
			},
			{
				name: `honest notifications are answered meanwhile (${honest.length} of them), 95th percentile`,
				value: p95,
				unit: 'ms',
				wanted: 'under 250',
				holds: p95 < 250 && wrong === 0
			}
		];
	} finally {
		for (const socket of drips) socket.destroy();
		await world.end();
	}
}
