// Places of payments in columns that are in order of capture.

/** Columns of which only the days matter here: `day` numbers the entries of `days`, which are in order. */
export interface DayColumns {
	readonly count: number;
	readonly day: ArrayLike<number>;
	/** `YYYY-MM-DD` */
	readonly days: readonly string[];
}

/** The place of the first payment on a day or after it; the number of all where there is none. */
export function placeOfDay({ count, day, days }: DayColumns, from: string): number {
	let [low, high] = [0, count];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (days[day[middle]!]! >= from) high = middle;
		else low = middle + 1;
	}
	return low;
}

/** The places of a stretch of days, both included: the first payment of it, and the first after it. */
export function placesOfDays(columns: DayColumns, from: string, to: string): [number, number] {
	const { count, day, days } = columns;
	let [low, high] = [0, count];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (days[day[middle]!]! > to) high = middle;
		else low = middle + 1;
	}
	return [placeOfDay(columns, from), low];
}
