import { createHash } from 'node:crypto';
import { priceSide, type SideCost } from '../../core/fees';
import { methodName } from '../../core/lineup';
import { theBusiness } from '../connect/business';
import { pastCounts } from '../db';
import { historyStamp, ownHistory, type History } from './history';
import { mixOf, type StartingMix } from './mix';
import { groupOf, rateFinder, shiftDay, type Period } from './kinds';
import type { ShownSide } from './sides';

/** Costs of one side for one method. Sums are minor units of the home currency. */
export interface MethodCost {
	readonly count: number;
	readonly base: number;
	readonly fee: number;
	readonly holes: number;
	readonly holeWhy: string;
	/** over the kinds that all ranked sides can carry */
	readonly common: { readonly count: number; readonly base: number; readonly fee: number };
	/** 1 is the cheapest */
	readonly rank?: number;
}
export interface Compared {
	readonly period: Period;
	readonly count: number;
	readonly methods: readonly {
		method: string;
		name: string;
		count: number;
		costs: Readonly<Record<string, MethodCost>>;
	}[];
	readonly sides: Readonly<
		Record<
			string,
			{
				count: number;
				base: number;
				fee: number;
				fixed: number;
				conversion: number;
				monthly: number;
				waiting: number;
				holes: number;
				total: number;
			}
		>
	>;
	/** cost by kind of payment, in basis points of the volume */
	readonly kinds: readonly { name: string; count: number; bps: Readonly<Record<string, number | null>> }[];
	/** the mix of the period, as a start for one set by hand */
	readonly mix: StartingMix;
	/** the first payments of the period and what each side takes of them */
	readonly pricedFor: (side: string) => SideCost | undefined;
}

const rangeOf = (history: History, { from, to }: Period): [number, number] => {
	const first = (wanted: (day: string) => boolean) => {
		let [low, high] = [0, history.count];
		while (low < high) {
			const middle = (low + high) >> 1;
			if (wanted(history.days[history.day[middle]!]!)) high = middle;
			else low = middle + 1;
		}
		return low;
	};
	return [first((day) => day >= from), first((day) => day > to)];
};

/** A comparison under way or done. */
export interface Comparison {
	readonly key: string;
	/** sides priced so far, of how many */
	readonly progress: { done: number; readonly of: number };
	/** how many there are in all, whatever the period */
	readonly payments: number;
	readonly result: Promise<Compared>;
	/** whether it has come to its end, in whatever way */
	ended: boolean;
	stop(): void;
}
/** Thrown where a comparison was stopped before its end. */
export class Stopped extends Error {}

const KEPT = 4;
/** So many payments take longer than anyone waits for a page. */
export const MANY = 100_000;
const HEAD_START_MS = 400;
const comparisons = new Map<string, Comparison>();

/** A comparison that was begun, by its key. */
export const comparisonAt = (key: string): Comparison | undefined => comparisons.get(key);

/**
 * Prices a period of the business's own payments through every side, one by one. What was asked for before and is the
 * same still is not priced again.
 */
export async function comparison(sides: readonly ShownSide[], period: Period, capitalPpm: number): Promise<Comparison> {
	const text = JSON.stringify([
		period,
		capitalPpm,
		await historyStamp(),
		sides.map((side) => [side.id, side.card, side.bankDays, side.country, side.terms.carries])
	]);
	const key = createHash('sha256').update(text).digest('base64url').slice(0, 20);
	const known = comparisons.get(key);
	if (known) return known;
	const progress = { done: 0, of: sides.length };
	let stopped = false;
	const payments = (await pastCounts()).slice(0, 2).reduce((a, b) => a + b, 0);
	const made: Comparison = {
		key,
		progress,
		payments,
		ended: false,
		stop: () => (stopped = true),
		result: work(sides, period, capitalPpm, payments > MANY, () => {
			progress.done++;
			if (stopped) throw new Stopped('The comparison was stopped.');
		})
	};
	comparisons.set(key, made);
	made.result.then(
		() => (made.ended = true),
		() => {
			made.ended = true;
			comparisons.delete(key);
		}
	);
	for (const old of comparisons.keys()) {
		if (comparisons.size <= KEPT) break;
		comparisons.delete(old);
	}
	return made;
}

export const compare = async (sides: readonly ShownSide[], period: Period, capitalPpm: number): Promise<Compared> =>
	(await comparison(sides, period, capitalPpm)).result;

