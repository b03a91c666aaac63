import { createHash } from 'node:crypto';
import { addDays, instantIn } from '../../core/calendar';
import {
	countKinds,
	groupsOfSides,
	kindAt,
	mergeCounts,
	methodsOfSides,
	placesOfDays,
	totalOfSide,
	versionDays,
	type GroupOfSides,
	type MethodOfSides,
	type Past,
	type PastAround,
	type SideCost,
	type SideTotal,
	type TimedCard
} from '../../core/fees';
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

export interface Compared {
	readonly period: Period;
	/** payments that processors carried: those that are priced */
	readonly count: number;
	/** payments of offline methods in the same period: no processor takes a fee of them */
	readonly offline: { readonly count: number; readonly sums: readonly { currency: string; minor: number }[] };
	readonly methods: readonly (MethodOfSides & { readonly name: string })[];
	readonly sides: Readonly<Record<string, SideTotal>>;
	/** within which another country counts as regional, for telling groups of kinds */
	readonly areas: readonly (readonly string[])[];
	/** what happened around the payments of the period */
	readonly happened: Happened;
	/** cost by kind of payment */
	readonly kinds: readonly GroupOfSides[];
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

/** What a rate card may ask for of a kind, and nothing else: that is what another thread is handed. */
export const pastKind = ({ method, currency, entry, scheme, funding, issuer }: HistoryKind) => ({
	method,
	currency,
	entry,
	scheme,
	funding,
	issuer
});

/** The time of a period: from its first midnight to the one after its last day. */
export const spanOf = ({ from, to }: Period, timeZone: string): Span => [
	instantIn(`${from}T00:00`, timeZone)!,
	instantIn(`${addDays(to, 1)}T00:00`, timeZone)!
];

/** Places of the first payment of a period and of the first after it. */
export const rangeOf = (history: History, { from, to }: Period): [number, number] => placesOfDays(history, from, to);

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
		sides.map((side) => [side.id, side.card, side.bankDays, side.country, side.terms.carries, side.versions])
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
		kinds: kinds.map(pastKind),
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
			await priceApart(
				past,
				range,
				side,
				finder(side.name, side.card.settlement),
				capitalPpm,
				around,
				await happenedByVersion(side, past, range, timeZone, counted)
			)
		);
		await step();
	}
	const { counts, volumes } = countKinds(kinds.length, history, range);
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
	const priced = sides.map((side) => costs.get(side.id)!);
	const areas = sides.find((side) => side.card.areas.length)?.card.areas ?? [];
	return {
		period,
		count: range[1] - range[0],
		offline: offlineWithin(whole, period),
		areas,
		methods: methodsOfSides({ kinds, counts, volumes, sides: priced, worth }).map((one) => ({
			...one,
			name: methodName(one.method)
		})),
		mix: await mixOf(sides, period, history, range),
		pricedFor: (id) => costs.get(id),
		happened: {
			refunds,
			disputes: mergeCounts(disputes, ['method']),
			declined: mergeCounts(declined, ['method', 'reason']),
			delays
		},
		sides: Object.fromEntries(priced.map((cost) => [cost.id, totalOfSide(cost)])),
		kinds: groupsOfSides(counts, priced, (k) => groupOf(history.kinds[k]!, country, areas))
	};
}

/** What happened in the days of each version of a side's rate card, where it is priced by several. */
async function happenedByVersion(
	{ versions }: ShownSide,
	past: Past,
	[from, to]: readonly [number, number],
	timeZone: string,
	counted: (list: readonly KindCount[]) => number[]
): Promise<TimedCard[] | undefined> {
	if (!versions || to <= from) return undefined;
	const dayAt = (n: number) => past.days[past.day[n]!]!;
	const found: TimedCard[] = versions.map((one) => ({ ...one }));
	for (const { at, from: first, to: last } of versionDays(versions, dayAt(from), dayAt(to - 1))) {
		const span = spanOf({ from: first, to: last }, timeZone);
		const [disputes, declined] = await Promise.all([disputesWithin(span), declinedWithin(span)]);
		found[at] = { ...versions[at]!, happened: { disputes: counted(disputes), declined: counted(declined) } };
	}
	return found;
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
export function priceApart(
	past: Past,
	range: readonly [number, number],
	{
		id,
		card,
		country,
		bankDays,
		rhythm,
		carries
	}: Pick<ShownSide, 'id' | 'card' | 'country' | 'bankDays' | 'rhythm' | 'carries'>,
	rateOf: ReturnType<Awaited<ReturnType<typeof rateFinder>>>,
	capitalPpm: number,
	happened: PastAround,
	versions?: readonly TimedCard[]
): Promise<SideCost> {
	const cards = versions?.map((one) => one.card) ?? [card];
	const seen = cards.flatMap((one) => past.kinds.map((kind) => kindAt(kind, one, country)));
	const carried = [...new Set(seen.filter(carries).map(plainKind))];
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
		happened,
		versions
	});
}
