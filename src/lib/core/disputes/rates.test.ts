import { describe, expect, it } from 'vitest';
import { disputeRate, disputesLeft, judgeDisputes, SCHEME_LIMITS, type SchemeLimit } from '.';

const limit: SchemeLimit = { scheme: 'corvid', warnAt: 65, mostAt: 90, atLeast: 20 };

describe('the rate of disputes', () => {
	it('is in parts per ten thousand, and none where nothing was paid', () => {
		expect(disputeRate({ payments: 2_000, disputes: 3 })).toBe(15);
		expect(disputeRate({ payments: 0, disputes: 0 })).toBe(0);
	});
	it('is too high only where there are enough disputes, too', () => {
		expect(judgeDisputes({ payments: 100, disputes: 19 }, limit)).toBe('fine');
		expect(judgeDisputes({ payments: 4_000, disputes: 20 }, limit)).toBe('fine');
		expect(judgeDisputes({ payments: 3_000, disputes: 20 }, limit)).toBe('near');
		expect(judgeDisputes({ payments: 2_000, disputes: 20 }, limit)).toBe('over');
	});
	it('leaves room to the number at which it is over, never below none', () => {
		for (const payments of [0, 10, 500, 2_222, 2_223, 100_000])
			for (const disputes of [0, 5, 19, 20, 21, 900]) {
				const left = disputesLeft({ payments, disputes }, limit);
				expect(left).toBeGreaterThanOrEqual(0);
				if (left > 0) {
					expect(judgeDisputes({ payments, disputes: disputes + left - 1 }, limit)).not.toBe('over');
					expect(judgeDisputes({ payments: Math.max(1, payments), disputes: disputes + left }, limit)).toBe('over');
				}
			}
	});
	it('has limits for every scheme, the warning before the end', () => {
		expect(new Set(SCHEME_LIMITS.map((one) => one.scheme)).size).toBe(SCHEME_LIMITS.length);
		for (const one of SCHEME_LIMITS) expect(one.warnAt).toBeLessThan(one.mostAt);
	});
});
