import { createHash } from 'node:crypto';
import { addDays, instantIn } from '../../core/calendar';
import { kindAt, sumAround, type AroundCost, type Past, type PastAround, type SideCost } from '../../core/fees';
import { methodName } from '../../core/lineup';
import { round, unrounded, type FoundRate } from '../../core/money';
import { theBusiness } from '../connect/business';
import {
	declinedWithin,
	delaysWithin,
	disputesWithin,
	pastCount,
	pastStamp,
	refundsWithin,
	type KindCount,
	type Span
} from '../db';
import { carriedOnly, kindKey, ownHistory, type History, type HistoryKind } from '../history/columns';
import { mixOf, type StartingMix } from './mix';
import { groupOf, rateFinder, shiftDay, type Period } from './kinds';
import { Jobs, type Job } from '../jobs';
import { inThread, plainKind } from '../threads';
import type { ShownSide } from './sides';

/** Costs of one side for one method. Sums are minor units of the home currency. */
export interface MethodCost {
	readonly count: number;
	readonly base: number;
	/** fees of the payments */
	readonly fee: number;
	/** charges around them: refunds less what they give back, disputes, declined attempts */
	readonly around: number;
	/** both together */
	readonly cost: number;
	readonly holes: number;
	/** what is left out, by currency in its own minor units */
	readonly leftOut: readonly { readonly currency: string; readonly minor: number }[];
	/** the same in minor units of the home currency, at the rates of the period's last day; what has no rate is not in it */
	readonly leftOutHome: number;
	readonly holeWhy: string;
	/** over the kinds that all ranked sides can carry */
	readonly common: { readonly count: number; readonly base: number; readonly cost: number };
	/** 1 is the cheapest */
	readonly rank?: number;
}
export interface Compared {
	readonly period: Period;
	/** payments that processors carried: those that are priced */
	readonly count: number;
	/** payments of offline methods in the same period: no processor takes a fee of them */
	readonly offline: { readonly count: number; readonly sums: readonly { currency: string; minor: number }[] };
	readonly methods: readonly {
		method: string;
		name: string;
		count: number;
		/** minor units of the home currency, at the rates of the period's last day */
		volume: number;
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
				months: number;
				monthlyFee: number;
				monthlyMinimum: number;
				waiting: number;
				/** calendar days to the bank on average, by volume */
				averageWait: number;
				around: AroundCost;
				holes: number;
				total: number;
			}
		>
	>;
	/** within which another country counts as regional, for telling groups of kinds */
	readonly areas: readonly (readonly string[])[];
	/** what happened around the payments of the period */
	readonly happened: Happened;
	/** cost by kind of payment */
	readonly kinds: readonly {
		readonly name: string;
		readonly count: number;
		readonly costs: Readonly<Record<string, { count: number; base: number; fee: number; around: number }>>;
	}[];
	/** the mix of the period, as a start for one set by hand */
	readonly mix: StartingMix;
	/** the first payments of the period and what each side takes of them */
	readonly pricedFor: (side: string) => SideCost | undefined;
}

/** What happened around the payments of a period, whoever carried them. */
export interface Happened {
	readonly refunds: readonly { readonly currency: string; readonly count: number; readonly minor: number }[];
	readonly disputes: readonly { readonly method: string; readonly count: number }[];
	readonly declined: readonly { readonly method: string; readonly reason: string; readonly count: number }[];
	/** times of 24 hours from order to capture, of those of which both are told */
	readonly delays: readonly { readonly days: number; readonly method: string; readonly count: number }[];
}

/** The time of a period: from its first midnight to the one after its last day. */
export const spanOf = ({ from, to }: Period, timeZone: string): Span => [
	instantIn(`${from}T00:00`, timeZone)!,
	instantIn(`${addDays(to, 1)}T00:00`, timeZone)!
];

