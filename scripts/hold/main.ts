// What the server bears, with figures: `npm run hold`, or `npm run hold -- flood` for one of them. Everything stays on this
// machine, is bounded in count and time, and ends by itself.
import { costliest } from './costliest.ts';
import { crowd } from './crowd.ts';
import { disk } from './disk.ts';
import { flood } from './flood.ts';
import type { Figure } from './figure.ts';
import { kills } from './kills.ts';
import { life } from './life.ts';
import { neighbours } from './neighbours.ts';
import { told } from './told.ts';

const all: Record<string, () => Promise<Figure[]>> = { costliest, flood, kills, told, neighbours, disk, crowd, life };
const chosen = process.argv.slice(2).filter((name) => name in all);
let wrong = 0;
for (const name of chosen.length ? chosen : Object.keys(all))
	for (const { name: what, value, unit, wanted, holds } of await all[name]!()) {
		if (!holds) wrong++;
		console.log(`${holds ? 'ok    ' : 'MISSED'} ${what}: ${value.toFixed(1)}${unit && ` ${unit}`} (wanted ${wanted})`);
	}
process.exit(wrong ? 1 : 0);
