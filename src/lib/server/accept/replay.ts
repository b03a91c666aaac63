import { createHash } from 'node:crypto';
import {
	countMoves,
	hasCard,
	latestByVerdict,
	methodName,
	offeredOnly,
	replay,
	replayFees,
	sound,
	sumFees,
	sumVerdicts,
	takeKinds,
	type CarrierPrices,
	type FeeSums,
	type LineUp,
	type Replayed,
	type ReplayPast,
	type TillPast,
	type VerdictSums,
	type WholePast
} from '../../core/lineup';
import { placeOfDay, placesOfDays } from '../../core/fees';
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
	readonly verdicts: readonly VerdictSums[];
	/** over the payments that both take with method and card, and that both rate cards can price */
	readonly fees: readonly FeeSums[];
	readonly unpriced: number;
	readonly moved: readonly { from: string; to: string; count: number }[];
	readonly unmet: {
		readonly count: number;
		readonly newly: number;
		readonly sums: readonly { readonly currency: string; readonly minor: number }[];
	};
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
	const isMine = history.kinds.map((kind) => kind.till === till.id);
	const past = takeKinds(history, isMine, placesOfDays(history, from, to));
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
	const rows = Object.fromEntries(
		[...latestByVerdict(past.count, done.verdict, 50)].map(([verdict, places]) => [
			verdict,
			places.map((n) => {
				const kind = history.kinds[past.kind[n]!]!;
				return {
					row: past.row[n]!,
					day: history.days[past.day[n]!]!,
					currency: kind.currency,
					minor: past.minor[n]!,
					way: wayText(kind, n)
				};
			})
		])
	);
	return {
		from,
		to,
		count: past.count,
		verdicts: sumVerdicts(past, done.verdict, (kind) => history.kinds[kind]!.currency),
		fees,
		unpriced,
		moved: countMoves(past.count, done).map((one) => ({
			...one,
			from: carrierName(one.from),
			to: carrierName(one.to)
		})),
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
	past: TillPast,
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
	const first = placeOfDay(history, `${from.slice(0, 7)}-01`);
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
	return sumFees(
		both.map((n, at) => ({
			before: { settles: settles[done.before[n]!]!, fee: feeBy[0]![at]! },
			after: { settles: settles[done.after[n]!]!, fee: feeBy[1]![at]! }
		}))
	);
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
		const known = db.unmet.json.context(row.context) as Partial<Asking>;
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
		sums: [...sums].map(([currency, minor]) => ({ currency, minor }))
	};
}