/** Places of the first payment of a period and of the first after it. */
export const rangeOf = (history: History, { from, to }: Period): [number, number] => {
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

const KEPT = 4;
/** So many payments take longer than anyone waits for a page. */
export const MANY = 100_000;
const HEAD_START_MS = 400;
const comparisons = new Jobs<Compared>('a comparison', KEPT);

/** A comparison that was begun, by its key. */
export const comparisonAt = (key: string): Job<Compared> | undefined => comparisons.at(key);

/**
 * Prices a period of the business's own payments through every side, one by one. What was asked for before and is the
 * same still is not priced again.
 */
export async function comparison(
	sides: readonly ShownSide[],
	period: Period,
	capitalPpm: number
): Promise<Job<Compared> & { readonly payments: number }> {
	const text = JSON.stringify([
		period,
		capitalPpm,
		await pastStamp(),
		sides.map((side) => [side.id, side.card, side.bankDays, side.country, side.terms.carries])
	]);
	const key = createHash('sha256').update(text).digest('base64url').slice(0, 20);
	const payments = await pastCount();
	const job = comparisons.begin(key, ({ progress, breathe }) => {
		progress.of = sides.length;
		return work(sides, period, capitalPpm, payments > MANY, async () => {
			progress.done++;
			await breathe();
		});
	});
	return Object.assign(job, { payments });
}

export const compare = async (sides: readonly ShownSide[], period: Period, capitalPpm: number): Promise<Compared> =>
	(await comparison(sides, period, capitalPpm)).result;

async function work(
	sides: readonly ShownSide[],
	period: Period,
	capitalPpm: number,
	many: boolean,
	step: () => Promise<void>
): Promise<Compared> {
	// the page that asked goes out first: it tells how far this is
	if (many) await new Promise((next) => setTimeout(next, HEAD_START_MS));
	const { country, timeZone, homeCurrency } = await theBusiness();
	const whole = await ownHistory(timeZone);
	const captured = carriedOnly(whole);
	const range = rangeOf(captured, period);
	const span = spanOf(period, timeZone);
	const [disputes, declined, refunds, delays] = await Promise.all([
		disputesWithin(span),
		declinedWithin(span),
		refundsWithin(span),
		delaysWithin(span)
	]);
	// of some kinds all attempts were declined: they are kinds, too
	const kinds: HistoryKind[] = [...captured.kinds];
	const index = new Map(kinds.map((kind, k) => [kindKey(kind), k]));
	const counted = (list: readonly KindCount[]) => {
		const counts: number[] = [];
		for (const one of list) {
			const key = kindKey(one);
			let k = index.get(key);
			if (k === undefined) {
				const { count: _, ...kind } = one as HistoryKind & KindCount;
				k = kinds.push(kind) - 1;
				index.set(key, k);
			}
			counts[k] = (counts[k] ?? 0) + one.count;
		}
		return counts;
	};
	const around = { disputes: counted(disputes), declined: counted(declined) };
	const history: History = { ...captured, kinds };
	const finder = await rateFinder(shiftDay(period.from, -12));
	const costs = new Map<string, SideCost>();
	const { count, kind, minor, day, month, days, refunded: given } = history;
	const past = {
		count,
		kinds: kinds.map(({ method, currency, entry, scheme, funding, issuer }) => ({
			method,
			currency,
			entry,
			scheme,
			funding,
			issuer
		})),
		kind,
		minor,
		day,
		month,
		days,
		refunded: given
	};
	for (const side of sides) {
		// another thread prices; this one answers others meanwhile
		costs.set(
			side.id,
			await priceApart(past, range, side, finder(side.name, side.card.settlement), capitalPpm, around)
		);
		await step();
	}
	const counts = history.kinds.map(() => 0);
	const volumes = history.kinds.map(() => 0);
	for (let n = range[0]; n < range[1]; n++) {
		counts[history.kind[n]!]!++;
		volumes[history.kind[n]!]! += history.minor[n]!;
	}
	const atHome = finder('', homeCurrency);
	const homeRates = history.kinds.map(({ currency }) =>
		currency === homeCurrency ? undefined : atHome(currency, period.to)
	);
	/** minor units of the home currency that so much of a kind's currency is worth */
	const worth = (k: number, minor: number): number => {
		const { currency } = history.kinds[k]!;
		if (currency === homeCurrency) return minor;
		const rate = homeRates[k];
		return rate ? Number(round(unrounded(minor, rate), 'half-even')) : 0;
	};
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
							fee: all.fee + own[k]!.fee,
							around: all.around + own[k]!.around,
							cost: all.cost + own[k]!.fee + own[k]!.around
						}),
						{ count: 0, base: 0, fee: 0, around: 0, cost: 0 }
					);
				const ks = mine.map(([, k]) => k);
				return {
					id: side.id,
					...total(ks),
					holes: ks.reduce((all, k) => all + own[k]!.holes, 0),
					leftOut: [...new Set(ks.map((k) => history.kinds[k]!.currency))].flatMap((currency) => {
						const minor = ks.reduce(
							(all, k) => all + (history.kinds[k]!.currency === currency ? own[k]!.leftOut : 0),
							0
						);
						return minor ? [{ currency, minor }] : [];
					}),
					leftOutHome: ks.reduce((all, k) => all + worth(k, own[k]!.leftOut), 0),
					holeWhy: [
						...new Set(ks.map((k) => own[k]!.hole).filter((one): one is NonNullable<typeof one> => !!one))
					].join(', '),
					common: total(common)
				};
			});
			const ranked = list
				.filter((one) => one.common.count > 0)
				.sort((a, b) => a.common.cost / a.common.base - b.common.cost / b.common.base);
			return {
				method,
				name: methodName(method),
				count: mine.reduce((all, [, k]) => all + counts[k]!, 0),
				volume: mine.reduce((all, [, k]) => all + worth(k, volumes[k]!), 0),
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
		offline: offlineWithin(whole, period),
		areas,
		methods,
		mix: await mixOf(sides, period, history, range),
		pricedFor: (id) => costs.get(id),
		happened: {
			refunds,
			disputes: merged(disputes, ['method']),
			declined: merged(declined, ['method', 'reason']),
			delays
		},
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
						months: cost.months,
						monthlyFee: cost.monthlyFee,
						monthlyMinimum: cost.monthlyMinimum,
						waiting: cost.waiting,
						averageWait: cost.averageWait,
						around: cost.around,
						holes: add((one) => one.holes),
						total: fee + sumAround(cost.around) + monthly + cost.waiting
					}
				];
			})
		),
		kinds: [...groups]
			.map(([name, ks]) => ({
				name,
				count: ks.reduce((all, k) => all + counts[k]!, 0),
				costs: Object.fromEntries(
					sides.map((side) => {
						const own = costs.get(side.id)!.kinds;
						const add = (pick: (one: SideCost['kinds'][number]) => number) =>
							ks.reduce((all, k) => all + pick(own[k]!), 0);
						return [
							side.id,
							{
								count: add((one) => one.count),
								base: add((one) => one.base),
								fee: add((one) => one.fee),
								around: add((one) => one.around)
							}
						];
					})
				)
			}))
			.sort((a, b) => b.count - a.count)
	};
}

