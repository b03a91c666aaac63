import { describe, expect, it } from 'vitest';
import {
	cardTypeOf,
	EEA,
	fundingOf,
	intersectTypes,
	isLuhnValid,
	isNoType,
	maskCardNumbers,
	refusedParts,
	regionOf,
	SchemeCatalogue,
	schemeOf
} from '.';
import catalogue from './schemes.json';

describe('card types', () => {
	it('derives the region', () => {
		expect(regionOf('BE', 'BE', [[...EEA]])).toBe('domestic');
		expect(regionOf('NL', 'BE', [[...EEA]])).toBe('regional');
		expect(regionOf('GB', 'BE', [[...EEA]])).toBe('international');
		expect(regionOf('NL', 'BE', [])).toBe('international');
		expect(regionOf('unknown', 'BE', [[...EEA]])).toBe('unknown');
	});
	it('lets commercial outrank the rest', () => {
		expect(fundingOf(['credit', 'commercial'])).toBe('commercial');
		expect(fundingOf(['credit', 'debit'])).toBe('unknown');
		expect(fundingOf(['prepaid'])).toBe('prepaid');
	});
	it('fails a condition on what is unknown, and asks nothing where anything is taken', () => {
		const card = cardTypeOf({ scheme: 'corvid', funding: 'unknown', issuerCountry: 'unknown' }, 'BE', [[...EEA]]);
		expect(refusedParts({ schemes: ['corvid'], fundings: ['debit'], regions: 'any' }, card)).toEqual(['funding']);
		expect(refusedParts({ schemes: 'any', fundings: 'any', regions: 'any' }, card)).toEqual([]);
	});
	it('intersects what two sides take', () => {
		const both = intersectTypes(
			{ schemes: ['corvid', 'gildern'], fundings: 'any', regions: 'any' },
			{ schemes: ['corvid'], fundings: ['debit'], regions: 'any' }
		);
		expect(both).toEqual({ schemes: ['corvid'], fundings: ['debit'], regions: 'any' });
		expect(isNoType(both)).toBe(false);
		expect(isNoType({ ...both, schemes: [] })).toBe(true);
	});
});

describe('card numbers', () => {
	const schemes = SchemeCatalogue.parse(catalogue);
	it('knows schemes by their leading digits, all in the range that belongs to no country', () => {
		expect(schemeOf('9901 1000 0000 0005', schemes)?.id).toBe('corvid');
		expect(schemeOf('9961', schemes)?.id).toBe('tessel');
		expect(schemeOf('4111', schemes)).toBeUndefined();
		for (const { leading } of schemes)
			for (const pair of leading) for (const bound of pair) expect(bound).toMatch(/^99\d\d/);
	});
	it('checks by Luhn', () => {
		expect(isLuhnValid('79927398713')).toBe(true);
		expect(isLuhnValid('79927398710')).toBe(false);
	});
	it('masks what looks like a full number, and leaves the rest', () => {
		const number = '9901100000000004';
		const luhn = [...Array(10).keys()].map((digit) => number.slice(0, 15) + digit).find(isLuhnValid)!;
		expect(maskCardNumbers(`card ${luhn.replace(/(.{4})(?=.)/g, '$1 ')} of Ann`)).toBe(
			`card •••• ${luhn.slice(-4)} of Ann`
		);
		expect(maskCardNumbers('order 1234567890123456, IBAN BE68539007547034')).toBe(
			'order 1234567890123456, IBAN BE68539007547034'
		);
	});
});
