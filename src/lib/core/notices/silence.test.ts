import { describe, expect, it } from 'vitest';
import {
	awaitedAfter,
	expectedWithin,
	falseAlertsAMonth,
	foundAt,
	HOURS_OF_WEEK,
	judgeSilence,
	pastSilences,
	percentile,
	silenceProbability,
	slowestFinding,
	thresholdFor,
	usualRate,
	type HourCount,
	type UsualRate
} from '.';

const HOUR = 3_600_000;
/** a week that begins on a Monday, in a place whose clocks show UTC */
const hourAt = (at: number) => Math.floor(at / HOUR) % HOURS_OF_WEEK;
const steady = (rate: number): UsualRate => ({
	rates: new Float64Array(HOURS_OF_WEEK).fill(rate),
	arrivals: rate * HOURS_OF_WEEK * 4,
	monthly: rate * 24 * 30.44,
	burst: 1
});
function generator(seed: number) {
	let state = seed >>> 0 || 1;
	const next = () => {
		state ^= state << 13;
		state ^= state >>> 17;
		state ^= state << 5;
		return (state >>> 0) / 2 ** 32;
	};
	return {
		next,
		/** how many arrive where so many are expected */
		poisson(expected: number): number {
			if (expected > 30) {
				const [a, b] = [Math.max(1e-12, next()), next()];
				return Math.max(
					0,
					Math.round(expected + Math.sqrt(expected) * Math.sqrt(-2 * Math.log(a)) * Math.cos(2 * Math.PI * b))
				);
			}
			const limit = Math.exp(-expected);
			let [count, product] = [0, next()];
			while (product > limit) {
				count++;
				product *= next();
			}
			return count;
		}
	};
}

describe('silence', () => {
	it('at 3.2 an hour is none after two hours, and an alert after three', () => {
		const usual = steady(3.2);
		const after = (hours: number) => judgeSilence(usual, 0, hours * HOUR, 0.001, hourAt);
		expect(after(2).probability).toBeCloseTo(0.0017, 4);
		expect(after(2).isAlert).toBe(false);
		expect(after(3).probability).toBeCloseTo(0.00007, 5);
		expect(after(3).isAlert).toBe(true);
	});
	it('has no verdict where fewer than fifty arrivals are known', () => {
		const hours = (count: number): HourCount[] => Array.from({ length: 49 }, (_, hour) => ({ hour, count }));
		expect(usualRate(hours(1))).toBeUndefined();
		expect(usualRate([...hours(1), { hour: 100, count: 1 }])?.arrivals).toBe(50);
	});
	it('counts parts of hours as parts', () => {
		expect(expectedWithin(steady(2), [HOUR / 2, 2 * HOUR], hourAt)).toBeCloseTo(3, 10);
		expect(expectedWithin(steady(2), [5, 5], hourAt)).toBe(0);
		expect(silenceProbability(0)).toBe(1);
	});
	it('of a night, when nothing ever comes, is none', () => {
		const rates = Float64Array.from({ length: HOURS_OF_WEEK }, (_, hour) => (hour % 24 < 8 ? 0 : 6));
		const usual: UsualRate = { rates, arrivals: 10_000, monthly: 10_000, burst: 1 };
		// from ten minutes to midnight to eight in the morning
		expect(judgeSilence(usual, 24 * HOUR - 600_000, 32 * HOUR, 0.001, hourAt).isAlert).toBe(false);
		expect(judgeSilence(usual, 24 * HOUR - 600_000, 34 * HOUR, 0.001, hourAt).isAlert).toBe(true);
	});
	it('leaves known outages out of what is usual', () => {
		const hours: HourCount[] = Array.from({ length: 4 * HOURS_OF_WEEK }, (_, n) => ({
			hour: n % HOURS_OF_WEEK,
			count: n < HOURS_OF_WEEK ? 0 : 2
		}));
		const [told, without] = [hours, hours.map((one, n) => ({ ...one, isOut: n < HOURS_OF_WEEK }))].map(
			(list) => usualRate(list)!.monthly / (24 * 30.44)
		);
		expect(told).toBeCloseTo(1.5, 5);
		expect(without).toBeCloseTo(2, 5);
	});
	it('of what comes in bursts is none: a month of debits on one day promises nothing for the same day next week', () => {
		// on one Tuesday of four a hundred come within two hours; a few on every other day
		const one: HourCount[] = Array.from({ length: 4 * HOURS_OF_WEEK }, (_, n) => ({
			hour: n % HOURS_OF_WEEK,
			count: n === 34 || n === 35 ? 50 : n % 12 === 6 ? 1 : 0
		}));
		const usual = usualRate(one)!;
		expect(usual.monthly).toBeLessThan(80);
		expect(usual.burst).toBeLessThan(1.5);
		// where they come every week, in twos and twenties, they are counted by burst
		const often = one.map(({ hour }, n) => ({
			hour,
			count: n % 24 === 10 ? [2, 20, 21, 3][Math.floor(n / HOURS_OF_WEEK)]! : 0
		}));
		expect(usualRate(often)!.burst).toBeGreaterThan(3);
		const tuesday = (HOURS_OF_WEEK + 24) * HOUR;
		expect(judgeSilence(usual, tuesday, tuesday + 20 * HOUR, 0.001, hourAt).isAlert).toBe(false);
	});
	it('is found when a threshold says, and never later than the slowest of the week', () => {
		const usual = steady(2);
		const found = foundAt(usual, 0, 0.001, hourAt)!;
		expect(judgeSilence(usual, 0, found, 0.001, hourAt).isAlert).toBe(true);
		expect(judgeSilence(usual, 0, found - 60_000, 0.001, hourAt).isAlert).toBe(false);
		expect(slowestFinding(usual, 0.001)).toBe(found);
		expect(slowestFinding({ ...usual, rates: new Float64Array(HOURS_OF_WEEK) }, 0.001)).toBeUndefined();
	});
	it('of the past is told with its hours, but for one that has not ended', () => {
		const usual = steady(3);
		const hours = Array.from({ length: 48 }, (_, n) => ({ at: n * HOUR, count: n >= 10 && n < 19 ? 0 : 3 }));
		expect(pastSilences(usual, hours, 0.001, hourAt)).toEqual([
			{ from: 10 * HOUR, to: 19 * HOUR, expected: 27, probability: Math.exp(-27) }
		]);
		expect(pastSilences(usual, hours.slice(0, 15), 0.001, hourAt)).toEqual([]);
	});
	it('has a threshold for so many false alerts a month, and the other way round', () => {
		const usual = steady(3);
		for (const wanted of [0.1, 0.5, 1, 2])
			expect(falseAlertsAMonth(usual, thresholdFor(usual, wanted))).toBeCloseTo(wanted, 10);
		expect(thresholdFor(steady(0.01), 5)).toBe(0.05);
	});
});

