import { STANDINS } from '../standins/main.ts';
import { NAMES } from '../tests/world/connections.ts';
import { openWorld } from '../tests/world/index.ts';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { prepareDemo } from './prepare.ts';
import { passWeeks } from './watch.ts';

// Prepares the made-up business in the running demo: `node --import tsx demo/main.ts`, with the addresses in the environment.
const address = process.env.ORIGIN ?? 'http://127.0.0.1:5230';
const world = openWorld(
	address,
	process.env.JUSTPURSE_DATA!,
	Object.fromEntries(Object.keys(STANDINS).map((name) => [name, process.env[`${name.toUpperCase()}_URL`]!]))
);
/** When the processors took what they remember, in milliseconds since 1970. */
const takenOf = (folder: string): number[] =>
	NAMES.filter((name) => existsSync(join(folder, `${name}.json`))).flatMap((name) =>
		(JSON.parse(readFileSync(join(folder, `${name}.json`), 'utf8')) as { takenAt: string }[]).map((one) =>
			Date.parse(one.takenAt)
		)
	);
const says = (line: string) => console.log(`  … ${line}`);
if (process.argv.includes('--weeks'))
	await passWeeks(
		world,
		takenOf(process.env.DEMO_REMEMBERED!),
		async () => Date.now() + Number(readFileSync(join(world.app.folder, 'demo-clock'), 'utf8')),
		says
	);
else await prepareDemo(world, process.env.DEMO_REMEMBERED ?? '', says, process.env.DEMO_SETTLEMENTS ?? '');
