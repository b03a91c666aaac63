import { timeNow } from './clock.ts';
/** The calendar a stand-in settles by: Monday to Friday, days in the account's own time zone. */
const formats = new Map<string, Intl.DateTimeFormat>();
function formatOf(zone: string): Intl.DateTimeFormat {
	let format = formats.get(zone);
	if (!format) {
		format = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, year: 'numeric', month: '2-digit', day: '2-digit' });
		formats.set(zone, format);
	}
	return format;
}
export const dayIn = (zone: string, at = new Date(timeNow())): string => formatOf(zone).format(at);

export const weekday = (day: string): number => new Date(`${day}T12:00:00Z`).getUTCDay();
export const nextDay = (day: string, count = 1): string =>
	new Date(Date.parse(`${day}T12:00:00Z`) + count * 86_400_000).toISOString().slice(0, 10);

/** The day that lies so many business days after a day. */
export function afterBusinessDays(day: string, open: number): string {
	let at = day;
	for (let left = open; left > 0;) {
		at = nextDay(at);
		if (weekday(at) !== 0 && weekday(at) !== 6) left--;
	}
	return at;
}
