import { describe, expect, it } from 'vitest';
import { hasPayerWord, languageFor, payerWord, WORDS, type PayerWord } from './payerWords';

describe('the words of a payer’s page', () => {
	it('are the same in every language, with the same gaps', () => {
		const english = Object.keys(WORDS.en) as PayerWord[];
		for (const [language, words] of Object.entries(WORDS)) {
			expect([language, Object.keys(words).sort()]).toEqual([language, [...english].sort()]);
			for (const word of english) {
				const gaps = (text: string) => text.split('{}').length - 1;
				expect([language, word, gaps(words[word])]).toEqual([language, word, gaps(WORDS.en[word])]);
				expect(words[word].trim().length).toBeGreaterThan(0);
			}
		}
	});
	it('are filled in order', () => {
		expect(payerWord('en', 'cameLeft', '100.00 EUR', '20.00 EUR')).toBe(
			'100.00 EUR has come already; 20.00 EUR is still missing.'
		);
		expect(payerWord('nl', 'order', 'WA-1')).toBe('Bestelling WA-1');
		expect([hasPayerWord('bank-app'), hasPayerWord('toString')]).toEqual([true, false]);
	});
	it('are in the first language that the browser asks for and the till speaks', () => {
		expect(languageFor('fr-BE,fr;q=0.9,nl;q=0.5', ['en', 'nl', 'fr'])).toBe('fr');
		expect(languageFor('ja, de;q=0.4', ['en', 'de'])).toBe('de');
		expect(languageFor('ja', ['nl', 'fr'])).toBe('nl');
		expect(languageFor('', [])).toBe('en');
	});
});
