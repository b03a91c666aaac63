import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { PAYERS } from '../limits';
import { payForPage } from './payerRates';

// The machine's clock may be set anew at any moment; timers go on as they were.

beforeEach(() => void vi.useFakeTimers({ now: Date.parse('2026-11-26T10:00:00Z') }));
afterEach(() => void vi.useRealTimers());

const act = (order: string) => payForPage({ address: '192.0.2.7', isAct: true, till: 'shop', order });
const actAll = async (order: string) => {
	for (let k = 0; k < PAYERS.actsPerOrder; k++) expect(await act(order)).toBeUndefined();
};

describe('the window of a limit', () => {
	it('ends after its own length, and says when', async () => {
		await actAll('A-1');
		expect(await act('A-1')).toBe(PAYERS.windowSeconds);
		await vi.advanceTimersByTimeAsync(20_000);
		expect(await act('A-1')).toBe(PAYERS.windowSeconds - 20);
		await vi.advanceTimersByTimeAsync((PAYERS.windowSeconds - 19) * 1_000);
		expect(await act('A-1')).toBeUndefined();
	});
	it('ends no later when the clock is set back two hours, and never asks for a longer wait', async () => {
		await actAll('B-1');
		vi.setSystemTime(Date.parse('2026-11-26T08:00:00Z'));
		const wait = await act('B-1');
		expect(wait).toBeGreaterThan(0);
		expect(wait).toBeLessThanOrEqual(PAYERS.windowSeconds);
		await vi.advanceTimersByTimeAsync((PAYERS.windowSeconds + 1) * 1_000);
		await actAll('B-1');
	});
	it('gives no more than it has when the clock is set an hour ahead', async () => {
		await actAll('C-1');
		vi.setSystemTime(Date.parse('2026-11-26T11:00:00Z'));
		await actAll('C-1');
		expect(await act('C-1')).toBeGreaterThan(0);
	});
});
