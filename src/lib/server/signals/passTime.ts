import { addDays, inZone, instantIn } from '../../core/calendar';
import { log } from '../log';
import { askOutside } from '../outside';
import { demoClocks, moveClock, timeNow } from './clock';

/** What the clock of a demo can be moved forward by. */
export const STEPS = ['hour', 'day', 'week', 'month'] as const;
export type Step = (typeof STEPS)[number];

/** The same day of the next month, or its last one. */
function nextMonth(day: string): string {
	const [year, month, date] = day.split('-').map(Number) as [number, number, number];
	const last = new Date(Date.UTC(year, month + 1, 0)).getUTCDate();
	return new Date(Date.UTC(year, month, Math.min(date, last))).toISOString().slice(0, 10);
}

/** The moment at which it is the same time of day, one step on, in a time zone. */
export function momentAfter(from: number, step: Step, timeZone: string): number {
	if (step === 'hour') return from + 3_600_000;
	const { day, time } = inZone(new Date(from), timeZone);
	const to = step === 'month' ? nextMonth(day) : addDays(day, step === 'week' ? 7 : 1);
	const next = instantIn(`${to}T${time}`, timeZone);
	// a time of day is told to the minute: what is left of one stays
	return next === undefined
		? from + (step === 'day' ? 1 : step === 'week' ? 7 : 30) * 86_400_000
		: next + (((from % 60_000) + 60_000) % 60_000);
}

/**
 * Moves the clock of a demo, and those of its stand-ins, some steps forward at once.
 * @returns the new now
 */
export async function passTime(step: Step, timeZone: string, times = 1): Promise<number> {
	const from = timeNow();
	let to = from;
	for (let n = 0; n < times; n++) to = momentAfter(to, step, timeZone);
	const shift = moveClock(to - from);
	await Promise.all(
		demoClocks().map((address) =>
			askOutside(address, {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ shift })
			}).catch((error: unknown) => log.warn({ address, error: String(error) }, 'a clock of the demo was not moved'))
		)
	);
	return timeNow();
}
