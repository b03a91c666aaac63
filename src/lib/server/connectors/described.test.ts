import { describe, expect, it } from 'vitest';
import { factsOf } from './described';

describe('facts of a payment as a processor tells it', () => {
	it('say once captured what was captured, not that so much was authorised: one sum cannot tell both', () => {
		const facts = factsOf('p1', { authorised: { at: 1, minor: 8_000 }, captured: { at: 2, minor: 8_000 } });
		expect(facts).toEqual([
			{ kind: 'authorised', at: 1, object: 'p1' },
			{ kind: 'captured', at: 2, object: 'p1', minor: 8_000 }
		]);
	});
	it('say what is authorised as long as nothing is captured, and both where they are told apart', () => {
		expect(factsOf('p1', { authorised: { at: 1, minor: 12_000 }, captured: { at: undefined, minor: 12_000 } })).toEqual(
			[{ kind: 'authorised', at: 1, object: 'p1', minor: 12_000 }]
		);
		expect(
			factsOf('p1', { authorised: { at: 1, minor: 12_000 }, captured: { at: 2, minor: 8_000 } }).map((one) => one.minor)
		).toEqual([12_000, 8_000]);
	});
	it('are each of their own object, and what has no time has not happened', () => {
		expect(
			factsOf('p1', {
				refunded: [
					{ at: 3, minor: 5, object: 'r1' },
					{ at: undefined, minor: 6, object: 'r2' }
				],
				failed: false
			})
		).toEqual([{ kind: 'refunded', at: 3, minor: 5, object: 'r1' }]);
	});
});
