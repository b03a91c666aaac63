import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	amount,
	AmountError,
	compare,
	convert,
	divideRounded,
	exponentOf,
	findRate,
	formatAmount,
	fraction,
	LARGEST_MINOR,
	plainAmount,
	plus,
	readPlainAmount,
	readTypedAmount,
	round,
	shareOf,
	sumPerCurrency,
	type Rate,
	CURRENCIES,
	formatNumber
} from '.';

const seed = 20417;
const rate = (from: string, to: string, value: string, day = '2026-11-24'): Rate => ({
	day,
	from,
	to,
	rate: value,
	source: 'test'
});

describe('rounding', () => {
	it('rounds 1000 × 14,500 ppm in the three ways', () => {
		expect(shareOf(1000, 14_500, 'half-up')).toBe(15);
		expect(shareOf(1000, 14_500, 'half-even')).toBe(14);
		expect(shareOf(1000, 14_500, 'up')).toBe(15);
	});
	it('takes ties away from zero on both sides of zero', () => {
		expect(divideRounded(-5n, 2n, 'half-up')).toBe(-3n);
		expect(divideRounded(-5n, 2n, 'half-even')).toBe(-2n);
		expect(divideRounded(-1n, 3n, 'up')).toBe(-1n);
	});
	it('never strays from the exact value by a whole unit, in any mode', () => {
		fc.assert(
			fc.property(
				fc.bigInt({ min: -(10n ** 24n), max: 10n ** 24n }),
				fc.bigInt({ min: 1n, max: 10n ** 12n }),
				fc.constantFrom('half-up', 'half-even', 'up'),
				(top, bottom, mode) => {
					const off = divideRounded(top, bottom, mode as 'up') * bottom - top;
					const size = off < 0n ? -off : off;
					return mode === 'up' ? size < bottom : size * 2n <= bottom;
				}
			),
			{ seed }
		);
	});
});

describe('amounts', () => {
	it('knows exponents', () => {
		expect(['JPY', 'EUR', 'KWD'].map(exponentOf)).toEqual([0, 2, 3]);
	});
	it('refuses to add two currencies, fractions of minor units, and too much', () => {
		expect(() => plus(amount(1, 'EUR'), amount(1, 'GBP'))).toThrow(AmountError);
		expect(() => amount(0.5, 'EUR')).toThrow(AmountError);
		expect(() => amount(LARGEST_MINOR + 1, 'EUR')).toThrow(/too large/);
	});
	it('sums per currency, past what one amount may hold', () => {
		expect(sumPerCurrency([amount(LARGEST_MINOR, 'EUR'), amount(5, 'JPY'), amount(LARGEST_MINOR, 'EUR')])).toEqual([
			{ minor: 2 * LARGEST_MINOR, currency: 'EUR' },
			{ minor: 5, currency: 'JPY' }
		]);
	});
});

describe('exchange', () => {
	it('converts 12.35 USD at 0.9213 to 11.38 EUR', () => {
		const found = findRate([rate('USD', 'EUR', '0.9213')], 'USD', 'EUR', '2026-11-24')!;
		expect(convert(amount(1235, 'USD'), 'EUR', found).minor).toBe(1138);
	});
	it('takes the latest rate up to the day, and divides where only the inverse is published', () => {
		const rates = [
			rate('USD', 'EUR', '0.9', '2026-11-20'),
			rate('USD', 'EUR', '0.92', '2026-11-23'),
			rate('USD', 'EUR', '0.95', '2026-11-25')
		];
		expect(findRate(rates, 'USD', 'EUR', '2026-11-24')!.published.rate).toBe('0.92');
		const inverse = findRate(rates, 'EUR', 'USD', '2026-11-24')!;
		expect(inverse.inverse).toBe(true);
		expect(convert(amount(9200, 'EUR'), 'USD', inverse).minor).toBe(10_000);
		const two = [
			{ ...rate('GBP', 'EUR', '1.14'), source: 'Tallybridge' },
			{ ...rate('GBP', 'EUR', '1.15'), source: 'Fernhall' }
		];
		// several published one that day: a processor settles by its own, in whatever order they stand
		for (const list of [two, [...two].reverse()]) {
			expect(findRate(list, 'GBP', 'EUR', '2026-11-24', 'Tallybridge')!.published.rate).toBe('1.14');
			expect(findRate(list, 'GBP', 'EUR', '2026-11-24', 'Fernhall')!.published.rate).toBe('1.15');
		}
		expect(findRate(rates, 'USD', 'EUR', '2026-11-01')).toBeUndefined();
	});
	it('crosses exponents: ¥12,800 at 0.006135 is 78.53 EUR', () => {
		const found = findRate([rate('JPY', 'EUR', '0.006135')], 'JPY', 'EUR', '2026-11-24')!;
		expect(convert(amount(12_800, 'JPY'), 'EUR', found)).toEqual({ minor: 7853, currency: 'EUR' });
	});
	it('rounds a conversion half-even', () => {
		const found = findRate([rate('USD', 'EUR', '0.5')], 'USD', 'EUR', '2026-11-24')!;
		expect([1, 3, 5].map((minor) => convert(amount(minor, 'USD'), 'EUR', found).minor)).toEqual([0, 2, 2]);
	});
});

