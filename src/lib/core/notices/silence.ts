// Silence: whether a processor that tells nothing has nothing to tell, or does not tell it.

const HOUR = 3_600_000;
export const HOURS_OF_WEEK = 168;
/** The usual rate is taken from so many weeks. */
export const USUAL_WEEKS = 4;
/** Fewer arrivals than this say nothing about what is usual. */
export const AT_LEAST = 50;
/** The probability below which silence is an alert, where nobody chose another. */
export const FIRST_THRESHOLD = 0.001;

/** What arrived in an hour that was looked at; hours without arrivals are there too, with 0. */
export interface HourCount {
	/** hour of the week, 0 is Monday's first, as the business's clocks show it */
	readonly hour: number;
	readonly count: number;
	/** within a known outage: it says nothing about what is usual */
	readonly isOut?: boolean;
}
/** What usually arrives: expected arrivals an hour, by hour of the week. */
export interface UsualRate {
	readonly rates: Float64Array;
	readonly arrivals: number;
	/** expected arrivals of a month of 30.44 days */
	readonly monthly: number;
	/** how many arrive together: 1 where each comes by itself, more where they come in bursts, as a month's debits do */
	readonly burst: number;
}

/** An hour of the week is told by its day's and its time's share, too: as much as so many weeks of its own. */
const WEIGHT = 3;

/** One hour of several weeks that stands out like this is no promise for the next week: a batch came in it, or a campaign. */
const STANDS_OUT = { times: 3, more: 3 };

/** The counts with each hour of the week's largest cut to its second, where it stands out. */
function withoutBursts(hours: readonly HourCount[]): HourCount[] {
	const top = Array.from({ length: HOURS_OF_WEEK }, () => ({ first: 0, second: 0, seen: 0 }));
	for (const { hour, count, isOut } of hours) {
		if (isOut) continue;
		const one = top[hour]!;
		one.seen++;
		if (count > one.first) [one.second, one.first] = [one.first, count];
		else if (count > one.second) one.second = count;
	}
	return hours.map((one) => {
		const { second, seen } = top[one.hour]!;
		const most = second * STANDS_OUT.times + STANDS_OUT.more;
		return seen >= 3 && one.count > most ? { ...one, count: second } : one;
	});
}

/**
 * The usual rate by hour of the week. Four weeks say little of one hour by itself: each is drawn towards what its day and its
 * time of day say together, so that one busy Tuesday morning is no promise.
 * @returns undefined where fewer than 50 arrivals are known
 */
export function usualRate(given: readonly HourCount[]): UsualRate | undefined {
	const hours = withoutBursts(given);
	const counts = new Float64Array(HOURS_OF_WEEK);
	const seen = new Float64Array(HOURS_OF_WEEK);
	let arrivals = 0;
	for (const { hour, count, isOut } of hours) {
		if (isOut) continue;
		counts[hour]! += count;
		seen[hour]!++;
		arrivals += count;
	}
	if (arrivals < AT_LEAST) return undefined;
	const days = Array.from({ length: 7 }, () => ({ count: 0, seen: 0 }));
	const times = Array.from({ length: 24 }, () => ({ count: 0, seen: 0 }));
	let all = 0;
	for (let hour = 0; hour < HOURS_OF_WEEK; hour++)
		for (const one of [days[Math.floor(hour / 24)]!, times[hour % 24]!]) {
			one.count += counts[hour]!;
			one.seen += seen[hour]!;
		}
	for (const one of seen) all += one;
	const mean = arrivals / all;
	const rates = new Float64Array(HOURS_OF_WEEK);
	for (let hour = 0; hour < HOURS_OF_WEEK; hour++) {
		const [day, time] = [days[Math.floor(hour / 24)]!, times[hour % 24]!];
		const byDay = day.seen ? day.count / day.seen : mean;
		const byTime = time.seen ? time.count / time.seen : mean;
		const drawn = (byDay * byTime) / mean;
		rates[hour] = (counts[hour]! + WEIGHT * drawn) / (seen[hour]! + WEIGHT);
	}
	const weekly = rates.reduce((sum, one) => sum + one, 0);
	let [squares, expected] = [0, 0];
	for (const { hour, count, isOut } of hours) {
		if (isOut) continue;
		squares += (count - rates[hour]!) ** 2;
		expected += rates[hour]!;
	}
	return { rates, arrivals, monthly: (weekly * 30.44) / 7, burst: Math.max(1, squares / expected) };
}

/**
 * Arrivals expected within a span.
 * @param hourAt hour of the week of a moment, as the business's clocks show it
 */
export function expectedWithin(
	{ rates }: UsualRate,
	[from, to]: readonly [number, number],
	hourAt: (at: number) => number
): number {
	let sum = 0;
	for (let at = from; at < to;) {
		const end = Math.min(to, (Math.floor(at / HOUR) + 1) * HOUR);
		sum += rates[hourAt(at)]! * ((end - at) / HOUR);
		at = end;
	}
	return sum;
}

