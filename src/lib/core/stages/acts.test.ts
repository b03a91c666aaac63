import { describe, expect, it } from 'vitest';
import { possibleActs, type ActsAsked } from './acts';
import { STAGES } from './state';

const asked = (more: Partial<ActsAsked> = {}): ActsAsked => ({
	stage: 'captured',
	isOffline: false,
	taken: 8_450,
	refundable: 8_450,
	refundsPending: 0,
	connection: {
		name: 'Fernhall',
		isConnected: true,
		canCapture: true,
		canVoid: true,
		heldUntil: '2026-12-03',
		refundUntil: '2027-05-25'
	},
	today: '2026-11-26',
	...more
});
const why = (act: string, more: Partial<ActsAsked> = {}) => {
	const one = possibleActs(asked(more), (day) => day).find((each) => each.act === act)!;
	return one.can ? `can ${one.why}`.trim() : one.why;
};
const at = (more: Partial<NonNullable<ActsAsked['connection']>>) => ({
	connection: { ...asked().connection!, ...more }
});

describe('what can be done with a payment', () => {
	it('is refunded until the processor’s last day, that day included, and the reason is told after it', () => {
		expect(why('refund')).toBe('can until 2027-05-25');
		expect(why('refund', { today: '2027-05-25' })).toBe('can until 2027-05-25');
		expect(why('refund', { today: '2027-05-26' })).toMatch(/^Too late: Fernhall refunds until 2027-05-25/);
		expect(why('refund', { taken: 0, stage: 'failed' })).toBe('Nothing was captured.');
		expect(why('refund', { stage: 'refunded', refundable: 0 })).toBe('All of it was refunded already.');
		expect(why('refund', { stage: 'returned', refundable: 0 })).toMatch(/bank took it back/);
		expect(why('refund', { stage: 'disputed', refundable: 0 })).toMatch(/disputed/);
		expect(why('refund', { refundable: 0, refundsPending: 8_450 })).toBe('The rest is being refunded already.');
		expect(why('refund', at({ isConnected: false }))).toMatch(/disconnected/);
		expect(why('refund', { connection: undefined })).toMatch(/No connection/);
	});
	it('is captured later until its last day, and given up, only while it is held and nothing is being asked', () => {
		const held = { stage: 'authorised', taken: 0, refundable: 0 } as const;
		expect(why('capture', held)).toBe('can until 2026-12-03, whole or in part');
		expect(why('void', held)).toBe('can');
		expect(why('capture', { ...held, today: '2026-12-04' })).toBe('Too late: it was held until 2026-12-03.');
		expect(why('capture', { ...held, asking: 'capture' })).toBe('Fernhall is being asked whether it was captured.');
		expect(why('capture', { ...held, ...at({ canCapture: false }) })).toBe('Fernhall does not offer it.');
		expect(why('capture')).toBe('It is captured already.');
		expect(why('void', { stage: 'requested', taken: 0 })).toBe('Nothing is held yet.');
		expect(why('void', { stage: 'expired', taken: 0 })).toBe('Nothing is held any more: expired.');
	});
	it('is recorded where no processor carries it, unless the payer chose another way', () => {
		expect(why('record', { isOffline: true, connection: undefined, stage: 'requested', taken: 0 })).toBe('can');
		expect(why('record', { isOffline: true, connection: undefined, stage: 'voided', taken: 0 })).toMatch(/another way/);
		expect(why('refund', { isOffline: true, connection: undefined })).toMatch(/No processor carries it/);
	});
	it('says why in every stage in which something cannot be done', () => {
		for (const stage of STAGES)
			for (const isOffline of [true, false])
				for (const one of possibleActs(asked({ stage, isOffline, taken: 0, refundable: 0 }), (day) => day))
					if (!one.can) expect([stage, one.act, one.why.length > 10]).toEqual([stage, one.act, true]);
	});
});
