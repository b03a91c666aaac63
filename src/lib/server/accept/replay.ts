import { createHash } from 'node:crypto';
import {
	hasCard,
	methodName,
	offeredOnly,
	replay,
	replayFees,
	sound,
	type CarrierPrices,
	type WholePast,
	VERDICTS,
	type LineUp,
	type Replayed,
	type ReplayPast,
	type Verdict
} from '../../core/lineup';
import { formatAmount } from '../../core/money';
import { addDays, inZone } from '../../core/calendar';
import { ownHistory, type History } from '../history/columns';
import { rateFinder, shiftDay } from '../compare/kinds';
import { db, exchangeRatesSince, pastCount, pastStamp, unmetSince, type TillRow } from '../db';
import { Jobs, type Job, type Work } from '../jobs';
import { areasOf, contractsOf, newestCard } from '../ratecards';
import { contextOf, type Asking } from './ask';
import { snapshot } from './snapshot';
import { tillCurrencies } from './tills';
import { timeNow } from '../signals/clock';

export const PERIODS = [30, 90, 365] as const;

/** What a replay came to. Sums are minor units by currency; fees by settlement currency. */
export interface ReplayResult {
	readonly from: string;
	readonly to: string;
	readonly count: number;
	readonly verdicts: readonly {
		readonly verdict: Verdict;
		readonly count: number;
		readonly sums: readonly { currency: string; minor: number; count: number }[];
	}[];
	/** over the payments that both take with method and card, and that both rate cards can price */
	readonly fees: readonly { currency: string; count: number; before: number; after: number }[];
	readonly unpriced: number;
	readonly moved: readonly { from: string; to: string; count: number }[];
	readonly unmet: { readonly count: number; readonly newly: number; readonly sums: readonly string[] };
	/** payments behind each verdict by their ids, the latest first */
	readonly rows: Readonly<
		Record<string, readonly { row: number; day: string; currency: string; minor: number; way: string }[]>
	>;
}

const KEPT = 6;
/** So many payments take longer than anyone waits for a page. */
export const MANY = 200_000;
const HEAD_START_MS = 400;
const jobs = new Jobs<ReplayResult>('a replay', KEPT);
export const replayAt = (key: string): Job<ReplayResult> | undefined => jobs.at(key);

/**
 * Answers a till's past payments of the last days under two line-ups. What was asked for before is not worked out again, as
 * long as nothing that the answer depends on has changed: payments, refunds, files, rate cards, abilities, rates, the day.
 */
export async function beginReplay(
	till: TillRow,
	published: LineUp,
	draft: LineUp,
	days: number
): Promise<Job<ReplayResult>> {
	const { business, states } = await snapshot();
	const today = inZone(new Date(timeNow()), business.timeZone).day;
	// by what these hold, not by when they were read: a look at a processor that changes nothing leaves the answer good
	const cards = await db.rateCards.find({}, { order: [['id', 'ASC']] });
	const text = JSON.stringify([
		till.id,
		published,
		draft,
		days,
		today,
		await pastStamp(),
		sound(states),
		cards.map(({ id, role, validFrom, confirmedAt, card }) => [id, role, validFrom, confirmedAt, card]),
		till.currencies,
		till.domain
	]);
	const key = createHash('sha256').update(text).digest('base64url').slice(0, 20);
	return jobs.begin(key, (told) => work(till, published, draft, days, told));
}

/** Past payments of one till. */
function pastOf(history: History, till: TillRow, from: string, to: string) {
	const mine = history.kinds.map((kind) => kind.till === till.id);
	const within = history.days.map((day) => day >= from && day <= to);
	let count = 0;
	for (let n = 0; n < history.count; n++) if (mine[history.kind[n]!] && within[history.day[n]!]) count++;
	const columns = {
		kind: new Uint16Array(count),
		minor: new Float64Array(count),
		day: new Uint16Array(count),
		row: new Float64Array(count),
		/** place in the whole history */
		place: new Uint32Array(count)
	};
	let at = 0;
	for (let n = 0; n < history.count; n++) {
		if (!mine[history.kind[n]!] || !within[history.day[n]!]) continue;
		columns.kind[at] = history.kind[n]!;
		columns.minor[at] = history.minor[n]!;
		columns.day[at] = history.day[n]!;
		columns.row[at] = history.row[n]!;
		columns.place[at] = n;
		at++;
	}
	return { count, ...columns };
}

