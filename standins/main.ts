import { mkdirSync } from 'node:fs';
import { resolve } from 'node:path';
import { keepClockIn } from './shared/clock.ts';
import { startBrackwater } from './brackwater/index.ts';
import { startFernhall } from './fernhall/index.ts';
import { startHalfpenny } from './halfpenny/index.ts';
import { startOstrel } from './ostrel/index.ts';
import { startQuillon } from './quillon/index.ts';
import type { RunningStandin, StandinOptions } from './shared/serve.ts';
import { startShop } from './shop/index.ts';
import { startSundial } from './sundial/index.ts';
import { startTallybridge } from './tallybridge/index.ts';

/** Every stand-in with the port it has by default. One process hosts them, but they share no state. */
export const STANDINS: Readonly<
	Record<string, { port: number; start: (options: StandinOptions) => Promise<RunningStandin> }>
> = {
	fernhall: { port: 5240, start: startFernhall },
	brackwater: { port: 5241, start: startBrackwater },
	tallybridge: { port: 5242, start: startTallybridge },
	quillon: { port: 5243, start: startQuillon },
	sundial: { port: 5244, start: startSundial },
	ostrel: { port: 5245, start: startOstrel },
	halfpenny: { port: 5246, start: startHalfpenny },
	shop: { port: 5247, start: startShop }
};

if (process.argv[1]?.endsWith('standins/main.ts')) {
	const folder = resolve(process.env.STANDINS_FOLDER ?? 'data/standins');
	mkdirSync(folder, { recursive: true });
	keepClockIn(folder);
	const haste = Number(process.env.STANDINS_HASTE ?? 1);
	const partner = process.env.STANDINS_PARTNER ?? 'http://127.0.0.1:5230';
	const hosts = Object.fromEntries(
		(process.env.STANDINS_HOSTS ?? '')
			.split(',')
			.filter(Boolean)
			.map((one) => one.split('=') as [string, string])
	);
	const running = await Promise.all(
		Object.entries(STANDINS).map(([name, { port, start }]) =>
			start({ port: Number(process.env[`${name.toUpperCase()}_PORT`] ?? port), folder, haste, partner, hosts })
		)
	);
	for (const { name, address } of running) console.log(`${name} ${address}`);
	for (const signal of ['SIGINT', 'SIGTERM'] as const)
		process.once(signal, () => void Promise.all(running.map((one) => one.stop())).then(() => process.exit(0)));
}
