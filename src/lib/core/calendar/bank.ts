import { addDays, inZone, weekdayOf, type Day } from './days';

/** Whether banks settle on a day. */
export interface BankCalendar {
	readonly name: string;
	readonly closed: (day: Day) => boolean;
}

/**
 * Easter Sunday of a year of the Gregorian calendar.
 * @source the anonymous Gregorian algorithm (Nature, 1876)
 */
export function easterOf(year: number): Day {
	const a = year % 19;
	const b = Math.floor(year / 100);
	const c = year % 100;
	const h = (19 * a + b - Math.floor(b / 4) - Math.floor((b - Math.floor((b + 8) / 25) + 1) / 3) + 15) % 30;
	const l = (32 + 2 * (b % 4) + 2 * Math.floor(c / 4) - h - (c % 4)) % 7;
	const m = Math.floor((a + 11 * h + 22 * l) / 451);
	const month = Math.floor((h + l - 7 * m + 114) / 31);
	const day = ((h + l - 7 * m + 114) % 31) + 1;
	return `${year}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
}

const weekend = (day: Day) => weekdayOf(day) === 0 || weekdayOf(day) === 6;

/** Easter Sundays that were asked for. */
const easters = new Map<number, Day>();
/**
 * The days on which the euro area settles.
 * @source ECB, TARGET closing days: weekends, 1 January, Good Friday, Easter Monday, 1 May, 25 and 26 December
 */
export const TARGET: BankCalendar = {
	name: 'TARGET',
	closed(day) {
		if (weekend(day)) return true;
		const rest = day.slice(5);
		if (rest === '01-01' || rest === '05-01' || rest === '12-25' || rest === '12-26') return true;
		const year = Number(day.slice(0, 4));
		const easter = easters.get(year) ?? easterOf(year);
		easters.set(year, easter);
		return day === addDays(easter, -2) || day === addDays(easter, 1);
	}
};

/** Monday to Friday, for currencies whose holidays are not known here. */
export const WEEKDAYS: BankCalendar = { name: 'Monday to Friday', closed: weekend };

/** The calendars that a connection can follow. */
export const CALENDARS: readonly BankCalendar[] = [TARGET, WEEKDAYS];
/** The calendar of a name; TARGET where it is none of them. */
export const calendarNamed = (name: string): BankCalendar => CALENDARS.find((one) => one.name === name) ?? TARGET;

/** The first open day on or after a day. */
export function openDay(day: Day, calendar: BankCalendar): Day {
	let at = day;
	while (calendar.closed(at)) at = addDays(at, 1);
	return at;
}

/** The day that lies `count` open days after a day; a closed start counts from the next open day. */
export function addBankDays(day: Day, count: number, calendar: BankCalendar): Day {
	let at = openDay(day, calendar);
	for (let left = count; left > 0; left--) at = openDay(addDays(at, 1), calendar);
	return at;
}

/**
 * The day on which money captured at an instant is expected.
 * @param cutOff `HH:MM` in the account's time zone; a capture at or after it counts from the next day
 * @param bankDays open days until it is there
 */
export function expectedDay(
	captured: Date,
	{
		timeZone,
		cutOff,
		bankDays,
		calendar
	}: { timeZone: string; cutOff: string; bankDays: number; calendar: BankCalendar }
): Day {
	const { day, time } = inZone(captured, timeZone);
	return addBankDays(time >= cutOff ? addDays(day, 1) : day, bankDays, calendar);
}

/**
 * The first moment from which on a capture is expected on a day or later: whatever was captured before it is expected sooner. To
 * the minute, as a cut-off is.
 */
export function firstExpectedOn(day: Day, account: Parameters<typeof expectedDay>[1]): Date {
	const MINUTE = 60_000;
	const noon = Date.parse(`${day}T12:00:00Z`);
	const isSooner = (minute: number) => expectedDay(new Date(minute * MINUTE), account) < day;
	// from the day itself on nothing is expected sooner, wherever on earth; before it, by as much as is needed
	let after = Math.ceil(noon / MINUTE) + 2 * 1_440;
	let reach = 7 * 1_440;
	while (!isSooner(after - reach)) reach *= 2;
	let before = after - reach;
	while (after - before > 1) {
		const middle = Math.floor((before + after) / 2);
		if (isSooner(middle)) before = middle;
		else after = middle;
	}
	return new Date(after * MINUTE);
}