/** What came by offline methods in a period. */
function offlineWithin(history: History, period: Period): Compared['offline'] {
	const [from, to] = rangeOf(history, period);
	const sums = new Map<string, number>();
	let count = 0;
	for (let n = from; n < to; n++) {
		const kind = history.kinds[history.kind[n]!]!;
		if (!kind.offline) continue;
		count++;
		sums.set(kind.currency, (sums.get(kind.currency) ?? 0) + history.minor[n]!);
	}
	return { count, sums: [...sums].map(([currency, minor]) => ({ currency, minor })) };
}

/** Prices a side in the other thread: what it carries and the rates are looked up here first. */
function priceApart(
	past: Past,
	range: readonly [number, number],
	{ id, card, country, bankDays, rhythm, carries }: ShownSide,
	rateOf: ReturnType<Awaited<ReturnType<typeof rateFinder>>>,
	capitalPpm: number,
	happened: PastAround
): Promise<SideCost> {
	const seen = past.kinds.map((one) => kindAt(one, card, country));
	const carried = seen.filter(carries).map(plainKind);
	const rates = new Map<string, FoundRate>();
	if (range[1] > range[0])
		for (const currency of new Set(seen.map((one) => one.currency)))
			if (currency !== card.settlement)
				for (const day of past.days.slice(past.day[range[0]], past.day[range[1] - 1]! + 1)) {
					const found = rateOf(currency, day);
					if (found) rates.set(`${currency} ${day}`, found);
				}
	return inThread('price', {
		past,
		range,
		side: { id, card, country, bankDays, rhythm, carried },
		rates,
		capitalPpm,
		happened
	});
}

/** Counts that are alike in some columns as one, the most first. */
function merged<T extends { count: number }, K extends keyof T>(
	list: readonly T[],
	by: readonly K[]
): (Pick<T, K> & { count: number })[] {
	const found = new Map<string, Pick<T, K> & { count: number }>();
	for (const one of list) {
		const key = JSON.stringify(by.map((name) => one[name]));
		const known = found.get(key);
		if (known) known.count += one.count;
		else
			found.set(key, { ...(Object.fromEntries(by.map((name) => [name, one[name]])) as Pick<T, K>), count: one.count });
	}
	return [...found.values()].sort((a, b) => b.count - a.count);
}
