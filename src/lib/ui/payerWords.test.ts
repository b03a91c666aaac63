import { describe, expect, it } from 'vitest';
import { METHODS } from '../core/lineup';
import {
	declineWord,
	hasPayerWord,
	LANGUAGE_NAMES,
	languageFor,
	localeOf,
	payerWord,
	WORDS,
	type Language,
	type PayerWord
} from './payerWords';

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

describe('what a way costs the payer’s time', () => {
	it('is told of every method that a processor carries, and each differently', () => {
		const told = METHODS.filter((method) => hasPayerWord(`takes-${method}`));
		expect(told).toEqual(
			expect.arrayContaining(['card', 'device-wallet', 'bank-redirect', 'account-wallet', 'bank-debit', 'bank-app'])
		);
		for (const language of Object.keys(WORDS) as Language[])
			expect(new Set(told.map((method) => payerWord(language, `takes-${method}` as PayerWord))).size).toBe(told.length);
	});
});

describe('why a payment was declined', () => {
	it.each([
		['not enough money', 'no-money'],
		['Insufficient funds.', 'no-money'],
		['expired', 'card-expired'],
		['reported lost', 'card-lost'],
		['card reported stolen', 'card-lost'],
		['not honoured by the issuer', 'not-honoured'],
		['turned down after a look at the payer', undefined],
		['', undefined]
	])('“%s” is %s', (reason, word) => {
		expect(declineWord(reason)).toBe(word);
	});
	it('is never told as lost or stolen to whoever holds the card', () => {
		for (const language of Object.keys(WORDS) as Language[])
			expect(payerWord(language, declineWord('reported lost')!)).not.toMatch(
				/lost|stolen|verloren|gestolen|perdue|volée/i
			);
	});
});

describe('a language', () => {
	it('that we do not have falls back whole: words, sums and days', () => {
		const language = languageFor('ja-JP,ja;q=0.9', ['fr', 'en']);
		expect([language, localeOf(language, 'ja-JP,ja;q=0.9')]).toEqual(['fr', 'fr-BE']);
		expect(localeOf('fr', 'fr-CH,fr;q=0.9')).toBe('fr-CH');
		expect(localeOf('de', 'fr-CH')).toBe('de-DE');
	});
	it('has its own name, and its own quotation and spacing', () => {
		expect(Object.keys(LANGUAGE_NAMES)).toEqual(Object.keys(WORDS));
		// French sets a space before a colon and a semicolon
		for (const [word, text] of Object.entries(WORDS.fr))
			expect([word, /[^\s\d/]:(?!\/\/)|[^\s];/.test(text.replace(/https?:\/\/\S+/g, ''))]).toEqual([word, false]);
		// and no language is left with straight quotes
		for (const words of Object.values(WORDS)) for (const text of Object.values(words)) expect(text).not.toMatch(/["']/);
	});
});
