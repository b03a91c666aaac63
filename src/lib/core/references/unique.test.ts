import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isCreditorReference, referenceFor } from './creditor';

// Money that comes under a creditor reference is one order's, and no other's.

describe('the creditor reference of an order', () => {
	it('is its own, though another’s reference goes on where its number begins', () => {
		expect(referenceFor('WA-1', 23)).not.toBe(referenceFor('WA-12', 3));
		expect(referenceFor('INV-1', 11)).not.toBe(referenceFor('INV-11', 1));
	});
	it('is right by ISO 11649, and differs for every two orders, whatever they are called', () => {
		const order = fc.record({
			reference: fc.oneof(fc.string({ maxLength: 40 }), fc.stringMatching(/^[A-Z]{1,3}-?[0-9]{0,20}$/)),
			id: fc.integer({ min: 1, max: 2_000_000_000 })
		});
		fc.assert(
			fc.property(order, order, (a, b) => {
				const [one, other] = [referenceFor(a.reference, a.id), referenceFor(b.reference, b.id)];
				expect(isCreditorReference(one)).toBe(true);
				expect(one.length).toBeLessThanOrEqual(25);
				if (a.id !== b.id) expect(one).not.toBe(other);
			}),
			{ numRuns: 20_000 }
		);
		// names that differ by where a digit belongs
		fc.assert(
			fc.property(fc.stringMatching(/^[A-Z]{1,4}$/), fc.stringMatching(/^[1-9][0-9]{1,8}$/), (letters, digits) => {
				const all = Array.from({ length: digits.length }, (_, at) =>
					referenceFor(letters + digits.slice(0, at), Number(digits.slice(at)))
				).filter((_, at) => digits[at] !== '0');
				expect(new Set(all).size).toBe(all.length);
			}),
			{ numRuns: 5_000 }
		);
	});
});
