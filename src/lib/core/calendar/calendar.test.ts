import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	addBankDays,
	addDays,
	daysBetween,
	easterOf,
	expectedDay,
	formatDay,
	formatMoment,
	instantIn,
	inZone,
	isTimeZone,
	readDay,
	TARGET,
	WEEKDAYS
} from '.';

describe('bank days', () => {
	it('finds Easter', () => {
		expect([2024, 2025, 2026, 2027, 2038].map(easterOf)).toEqual([
			'2024-03-31',
			'2025-04-20',
			'2026-04-05',
			'2027-03-28',
			'2038-04-25'
		]);
	});
	it('closes TARGET on its days', () => {
		for (const day of ['2026-01-01', '2026-04-03', '2026-04-06', '2026-05-01', '2026-12-25', '2026-11-28'])
			expect(TARGET.closed(day)).toBe(true);
		for (const day of ['2026-04-07', '2026-12-24', '2026-05-04']) expect(TARGET.closed(day)).toBe(false);
	});
	it('skips weekends and holidays', () => {
		expect(addBankDays('2026-04-02', 1, TARGET)).toBe('2026-04-07');
		expect(addBankDays('2026-11-27', 2, TARGET)).toBe('2026-12-01');
		expect(addBankDays('2026-11-28', 0, TARGET)).toBe('2026-11-30');
	});
	it('counts from the next day once the cut-off is reached, in the account’s time zone', () => {
		const rule = { timeZone: 'Europe/Brussels', cutOff: '23:00', bankDays: 2, calendar: TARGET };
		expect(expectedDay(new Date('2026-11-24T21:59:00Z'), rule)).toBe('2026-11-26');
		expect(expectedDay(new Date('2026-11-24T22:00:00Z'), rule)).toBe('2026-11-27');
	});
	it('never lands on a closed day, and grows with the count', () => {
		fc.assert(
			fc.property(fc.integer({ min: 0, max: 20_000 }), fc.integer({ min: 0, max: 30 }), (offset, count) => {
				const day = addDays('2000-01-01', offset);
				const there = addBankDays(day, count, TARGET);
				return !TARGET.closed(there) && daysBetween(day, there) >= count && addBankDays(day, count, WEEKDAYS) <= there;
			}),
			{ seed: 20417 }
		);
	});
});

it('tells day and time in a zone, over the change of clocks too', () => {
	expect(inZone(new Date('2026-03-29T00:59:00Z'), 'Europe/Brussels')).toEqual({ day: '2026-03-29', time: '01:59' });
	expect(inZone(new Date('2026-03-29T01:00:00Z'), 'Europe/Brussels')).toEqual({ day: '2026-03-29', time: '03:00' });
	expect(inZone(new Date('2026-11-24T15:30:00Z'), 'Asia/Tokyo')).toEqual({ day: '2026-11-25', time: '00:30' });
	expect(isTimeZone('Europe/Brussels')).toBe(true);
	expect(isTimeZone('Mars/Base')).toBe(false);
});

describe('local times', () => {
	it.each([
		// Chatham goes back from +13:45 to +12:45 at 03:45, so that 02:45 to 03:44 come twice; 02:42 comes once
		['2026-04-05T02:42', 'Pacific/Chatham', '2026-04-04T12:57:00.000Z'],
		['2026-04-05T03:00', 'Pacific/Chatham', '2026-04-04T13:15:00.000Z'],
		// an hour that is left out is the one after it, one that comes twice is the first
		['2026-03-29T02:30', 'Europe/Brussels', '2026-03-29T01:30:00.000Z'],
		['2026-10-25T02:30', 'Europe/Brussels', '2026-10-25T00:30:00.000Z'],
		['2026-11-26T18:00', 'Europe/Brussels', '2026-11-26T17:00:00.000Z']
	])('%s in %s', (local, zone, instant) => {
		expect(new Date(instantIn(local, zone)!).toISOString()).toBe(instant);
	});
	it('that are none are none', () => {
		for (const text of ['2026-02-30T10:00', '2026-11-26T25:00', 'soon', '2026-11-26'])
			expect(instantIn(text, 'Europe/Brussels')).toBeUndefined();
	});
	it('agree with the day and time that a zone shows, in every hour of a year of odd zones', () => {
		for (const zone of [
			'Pacific/Chatham',
			'Pacific/Kiritimati',
			'Australia/Lord_Howe',
			'America/St_Johns',
			'Europe/Brussels'
		])
			for (let hour = 0; hour < 365 * 24; hour += 7) {
				const at = Date.UTC(2026, 0, 1, hour);
				const { day, time } = inZone(new Date(at), zone);
				const back = instantIn(`${day}T${time}`, zone)!;
				// a time that comes twice is the first
				expect([zone, back === at || (back < at && inZone(new Date(back), zone).time === time)]).toEqual([zone, true]);
			}
	});
});

describe('days as they are typed', () => {
	it.each([
		['26/11/2026', 'en-GB', '2026-11-26'],
		['26.11.26', 'de-DE', '2026-11-26'],
		['11/26/2026', 'en-US', '2026-11-26'],
		['2026-11-26', 'nl-BE', '2026-11-26'],
		['31/02/2026', 'en-GB', undefined],
		['26 November', 'en-GB', undefined]
	])('%s in %s', (typed, locale, day) => {
		expect(readDay(typed, locale)).toBe(day);
	});
	it('are read back as they are shown', () => {
		for (const locale of ['en-GB', 'en-BE', 'nl-BE', 'fr-CH', 'de-DE', 'en-US', 'sv-SE', 'ja-JP', 'cs-CZ'])
			for (const day of ['2026-01-02', '2026-11-24', '2028-02-29'])
				expect([locale, readDay(formatDay(day, locale), locale)]).toEqual([locale, day]);
	});
});

describe('a moment', () => {
	it('is written as the locale and the time zone of the business have it, its day as days are', () => {
		const at = Date.parse('2026-11-26T23:23:45Z');
		expect(formatMoment(at, 'en-GB', 'Europe/Brussels')).toBe('27/11/2026, 00:23');
		expect(formatMoment(at, 'en-GB', 'Europe/Brussels', 'seconds')).toBe('27/11/2026, 00:23:45');
		expect(formatMoment(at, 'nl-BE', 'America/New_York')).toBe('26/11/2026, 18:23');
		for (const locale of ['en-GB', 'de-CH', 'fr-FR', 'en-US', 'ja-JP'])
			expect(formatMoment(at, locale, 'UTC').startsWith(formatDay('2026-11-26', locale))).toBe(true);
	});
});
