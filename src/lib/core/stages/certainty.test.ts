import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, TARGET } from '../calendar';
import { certaintyOf, FULFIL, type CertaintyAsked } from './certainty';
import { STAGES } from './state';

const say = (day: string) => day;
/** A bank debit agreed on Thursday, 26 November 2026, at noon in Ghent. */
const debit = (
	more: Partial<CertaintyAsked> = {},
	account: Partial<CertaintyAsked['account']> = {}
): CertaintyAsked => ({
	stage: 'pending',
	since: Date.parse('2026-11-26T11:00:00Z'),
	policy: 'when settled',
	today: '2026-11-26',
	account: {
		timeZone: 'Europe/Brussels',
		cutOff: '16:00',
		bankDays: 3,
		calendar: TARGET,
		returns: { bankDays: 5, weeks: 8 },
		...account
	},
	...more
});

describe('a bank debit', () => {
	it('is expected over bank days; from the cut-off on it counts as the next day', () => {
		expect(certaintyOf(debit(), say)).toMatchObject({
			expected: '2026-12-01',
			bankReturnsUntil: '2026-12-08',
			payerReturnsUntil: '2027-01-26',
			fulfil: { now: false, from: '2026-12-01' }
		});
		expect(certaintyOf(debit({ since: Date.parse('2026-11-26T14:59:00Z') }), say).expected).toBe('2026-12-01');
		expect(certaintyOf(debit({ since: Date.parse('2026-11-26T15:00:00Z') }), say).expected).toBe('2026-12-02');
	});
	it('skips days on which the bank calendar is closed, over a year’s end too', () => {
		const agreed = debit({ since: Date.parse('2026-12-23T11:00:00Z') });
		// 25 and 26 December and 1 January are closed, and the week-ends
		expect(certaintyOf(agreed, say)).toMatchObject({ expected: '2026-12-29', bankReturnsUntil: '2027-01-06' });
	});
	it('is handed out by the till’s policy: on promise, when settled, or when it can no longer come back', () => {
		const settled = { stage: 'settled', settledAt: Date.parse('2026-12-02T08:00:00Z') } as const;
		const when = (policy: CertaintyAsked['policy'], more: Partial<CertaintyAsked> = {}) =>
			certaintyOf(debit({ policy, ...more }), say).fulfil;
		expect(when('on promise')).toMatchObject({ now: true, from: '2026-11-26' });
		expect(when('when settled')).toMatchObject({ now: false, from: '2026-12-01' });
		expect(when('when settled', settled)).toMatchObject({ now: true, from: '2026-12-02' });
		expect(when('when it can no longer come back', settled)).toMatchObject({ now: false, from: '2027-01-28' });
		// on its last day it may still come back
		expect(when('when it can no longer come back', { ...settled, today: '2027-01-27' }).now).toBe(false);
		expect(when('when it can no longer come back', { ...settled, today: '2027-01-28' }).now).toBe(true);
	});
	it('that came back is handed out by no policy, and no day is told of it', () => {
		for (const policy of FULFIL) {
			const { fulfil, expected, bankReturnsUntil } = certaintyOf(debit({ policy, stage: 'returned' }), say);
			expect([fulfil.now, expected, bankReturnsUntil]).toEqual([false, undefined, undefined]);
		}
	});
	it('tells how each day was counted', () => {
		const { working } = certaintyOf(debit(), say);
		expect(working.steps.map((step) => [step.title, step.sum])).toEqual(
			[
				['Captured', undefined],
				['Expected', '2026-12-01'],
				['The bank may return it until', '2026-12-08'],
				['It goes back on the payer’s word until', '2027-01-26']
			].map((one, at) => (at ? one : ['Agreed', undefined]))
		);
		expect(working.about).toBe('The money is expected on 2026-12-01.');
	});
	it('is never handed out earlier by a stricter policy, nor once the money has gone', () => {
		fc.assert(
			fc.property(
				fc.constantFrom(...STAGES),
				fc.integer({ min: Date.parse('2026-01-01'), max: Date.parse('2028-01-01') }),
				fc.integer({ min: 0, max: 9 }),
				fc.integer({ min: 0, max: 120 }),
				fc.boolean(),
				(stage, since, bankDays, later, returns) => {
					const ask = (policy: CertaintyAsked['policy']) =>
						certaintyOf(
							debit(
								{ stage, since, policy, settledAt: since + 4 * 86_400_000, today: addDays('2026-01-01', later * 7) },
								{ bankDays, ...(returns ? {} : { returns: undefined }) }
							),
							say
						).fulfil;
					const [promise, settled, final] = FULFIL.map(ask) as [
						ReturnType<typeof ask>,
						ReturnType<typeof ask>,
						ReturnType<typeof ask>
					];
					if (final.now) expect(settled.now).toBe(true);
					if (settled.now) expect(promise.now).toBe(true);
					if (settled.from && final.from) expect(final.from >= settled.from).toBe(true);
					if (['returned', 'refunded', 'failed'].includes(stage)) expect(promise.now).toBe(false);
				}
			),
			{ seed: 260_926, numRuns: 2_000 }
		);
	});
});
