import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { quickestOf } from '../../../../tests/world/quickest';
import {
	cardTypeOf,
	EEA,
	fundingOf,
	intersectTypes,
	isLuhnValid,
	holdsCardNumber,
	isNoType,
	maskCardNumbers,
	maskInJson,
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
	const digits = '990110000000000';
	const card = [...Array(10).keys()].map((digit) => `${digits}${digit}`).find(isLuhnValid)!;
	const other = [...Array(10).keys()].map((digit) => `996012345678901${digit}`).find(isLuhnValid)!;
	it.each([
		['beside a date and a code', `${card} 09/29 123`],
		['after an order number', `order 20417 ${card}`],
		['glued to an order number', `20417${card}`],
		['two in a row', `${card} ${other}`],
		['with dots', card.replace(/(.{4})(?=.)/g, '$1.')],
		['with slashes', card.replace(/(.{4})(?=.)/g, '$1/')],
		['with no-break spaces', card.replace(/(.{4})(?=.)/g, '$1\u00a0')],
		['with thin spaces and dashes', card.replace(/(.{4})(?=.)/g, '$1\u2009\u2013')],
		['in full-width digits', card.replace(/\d/g, (one) => String.fromCharCode(0xff10 + Number(one)))],
		['with something invisible between', card.split('').join('\u200b')],
		['in words', `my card is ${card}, thanks`]
	])('masks one %s', (_, text) => {
		const masked = maskCardNumbers(text);
		const left = masked.normalize('NFKC').replace(/\D/g, '');
		expect(left).not.toContain(card.slice(0, 12));
		expect(left).not.toContain(other.slice(0, 12));
		expect(masked).toContain('••••');
		expect(holdsCardNumber(text)).toBe(true);
		expect(holdsCardNumber(masked)).toBe(false);
	});
	it('leaves numbers that are no cards: account numbers, references, times, sums', () => {
		for (const text of [
			'BE68 5390 0754 7034',
			'RF18 5390 0754 7034',
			'+++090/9337/55493+++',
			'1764184598000',
			'2026-11-26T20:14:00Z',
			'0032 9 123 45 67'
		])
			expect(maskCardNumbers(text)).toBe(text);
	});
	it('masks within a document that stays one', () => {
		const given = { note: `paid with ${card}`, list: [4_500, 1_764_184_598_000], raw: 1, deep: [{ [card]: 'x' }] };
		const masked = maskInJson(JSON.stringify(given));
		expect(masked).not.toContain(card);
		expect(JSON.parse(masked)).toMatchObject({ list: given.list, note: `paid with •••• ${card.slice(-4)}` });
		expect(JSON.parse(maskInJson(`{"number":${card}}`))).toEqual({ number: `•••• ${card.slice(-4)}` });
	});
	it.each([
		['over two lines', card.replace(/(.{8})(?=.)/, '$1\n')],
		['parted by tabs', card.replace(/(.{4})(?=.)/g, '$1\t')],
		['parted by backslashes', card.replace(/(.{4})(?=.)/g, '$1\\')]
	])('masks one %s, which a document escapes', (_, text) => {
		const masked = maskInJson(JSON.stringify({ note: `"paid" with ${text}, thanks`, other: 'C:\\temp' }));
		expect(JSON.parse(masked)).toEqual({ note: `"paid" with •••• ${card.slice(-4)}, thanks`, other: 'C:\\temp' });
	});
	it('masks one whose digits a document escapes', () => {
		const escaped = card.replace(/[02468]/g, (digit) => `\\u003${digit}`);
		expect(JSON.parse(maskInJson(`{"note":"${escaped}"}`))).toEqual({
			note: `•••• ${card.slice(-4)}`
		});
		// what is no valid document is masked as far as it can be read
		expect(maskInJson(`{"note":"\\x ${card}"}`)).not.toContain(card);
	});
	it('never leaves one in a random document', () => {
		fc.assert(
			fc.property(fc.string(), fc.string(), fc.constantFrom('', ' ', '\n', '\\', '"'), (before, after, between) => {
				const given = { a: `${before}${card.split('').join(between)}${after}` };
				const masked = JSON.parse(maskInJson(JSON.stringify(given))) as typeof given;
				expect(masked.a.replace(/\D/g, '')).not.toContain(card.slice(0, 12));
				expect(masked.a).toBe(maskCardNumbers(given.a));
			}),
			{ numRuns: 500, seed: 20_421 }
		);
	});
	it('never leaves one in a random text', () => {
		fc.assert(
			fc.property(
				fc.string(),
				fc.string(),
				fc.constantFrom('', ' ', '-', '.', '/', ' - '),
				(before, after, between) => {
					const masked = maskCardNumbers(`${before}${card.split('').join(between)}${after}`);
					expect(masked.normalize('NFKC').replace(/\D/g, '')).not.toContain(card.slice(0, 12));
				}
			),
			{ numRuns: 500, seed: 20_420 }
		);
	});
	it('is quick with a text that is all digits', async () => {
		expect(await quickestOf(1_000, () => maskCardNumbers('9'.repeat(262_144)))).toBeLessThan(1_000);
	});
});