async function work(
	till: TillRow,
	published: LineUp,
	draft: LineUp,
	days: number,
	{ progress, breathe }: Work
): Promise<ReplayResult> {
	// the page that asked goes out first: it tells how far this is
	if ((await pastCount()) > MANY) await new Promise((next) => setTimeout(next, HEAD_START_MS));
	const held = await snapshot();
	const { timeZone, homeCurrency } = held.business;
	const history = await ownHistory(timeZone);
	const to = inZone(new Date(timeNow()), timeZone).day;
	const from = addDays(to, 1 - days);
	const past = pastOf(history, till, from, to);
	progress.of = past.count;
	const states = {
		...sound(held.states),
		rates: [...held.states.rates, ...(await ratesAround(from))]
	};
	const base = contextOf(
		{ row: till, currencies: tillCurrencies(till) },
		{ currency: homeCurrency, minor: 1 },
		held,
		new Date(timeNow())
	);
	const connections = [...held.connections.values()].filter((row) => !row.removedAt);
	const areas = Object.fromEntries(
		await Promise.all(connections.map(async (row) => [row.id, await areasOf(row.id)] as const))
	);
	const countries = Object.fromEntries(connections.map((row) => [row.id, row.accountCountry]));
	const columns: ReplayPast = { ...past, kinds: history.kinds, days: history.days };
	const steps = replay({ past: columns, published, draft, states, base, areas, countries }, [0, past.count], 20_000);
	let done: Replayed | undefined;
	while (!done) {
		const step = steps.next();
		if (step.done) done = step.value;
		else progress.done = step.value;
		await breathe();
	}
	progress.done = past.count;
	const { fees, unpriced } = await feesOf(history, past, done, connections, from, breathe);
	const sums = VERDICTS.map(() => new Map<string, { minor: number; count: number }>());
	const moved = new Map<string, number>();
	for (let n = 0; n < past.count; n++) {
		const { currency } = history.kinds[past.kind[n]!]!;
		const sum = sums[done.verdict[n]!]!;
		const one = sum.get(currency) ?? { minor: 0, count: 0 };
		one.minor += past.minor[n]!;
		one.count++;
		sum.set(currency, one);
		if (VERDICTS[done.verdict[n]!] === 'other route') {
			const key = `${done.before[n]!} ${done.after[n]!}`;
			moved.set(key, (moved.get(key) ?? 0) + 1);
		}
	}
	const carrierName = (index: number) => {
		const id = done.carriers[index]!;
		return held.connections.get(id)?.name ?? held.offline.get(id)?.name ?? id;
	};
	const wayText = (kind: History['kinds'][number], n: number) => {
		const what = `${methodName(kind.method)}${hasCard(kind.method) ? `, ${held.schemeNames[kind.scheme] ?? kind.scheme} ${kind.funding}` : ''}`;
		const [before, after] = [done.before[n]!, done.after[n]!];
		if (!before && !after) return what;
		return `${what}: ${before ? carrierName(before) : 'not taken'} → ${after ? carrierName(after) : 'not taken'}`;
	};
	const rows: Record<string, { row: number; day: string; currency: string; minor: number; way: string }[]> = {};
	for (let n = past.count - 1; n >= 0; n--) {
		const verdict = VERDICTS[done.verdict[n]!]!;
		const list = (rows[verdict] ??= []);
		if (list.length >= 50) continue;
		const kind = history.kinds[past.kind[n]!]!;
		list.push({
			row: past.row[n]!,
			day: history.days[past.day[n]!]!,
			currency: kind.currency,
			minor: past.minor[n]!,
			way: wayText(kind, n)
		});
	}
	return {
		from,
		to,
		count: past.count,
		verdicts: VERDICTS.map((verdict, v) => ({
			verdict,
			count: [...sums[v]!.values()].reduce((all, one) => all + one.count, 0),
			sums: [...sums[v]!].map(([currency, one]) => ({ currency, ...one }))
		})),
		fees,
		unpriced,
		moved: [...moved]
			.map(([key, count]) => {
				const [a, b] = key.split(' ').map(Number);
				return { from: carrierName(a!), to: carrierName(b!), count };
			})
			.sort((a, b) => b.count - a.count),
		unmet: await unmetUnder(till, draft, from, states),
		rows
	};
}

/** Published rates of the days of a replay, which the snapshot holds for the last weeks only. */
async function ratesAround(from: string) {
	return (await exchangeRatesSince(shiftDay(from, -10))).map((row) => ({
		day: row.day,
		from: row.fromCurrency,
		to: row.toCurrency,
		rate: row.rate,
		source: row.source
	}));
}

