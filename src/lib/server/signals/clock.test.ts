import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { takeSetBack, timeNow } from './clock';

const HOUR = 3_600_000;
// the clock of the test stands still, the one that never jumps does not
const NEAR = 600_000;

beforeEach(() => {
	vi.useFakeTimers({ toFake: ['Date'] });
	takeSetBack();
});
afterEach(() => vi.useRealTimers());

const set = (by: number) => vi.setSystemTime(Date.now() + by);
const near = (by: number) => expect(Math.abs(takeSetBack() - by)).toBeLessThan(NEAR);

it('a clock that goes on, or is set forward, was not set back', () => {
	timeNow();
	near(0);
	set(6 * HOUR);
	timeNow();
	near(0);
});
it('is told once, from the furthest that anybody was told', () => {
	timeNow();
	set(30 * HOUR);
	timeNow();
	set(-10 * HOUR);
	timeNow();
	set(-50 * HOUR);
	near(60 * HOUR);
	near(0);
});
it('a jump forward and back is seen where anybody was told a time in between, and is none where nobody was', () => {
	set(8 * HOUR);
	set(-8 * HOUR);
	near(0);
	set(8 * HOUR);
	timeNow();
	set(-8 * HOUR);
	near(8 * HOUR);
});
