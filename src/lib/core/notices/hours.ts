import { inZone, weekdayOf } from '../calendar';
import { HOURS_OF_WEEK } from './silence';

const HOUR = 3_600_000;

/** Hour of the week, 0 is Monday's first, as the clocks of a time zone show it. */
export function hourOfWeekIn(timeZone: string): (at: number) => number {
	const known = new Map<number, number>();
	return (at) => {
		const hour = Math.floor(at / HOUR);
		let told = known.get(hour);
		if (told === undefined) {
			const { day, time } = inZone(new Date(hour * HOUR), timeZone);
			told = (((weekdayOf(day) + 6) % 7) * 24 + Number(time.slice(0, 2))) % HOURS_OF_WEEK;
			known.set(hour, told);
		}
		return told;
	};
}