/**
 * How probable it is that nothing at all comes where so much is expected. What comes in bursts is counted by burst.
 * @source the Poisson distribution at 0; its variance is as many times its mean as arrive together (quasi-Poisson)
 */
export const silenceProbability = (expected: number, burst = 1): number => Math.exp(-expected / burst);

/**
 * How many false alerts a month a threshold means: arrivals are independent, so that after each of them silence goes below
 * the threshold with just that probability.
 */
export const falseAlertsAMonth = ({ monthly, burst }: UsualRate, threshold: number): number =>
	(monthly / burst) * threshold;

/** The threshold that means so many false alerts a month; never so high that an ordinary pause is one. */
export const thresholdFor = ({ monthly, burst }: UsualRate, falseAlerts: number): number =>
	Math.min(0.05, Math.max(1e-12, falseAlerts / Math.max(monthly / burst, 1)));

export interface Silence {
	readonly since: number;
	readonly expected: number;
	readonly probability: number;
	readonly isAlert: boolean;
}
/** What the silence since the last arrival means. */
export function judgeSilence(
	usual: UsualRate,
	lastAt: number,
	now: number,
	threshold: number,
	hourAt: (at: number) => number
): Silence {
	const expected = expectedWithin(usual, [lastAt, Math.max(lastAt, now)], hourAt);
	const probability = silenceProbability(expected, usual.burst);
	return { since: lastAt, expected, probability, isAlert: probability < threshold };
}

/**
 * When silence that begins at a moment becomes an alert: where an outage begins there, it is found then.
 * @param atMost it is not looked for beyond this many hours
 * @returns milliseconds since 1970, to the minute; undefined where it is not found within these hours
 */
export function foundAt(
	usual: UsualRate,
	from: number,
	threshold: number,
	hourAt: (at: number) => number,
	atMost = 24 * 14
): number | undefined {
	const enough = -Math.log(threshold) * usual.burst;
	let sum = 0;
	for (let at = from; at < from + atMost * HOUR;) {
		const end = (Math.floor(at / HOUR) + 1) * HOUR;
		const rate = usual.rates[hourAt(at)]!;
		const part = rate * ((end - at) / HOUR);
		if (sum + part > enough) return Math.ceil((at + ((enough - sum) / rate) * HOUR) / 60_000) * 60_000;
		sum += part;
		at = end;
	}
	return undefined;
}

/** The longest time after which a silence is found, whenever in the week it begins, in milliseconds. */
export function slowestFinding(usual: UsualRate, threshold: number): number | undefined {
	// any week: its hours follow each other from a Monday's first
	const hourAt = (at: number) => Math.floor(at / HOUR) % HOURS_OF_WEEK;
	let slowest = 0;
	for (let hour = 0; hour < HOURS_OF_WEEK; hour++) {
		const found = foundAt(usual, hour * HOUR, threshold, hourAt);
		if (found === undefined) return undefined;
		slowest = Math.max(slowest, found - hour * HOUR);
	}
	return slowest;
}

/** A stretch of whole hours in which nothing arrived though something should have. */
export interface PastSilence {
	readonly from: number;
	readonly to: number;
	readonly expected: number;
	readonly probability: number;
}
/**
 * Silences of the past: stretches of hours without any arrival that are less probable than the threshold.
 * @param hours in order, without gaps: when each began, and how many arrived
 */
export function pastSilences(
	usual: UsualRate,
	hours: readonly { readonly at: number; readonly count: number }[],
	threshold: number,
	hourAt: (at: number) => number
): PastSilence[] {
	const found: PastSilence[] = [];
	for (let first = 0; first < hours.length;) {
		if (hours[first]!.count > 0) {
			first++;
			continue;
		}
		let last = first;
		while (last + 1 < hours.length && hours[last + 1]!.count === 0) last++;
		const span = [hours[first]!.at, hours[last]!.at + HOUR] as const;
		const expected = expectedWithin(usual, span, hourAt);
		const probability = silenceProbability(expected, usual.burst);
		// one that has not ended is judged by the last arrival, to the minute
		if (probability < threshold && last + 1 < hours.length)
			found.push({ from: span[0], to: span[1], expected, probability });
		first = last + 1;
	}
	return found;
}

/** The value that so large a share of a list does not exceed; 0 of none. @param list in any order */
export function percentile(list: readonly number[], share: number): number {
	if (!list.length) return 0;
	const sorted = [...list].sort((a, b) => a - b);
	return sorted[Math.min(sorted.length - 1, Math.max(0, Math.ceil(share * sorted.length) - 1))]!;
}

/** Whatever is started here is waited for at least so long before it counts as awaited, in milliseconds. */
export const AWAITED_AT_LEAST = 60_000;
/**
 * From how long on an answer is awaited: what is slower than the 99th of a hundred.
 * @param delays of the answers that came, in milliseconds
 */
export const awaitedAfter = (delays: readonly number[]): number =>
	Math.max(AWAITED_AT_LEAST, delays.length >= AT_LEAST ? percentile(delays, 0.99) : AWAITED_AT_LEAST * 5);
