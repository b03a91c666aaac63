import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	checkAsk,
	ASK_FIELDS,
	isPlainText,
	MORE_FIELDS,
	orderQuery,
	readAddress,
	readOrderQuery,
	signAddress,
	valuesOf,
	type Ask,
	type AskValues
} from './address';
import { RECEIPT, receiptLines } from './receipt';

describe('a message on a printed receipt', () => {
	it('is broken between words, and within one that is longer than a line', () => {
		expect(receiptLines('Thank you for your visit, and come again soon', 12)).toEqual([
			'Thank you',
			'for your',
			'visit, and',
			'come again',
			'soon'
		]);
		expect(receiptLines('abcdefghijkl', 5)).toEqual(['abcde', 'fghij', 'kl']);
		expect(receiptLines('to abcdefgh', 5)).toEqual(['to', 'abcde', 'fgh']);
	});
	it('keeps the lines that somebody made, also empty ones, and is nothing where nothing is said', () => {
		expect(receiptLines('One\n\nTwo\r\nThree')).toEqual(['One', '', 'Two', 'Three']);
		expect(receiptLines('  \n ')).toEqual([]);
		expect(receiptLines('')).toEqual([]);
	});
	it('never makes a line longer than the paper, and loses no letter', () => {
		fc.assert(
			fc.property(fc.string({ maxLength: 200 }), fc.integer({ min: 1, max: 40 }), (text, columns) => {
				const lines = receiptLines(text, columns);
				return (
					lines.every((line) => line.length <= columns) && lines.join('').replace(/\s/g, '') === text.replace(/\s/g, '')
				);
			}),
			{ seed: 20417 }
		);
		expect(RECEIPT.columns).toBeGreaterThan(20);
	});
});

const KEY = new Uint8Array(32).fill(7);
const OLD = new Uint8Array(32).fill(8);
const ASK: Ask = {
	till: 'web-shop',
	amount: { minor: 8_450, currency: 'EUR' },
	reference: 'WA-20417',
	name: 'Ana Müller',
	mail: 'ana@payer.example',
	country: 'BE',
	purpose: 'Strings'
};
const values = (change: Partial<AskValues> = {}): AskValues => ({ ...valuesOf(ASK), ...change });

describe('an order’s address that tells nothing of the payer', () => {
	it('is read with the key that signed it, also an older one, and with no other', () => {
		const query = orderQuery('web-shop', 4_711, KEY);
		expect(query).toMatch(/^order=4711\.[\w-]{43}$/);
		expect(query).not.toContain('Ana');
		expect(readOrderQuery('web-shop', query, [KEY])).toBe(4_711);
		expect(readOrderQuery('web-shop', query, [OLD, KEY])).toBe(4_711);
		expect(readOrderQuery('web-shop', query, [OLD])).toBe(undefined);
		expect(readOrderQuery('web-shop', query, [])).toBe(undefined);
	});
	it('names no other order, no other till, and is not read where it was cut', () => {
		const query = orderQuery('web-shop', 4_711, KEY);
		const wrong = [
			query.replace('4711', '4712'),
			query.replace('4711', '04711'),
			query.slice(0, -1),
			query.replace('order=', 'other='),
			'',
			'order=.abc',
			`order=${'9'.repeat(16)}.${'a'.repeat(43)}`
		];
		for (const one of wrong) expect([one, readOrderQuery('web-shop', one, [KEY])]).toEqual([one, undefined]);
		expect(readOrderQuery('counter', query, [KEY])).toBe(undefined);
	});
	it('stands among other fields of a query', () => {
		const query = orderQuery('web-shop', 7, KEY);
		expect(readOrderQuery('web-shop', `lang=nl&${query}&x=1`, [KEY])).toBe(7);
		// part of another field's name or text is none
		expect(readOrderQuery('web-shop', `re${query}`, [KEY])).toBe(undefined);
	});
});

