import { describe, expect, it } from 'vitest';
import { isDigestDue, isQuiet } from '.';

describe('quiet hours', () => {
	it('go over midnight', () => {
		expect([20, 21, 23, 0, 6, 7, 12].map((hour) => isQuiet(hour, 21, 7))).toEqual([
			false,
			true,
			true,
			true,
			true,
			false,
			false
		]);
	});
	it('lie within a day, or are none', () => {
		expect([11, 12, 13, 14].map((hour) => isQuiet(hour, 12, 14))).toEqual([false, true, true, false]);
		expect([0, 9, 23].some((hour) => isQuiet(hour, 9, 9))).toBe(false);
	});
});

describe('a summary', () => {
	const rules = (digest: 'never' | 'daily' | 'weekly', digestSent = '') => ({ digest, digestHour: 8, digestSent });
	it('comes once a day from its hour on', () => {
		expect(isDigestDue(rules('daily'), { day: '2026-11-30', hour: 7, weekday: 1 })).toBe(false);
		expect(isDigestDue(rules('daily'), { day: '2026-11-30', hour: 8, weekday: 1 })).toBe(true);
		expect(isDigestDue(rules('daily', '2026-11-30'), { day: '2026-11-30', hour: 9, weekday: 1 })).toBe(false);
		expect(isDigestDue(rules('daily', '2026-11-30'), { day: '2026-12-01', hour: 23, weekday: 2 })).toBe(true);
	});
	it('comes on Mondays where it is weekly, and never where it is not wanted', () => {
		expect(isDigestDue(rules('weekly'), { day: '2026-11-30', hour: 8, weekday: 1 })).toBe(true);
		expect(isDigestDue(rules('weekly'), { day: '2026-12-01', hour: 8, weekday: 2 })).toBe(false);
		expect(isDigestDue(rules('never'), { day: '2026-11-30', hour: 8, weekday: 1 })).toBe(false);
	});
});
