import { STANDINS } from '../standins/main.ts';
import { openWorld } from '../tests/world/index.ts';
import { prepareDemo } from './prepare.ts';

// Prepares the made-up business in the running demo: `node --import tsx demo/main.ts`, with the addresses in the environment.
const address = process.env.ORIGIN ?? 'http://127.0.0.1:5230';
const world = openWorld(
	address,
	process.env.JUSTPURSE_DATA!,
	Object.fromEntries(Object.keys(STANDINS).map((name) => [name, process.env[`${name.toUpperCase()}_URL`]!]))
);
await prepareDemo(
	world,
	process.env.DEMO_REMEMBERED ?? '',
	(line) => console.log(`  … ${line}`),
	process.env.DEMO_SETTLEMENTS ?? ''
);
