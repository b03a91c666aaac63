import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	fieldProblems,
	ItemForm,
	linkProblems,
	LinkSettings,
	prefilledQuery,
	prefilledText,
	priceOrder,
	readPrefilled,
	readSum,
	withTax
} from '.';

const link = (more: object = {}) => LinkSettings.parse({ title: 'A gift', currency: 'EUR', fixed: 2_500, ...more });
const item = (more: object = {}) =>
	ItemForm.parse({
		code: 'STR',
		name: 'Strings',
		category: 'standard',
		rate: 210_000,
		prices: [{ currency: 'EUR', price: '40.00' }],
		...more
	});
const things = new Map([
	['a', item()],
	[
		'b',
		item({
			code: 'BOOK',
			name: 'Book',
			category: 'reduced',
			rate: 60_000,
			prices: [{ currency: 'EUR', price: '10.00' }]
		})
	],
	['n', item({ code: 'NET', name: 'Net', pricing: 'without tax', prices: [{ currency: 'EUR', price: '10.00' }] })],
	['g', item({ code: 'GBP', name: 'Pounds only', prices: [{ currency: 'GBP', price: '9.00' }] })]
]);
const goods = (...ids: string[]) => link({ asksFor: 'goods', goods: ids.map((one) => ({ item: one, most: 5 })) });
const order = (settings: LinkSettings, quantities: Record<string, number>, minor?: number) => {
	const priced = priceOrder(settings, { quantities, minor, fields: {} }, things);
	return 'problem' in priced ? priced.problem : priced.sums.total;
};

describe('what an order by a link comes to', () => {
	it('is the fixed sum, whatever the payer says', () => {
		expect(order(link(), {})).toBe(2_500);
		expect(order(link(), { a: 9 }, 1)).toBe(2_500);
	});
	it('is the sum that the payer names, within its bounds', () => {
		const free = link({ asksFor: 'free sum', free: { least: 500, most: 10_000, suggested: [] } });
		expect([undefined, 499, 500, 10_000, 10_001].map((minor) => order(free, {}, minor))).toEqual([
			'no sum',
			'sum too small',
			500,
			10_000,
			'sum too large'
		]);
	});
	it('is that of goods, with the tax of each; those without a price in the currency are left out', () => {
		expect(order(goods('a', 'b'), { a: 2, b: 1 })).toBe(9_000);
		expect(order(goods('a', 'g'), { g: 1 })).toBe('nothing chosen');
		expect(order(goods('a'), { a: 6 })).toBe('too many');
		expect(order(goods('a'), { a: 1.5 })).toBe('too many');
		// a price without tax is asked with the tax of one piece
		expect(order(goods('n'), { n: 3 })).toBe(3_630);
		expect(withTax('12.35', 210_000, 'EUR')).toBe('14.94');
	});
	it('has what is always part of it, and one kind only where that is asked', () => {
		const fixed = link({ asksFor: 'goods', goods: [{ item: 'a', most: 1, fixed: true }] });
		expect(order(fixed, {})).toBe(4_000);
		const one = LinkSettings.parse({ ...goods('a', 'b'), several: false });
		expect(order(one, { a: 1, b: 1 })).toBe('one kind only');
		expect(order(one, { b: 2 })).toBe(2_000);
	});
	it('never goes below nothing by a discount', () => {
		const priced = priceOrder(goods('a'), { quantities: { a: 1 }, fields: {} }, things, {
			name: 'All',
			off: { kind: 'sum', minor: 99_999 }
		});
		expect('sums' in priced && priced.sums.total).toBe(0);
	});
});