/** Fees under both line-ups, over the payments that both take with method and card. */
async function feesOf(
	history: History,
	past: ReturnType<typeof pastOf>,
	done: Replayed,
	connections: readonly { id: string; name: string; accountCountry: string }[],
	from: string,
	breathe: () => Promise<void>
): Promise<Pick<ReplayResult, 'fees' | 'unpriced'>> {
	const both: number[] = [];
	for (let n = 0; n < past.count; n++) if (done.verdict[n]! <= 1) both.push(n);
	const finder = await rateFinder(shiftDay(`${from.slice(0, 7)}-01`, -12));
	// what carries: those of the line-ups by their places, then whatever else carried payments of other tills
	const ids = [...done.carriers];
	const placeOf = new Map(ids.map((id, c) => [id, c]));
	const settles: string[] = [];
	const prices: (CarrierPrices | undefined)[] = [];
	for (const id of ids) {
		const connection = connections.find((row) => row.id === id);
		const contracts = connection ? await contractsOf(id) : [];
		const newest = connection && !contracts.length ? await newestCard(id) : undefined;
		const cards = (newest ? [newest] : contracts).map(({ validFrom, body }) => ({ from: validFrom, card: body }));
		settles.push(cards[0]?.card.settlement ?? '');
		prices.push(
			connection && cards.length
				? {
						cards,
						country: connection.accountCountry,
						rateOf: finder(connection.name, cards[0]!.card.settlement)
					}
				: undefined
		);
	}
	await breathe();
	// tiers count from the first of the month on, over all tills
	const first = firstOfMonth(history, from);
	const whole: WholePast = {
		kinds: history.kinds,
		kind: history.kind.subarray(first),
		minor: history.minor.subarray(first),
		day: history.day.subarray(first),
		month: history.month.subarray(first),
		days: history.days,
		count: history.count - first
	};
	const actual = history.kinds.map((kind) => placeOf.get(kind.carrier) ?? -1);
	const wanted = both.map((n) => past.place[n]! - first);
	const feeBy: Float64Array[] = [];
	for (const carried of [done.before, done.after]) {
		const carrierOf = new Int32Array(whole.count);
		for (let n = 0; n < whole.count; n++) carrierOf[n] = actual[whole.kind[n]!]!;
		for (let n = 0; n < past.count; n++) carrierOf[past.place[n]! - first] = carried[n]! || -1;
		feeBy.push(replayFees(whole, prices, carrierOf, wanted));
		await breathe();
	}
	const sums = new Map<string, { count: number; before: number; after: number }>();
	let unpriced = 0;
	both.forEach((n, at) => {
		const [before, after] = [feeBy[0]![at]!, feeBy[1]![at]!];
		const currency = settles[done.before[n]!]!;
		// an offline way costs no fee; a payment that one of the cards cannot price stands beside, and so does another currency
		const a = settles[done.before[n]!] ? before : 0;
		const b = settles[done.after[n]!] ? after : 0;
		if (a < 0 || b < 0 || (currency && settles[done.after[n]!] && settles[done.after[n]!] !== currency)) {
			unpriced++;
			return;
		}
		const key = currency || settles[done.after[n]!] || '';
		if (!key) return;
		const one = sums.get(key) ?? { count: 0, before: 0, after: 0 };
		one.count++;
		one.before += a;
		one.after += b;
		sums.set(key, one);
	});
	return { fees: [...sums].map(([currency, one]) => ({ currency, ...one })), unpriced };
}

/** Place of the first payment of the month in which a day lies. */
function firstOfMonth(history: History, day: string): number {
	const begins = `${day.slice(0, 7)}-01`;
	let [low, high] = [0, history.count];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (history.days[history.day[middle]!]! >= begins) high = middle;
		else low = middle + 1;
	}
	return low;
}

/** Recorded empty answers: how many of them the draft would have helped. */
async function unmetUnder(
	till: TillRow,
	draft: LineUp,
	from: string,
	states: Parameters<typeof offeredOnly>[2]
): Promise<ReplayResult['unmet']> {
	const held = await snapshot();
	const rows = await unmetSince(till.id, Date.parse(`${from}T00:00:00Z`));
	const sums = new Map<string, number>();
	let newly = 0;
	for (const row of rows) {
		if (row.kind !== 'nothing offered') continue;
		const known = JSON.parse(row.context) as Partial<Asking>;
		const context = contextOf(
			{ row: till, currencies: tillCurrencies(till) },
			{ ...known, currency: row.currency, minor: row.minor },
			held,
			new Date(row.at)
		);
		if (offeredOnly(draft, context, states).length) {
			newly++;
			sums.set(row.currency, (sums.get(row.currency) ?? 0) + row.minor);
		}
	}
	return {
		count: rows.filter((row) => row.kind === 'nothing offered').length,
		newly,
		sums: [...sums].map(([currency, minor]) => formatAmount({ minor, currency }, 'en-GB'))
	};
}
