import { describe, expect, it } from 'vitest';
import { addDays, daysBetween, weekdayOf } from '../calendar';
import { rangeOfRuns, stretchesBefore } from './forecast';

describe('past days that stand for the rest of a month', () => {
	it('are as many, on the same weekdays, and over before the days to come', () => {
		for (let n = 0; n < 400; n++) {
			const today = addDays('2026-01-01', n);
			const stretches = stretchesBefore(today, 8);
			const next = addDays(today, 1);
			if (next.slice(0, 7) !== today.slice(0, 7)) {
				expect([today, stretches]).toEqual([today, []]);
				continue;
			}
			expect(stretches).toHaveLength(8);
			for (const { from, to } of stretches) {
				expect(weekdayOf(from)).toBe(weekdayOf(next));
				expect(addDays(today, daysBetween(from, to) + 2).slice(0, 7)).not.toBe(today.slice(0, 7));
				expect(to <= today).toBe(true);
			}
			// each a week before the one before it
			expect(stretches.slice(1).every((one, at) => daysBetween(one.from, stretches[at]!.from) === 7)).toBe(true);
		}
	});
	it('of the eleventh of a month of thirty days begin a week or more before', () => {
		expect(stretchesBefore('2026-11-11', 2)).toEqual([
			{ from: '2026-10-22', to: '2026-11-09' },
			{ from: '2026-10-15', to: '2026-11-02' }
		]);
	});
});

describe('the range of runs', () => {
	it('has its least, its middle and its most', () => {
		expect(rangeOfRuns([5, 1, 9])).toEqual({ least: 1, middle: 5, most: 9 });
		expect(rangeOfRuns([4, 2])).toEqual({ least: 2, middle: 2, most: 4 });
		expect(rangeOfRuns([7])).toEqual({ least: 7, middle: 7, most: 7 });
		expect(rangeOfRuns([])).toBeUndefined();
	});
});
