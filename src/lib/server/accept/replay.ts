import { createHash } from 'node:crypto';
import { kindAt, priceColumns, RateCard, UNPRICED, type Kind } from '../../core/fees';
import {
	hasCard,
	methodName,
	offeredOnly,
	replay,
	sound,
	VERDICTS,
	type LineUp,
	type Replayed,
	type ReplayPast,
	type Verdict
} from '../../core/lineup';
import { formatAmount } from '../../core/money';
import { addDays, inZone } from '../../core/calendar';
import { ownHistory, type History } from '../choose/history';
import { rateFinder, shiftDay } from '../choose/kinds';
import { db, exchangeRatesSince, lastCapture, pastCounts, unmetSince, type TillRow } from '../db';
import { readJson } from '../json';
import { rateCardAreas } from '../takings/areas';
import { contextOf, type Asking } from './ask';
import { snapshot } from './snapshot';
import { tillCurrencies } from './tills';

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
	/** rows behind each verdict, the latest first; ids of settled payments above zero, of our own below */
	readonly rows: Readonly<
		Record<string, readonly { row: number; day: string; currency: string; minor: number; way: string }[]>
	>;
}

/** A replay under way or done. */
export interface ReplayJob {
	readonly key: string;
	readonly progress: { done: number; of: number };
	readonly result: Promise<ReplayResult>;
	ended: boolean;
	stop(): void;
}
export class ReplayStopped extends Error {}

const KEPT = 6;
/** So many payments take longer than anyone waits for a page. */
export const MANY = 200_000;
const HEAD_START_MS = 400;
const jobs = new Map<string, ReplayJob>();
export const replayAt = (key: string): ReplayJob | undefined => jobs.get(key);

/** Answers a till's past payments of the last days under two line-ups; what was asked for before is not worked out again. */
export async function beginReplay(till: TillRow, published: LineUp, draft: LineUp, days: number): Promise<ReplayJob> {
	const last = await lastCapture();
	const text = JSON.stringify([till.id, published, draft, days, last, till.currencies, till.domain]);
	const key = createHash('sha256').update(text).digest('base64url').slice(0, 20);
	const known = jobs.get(key);
	if (known) return known;
	const progress = { done: 0, of: 0 };
	let stopped = false;
	const job: ReplayJob = {
		key,
		progress,
		ended: false,
		stop: () => (stopped = true),
		result: work(till, published, draft, days, progress, () => stopped)
	};
	jobs.set(key, job);
	job.result.then(
		() => (job.ended = true),
		() => {
			job.ended = true;
			jobs.delete(key);
		}
	);
	for (const old of jobs.keys()) {
		if (jobs.size <= KEPT) break;
		jobs.delete(old);
	}
	return job;
}

const breathe = () => new Promise((next) => setImmediate(next));

/** Past payments of one till, by the name it bears in settlement files; a till without any of its own sees none. */
function pastOf(history: History, till: TillRow, from: string, to: string) {
	const mine = history.kinds.map((kind) => kind.source === till.name);
	const within = history.days.map((day) => day >= from && day <= to);
	let count = 0;
	for (let n = 0; n < history.count; n++) if (mine[history.kind[n]!] && within[history.day[n]!]) count++;
	const columns = {
		kind: new Uint16Array(count),
		minor: new Float64Array(count),
		day: new Uint16Array(count),
		month: new Uint16Array(count),
		row: new Float64Array(count)
	};
	let at = 0;
	for (let n = 0; n < history.count; n++) {
		if (!mine[history.kind[n]!] || !within[history.day[n]!]) continue;
		columns.kind[at] = history.kind[n]!;
		columns.minor[at] = history.minor[n]!;
		columns.day[at] = history.day[n]!;
		columns.month[at] = history.month[n]!;
		columns.row[at] = history.row[n]!;
		at++;
	}
	return { count, ...columns };
}

async function work(
	till: TillRow,
	published: LineUp,
	draft: LineUp,
	days: number,
	progress: { done: number; of: number },
	isStopped: () => boolean
): Promise<ReplayResult> {
	// the page that asked goes out first: it tells how far this is
	if ((await pastCounts())[0] > MANY) await new Promise((next) => setTimeout(next, HEAD_START_MS));
	const held = await snapshot();
	const { timeZone, homeCurrency } = held.business;
	const history = await ownHistory(timeZone);
	const to = inZone(new Date(), timeZone).day;
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
		new Date()
	);
	const connections = [...held.connections.values()].filter((row) => !row.removedAt);
	const areas = Object.fromEntries(
		await Promise.all(connections.map(async (row) => [row.id, await rateCardAreas(row.id)] as const))
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
		if (isStopped()) throw new ReplayStopped('The replay was stopped.');
	}
	progress.done = past.count;
	const { fees, unpriced } = await feesOf(history, past, done, connections, from);
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
	from: string
): Promise<Pick<ReplayResult, 'fees' | 'unpriced'>> {
	const both: number[] = [];
	for (let n = 0; n < past.count; n++) if (done.verdict[n]! <= 1) both.push(n);
	const finder = await rateFinder(shiftDay(from, -12));
	const feeBy = [new Float64Array(both.length).fill(UNPRICED), new Float64Array(both.length).fill(UNPRICED)];
	const settles: string[] = new Array<string>(done.carriers.length).fill('');
	for (const [c, id] of done.carriers.entries()) {
		const connection = connections.find((row) => row.id === id);
		const version = connection && (await db.rateCards.find({ connectionId: id }, { order: [['validFrom', 'DESC']] }));
		if (!connection || !version?.length) continue;
		const cards = version.map((row) => ({ from: row.validFrom, card: readJson(RateCard, row.card) }));
		const rateOf = finder(connection.name, cards[0]!.card.settlement);
		settles[c] = cards[0]!.card.settlement;
		for (const [v, { card, from: begins }] of cards.entries()) {
			const ends = v === 0 ? '9999' : cards[v - 1]!.from;
			const kinds: Kind[] = history.kinds.map((kind) => kindAt(kind, card, connection.accountCountry));
			for (const side of [0, 1] as const) {
				const carried = side === 0 ? done.before : done.after;
				const mine = both.flatMap((n, at) => {
					const day = history.days[past.day[n]!]!;
					const first = v === cards.length - 1 || day >= begins;
					return carried[n] === c && first && day < ends ? [at] : [];
				});
				if (!mine.length) continue;
				const rates: ReturnType<typeof rateOf>[] = [undefined];
				const known = new Map<string, number>();
				const rate = Uint16Array.from(mine, (at) => {
					const n = both[at]!;
					const { currency } = kinds[past.kind[n]!]!;
					if (currency === card.settlement) return 0;
					const key = `${currency} ${past.day[n]!}`;
					let index = known.get(key);
					if (index === undefined)
						known.set(key, (index = rates.push(rateOf(currency, history.days[past.day[n]!]!)) - 1));
					return index;
				});
				const fees = new Float64Array(mine.length);
				priceColumns(
					card,
					{
						kinds,
						rates,
						rate,
						kind: Uint16Array.from(mine, (at) => past.kind[both[at]!]!),
						minor: Float64Array.from(mine, (at) => past.minor[both[at]!]!),
						month: Uint16Array.from(mine, (at) => past.month[both[at]!]!)
					},
					fees
				);
				mine.forEach((at, i) => (feeBy[side]![at] = fees[i]!));
			}
		}
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
