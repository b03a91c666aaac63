import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addBankDays, addDays, daysBetween, easterOf, expectedDay, inZone, isTimeZone, TARGET, WEEKDAYS } from '.';

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
