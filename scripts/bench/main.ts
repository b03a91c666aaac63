// Ratios of one run, each against its floor. `npm run bench -- pricing` runs one of them.
import { arrivals } from './arrivals.ts';
import { bills } from './bills.ts';
import { demoCoverage, manyReplayed, oneAnswer, wholeGrid } from './lineup.ts';
import { hooks } from './hooks.ts';
import { lists } from './lists.ts';
import { compareMillion, slider } from './million.ts';
import { page } from './page.ts';
import { pricing, sevenfold } from './pricing.ts';
import type { Ratio } from './ratio.ts';
import { routing } from './routing.ts';
import { watch } from './watch.ts';

const all: Record<string, () => Ratio | Promise<Ratio>> = {
	pricing,
	sevenfold,
	answer: oneAnswer,
	coverage: demoCoverage,
	replay: manyReplayed,
	grid: wholeGrid,
	slider,
	arrivals,
	page,
	million: compareMillion,
	lists,
	bills,
	hooks,
	routing,
	watch
};
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
