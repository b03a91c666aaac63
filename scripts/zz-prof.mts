import { priceColumns } from '../src/lib/core/fees/index.ts';
import * as p from './bench/pricing.ts';
const mod = p as any;
const payments = mod.columns();
const cards = mod.sevenCards(payments.kinds);
const fees = new Float64Array(1_000_000);
for (let r = 0; r < 3; r++) {
	for (const c of cards) priceColumns(c, payments, fees);
}
cards.forEach((c: any, i: number) => {
	const t: number[] = [];
	for (let r = 0; r < 5; r++) {
		const a = performance.now();
		priceColumns(c, payments, fees);
		t.push(performance.now() - a);
	}
	console.log(i, c.rounding, c.mode, c.tiers?.way, Math.min(...t).toFixed(1));
});
