import { kindAt, type PastKind } from '../../core/fees';
import { hasCard, methodName } from '../../core/lineup';
import { findRate, type FoundRate, type Rate } from '../../core/money';
import { exchangeRatesSince } from '../db';

/** The period of a comparison, both ends included. */
export interface Period {
	readonly from: string;
	readonly to: string;
}

/** The group that people think of a kind in: cards by region, the rest by method. */
export function groupOf(kind: PastKind, country: string, areas: readonly (readonly string[])[]): string {
	if (!hasCard(kind.method)) return methodName(kind.method);
	const { region, funding } = kindAt(kind, { areas: areas as string[][] }, country);
	const name = kind.method === 'card' ? 'Card' : methodName(kind.method);
	if (funding === 'commercial') return `${name}, commercial`;
	return `${name}, ${region}`;
}

/** Published rates of a stretch of time, found by day: from any source, the side's own first. */
export async function rateFinder(
	since: string
): Promise<(source: string, settlement: string) => (currency: string, day: string) => FoundRate | undefined> {
	const rows = await exchangeRatesSince(since);
	const byPair = new Map<string, Rate[]>();
	for (const row of rows) {
		const rate = { day: row.day, from: row.fromCurrency, to: row.toCurrency, rate: row.rate, source: row.source };
		for (const key of [`${rate.from} ${rate.to}`, `${rate.to} ${rate.from}`])
			(byPair.get(key) ?? byPair.set(key, []).get(key)!).push(rate);
	}
	for (const rates of byPair.values()) rates.sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0));
	return (source, settlement) => {
		const known = new Map<string, FoundRate | undefined>();
		return (currency, day) => {
			const key = `${currency} ${day}`;
			if (known.has(key)) return known.get(key);
			const rates = byPair.get(`${currency} ${settlement}`) ?? [];
			// those of the last ten days: from the first that is late enough to the last that is not too late
			const oldest = shiftDay(day, -10);
			let [low, high] = [0, rates.length];
			while (low < high) {
				const middle = (low + high) >> 1;
				if (rates[middle]!.day < oldest) low = middle + 1;
				else high = middle;
			}
			let end = low;
			while (end < rates.length && rates[end]!.day <= day) end++;
			const near = rates.slice(low, end);
			const own = near.filter((one) => one.source === source);
			const found = findRate(own.length ? own : near, currency, settlement, day);
			known.set(key, found);
			return found;
		};
	};
}
export const shiftDay = (day: string, by: number) =>
	new Date(Date.parse(`${day}T12:00:00Z`) + by * 86_400_000).toISOString().slice(0, 10);
