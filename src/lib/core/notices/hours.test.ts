import { describe, expect, it } from 'vitest';
import { hourOfWeekIn, HOURS_OF_WEEK } from '.';

const at = (text: string) => Date.parse(text);

describe('the hour of the week', () => {
	it('begins on Monday at midnight, as the clocks of the place show it', () => {
		const hourAt = hourOfWeekIn('Europe/Brussels');
		// 2026-11-30 is a Monday; Brussels is an hour ahead
		expect(hourAt(at('2026-11-29T23:00:00Z'))).toBe(0);
		expect(hourAt(at('2026-11-29T22:59:59Z'))).toBe(HOURS_OF_WEEK - 1);
		expect(hourAt(at('2026-12-02T11:30:00Z'))).toBe(2 * 24 + 12);
	});
	it('stays with the clocks when they change', () => {
		const hourAt = hourOfWeekIn('Europe/Brussels');
		// on 2026-10-25 the hour from two to three comes twice, on 2026-03-29 it does not come
		const sunday = 6 * 24;
		expect(['00:00', '01:00', '02:00'].map((time) => hourAt(at(`2026-10-25T${time}:00Z`)))).toEqual([
			sunday + 2,
			sunday + 2,
			sunday + 3
		]);
		expect(['00:00', '01:00'].map((time) => hourAt(at(`2026-03-29T${time}:00Z`)))).toEqual([sunday + 1, sunday + 3]);
	});
	it('is another one elsewhere at the same moment', () => {
		const moment = at('2026-11-30T00:30:00Z');
		expect(hourOfWeekIn('America/New_York')(moment)).toBe(6 * 24 + 19);
		expect(hourOfWeekIn('Asia/Tokyo')(moment)).toBe(9);
	});
	it('of every hour of a year is one of 168, and grows by one but where clocks change or the week ends', () => {
		const hourAt = hourOfWeekIn('Europe/Brussels');
		let odd = 0;
		for (let n = 0, last = -1; n < 365 * 24; n++) {
			const hour = hourAt(at('2026-01-01T00:00:00Z') + n * 3_600_000);
			expect(hour >= 0 && hour < HOURS_OF_WEEK).toBe(true);
			if (last >= 0 && hour !== (last + 1) % HOURS_OF_WEEK) odd++;
			last = hour;
		}
		expect(odd).toBe(2);
	});
});
