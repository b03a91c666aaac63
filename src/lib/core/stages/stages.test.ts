import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EVENT_KINDS, stateOf, type EventKind, type PaymentEvent } from '.';

const event = (kind: EventKind, at: number, minor?: number, object?: string): PaymentEvent => ({
	id: `${kind}-${at}-${object ?? ''}`,
	kind,
	at,
	minor,
	object
});
const card = (...events: PaymentEvent[]) => stateOf([event('requested', 0), ...events], 8450, false);
const transfer = (...events: PaymentEvent[]) => stateOf([event('requested', 0), ...events], 8450, true);

describe('how far the money has come', () => {
	it('fills the strip from requested to paid out', () => {
		const all = [event('captured', 1, 8450), event('settled', 2), event('paid out', 3)];
		expect(
			[0, 1, 2, 3].map((n) => card(...all.slice(0, n))).map(({ stage, reachedStep }) => [stage, reachedStep])
		).toEqual([
			['requested', 1],
			['captured', 2],
			['settled', 3],
			['paid out', 4]
		]);
	});
	it('breaks the notch where trouble stopped it', () => {
		expect(card(event('failed', 1))).toMatchObject({ stage: 'failed', reachedStep: 1, brokenStep: 2, open: false });
		expect(card(event('captured', 1, 8450), event('settled', 2), event('disputed', 3, 8450))).toMatchObject({
			stage: 'disputed',
			brokenStep: 3,
			reachedStep: 2,
			refundable: 0
		});
	});
	it('does not care in which order it hears of things', () => {
		const happened = [
			event('captured', 1, 8450),
			event('settled', 4),
			event('refunded', 3, 3000, 'r1'),
			event('paid out', 5),
			event('refunded', 6, 5450, 'r2'),
			event('failed', 9)
		];
		const right = card(...happened);
		fc.assert(
			fc.property(fc.shuffledSubarray(happened, { minLength: happened.length }), (shuffled) => {
				expect(card(...shuffled)).toEqual(right);
			}),
			{ seed: 20417 }
		);
		expect(right.stage).toBe('refunded');
		expect(right.impossible).toEqual(['failed-9-']);
	});
	it('keeps, marks and ignores what the whole set makes impossible', () => {
		expect(card(event('settled', 2))).toMatchObject({ stage: 'requested', impossible: ['settled-2-'] });
		expect(card(event('settled', 2), event('captured', 3, 8450))).toMatchObject({ stage: 'settled', impossible: [] });
	});
	it('counts a capture after a failure, whichever was heard of first, and says that it contradicts', () => {
		const [failed, captured] = [event('failed', 1), event('captured', 2, 8450)];
		for (const list of [
			[failed, captured],
			[captured, failed]
		])
			expect(card(...list)).toMatchObject({
				stage: 'captured',
				captured: 8450,
				open: true,
				contradictions: ['captured after it had ended']
			});
		// what ended after the money had come is the impossible one
		expect(card(event('captured', 1, 8450), event('failed', 2))).toMatchObject({
			stage: 'captured',
			contradictions: [],
			impossible: ['failed-2-']
		});
	});
	it('counts money that moved beyond what could be, and says that it contradicts', () => {
		const captured = event('captured', 1, 8450, 'c');
		expect(card(captured, event('refunded', 2, 9000, 'r'))).toMatchObject({
			refunded: 9000,
			refundable: 0,
			contradictions: ['refunded more than captured']
		});
		expect(card(captured, event('captured', 2, 100, 'd'))).toMatchObject({
			captured: 8550,
			contradictions: ['captured more than authorised']
		});
		expect(card(captured, event('refunded', 2, 8000, 'r'), event('disputed', 3, 8450, 'd'))).toMatchObject({
			disputed: 8450,
			refundable: 0,
			contradictions: ['disputed what was refunded']
		});
	});
	it('lets two disputes never take more than was captured', () => {
		expect(
			card(event('captured', 1, 8450), event('disputed', 2, 8450, 'a'), event('disputed', 3, 8450, 'b'))
		).toMatchObject({ disputed: 8450, refundable: 0 });
	});
	it('counts an offline receipt that is heard twice under one id once, and a reversed one not at all', () => {
		const receipt = event('received', 1, 3000, 'r');
		expect(transfer(receipt, { ...receipt, id: 'told again' })).toMatchObject({
			received: 3000,
			impossible: ['told again']
		});
		expect(transfer(receipt, event('receipt reversed', 2, undefined, 'r'))).toMatchObject({
			received: 0,
			stage: 'requested'
		});
	});
	it('takes a sum of refunds that a file tells beside single ones as the same money', () => {
		const captured = event('captured', 1, 8450);
		const single = event('refunded', 2, 3000, 'r');
		expect(card(captured, event('refunded so far', 3, 3000, 'file'), single).refunded).toBe(3000);
		expect(card(captured, event('refunded so far', 3, 5000, 'file'), single).refunded).toBe(5000);
		expect(card(captured, event('disputed so far', 3, 8450, 'file'), event('disputed', 2, 8450, 'd')).disputed).toBe(
			8450
		);
	});
	it('takes a return after settlement as a fact like any other', () => {
		expect(card(event('captured', 1, 8450), event('settled', 2), event('returned', 9))).toMatchObject({
			stage: 'returned',
			brokenStep: 4,
			open: false,
			returned: 8450,
			refundable: 0
		});
		const part = card(event('captured', 1, 8450), event('refunded', 2, 3000, 'r'), event('returned', 9));
		expect([part.refunded, part.returned, part.refundable]).toEqual([3000, 5450, 0]);
	});
	it('counts refunds: pending, failed, done', () => {
		const captured = event('captured', 1, 8450);
		expect(card(captured, event('refund pending', 2, 3000, 'r'))).toMatchObject({
			refundsPending: 3000,
			refundable: 5450
		});
		expect(card(captured, event('refund pending', 2, 3000, 'r'), event('refund failed', 3, 3000, 'r'))).toMatchObject({
			refundsPending: 0,
			refundable: 8450
		});
		expect(card(captured, event('refund pending', 2, 3000, 'r'), event('refunded', 3, 3000, 'r'))).toMatchObject({
			refunded: 3000,
			refundable: 5450,
			stage: 'part refunded'
		});
	});
	it('lets a dispute that is won free its part', () => {
		const events = [event('captured', 1, 8450), event('disputed', 2, 5000, 'd')];
		expect(card(...events).refundable).toBe(3450);
		expect(card(...events, event('dispute won', 3, undefined, 'd'))).toMatchObject({
			refundable: 8450,
			stage: 'captured'
		});
		expect(card(...events, event('dispute lost', 3, undefined, 'd')).refundable).toBe(3450);
	});
	it('adds up what came for a transfer: part, whole, too much', () => {
		expect(transfer(event('received', 1, 3000))).toMatchObject({ stage: 'part received', reachedStep: 1, over: -5450 });
		expect(transfer(event('received', 1, 3000), event('received', 2, 5450))).toMatchObject({
			stage: 'received',
			reachedStep: 2,
			over: 0
		});
		expect(transfer(event('received', 1, 9000))).toMatchObject({ stage: 'received', over: 550, refundable: 9000 });
	});
	it('never leaves less than nothing, and counts more going back than came only as a contradiction', () => {
		const any = fc.record({
			kind: fc.constantFrom(...EVENT_KINDS),
			at: fc.nat(20),
			minor: fc.option(fc.integer({ min: 1, max: 20_000 }), { nil: undefined }),
			object: fc.constantFrom('a', 'b', 'c')
		});
		fc.assert(
			fc.property(fc.array(any, { maxLength: 14 }), fc.boolean(), (list, offline) => {
				const state = stateOf(
					list.map((one, i) => ({ ...one, id: String(i) })),
					8450,
					offline
				);
				const taken = offline ? state.received : state.captured;
				expect(state.disputed).toBeLessThanOrEqual(taken);
				if (state.refunded > taken) expect(state.contradictions).toContain('refunded more than captured');
				expect(state.refundable).toBeGreaterThanOrEqual(0);
				expect(state.refundable).toBeLessThanOrEqual(taken);
			}),
			{ seed: 20417, numRuns: 2000 }
		);
	});
});
