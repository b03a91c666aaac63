import { rangeOfRuns, stretchesBefore, type RateCard, type SideCost } from '../../core/fees';
import { counted } from '../../core/counted';
import { takeKinds } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import type { Working } from '../../core/workings';
import { pastKind, priceApart, rangeOf } from '../compare/compare';
import { rateFinder, shiftDay } from '../compare/kinds';
import { allSides, type ShownSide } from '../compare/sides';
import { theBusiness, today } from '../connect/business';
import { pastStamp } from '../db';
import { carriedOnly, ownHistory, type History } from '../history/columns';
import { contractsOf } from '../ratecards';
import { lastDayOf, monthsBetween } from './overTime';
import { sayMonth } from './words';

// What fees are made of, and what this month will come to. Both price a connection's own payments by its contract of the time.

const NONE = { disputes: [], declined: [] };
const allIn = (cost: SideCost, pick: (kind: SideCost['kinds'][number]) => number) =>
	cost.kinds.reduce((all, one) => all + pick(one), 0);

/** The payments that a connection carried, in order. */
function ownOf(history: History, connectionId: string) {
	const own = takeKinds(
		history,
		history.kinds.map((kind) => kind.carrier === connectionId),
		[0, history.count]
	);
	const month = Uint16Array.from(own.day, (day) => {
		const text = history.days[day]!;
		return Number(text.slice(0, 4)) * 12 + Number(text.slice(5, 7)) - 1;
	});
	return { ...own, month, kinds: history.kinds.map(pastKind), days: history.days };
}
type Own = ReturnType<typeof ownOf>;

const placesIn = (own: Own, from: string, to: string): [number, number] =>
	rangeOf(own as unknown as History, { from, to });

const priceOwn = (
	own: Own,
	range: readonly [number, number],
	side: ShownSide,
	card: RateCard,
	finder: Awaited<ReturnType<typeof rateFinder>>
) => priceApart(own, range, { ...side, card, carries: () => true }, finder(side.name, card.settlement), 0, NONE);

/** What a period's fees are made of. @returns minor units of a currency */
export interface FeeParts {
	readonly percentage: number;
	readonly fixed: number;
	readonly conversion: number;
	readonly differing: number;
	readonly unpriced: number;
	readonly account: number;
}

let keptParts: { key: string; parts: Promise<{ fixed: number; conversion: number }> } | undefined;
/** Fixed parts and conversion of the payments of a stretch of days, each month by its contract, tiers counted from its first day. */
export async function pricedParts(
	from: string,
	to: string,
	currency: string
): Promise<{ fixed: number; conversion: number }> {
	const key = `${from} ${to} ${currency} ${await pastStamp()}`;
	if (keptParts?.key !== key) keptParts = { key, parts: work() };
	keptParts.parts.catch(() => (keptParts = undefined));
	return keptParts.parts;

	async function work() {
		const { timeZone } = await theBusiness();
		const [history, sides, finder] = await Promise.all([
			ownHistory(timeZone).then(carriedOnly),
			allSides(),
			rateFinder(shiftDay(`${from.slice(0, 7)}-01`, -12))
		]);
		let [fixed, conversion] = [0, 0];
		for (const side of sides) {
			if (side.kind !== 'connection' || side.card.settlement !== currency) continue;
			const own = ownOf(history, side.id);
			const contracts = await contractsOf(side.id);
			for (const month of monthsBetween(from.slice(0, 7), to.slice(0, 7))) {
				const range = placesIn(own, `${month}-01`, lastDayOf(month) < to ? lastDayOf(month) : to);
				const before = from > `${month}-01` ? placesIn(own, `${month}-01`, shiftDay(from, -1)) : undefined;
				const contract = contracts.find((one) => one.validFrom <= lastDayOf(month));
				if (!contract || range[0] === range[1]) continue;
				const cost = await priceOwn(own, range, side, contract.body, finder);
				fixed += allIn(cost, (one) => one.fixed);
				conversion += allIn(cost, (one) => one.conversion);
				if (!before || before[0] === before[1]) continue;
				const earlier = await priceOwn(own, before, side, contract.body, finder);
				fixed -= allIn(earlier, (one) => one.fixed);
				conversion -= allIn(earlier, (one) => one.conversion);
			}
		}
		return { fixed, conversion };
	}
}

/** So many past stretches stand for the days to come. */
const RUNS = 8;

export interface Forecast {
	readonly month: string;
	readonly fee: string;
	readonly least: string;
	readonly most: string;
	readonly per100: string;
	readonly volume: string;
	readonly working: Working;
}
let keptForecast: { key: string; forecast: Promise<Forecast | undefined> } | undefined;

