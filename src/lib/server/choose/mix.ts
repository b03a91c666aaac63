import { kindAt, type MixGroup, type MixRates, type MixSide } from '../../core/fees';
import { exponentOf } from '../../core/money';
import { theBusiness } from '../connect/business';
import { groupOf, rateFinder, type Period } from './kinds';
import { ownHistory } from './history';
import type { ShownSide } from './sides';

const SPREAD = 24;
const KINDS = 6;

export interface StartingMix {
	readonly groups: MixGroup[];
	readonly sides: MixSide[];
	readonly rates: MixRates;
	/** minor units of the home currency a month */
	readonly volume: number;
	readonly average: number;
	readonly months: number;
}

/** The mix of a period as a start for one set by hand: groups with shares, their kinds, and their spread of amounts. */
export async function mixOf(sides: readonly ShownSide[], period: Period): Promise<StartingMix> {
	const { timeZone, country, homeCurrency } = await theBusiness();
	const history = await ownHistory(timeZone);
	const finder = (await rateFinder(period.from))('', homeCurrency);
	const rates: Record<string, string> = {};
	const worth = history.kinds.map(({ currency }) => {
		if (currency === homeCurrency) return 1;
		const found = finder(currency, period.to);
		if (!found) return 0;
		rates[currency] = found.inverse ? String(1 / Number(found.published.rate)) : found.published.rate;
		return Number(rates[currency]) * 10 ** (exponentOf(homeCurrency) - exponentOf(currency));
	});
	const areas = sides.find((side) => side.card.areas.length)?.card.areas ?? [];
	const names = history.kinds.map((kind) => groupOf(kind, country, areas));
	// the till does not matter here: kinds that differ in nothing else are one
	const firstOf = new Map<string, number>();
	const alike = history.kinds.map(({ source: _, ...kind }, k) => {
		const key = JSON.stringify(kind);
		if (!firstOf.has(key)) firstOf.set(key, k);
		return firstOf.get(key)!;
	});
	const groups = new Map<string, { count: number; kinds: Map<number, number>; amounts: number[] }>();
	let [count, volume] = [0, 0];
	const months = new Set<number>();
	const within = history.days.map((day) => day >= period.from && day <= period.to);
	const groupAt = new Map<number, { count: number; kinds: Map<number, number>; amounts: number[] }>();
	for (let n = 0; n < history.count; n++) {
		if (!within[history.day[n]!]) continue;
		const k = history.kind[n]!;
		const amount = history.minor[n]! * worth[k]!;
		if (!amount) continue;
		let group = groupAt.get(k);
		if (!group) {
			group = groups.get(names[k]!) ?? { count: 0, kinds: new Map<number, number>(), amounts: [] };
			groups.set(names[k]!, group);
			groupAt.set(k, group);
		}
		group.count++;
		group.kinds.set(alike[k]!, (group.kinds.get(alike[k]!) ?? 0) + 1);
		group.amounts.push(amount);
		months.add(history.month[n]!);
		count++;
		volume += amount;
	}
	const list: MixGroup[] = [...groups]
		.sort(([, a], [, b]) => b.count - a.count)
		.map(([name, group]) => {
			const kinds = [...group.kinds].sort(([, a], [, b]) => b - a).slice(0, KINDS);
			const all = kinds.reduce((sum, [, n]) => sum + n, 0);
			const sorted = Float64Array.from(group.amounts).sort();
			const amounts = Array.from(
				{ length: Math.min(SPREAD, sorted.length) },
				(_, i, many = Math.min(SPREAD, sorted.length)) =>
					Math.round(sorted[Math.floor(((i + 0.5) * sorted.length) / many)]!)
			);
			return {
				name,
				share: count ? group.count / count : 0,
				kinds: kinds.map(([k, n]) => ({
					weight: n / all,
					kind: history.kinds[k]!
				})),
				amounts
			};
		});
	return {
		groups: list,
		sides: sides.map((side) => ({
			id: side.id,
			card: side.card,
			kinds: list.map((group) =>
				group.kinds.map(({ kind }) => {
					const seen = kindAt(kind, side.card, side.country);
					return side.carries(seen) ? seen : null;
				})
			)
		})),
		rates,
		months: months.size,
		volume: months.size ? Math.round(volume / months.size) : 2_000_000,
		average: count ? Math.round(volume / count) : 5_000
	};
}
