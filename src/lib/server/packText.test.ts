import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { packText, unpackText } from './packText';

describe('a packed text', () => {
	it('is unpacked as it was, whatever stands in it', () => {
		fc.assert(
			fc.property(fc.string({ unit: 'grapheme', maxLength: 400 }), (text) => {
				expect(unpackText(packText(text))).toBe(text);
			}),
			{ seed: 8, numRuns: 300 }
		);
		expect(unpackText(packText(''))).toBe('');
		expect(unpackText(packText('für „Bögen“ → ¥12,800 🎻'))).toBe('für „Bögen“ → ¥12,800 🎻');
	});
	it('is much shorter where lines are alike', () => {
		const text = JSON.stringify(
			Array.from({ length: 1_000 }, (_, n) => [`FE-${n}`, 'Web shop', 8_450 + (n % 7), 'EUR'])
		);
		expect(packText(text).length).toBeLessThan(text.length / 3);
	});
	it('that is none is refused', () => {
		for (const wrong of ['', 'no such thing', '{"lines":[]}']) expect(() => unpackText(wrong)).toThrow();
	});
});
