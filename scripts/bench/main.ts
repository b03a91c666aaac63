// Ratios of one run, each against its floor. `npm run bench -- pricing` runs one of them.
import { arrivals } from './arrivals.ts';
import { page } from './page.ts';
import { pricing, sevenfold } from './pricing.ts';
import type { Ratio } from './ratio.ts';

const all: Record<string, () => Promise<Ratio>> = { pricing, sevenfold, arrivals, page };
const chosen = process.argv.slice(2).filter((name) => name in all);
let wrong = 0;
for (const name of chosen.length ? chosen : Object.keys(all)) {
	const result = await all[name]!();
	if (!result.holds) wrong++;
	console.log(
		`${result.holds ? 'ok    ' : 'MISSED'} ${result.name}: ${result.ratio.toFixed(2)} (wanted ${result.wanted}); ${result.detail}`
	);
}
process.exit(wrong ? 1 : 0);
