import { Desk } from '../../tests/world/desk.ts';
import { makeWorld } from '../../tests/world/index.ts';
import { CARDS } from '../../tests/world/steps.ts';
import { percentile, timed, type Figure } from './figure.ts';
import { descriptorsOf, memoryOf } from './process.ts';

const MINUTES = Number(process.env.HOLD_MINUTES ?? 10);

/** A business's day pressed into minutes: payers pay, the administrator looks and changes, streams open and close. */
export async function life(): Promise<Figure[]> {
	const world = await makeWorld({
		JUSTPURSE_ROUND_MS: '500',
		// with less room garbage is collected in time, and only what is really held adds up
		NODE_OPTIONS: '--max-old-space-size=192'
	});
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		let number = 0;
		const once = async () => {
			const address = await desk.address('20.00', `LIFE-${++number}`);
			await desk.get(address);
			await desk.giveCard(address, number % 5 ? CARDS.approved : CARDS.declined);
			for (const path of ['/takings', '/needs-you', '/accept', '/accept/tills/web-shop', '/watch', '/connect/compare'])
				await (await desk.get(path)).text();
			const stream = await desk.get('/live');
			await stream.body!.cancel();
		};
		for (let n = 0; n < 60; n++) await once();
		const [memory, descriptors] = [memoryOf(world), descriptorsOf(world)];
		const samples: number[] = [];
		const times: number[] = [];
		const end = Date.now() + MINUTES * 60_000;
		while (Date.now() < end) {
			times.push(await timed(once));
			samples.push(memoryOf(world));
		}
		const last = percentile(samples.slice(-20), 50);
		// connections that nobody uses any more are closed after a while
		await new Promise((next) => setTimeout(next, 20_000));
		const open = descriptorsOf(world) - descriptors;
		return [
			{
				name: `memory after ${MINUTES} minutes and ${number} orders, against that after 60 (${memory.toFixed(0)} MB)`,
				value: last - memory,
				unit: 'MB more',
				wanted: 'under 60',
				holds: last - memory < 60
			},
			{ name: 'descriptors left open', value: open, unit: '', wanted: 'at most 5', holds: open <= 5 }
		];
	} finally {
		await world.end();
	}
}
