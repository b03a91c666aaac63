import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, daysBetween, TARGET, WEEKDAYS } from '../calendar';
import { debitDay, debitSum, DEBIT_LATE_DAYS, isToldInTime, nextDebit, noticeDaysOf, whenDebit } from './debits';

describe('a debit that is announced', () => {
	it('is made fourteen days after the payer is told, on a day on which banks work', () => {
		expect(debitDay({ told: '2026-12-01', noticeDays: 14, due: '2026-11-20' }, TARGET)).toBe('2026-12-15');
		// a Saturday, and Christmas after it
		expect(debitDay({ told: '2026-12-05', noticeDays: 14, due: '' }, TARGET)).toBe('2026-12-21');
		expect(debitDay({ told: '2026-12-11', noticeDays: 14, due: '' }, TARGET)).toBe('2026-12-28');
	});
	it('is not made before its sum is due', () => {
		expect(debitDay({ told: '2026-12-01', noticeDays: 2, due: '2027-01-05' }, WEEKDAYS)).toBe('2027-01-05');
	});
	it('keeps to the days that the payer agreed to, where the business has set fewer since', () => {
		expect(noticeDaysOf(3, 14)).toBe(14);
		expect(noticeDaysOf(20, 14)).toBe(20);
	});
	it('never comes sooner than its notice allows, nor more than two weeks after the first day that it could', () => {
		const day = fc.integer({ min: 0, max: 20_000 }).map((count) => addDays('2000-01-01', count));
		fc.assert(
			fc.property(day, fc.integer({ min: 1, max: 60 }), day, (told, noticeDays, due) => {
				const there = debitDay({ told, noticeDays, due }, TARGET);
				const first = addDays(told, noticeDays);
				return (
					isToldInTime(told, { day: there, noticeDays }) &&
					there >= due &&
					!TARGET.closed(there) &&
					daysBetween(due > first ? due : first, there) <= 14
				);
			})
		);
		expect(isToldInTime('2026-12-02', { day: '2026-12-15', noticeDays: 14 })).toBe(false);
	});
	it('begins at six on its day, and at most three days late', () => {
		const at = (day: string, time: string) => whenDebit('2026-12-15', { day, time });
		expect([
			at('2026-12-14', '23:59'),
			at('2026-12-15', '05:59'),
			at('2026-12-15', '06:00'),
			at(addDays('2026-12-15', DEBIT_LATE_DAYS), '23:59'),
			at('2026-12-19', '00:00')
		]).toEqual(['later', 'later', 'now', 'now', 'too late']);
	});
	it('collects no more than was told, and no more than is open', () => {
		expect(debitSum({ announced: 448_03, open: 448_03, promised: 0 })).toBe(448_03);
		expect(debitSum({ announced: 448_03, open: 600_00, promised: 0 })).toBe(448_03);
		expect(debitSum({ announced: 448_03, open: 100_00, promised: 0 })).toBe(100_00);
		expect(debitSum({ announced: 448_03, open: 448_03, promised: 448_03 })).toBe(0);
		fc.assert(
			fc.property(fc.nat(), fc.nat(), fc.nat(), (announced, open, promised) => {
				const sum = debitSum({ announced, open, promised });
				return sum >= 0 && sum <= announced && (sum === 0 || sum + promised <= open);
			})
		);
	});
	it('takes what is due by its day, less what is on its way', () => {
		const dues = [
			{ day: '2026-12-20', open: 300_00 },
			{ day: '2026-11-20', open: 100_00 },
			{ day: '2026-12-10', open: 200_00 }
		];
		const notice = { told: '2026-12-01', noticeDays: 14 };
		expect(nextDebit(dues, 0, notice, TARGET)).toEqual({ day: '2026-12-15', minor: 300_00 });
		expect(nextDebit(dues, 150_00, notice, TARGET)).toEqual({ day: '2026-12-15', minor: 150_00 });
		// a Sunday: the third due is collected on the Monday after
		expect(nextDebit(dues, 300_00, notice, TARGET)).toEqual({ day: '2026-12-21', minor: 300_00 });
		expect(nextDebit(dues, 600_00, notice, TARGET)).toEqual({ day: '2026-12-15', minor: 0 });
		expect(nextDebit([], 0, notice, TARGET)).toEqual({ day: '2026-12-15', minor: 0 });
	});
});
