import { kindAt, type MixGroup, type MixRates, type MixSide } from '../../core/fees';
import { exponentOf } from '../../core/money';
import { theBusiness } from '../connect/business';
import { groupOf, rateFinder, type Period } from './kinds';
import type { History } from '../history/columns';
import { inThread } from '../threads';
import type { ShownSide } from './sides';

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
export async function mixOf(
	sides: readonly ShownSide[],
	period: Period,
	history: History,
	range: readonly [number, number]
): Promise<StartingMix> {
	const { country, homeCurrency } = await theBusiness();
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
	const alike = history.kinds.map(({ source: _, till: __, carrier: ___, offline: ____, ...kind }, k) => {
		const key = JSON.stringify(kind);
		if (!firstOf.has(key)) firstOf.set(key, k);
		return firstOf.get(key)!;
	});
	const spread = await inThread('spread', {
		past: { kind: history.kind, minor: history.minor, month: history.month },
		range,
		worth,
		names,
		alike
	});
	const { count, volume, months } = spread;
	const list: MixGroup[] = spread.groups.map(({ name, count: many, kinds, amounts }) => {
		const all = kinds.reduce((sum, [, n]) => sum + n, 0);
		return {
			name,
			share: count ? many / count : 0,
			kinds: kinds.map(([k, n]) => ({ weight: n / all, kind: history.kinds[k]! })),
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
		months,
		volume: months ? Math.round(volume / months) : 2_000_000,
		average: count ? Math.round(volume / count) : 5_000
	};
}