/**
 * What this month's fees will come to: what came so far, and for the rest of it what came on as many days before, eight times,
 * each priced by the contracts with all that the month has taken so far in their tiers.
 */
export async function forecastMonth(currency: string, locale: string): Promise<Forecast | undefined> {
	const day = await today();
	const key = `${day} ${currency} ${locale} ${await pastStamp()}`;
	if (keptForecast?.key !== key) keptForecast = { key, forecast: work() };
	keptForecast.forecast.catch(() => (keptForecast = undefined));
	return keptForecast.forecast;

	async function work(): Promise<Forecast | undefined> {
		const { timeZone } = await theBusiness();
		const month = day.slice(0, 7);
		const stretches = stretchesBefore(day, RUNS);
		const [history, sides, finder] = await Promise.all([
			ownHistory(timeZone).then(carriedOnly),
			allSides(),
			rateFinder(shiftDay(stretches.at(-1)?.from ?? `${month}-01`, -12))
		]);
		const runs = stretches.length || 1;
		const fees = new Array<number>(runs).fill(0);
		const volumes = new Array<number>(runs).fill(0);
		let soFar = 0;
		for (const side of sides) {
			if (side.kind !== 'connection' || side.card.settlement !== currency) continue;
			const own = ownOf(history, side.id);
			const begun = placesIn(own, `${month}-01`, day);
			const isUsed = own.count > 0 && begun[1] > 0;
			if (!isUsed) continue;
			const known = await priceOwn(own, begun, side, side.card, finder);
			soFar += allIn(known, (one) => one.fee);
			for (let run = 0; run < runs; run++) {
				const stretch = stretches[run];
				const rest: [number, number] = stretch ? placesIn(own, stretch.from, stretch.to) : [0, 0];
				const joined = joinOf(own, begun, rest);
				if (!joined.count) continue;
				const cost = await priceOwn(joined, [0, joined.count], side, side.card, finder);
				fees[run]! += allIn(cost, (one) => one.fee) + cost.monthlyFee + cost.monthlyMinimum;
				volumes[run]! += allIn(cost, (one) => one.base);
			}
		}
		const range = rangeOfRuns(fees);
		const volume = rangeOfRuns(volumes);
		if (!range || !volume || !volume.middle) return undefined;
		const say = (minor: number) => formatAmount({ minor, currency }, locale);
		return {
			month: sayMonth(month, locale),
			fee: say(range.middle),
			least: say(range.least),
			most: say(range.most),
			volume: say(volume.middle),
			per100: ((range.middle / volume.middle) * 100).toLocaleString(locale, {
				minimumFractionDigits: 2,
				maximumFractionDigits: 2
			}),
			working: {
				title: `${sayMonth(month, locale)}, worked out`,
				about: stretches.length
					? `What came until today, and for the ${counted(daysLeft(stretches[0]!), 'day', locale)} to come what came on as many days before, ${RUNS} times, a week further back each time. Each is priced by the contracts of now, with the month’s volume so far in their tiers, with monthly fees and minimums. Shown is the middle one, and the least and the most.`
					: 'The month is over today: nothing is still to come.',
				steps: [
					{ title: 'Fees so far', sub: 'by the contracts', sum: say(soFar) },
					...stretches.map((one, run) => ({
						title: `With ${one.from.slice(8)}/${one.from.slice(5, 7)} to ${one.to.slice(8)}/${one.to.slice(5, 7)}`,
						sub: `${say(volumes[run]!)} captured`,
						sum: say(fees[run]!)
					})),
					{ title: 'The middle', sum: say(range.middle), total: true }
				]
			}
		};
	}
}
const daysLeft = ({ from, to }: { from: string; to: string }): number =>
	Math.round((Date.parse(to) - Date.parse(from)) / 86_400_000) + 1;

/** Two stretches of payments as one month. */
function joinOf(own: Own, a: readonly [number, number], b: readonly [number, number]): Own {
	const count = a[1] - a[0] + b[1] - b[0];
	const join = <T extends Uint16Array | Float64Array>(column: T, empty: T): T => {
		// what came before is earlier: payments stay in the order of their days
		empty.set(column.subarray(b[0], b[1]) as never, 0);
		empty.set(column.subarray(a[0], a[1]) as never, b[1] - b[0]);
		return empty;
	};
	return {
		...own,
		count,
		kind: join(own.kind, new Uint16Array(count)),
		minor: join(own.minor, new Float64Array(count)),
		day: join(own.day, new Uint16Array(count)),
		month: new Uint16Array(count).fill(1)
	};
}
