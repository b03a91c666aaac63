import { addDays, daysBetween, type Day } from '../calendar';

// What a month will come to: what has come so far, and for the days to come what came on as many days before, weekday by weekday.

/** A stretch of past days that stands for the days to come: as many of them, on the same weekdays. */
export interface PastStretch {
	readonly from: Day;
	readonly to: Day;
}

/**
 * Past stretches that stand for the rest of a month, the latest first. None overlaps the days to come.
 * @param today the last day that has begun; it counts as having come
 * @param runs how many are wanted
 */
export function stretchesBefore(today: Day, runs: number): PastStretch[] {
	const next = addDays(today, 1);
	const month = today.slice(0, 7);
	let last = today;
	while (addDays(last, 1).slice(0, 7) === month) last = addDays(last, 1);
	const days = daysBetween(today, last);
	if (days === 0) return [];
	// whole weeks back, so that weekdays stay; the first of them ends at the latest today
	const weeks = Math.ceil(days / 7);
	return Array.from({ length: runs }, (_, run) => {
		const back = 7 * (weeks + run);
		return { from: addDays(next, -back), to: addDays(last, -back) };
	});
}

export interface Range {
	readonly least: number;
	readonly middle: number;
	readonly most: number;
}
/** The least, the middle and the most of a list; undefined of none. Of an even count the middle is the lower one. */
export function rangeOfRuns(values: readonly number[]): Range | undefined {
	if (!values.length) return undefined;
	const sorted = [...values].sort((a, b) => a - b);
	return { least: sorted[0]!, middle: sorted[Math.floor((sorted.length - 1) / 2)]!, most: sorted.at(-1)! };
}
