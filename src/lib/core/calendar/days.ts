import { Temporal } from 'temporal-polyfill';

/** A calendar day without a time: `YYYY-MM-DD`. */
export type Day = string;

const MS = 86_400_000;
const toUtc = (day: Day): number => {
	const [y, m, d] = day.split('-').map(Number);
	return Date.UTC(y!, m! - 1, d!);
};
const fromUtc = (ms: number): Day => new Date(ms).toISOString().slice(0, 10);

export const addDays = (day: Day, count: number): Day => fromUtc(toUtc(day) + count * MS);
export const daysBetween = (from: Day, to: Day): number => (toUtc(to) - toUtc(from)) / MS;
/** 0 is Sunday. */
export const weekdayOf = (day: Day): number => new Date(toUtc(day)).getUTCDay();

const zones = new Map<string, Intl.DateTimeFormat>();
function zoneFormat(timeZone: string): Intl.DateTimeFormat {
	let format = zones.get(timeZone);
	if (!format) {
		format = new Intl.DateTimeFormat('en-GB', {
			timeZone,
			hourCycle: 'h23',
			year: 'numeric',
			month: '2-digit',
			day: '2-digit',
			hour: '2-digit',
			minute: '2-digit'
		});
		zones.set(timeZone, format);
	}
	return format;
}

/** Day and time of day (`HH:MM`) of an instant in a time zone. */
export function inZone(instant: Date, timeZone: string): { day: Day; time: string } {
	const parts = Object.fromEntries(
		zoneFormat(timeZone)
			.formatToParts(instant)
			.map((p) => [p.type, p.value])
	);
	return { day: `${parts.year}-${parts.month}-${parts.day}`, time: `${parts.hour}:${parts.minute}` };
}

/** @throws nothing; false for a name that the runtime does not know. */
export function isTimeZone(name: string): boolean {
	try {
		new Intl.DateTimeFormat('en', { timeZone: name });
		return name.length > 0;
	} catch {
		return false;
	}
}

/**
 * The instant of a local date and time, `2026-11-26T18:00`, in a time zone, in milliseconds since 1970. A time that is
 * left out when clocks go forward is the hour after it; of one that comes twice, it is the first.
 * @returns undefined when the text is none
 */
export function instantIn(local: string, timeZone: string): number | undefined {
	const match = /^(\d{4}-\d{2}-\d{2})T(\d{2}):(\d{2})$/.exec(local);
	if (!match) return undefined;
	try {
		// `compatible` is what iCalendar asks for: the first of a time that comes twice, the hour after one that is left out
		return Temporal.PlainDateTime.from(local, { overflow: 'reject' }).toZonedDateTime(timeZone, {
			disambiguation: 'compatible'
		}).epochMilliseconds;
	} catch (error) {
		if (error instanceof RangeError) return undefined;
		throw error;
	}
}