describe('what an address may ask', () => {
	const wrongFields = (change: Partial<AskValues>) =>
		checkAsk('web-shop', values(change)).problems.map((one) => one.field);
	it('is right as it stands, with what only some orders have', () => {
		expect(checkAsk('web-shop', values()).ask).toEqual(ASK);
		expect(
			checkAsk(
				'web-shop',
				values({
					goods: 'strings',
					delivery: 'collected',
					domain: 'shop.example',
					recurring: 'yes',
					ordered: 'interface'
				})
			).ask
		).toEqual({
			...ASK,
			goods: 'strings',
			delivery: 'collected',
			domain: 'shop.example',
			recurring: true,
			ordered: 'interface'
		});
	});
	it('has bounds for every field, counted in letters and not in bytes', () => {
		const limits: Partial<Record<(typeof ASK_FIELDS)[number], number>> = { reference: 40, name: 100, purpose: 120 };
		for (const [field, most] of Object.entries(limits)) {
			expect([field, wrongFields({ [field]: '百'.repeat(most) })]).toEqual([field, []]);
			expect([field, wrongFields({ [field]: '百'.repeat(most + 1) })]).toEqual([field, [field]]);
			// two halves of one sign are one
			expect([field, wrongFields({ [field]: '𝄞'.repeat(most) })]).toEqual([field, []]);
		}
		for (const field of MORE_FIELDS.filter((one) => !['recurring', 'ordered'].includes(one)))
			expect([field, wrongFields({ [field]: 'x'.repeat(121) })]).toEqual([field, [field]]);
	});
	it('holds no card number, no control character and no half of a sign', () => {
		expect(wrongFields({ purpose: 'card 9901 2000 0000 0007' })).toEqual(['purpose']);
		expect(wrongFields({ name: 'Ana\tMüller' })).toEqual(['name']);
		expect(wrongFields({ purpose: '\ud800' })).toEqual(['purpose']);
		expect(wrongFields({ goods: 'a\u0000b' })).toEqual(['goods']);
		expect([isPlainText('Zoë 百 🎻'), isPlainText('a\nb'), isPlainText('\udc00')]).toEqual([true, false, false]);
	});
	it('has an amount of its currency, and says what is wrong with another', () => {
		for (const [amount, currency] of [
			['0', 'EUR'],
			['1.234', 'EUR'],
			['1,00', 'EUR'],
			['12.5', 'JPY'],
			['', 'EUR'],
			['1e3', 'EUR']
		] as const)
			expect([amount, currency, wrongFields({ amount, currency })]).toEqual([amount, currency, ['amount']]);
		expect(wrongFields({ currency: 'EUX' })).toEqual(['currency']);
		expect(wrongFields({ amount: '1250', currency: 'JPY' })).toEqual([]);
	});
	it('is recurring or made by a program only in those words', () => {
		expect(wrongFields({ recurring: 'no' })).toEqual(['recurring']);
		expect(wrongFields({ ordered: 'page' })).toEqual(['ordered']);
		expect(wrongFields({ recurring: '', ordered: '' })).toEqual([]);
	});
	it('is signed with what only some orders have, so that none of it can be added or taken away', () => {
		const query = (own: AskValues, sign: string) =>
			`${Object.entries(own)
				.filter(([, value]) => value)
				.map(([name, value]) => `${name}=${encodeURIComponent(value!)}`)
				.join('&')}&sign=${sign}`;
		const plain = signAddress('web-shop', values(), KEY);
		expect(readAddress('web-shop', query(values(), plain), [KEY])).toHaveProperty('ask');
		expect(readAddress('web-shop', query(values({ recurring: 'yes' }), plain), [KEY])).toHaveProperty('problems');
		const full = values({ recurring: 'yes', goods: 'strings' });
		const signed = signAddress('web-shop', full, KEY);
		expect(readAddress('web-shop', query(full, signed), [KEY])).toHaveProperty('ask');
		expect(readAddress('web-shop', query({ ...full, goods: '' }, signed), [KEY])).toHaveProperty('problems');
		// an address that says nothing of it is signed as before it could
		expect(signAddress('web-shop', values({ goods: '', delivery: undefined }), KEY)).toBe(plain);
	});
});
