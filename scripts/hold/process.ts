import { readdirSync, readFileSync } from 'node:fs';
import type { World } from '../../tests/world/index.ts';

const pidOf = ({ app }: World): number => app.child!.pid!;

/** What the server holds in memory, in megabytes; Linux tells it. */
export const memoryOf = (world: World): number =>
	Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pidOf(world)}/status`, 'utf8'))![1]) / 1024;

/** How many descriptors it has open. */
export const descriptorsOf = (world: World): number => readdirSync(`/proc/${pidOf(world)}/fd`).length;
