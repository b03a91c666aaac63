import { keep } from '../kept';
import { inZone, type Day } from './days';

/** The order in which a locale writes day, month and year. */
const orderOf = keep((locale): ('day' | 'month' | 'year')[] =>
	new Intl.DateTimeFormat(locale, { day: '2-digit', month: '2-digit', year: 'numeric', calendar: 'gregory' })
		.formatToParts(Date.UTC(2026, 10, 24, 12))
		.map((part) => part.type)
		.filter((type): type is 'day' | 'month' | 'year' => ['day', 'month', 'year'].includes(type))
);
const dayFormat = keep(
	(locale) =>
		new Intl.DateTimeFormat(locale, {
			day: '2-digit',
			month: '2-digit',
			year: 'numeric',
			calendar: 'gregory',
			numberingSystem: 'latn',
			timeZone: 'UTC'
		})
);
/** by locale, time zone and precision, with a space between */
const timeFormat = keep((key) => {
	const [locale, timeZone, precision] = key.split(' ');
	return new Intl.DateTimeFormat(locale, {
		hour: '2-digit',
		minute: '2-digit',
		...(precision === 'seconds' ? { second: '2-digit' } : {}),
		numberingSystem: 'latn',
		timeZone
	});
});

/** A day as a locale writes it in figures: `26/11/2026` in en-GB. What is shown so can be typed back. */
export const formatDay = (day: Day, locale: string): string => dayFormat(locale).format(Date.parse(`${day}T12:00:00Z`));

const longFormat = keep((locale) => new Intl.DateTimeFormat(locale, { dateStyle: 'long', timeZone: 'UTC' }));
/** A day as a locale writes it out: `24 November 2026` in en-GB. */
export const formatLongDay = (day: Day, locale: string): string =>
	longFormat(locale).format(Date.parse(`${day}T12:00:00Z`));

/**
 * A moment as a locale writes it in figures: `26/11/2026, 11:23` in en-GB. The day stands as `formatDay` writes it.
 * @param ms milliseconds since 1970, UTC
 * @param timeZone IANA name
 * @param precision minutes are enough but where several things happen within one
 */
export const formatMoment = (
	ms: number,
	locale: string,
	timeZone: string,
	precision: 'minutes' | 'seconds' = 'minutes'
): string =>
	`${formatDay(inZone(new Date(ms), timeZone).day, locale)}, ${timeFormat(`${locale} ${timeZone} ${precision}`).format(ms)}`;

/**
 * Reads a day as it was typed: in the locale's own order with any mark between, or as ISO 8601 writes it.
 * @returns undefined where it is no day of the calendar
 * @example readDay('26/11/2026', 'en-GB') // '2026-11-26'
 */
export function readDay(typed: string, locale: string): Day | undefined {
	const numbers = typed.trim().match(/^(\d{1,4})\D+(\d{1,2})\D+(\d{1,4})\.?$/);
	if (!numbers) return undefined;
	const parts = numbers.slice(1);
	// four digits first are the year, wherever the locale has it
	const order = parts[0]!.length === 4 ? (['year', 'month', 'day'] as const) : orderOf(locale);
	const value = Object.fromEntries(order.map((type, at) => [type, parts[at]!])) as Record<
		'day' | 'month' | 'year',
		string
	>;
	const year = value.year.length === 2 ? `20${value.year}` : value.year;
	const day = `${year.padStart(4, '0')}-${value.month.padStart(2, '0')}-${value.day.padStart(2, '0')}`;
	const instant = Date.parse(`${day}T00:00:00Z`);
	return Number.isNaN(instant) || new Date(instant).toISOString().slice(0, 10) !== day ? undefined : day;
}

/** What a day looks like when it is typed, for a field's help: `dd/mm/yyyy` in en-GB. */
export const dayPattern = (locale: string): string =>
	formatDay('2026-11-24', locale).replace('2026', 'yyyy').replace('11', 'mm').replace('24', 'dd');

const dayCounts = new Map<string, Intl.NumberFormat>();
/** A number of days in words of a language: `14 days`, `1 jour`. */
export function sayDays(count: number, locale: string): string {
	let format = dayCounts.get(locale);
	if (!format) {
		format = new Intl.NumberFormat(locale, { style: 'unit', unit: 'day', unitDisplay: 'long' });
		dayCounts.set(locale, format);
	}
	return format.format(count);
}