describe('the settings of a link', () => {
	it('say what stands in the way of saving them, by the field', () => {
		expect(linkProblems(link())).toEqual({});
		expect(Object.keys(linkProblems(link({ fixed: 0 })))).toEqual(['fixed']);
		expect(Object.keys(linkProblems(link({ asksFor: 'goods' })))).toEqual(['goods']);
		expect(linkProblems(link({ asksFor: 'free sum', free: { least: 10, most: 5, suggested: [] } })).free).toMatch(
			/below/
		);
		expect(linkProblems(link({ asksFor: 'free sum', free: { least: 10, most: 0, suggested: [5] } })).free).toMatch(
			/outside/
		);
		expect(Object.keys(linkProblems(link({ landing: 'address', button: 'own' })))).toEqual([
			'landingAddress',
			'ownButton'
		]);
		const field = { id: 'f', label: 'Size', kind: 'choice', choices: ['one'] };
		expect(Object.keys(linkProblems(link({ fields: [field, field] })))).toEqual(['field-0', 'field-1', 'fields']);
	});
	it('of fields of their own are held to what they ask', () => {
		const { fields } = link({
			fields: [
				{ id: 't', label: 'Text', kind: 'text', must: true },
				{ id: 'n', label: 'Number', kind: 'number' },
				{ id: 'd', label: 'Day', kind: 'date' },
				{ id: 'c', label: 'Choice', kind: 'choice', choices: ['x', 'y'] }
			]
		});
		expect(fieldProblems(fields, { t: ' ', n: 'many', d: '2027-02-31x', c: 'z' })).toEqual({
			t: 'missing',
			n: 'no number',
			d: 'no date',
			c: 'no choice'
		});
		expect(fieldProblems(fields, { t: 'ok', n: '1,5', d: '2027-02-28', c: 'x' })).toEqual({});
		expect(fieldProblems(fields, { t: 'ok' })).toEqual({});
	});
});

describe('fields that an address fills in', () => {
	const sign = (text: string) => `S${[...text].reduce((sum, one) => (sum * 31 + one.codePointAt(0)!) % 1_000_003, 7)}`;
	const isRight = (text: string, given: string) => sign(text) === given;
	const read = (query: string, loose = false) => readPrefilled('gift', query, isRight, loose);
	it('come out as they went in, whatever they say', () => {
		const text = fc
			.string({ unit: 'grapheme', minLength: 1, maxLength: 30 })
			.filter((one) => !/\p{Cc}|\ufffd/u.test(one) && one.isWellFormed());
		fc.assert(
			fc.property(text, text, text, (name, mail, reference) => {
				const values = { name, mail, reference };
				const query = prefilledQuery('gift', values, sign);
				expect(query).toMatch(/^[A-Za-z0-9\-._~%&=]+$/);
				expect(read(query)).toEqual({ values, isSigned: true });
			}),
			{ numRuns: 400, seed: 7 }
		);
	});
	it('are refused where they were altered, told twice, damaged, or encoded twice', () => {
		const query = prefilledQuery('gift', { name: 'Ana+1', mail: 'a@b.example' }, sign);
		expect(query).toContain('name=Ana%2B1');
		expect(read(query.replace('Ana', 'Eve'))).toEqual({ problem: 'altered' });
		expect(read(query.replace('%2B', '+'))).toEqual({ problem: 'altered' });
		expect(read(query.replace('%40', '%2540'))).toEqual({ problem: 'altered' });
		expect(read(`${query}&name=Eve`)).toEqual({ problem: 'twice' });
		expect(read('name=%E0%A4')).toEqual({ problem: 'damaged' });
		expect(read('name=a%00b')).toEqual({ problem: 'damaged' });
		// a link of another name has another signature
		expect(readPrefilled('other', query, isRight, false)).toEqual({ problem: 'altered' });
	});
	it('come unsigned only where the payer names the sum anyway; others are passed over', () => {
		expect(read('sum=12.00', true)).toEqual({ values: { sum: '12.00' }, isSigned: false });
		expect(read('sum=12.00')).toEqual({ problem: 'altered' });
		expect(read('utm_source=mail&lang=nl')).toEqual({ values: {}, isSigned: false });
	});
	it('are signed each with its length, so that no two sets say the same', () => {
		expect(prefilledText('gift', { name: 'a\nmail:1:b' })).not.toBe(prefilledText('gift', { name: 'a', mail: 'b' }));
	});
	it('tell a sum as the currency has it', () => {
		expect(['12.50', '12.5', '-1', '0', 'x'].map((one) => readSum(one, 'EUR'))).toEqual([
			1_250,
			undefined,
			undefined,
			undefined,
			undefined
		]);
		expect(readSum('1200', 'JPY')).toBe(1_200);
	});
});
