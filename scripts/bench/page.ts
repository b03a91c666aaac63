import { Desk } from '../../tests/world/desk.ts';
import { makeWorld } from '../../tests/world/index.ts';
import type { Ratio } from './ratio.ts';

const SECONDS = 5;

/** The 95th percentile of the time to an answer, in milliseconds, measured one after the other. */
async function p95(address: string): Promise<number> {
	const times: number[] = [];
	const end = performance.now() + SECONDS * 1000;
	while (performance.now() < end) {
		const begun = performance.now();
		const answer = await fetch(address, { headers: { accept: 'text/html' } });
		await answer.arrayBuffer();
		if (answer.status !== 200) throw new Error(`${address} answered ${answer.status}`);
		times.push(performance.now() - begun);
	}
	times.sort((a, b) => a - b);
	return times[Math.floor(times.length * 0.95)]!;
}

export async function page(): Promise<Ratio> {
	const world = await makeWorld();
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		const address = await desk.address('84.50', 'WA-20417');
		// both are warmed before they count
		await p95(`${world.app.address}/empty`);
		await p95(address);
		const rounds: { ours: number; floor: number }[] = [];
		for (let round = 0; round < 3; round++)
			rounds.push({ floor: await p95(`${world.app.address}/empty`), ours: await p95(address) });
		rounds.sort((a, b) => a.ours / a.floor - b.ours / b.floor);
		const { ours, floor } = rounds[1]!;
		const ratio = ours / floor;
		return {
			name: 'the till’s page for a payer, against an empty page of the same build',
			ratio,
			wanted: 'at most 2',
			holds: ratio <= 2,
			detail: `95th percentile ${ours.toFixed(2)} ms, floor ${floor.toFixed(2)} ms, median of 3 rounds`
		};
	} finally {
		await world.end();
	}
}
