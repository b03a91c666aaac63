import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	addBankDays,
	addDays,
	calendarNamed,
	CALENDARS,
	dayPattern,
	daysBetween,
	easterOf,
	expectedDay,
	firstExpectedOn,
	formatDay,
	formatLongDay,
	openDay,
	readDay,
	TARGET,
	weekdayOf,
	WEEKDAYS
} from '.';

describe('the calendars of banks', () => {
	it('are found by their name; one that is none of them is TARGET', () => {
		for (const one of CALENDARS) expect(calendarNamed(one.name)).toBe(one);
		expect(calendarNamed('')).toBe(TARGET);
		expect(calendarNamed('Mars')).toBe(TARGET);
	});
	it('close TARGET on exactly six days a year beside the ends of weeks, fewer where those fall on one', () => {
		for (let year = 2000; year < 2100; year++) {
			let closed = 0;
			for (let day = `${year}-01-01`; day.startsWith(String(year)); day = addDays(day, 1)) {
				const isWeekend = weekdayOf(day) === 0 || weekdayOf(day) === 6;
				expect(WEEKDAYS.closed(day)).toBe(isWeekend);
				if (TARGET.closed(day) && !isWeekend) closed++;
				if (isWeekend) expect(TARGET.closed(day)).toBe(true);
			}
			const fixed = ['01-01', '05-01', '12-25', '12-26'].filter((rest) => {
				const weekday = weekdayOf(`${year}-${rest}`);
				return weekday !== 0 && weekday !== 6;
			}).length;
			// Good Friday and Easter Monday are never at an end of a week
			expect([year, closed]).toEqual([year, fixed + 2]);
		}
	});
	it('have Easter on a Sunday between 22 March and 25 April', () => {
		for (let year = 1900; year < 2200; year++) {
			const easter = easterOf(year);
			expect(weekdayOf(easter)).toBe(0);
			expect(easter >= `${year}-03-22` && easter <= `${year}-04-25`).toBe(true);
		}
	});
	it('open again on the first day that is not closed, and on that very day where it is open', () => {
		expect(openDay('2026-04-03', TARGET)).toBe('2026-04-07');
		expect(openDay('2026-12-24', TARGET)).toBe('2026-12-24');
		expect(openDay('2026-12-25', TARGET)).toBe('2026-12-28');
		expect(openDay('2026-12-25', WEEKDAYS)).toBe('2026-12-25');
	});
	it('add days one after another as they add them at once', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 0, max: 20_000 }),
				fc.integer({ min: 0, max: 12 }),
				fc.integer({ min: 0, max: 12 }),
				(offset, first, second) => {
					const day = addDays('2000-01-01', offset);
					return (
						addBankDays(addBankDays(day, first, TARGET), second, TARGET) === addBankDays(day, first + second, TARGET)
					);
				}
			),
			{ seed: 20417 }
		);
	});
	it('expect money no earlier for a later capture', () => {
		const rule = { timeZone: 'Europe/Brussels', cutOff: '17:30', bankDays: 2, calendar: TARGET };
		let last = '';
		for (let hour = 0; hour < 24 * 60; hour++) {
			const day = expectedDay(new Date(Date.UTC(2026, 10, 20) + hour * 3_600_000), rule);
			expect(day >= last).toBe(true);
			last = day;
		}
	});
});

describe('a day as it is typed and shown', () => {
	it('is read back in the order of its locale, in every month of a leap year', () => {
		for (const locale of ['en-GB', 'nl-BE', 'de-DE', 'fr-BE', 'en-US', 'sv-SE'])
			for (let day = '2028-01-01'; day <= '2028-12-31'; day = addDays(day, 5))
				expect([locale, day, readDay(formatDay(day, locale), locale)]).toEqual([locale, day, day]);
	});
	it('is none where the calendar has none', () => {
		for (const typed of ['31/04/2026', '29/02/2026', '00/01/2026', '32/01/2026', '1/13/2026', 'tomorrow', '', '2026'])
			expect([typed, readDay(typed, 'en-GB')]).toEqual([typed, undefined]);
		expect(readDay('29/02/2028', 'en-GB')).toBe('2028-02-29');
		expect(readDay('1.4.26', 'de-DE')).toBe('2026-04-01');
	});
	it('has a pattern of its locale, and is written out in its words', () => {
		expect([dayPattern('en-GB'), dayPattern('en-US'), dayPattern('sv-SE')]).toEqual([
			'dd/mm/yyyy',
			'mm/dd/yyyy',
			'yyyy-mm-dd'
		]);
		expect(formatLongDay('2026-11-24', 'en-GB')).toBe('24 November 2026');
		expect(formatLongDay('2026-11-24', 'nl-BE')).toBe('24 november 2026');
	});
	it('lies as many days from another as are added to it', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: -20_000, max: 20_000 }),
				(count) => daysBetween('2026-11-30', addDays('2026-11-30', count)) === count
			),
			{ seed: 20417 }
		);
	});
});

describe('the first moment that is expected on a day', () => {
	const anAccount = fc.record({
		timeZone: fc.constantFrom('Europe/Brussels', 'Pacific/Chatham', 'America/St_Johns', 'Pacific/Kiritimati', 'UTC'),
		cutOff: fc.constantFrom('00:00', '00:30', '15:00', '17:45', '23:59'),
		bankDays: fc.integer({ min: 0, max: 14 }),
		calendar: fc.constantFrom(...CALENDARS)
	});
	it('parts what is expected before a day from what is expected later', () => {
		fc.assert(
			fc.property(
				anAccount,
				fc.integer({ min: Date.UTC(2026, 0, 1), max: Date.UTC(2027, 11, 31) }),
				fc.integer({ min: -20, max: 20 }),
				(account, at, days) => {
					const day = addDays(expectedDay(new Date(at), account), days);
					const first = firstExpectedOn(day, account).getTime();
					expect(expectedDay(new Date(first), account) >= day).toBe(true);
					expect(expectedDay(new Date(first - 60_000), account) < day).toBe(true);
					// a clock that is put back tells an hour twice: nothing else is out of order
					const apart = Math.abs(at - first) > 3_600_000;
					if (apart) expect(at < first).toBe(expectedDay(new Date(at), account) < day);
				}
			),
			{ numRuns: 400 }
		);
	});
});