async function work(
	sides: readonly ShownSide[],
	period: Period,
	capitalPpm: number,
	many: boolean,
	step: () => void
): Promise<Compared> {
	// the page that asked goes out first: it tells how far this is
	if (many) await new Promise((next) => setTimeout(next, HEAD_START_MS));
	const { country, timeZone } = await theBusiness();
	const history = await ownHistory(timeZone);
	const range = rangeOf(history, period);
	const finder = await rateFinder(shiftDay(period.from, -12));
	const costs = new Map<string, SideCost>();
	for (const side of sides) {
		costs.set(side.id, priceSide(history, range, side, finder(side.name, side.card.settlement), capitalPpm));
		// a million payments take a while: others are served in between
		await new Promise((next) => setImmediate(next));
		step();
	}
	const counts = history.kinds.map(() => 0);
	for (let n = range[0]; n < range[1]; n++) counts[history.kind[n]!]!++;
	const methods = [...new Set(history.kinds.map((kind) => kind.method))]
		.map((method) => {
			const mine = history.kinds.map((kind, k) => [kind, k] as const).filter(([kind]) => kind.method === method);
			const able = sides.filter((side) => mine.some(([, k]) => costs.get(side.id)!.kinds[k]!.count > 0));
			const common = mine
				.map(([, k]) => k)
				.filter((k) => counts[k]! > 0 && able.every((side) => !costs.get(side.id)!.kinds[k]!.holes));
			const list = sides.map((side) => {
				const own = costs.get(side.id)!.kinds;
				const total = (ks: readonly number[]) =>
					ks.reduce(
						(all, k) => ({
							count: all.count + own[k]!.count,
							base: all.base + own[k]!.base,
							fee: all.fee + own[k]!.fee
						}),
						{ count: 0, base: 0, fee: 0 }
					);
				const ks = mine.map(([, k]) => k);
				return {
					id: side.id,
					...total(ks),
					holes: ks.reduce((all, k) => all + own[k]!.holes, 0),
					holeWhy: [
						...new Set(ks.map((k) => own[k]!.hole).filter((one): one is NonNullable<typeof one> => !!one))
					].join(', '),
					common: total(common)
				};
			});
			const ranked = list
				.filter((one) => one.common.count > 0)
				.sort((a, b) => a.common.fee / a.common.base - b.common.fee / b.common.base);
			return {
				method,
				name: methodName(method),
				count: mine.reduce((all, [, k]) => all + counts[k]!, 0),
				costs: Object.fromEntries(
					list.map(({ id, ...one }) => {
						const rank = ranked.findIndex((other) => other.id === id) + 1;
						return [id, { ...one, rank: rank && ranked.length > 1 ? rank : undefined }];
					})
				)
			};
		})
		.filter((one) => one.count > 0)
		.sort((a, b) => b.count - a.count);
	const areas = sides.find((side) => side.card.areas.length)?.card.areas ?? [];
	const groups = new Map<string, number[]>();
	history.kinds.forEach((kind, k) => {
		if (!counts[k]) return;
		const name = groupOf(kind, country, areas);
		groups.set(name, [...(groups.get(name) ?? []), k]);
	});
	return {
		period,
		count: range[1] - range[0],
		methods,
		mix: await mixOf(sides, period),
		pricedFor: (id) => costs.get(id),
		sides: Object.fromEntries(
			sides.map((side) => {
				const cost = costs.get(side.id)!;
				const add = (pick: (one: SideCost['kinds'][number]) => number) =>
					cost.kinds.reduce((all, one) => all + pick(one), 0);
				const monthly = cost.monthlyFee + cost.monthlyMinimum;
				const fee = add((one) => one.fee);
				return [
					side.id,
					{
						count: add((one) => one.count),
						base: add((one) => one.base),
						fee,
						fixed: add((one) => one.fixed),
						conversion: add((one) => one.conversion),
						monthly,
						waiting: cost.waiting,
						holes: add((one) => one.holes),
						total: fee + monthly + cost.waiting
					}
				];
			})
		),
		kinds: [...groups]
			.map(([name, ks]) => ({
				name,
				count: ks.reduce((all, k) => all + counts[k]!, 0),
				bps: Object.fromEntries(
					sides.map((side) => {
						const own = costs.get(side.id)!.kinds;
						const base = ks.reduce((all, k) => all + own[k]!.base, 0);
						const fee = ks.reduce((all, k) => all + own[k]!.fee, 0);
						return [side.id, base ? Math.round((fee * 1_000_000) / base) / 100 : null];
					})
				)
			}))
			.sort((a, b) => b.count - a.count)
	};
}

/** Single payments of a method with what one side takes of each, newest first, for looking into a figure. */
export async function singlePayments(
	side: ShownSide,
	compared: Compared,
	method: string,
	limit = 25
): Promise<{ row: number; day: string; currency: string; minor: number; fee: number | null }[]> {
	const { timeZone } = await theBusiness();
	const history = await ownHistory(timeZone);
	const [from, to] = rangeOf(history, compared.period);
	const cost = compared.pricedFor(side.id);
	const found = [];
	for (let n = to - 1; n >= from && found.length < limit; n--) {
		const kind = history.kinds[history.kind[n]!]!;
		if (kind.method !== method) continue;
		const fee = cost?.fees[n - from] ?? -1;
		found.push({
			row: history.row[n]!,
			day: history.days[history.day[n]!]!,
			currency: kind.currency,
			minor: history.minor[n]!,
			fee: fee < 0 ? null : fee
		});
	}
	return found;
}