describe('text', () => {
	it('shows the digits of the currency in the reader’s locale', () => {
		expect(formatAmount(amount(128_450, 'EUR'), 'en-GB')).toBe('1,284.50 EUR');
		expect(formatAmount(amount(12_800, 'JPY'), 'en-GB')).toBe('12,800 JPY');
		expect(formatAmount(amount(128_450, 'EUR'), 'nl-BE')).toBe('1.284,50 EUR');
		expect(formatAmount(amount(LARGEST_MINOR, 'EUR'), 'en-GB')).toBe('10,000,000,000.00 EUR');
	});
	it.each([
		['84.50', 'EUR', 8450],
		['84,50', 'EUR', 8450],
		['1.284,50', 'EUR', 128_450],
		['1,284.50', 'EUR', 128_450],
		['1 284.50', 'EUR', 128_450],
		['84.5', 'EUR', 8450],
		['84', 'EUR', 8400],
		['12,800', 'JPY', 12_800],
		['1.234', 'KWD', 1234]
	])('reads %s %s as typed', (typed, currency, minor) => {
		expect(readTypedAmount(typed, currency).amount.minor).toBe(minor);
	});
	it('says how it read what could be meant otherwise', () => {
		expect(readTypedAmount('1.284,50', 'EUR').readAs).toBe('Read as 1284.50 EUR.');
		expect(readTypedAmount('84.50', 'EUR').readAs).toBeUndefined();
	});
	it.each(['1.284', '1,284', '84.505', '-5', '0', '', 'eighty', '1e3', '1,2,3', '12.34.56', '99999999999999'])(
		'refuses %s EUR with a reason',
		(typed) => {
			expect(() => readTypedAmount(typed, 'EUR')).toThrow(AmountError);
		}
	);
	it.each([
		['84.5', 'EUR', /2 decimals/],
		['12800.00', 'JPY', /no decimals/],
		['-1.00', 'EUR', /negative/],
		['0.00', 'EUR', /zero/],
		['eighty', 'EUR', /not a number/],
		['1e5', 'EUR', /not a number/],
		['10000000000.01', 'EUR', /too large/],
		['99999999999999999999.00', 'EUR', /too large/],
		['5.00', 'XXQ', /not a currency/]
	])('refuses %s %s in an address', (text, currency, says) => {
		expect(() => readPlainAmount(text, currency)).toThrow(says);
	});
	it('reads back what it wrote', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 1, max: LARGEST_MINOR }),
				fc.constantFrom('JPY', 'EUR', 'KWD'),
				(minor, currency) => {
					const value = { minor, currency };
					return (
						readPlainAmount(plainAmount(value), currency).minor === minor &&
						readTypedAmount(plainAmount(value), currency).amount.minor === minor
					);
				}
			),
			{ seed }
		);
	});
});

it('holds fractions exactly', () => {
	const third = fraction(1, 3);
	expect(compare(third, fraction(333_333, 1_000_000))).toBeGreaterThan(0);
	expect(round(fraction(-7, 2), 'half-up')).toBe(-4n);
});

describe('sums as a locale writes them', () => {
	it.each([
		['84,50', 'EUR', 'nl-BE', 8450],
		['84.50', 'EUR', 'nl-BE', 8450],
		['1.284', 'EUR', 'nl-BE', 128_400],
		['1.284', 'KWD', 'nl-BE', 1_284_000],
		['1.284', 'KWD', 'en-GB', 1_284],
		['1,284', 'EUR', 'en-GB', 128_400],
		['1.284', 'KWD', 'fr-FR', 1_284],
		['1\u202f284,50', 'EUR', 'fr-FR', 128_450],
		['1’284.50', 'CHF', 'de-CH', 128_450],
		["1'284,50", 'CHF', 'de-CH', 128_450],
		['1 284 567.89', 'EUR', 'en-GB', 128_456_789],
		['6.', 'EUR', 'en-GB', 600],
		['12,800', 'JPY', 'en-GB', 12_800]
	])('reads %s %s in %s', (typed, currency, locale, minor) => {
		expect(readTypedAmount(typed, currency, { locale }).amount.minor).toBe(minor);
	});
	it('says how it read what could be meant otherwise, and refuses what is neither with both readings', () => {
		expect(readTypedAmount('1.284', 'KWD', { locale: 'nl-BE' }).readAs).toBe('Read as 1.284,000 KWD.');
		expect(readTypedAmount('84,50', 'EUR', { locale: 'nl-BE' }).readAs).toBeUndefined();
		expect(() => readTypedAmount('1.284', 'EUR', { locale: 'en-GB' })).toThrow(/two ways: as 1284, or as 1 and a part/);
		expect(() => readTypedAmount("1'284,567.5", 'EUR', { locale: 'en-GB' })).toThrow(AmountError);
	});
	it('reads back what it shows, in any locale', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 1, max: LARGEST_MINOR }),
				fc.constantFrom('JPY', 'EUR', 'KWD', 'CLF'),
				fc.constantFrom('en-GB', 'nl-BE', 'fr-FR', 'de-CH', 'en-US', 'sv-SE', 'pl-PL', 'it-CH', 'es-ES'),
				(minor, currency, locale) =>
					readTypedAmount(formatNumber({ minor, currency }, locale), currency, { locale }).amount.minor === minor
			),
			{ seed, numRuns: 2_000 }
		);
	});
	it('knows every active currency with its exponent', () => {
		expect(CURRENCIES.length).toBeGreaterThan(150);
		expect(new Set(CURRENCIES).size).toBe(CURRENCIES.length);
		expect(['JPY', 'EUR', 'KWD', 'CLF', 'XOF', 'MGA', 'TND'].map(exponentOf)).toEqual([0, 2, 3, 4, 0, 2, 3]);
	});
});