describe('a simulated year of 50 random businesses', () => {
	it('has false alerts within twice what the screen promises, and every outage of a day is found within the promised time', () => {
		let [promised, falses, outages, missed] = [0, 0, 0, 0];
		for (let business = 0; business < 50; business++) {
			const random = generator(7_919 * (business + 1));
			// from three an hour at the quietest business to sixty at the busiest; nights and weekends differ
			const scale = 3 * 20 ** random.next();
			const night = 0.02 + 0.3 * random.next();
			const weekend = 0.3 + random.next();
			const truth = Float64Array.from({ length: HOURS_OF_WEEK }, (_, hour) => {
				const [day, time] = [Math.floor(hour / 24), hour % 24];
				const shape = time < 7 || time > 21 ? night : 0.6 + 0.8 * Math.sin(((time - 7) / 14) * Math.PI);
				return scale * shape * (day > 4 ? weekend : 1);
			});
			const start = Math.floor(random.next() * HOURS_OF_WEEK);
			let history: HourCount[] = [];
			let usual: UsualRate | undefined;
			let threshold = 0;
			let since = start * HOUR;
			let isTold = false;
			let outage: { from: number; to: number; by: number; isFound: boolean } | undefined;
			const weeks = 52;
			for (let n = start; n < start + weeks * HOURS_OF_WEEK; n++) {
				const hour = n % HOURS_OF_WEEK;
				// what is usual is worked out anew every day
				if ((n - start) % 24 === 0) {
					const found = usualRate(history.slice(-4 * HOURS_OF_WEEK));
					usual = history.length >= 4 * HOURS_OF_WEEK ? found : undefined;
					if (usual) {
						threshold = thresholdFor(usual, 1);
						promised += (falseAlertsAMonth(usual, threshold) * 1) / 30.44;
						// now and then everything falls silent for a day
						if (!outage && random.next() < 0.02) {
							const by = slowestFinding(usual, threshold);
							outage = { from: n * HOUR, to: (n + 24) * HOUR, by: by ?? Infinity, isFound: false };
							outages++;
						}
					}
				}
				const isOut = outage !== undefined && n * HOUR < outage.to;
				const count = isOut ? 0 : random.poisson(truth[hour]!);
				const moments = Array.from({ length: count }, () => n * HOUR + random.next() * HOUR).sort((a, b) => a - b);
				for (const at of [...moments, (n + 1) * HOUR]) {
					if (usual && !isTold && judgeSilence(usual, since, at, threshold, hourAt).isAlert) {
						isTold = true;
						if (isOut) {
							outage!.isFound = true;
							// the promise is to the last arrival before the outage, or its begin; looked at hour by hour here
							if (at > Math.max(since, outage!.from) + outage!.by + HOUR) missed++;
						} else if (!outage) falses++;
					}
					if (at < (n + 1) * HOUR) {
						since = at;
						isTold = false;
					}
				}
				history.push({ hour, count, isOut });
				if (history.length > 5 * HOURS_OF_WEEK) history = history.slice(-4 * HOURS_OF_WEEK);
				if (outage && (n + 1) * HOUR >= outage.to && count > 0) {
					if (!outage.isFound) missed++;
					outage = undefined;
				}
			}
		}
		expect(outages).toBeGreaterThan(200);
		expect(missed).toBe(0);
		expect([falses / promised < 2, falses / promised > 0.2]).toEqual([true, true]);
	}, 180_000);
});

describe('what is awaited', () => {
	it('is what takes longer than the 99th of a hundred, at least a minute, and five where little is known', () => {
		expect(awaitedAfter([])).toBe(300_000);
		expect(awaitedAfter(Array.from({ length: 60 }, () => 900))).toBe(60_000);
		expect(awaitedAfter(Array.from({ length: 200 }, (_, n) => n * 1_000))).toBe(197_000);
	});
	it('is told by the nearest rank', () => {
		expect([percentile([], 0.5), percentile([5], 0.99), percentile([3, 1, 2], 0.5)]).toEqual([0, 5, 2]);
	});
});
