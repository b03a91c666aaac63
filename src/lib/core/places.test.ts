import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { counted } from './counted';
import { AREAS, COUNTRIES, countriesIn, countryName, sayCountries } from './places';

describe('countries', () => {
	it('are called by their English names, and what is none stays as it is', () => {
		expect([countryName('BE'), countryName('CH'), countryName('unknown'), countryName('')]).toEqual([
			'Belgium',
			'Switzerland',
			'unknown',
			''
		]);
	});
	it('are told as an area where all of it is meant, with the rest by name', () => {
		const [eea, eu] = AREAS;
		expect([eea!.codes.length, eu!.codes.length]).toEqual([30, 27]);
		expect(sayCountries(eea!.codes)).toBe('European Economic Area');
		expect(sayCountries([...eu!.codes, 'CH'])).toBe('European Union, Switzerland');
		expect(sayCountries(['NL', 'BE'])).toBe('Belgium, Netherlands');
		expect(sayCountries([])).toBe('');
		// one that lacks a country is not the area
		expect(sayCountries(eu!.codes.slice(1))).not.toContain('European Union');
	});
	it('of every area are countries, and none is named twice', () => {
		for (const { codes } of AREAS) {
			expect(codes.filter((code) => !COUNTRIES.includes(code))).toEqual([]);
			expect(new Set(codes).size).toBe(codes.length);
		}
		fc.assert(
			fc.property(fc.uniqueArray(fc.constantFrom(...COUNTRIES), { maxLength: 40 }), (codes) => {
				const names = sayCountries(codes).split(', ').filter(Boolean);
				const area = AREAS.find((one) => one.name === names[0]);
				return names.length === (area ? codes.length - area.codes.length + 1 : codes.length);
			})
		);
	});
	it('stand in the order of their names in the language asked for', () => {
		const names = countriesIn('nl-BE').map((one) => one.name);
		expect(names).toContain('België');
		expect([...names].sort((a, b) => a.localeCompare(b, 'nl-BE'))).toEqual(names);
	});
});

describe('a number of things', () => {
	it('is told in the singular for one, and as the locale writes digits', () => {
		expect([0, 1, 2, 1_013].map((count) => counted(count, 'payment', 'en-GB'))).toEqual([
			'0 payments',
			'1 payment',
			'2 payments',
			'1,013 payments'
		]);
		expect(counted(2, 'entry', 'de-DE', 'entries')).toBe('2 entries');
		expect(counted(12_345, 'payer', 'de-DE')).toBe('12.345 payers');
	});
});
