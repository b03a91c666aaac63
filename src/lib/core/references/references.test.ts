import fc from 'fast-check';
import jsQR from 'jsqr';
import { PNG } from 'pngjs';
import QRCode from 'qrcode';
import { describe, expect, it } from 'vitest';
import {
	addressQuery,
	checkAsk,
	creditorReference,
	descriptorProblems,
	inFours,
	isCreditorReference,
	referenceIn,
	readAddress,
	readIban,
	referencePart,
	suggestDescriptor,
	transferCode,
	TransferError,
	type Ask
} from '.';

describe('creditor reference', () => {
	it('carries the examples', () => {
		expect(creditorReference('WAS202600417')).toBe('RF02WAS202600417');
		expect(creditorReference('539007547034')).toBe('RF18539007547034');
		expect(inFours('RF18539007547034')).toBe('RF18 5390 0754 7034');
	});
	it('checks what it made, and notices any one wrong sign', () => {
		fc.assert(
			fc.property(fc.stringMatching(/^[A-Z0-9]{1,21}$/), fc.nat(), (part, at) => {
				const made = creditorReference(part);
				const i = 4 + (at % part.length);
				const other = made[i] === '7' ? '8' : '7';
				return isCreditorReference(made) && !isCreditorReference(made.slice(0, i) + other + made.slice(i + 1));
			}),
			{ seed: 20417 }
		);
	});
	it('takes what it can of a shop’s own reference', () => {
		expect(referencePart('Wa-20417 / é')).toBe('WA20417E');
		expect(() => creditorReference('')).toThrow(RangeError);
	});
});

describe('IBAN', () => {
	it('takes one with and without spaces', () => {
		expect(readIban('be68 5390 0754 7034')).toEqual({ iban: 'BE68539007547034' });
	});
	it.each([
		['', /Give the IBAN/],
		['BE68 5390 0754 703', /length/],
		['BE69 5390 0754 7034', /check digits/],
		['BE68 3590 0754 7034', /check digits/],
		['XX68 5390 0754 7034', /not a country/],
		['BE68 5390 0754 70A4', /Letters and digits/],
		['hello', /not a country/]
	])('tells what is wrong with %s', (typed, says) => {
		const read = readIban(typed);
		expect('problem' in read && read.problem).toMatch(says);
	});
});

describe('transfer QR', () => {
	const transfer = {
		holder: 'Wren & Alder Strings',
		iban: 'BE68 5390 0754 7034',
		amount: { minor: 8450, currency: 'EUR' },
		reference: 'RF18539007547034'
	};
	it('is read again by another library', async () => {
		const png = PNG.sync.read(
			await QRCode.toBuffer(transferCode({ ...transfer, holder: 'Geigenbau Müller' }), {
				errorCorrectionLevel: 'M',
				scale: 4
			})
		);
		const read = jsQR(new Uint8ClampedArray(png.data), png.width, png.height)!;
		expect(Buffer.from(read.binaryData).toString('utf8').split('\n')).toEqual([
			'BCD',
			'002',
			'1',
			'SCT',
			'',
			'Geigenbau Müller',
			'BE68539007547034',
			'EUR84.50',
			'',
			'RF18539007547034'
		]);
	});
	it('has a reference or a text, never both', () => {
		expect(
			transferCode({ ...transfer, reference: undefined, text: 'Order 7' })
				.split('\n')
				.slice(8)
		).toEqual(['', '', 'Order 7']);
		expect(() => transferCode({ ...transfer, text: 'Order 7' })).toThrow(TransferError);
	});
	it.each([
		[{ amount: { minor: 100, currency: 'GBP' } }, /EUR only/],
		[{ amount: { minor: 0, currency: 'EUR' } }, /0.01/],
		[{ amount: { minor: 100_000_000_000, currency: 'EUR' } }, /999999999.99/],
		[{ holder: '' }, /holder/],
		[{ reference: undefined, text: 'é'.repeat(140), holder: 'é'.repeat(40) }, /331 bytes/]
	])('refuses what it cannot carry', (change, says) => {
		expect(() => transferCode({ ...transfer, ...change })).toThrow(says);
	});
});

describe('statement descriptor', () => {
	const limits = { min: 5, max: 22, forbidden: '<>"\'*\\' };
	it('takes letters, digits and plain punctuation within the limits', () => {
		expect(descriptorProblems('WREN ALDER STRINGS', limits)).toEqual([]);
		expect(descriptorProblems('Wren', limits)).toHaveLength(1);
		expect(descriptorProblems('12345678', limits).join()).toMatch(/letter/);
		expect(descriptorProblems('WREN*ALDER', limits).join()).toMatch(/“\*”/);
		expect(descriptorProblems('Geigenbau Müller', limits).join()).toMatch(/“ü”/);
		expect(descriptorProblems('X'.repeat(23), limits).join()).toMatch(/at most 22/);
	});
	it('suggests one that may be used', () => {
		const made = suggestDescriptor('Wren & Alder Strings', limits);
		expect(made).toBe('WREN ALDER STRINGS');
		expect(descriptorProblems(made, limits)).toEqual([]);
	});
});

describe('signed addresses', () => {
	const key = new Uint8Array(32).fill(7);
	const ask: Ask = {
		till: 'web-shop',
		amount: { minor: 8450, currency: 'EUR' },
		reference: 'WA-20417',
		name: 'Ana & Zoë Müller 百',
		mail: 'ana+strings@payer.example',
		country: 'BE',
		purpose: '100% viola = strings?'
	};
	it('carries every text back as it was', () => {
		fc.assert(
			fc.property(
				fc.stringMatching(/^[^\p{C}]{0,60}$/u),
				fc.stringMatching(/^\S[^\p{C}]{0,30}\S$/u),
				(name, reference) => {
					const made = { ...ask, name, reference: reference.trim() };
					const read = readAddress('web-shop', addressQuery(made, key), [key]);
					return 'ask' in read && JSON.stringify(read.ask) === JSON.stringify(made);
				}
			),
			{ seed: 20417 }
		);
	});
	it('refuses any change, another till, another key, no signature', () => {
		const query = addressQuery(ask, key);
		for (const altered of [
			query.replace('84.50', '8.45'),
			query.replace('EUR', 'JPY'),
			query.replace('&country=BE', ''),
			query.slice(0, -1)
		])
			expect(readAddress('web-shop', altered, [key])).toHaveProperty('problems');
		expect(readAddress('counter', query, [key])).toHaveProperty('problems');
		expect(readAddress('web-shop', query, [new Uint8Array(32)])).toHaveProperty('problems');
		expect(readAddress('web-shop', 'amount=84.50&currency=EUR', [key])).toMatchObject({
			problems: [{ field: 'sign' }]
		});
	});
	it('cannot pass one field’s text for two fields', () => {
		const one = addressQuery({ ...ask, name: 'Ann', purpose: 'x' }, key);
		const sign = one.split('sign=')[1];
		const two = addressQuery({ ...ask, name: 'Annmail:1:x', purpose: '' }, key).replace(/sign=.*/, `sign=${sign}`);
		expect(readAddress('web-shop', two, [key])).toHaveProperty('problems');
	});
	it.each(['amount=%ZZ&sign=x', 'amount=%C3%28&sign=x', 'amount=1.00&amount=2.00&sign=x'])(
		'refuses the damaged query %s',
		(query) => {
			expect(readAddress('web-shop', query, [key])).toMatchObject({ problems: [{ field: 'address' }] });
		}
	);
	it('names every field that is wrong', () => {
		const { problems } = checkAsk('web-shop', {
			amount: '-5',
			currency: 'EUR',
			reference: ' ',
			name: 'a\nb',
			mail: 'nobody',
			country: 'be',
			purpose: ''
		});
		expect(problems.map((one) => one.field)).toEqual(['name', 'amount', 'reference', 'mail', 'country']);
	});
});

it('takes no creditor reference whose check digits no standard gives', () => {
	for (const reference of ['RF99D3', 'RF00D3', 'RF01D3'])
		expect([reference, isCreditorReference(reference)]).toEqual([reference, false]);
	expect(isCreditorReference('RF18539007547034')).toBe(true);
});

describe('a creditor reference in what a payer wrote', () => {
	it('is found with or without spaces, whatever stands around it, and only where it is right', () => {
		expect(referenceIn('invoice rf18 5390 0754 7034, thank you')).toBe('RF18539007547034');
		expect(referenceIn('RF18539007547034')).toBe('RF18539007547034');
		expect(referenceIn('RF19 5390 0754 7034 and RF18 5390 0754 7034')).toBe('RF18539007547034');
		expect(referenceIn('RF18 5390 0754 7034 2026 october')).toBe('RF18539007547034');
		expect(referenceIn('xRF18539007547034/2')).toBe('RF18539007547034');
		for (const none of ['', 'RF', 'RF19539007547034', 'thank you for the lovely sound'])
			expect(referenceIn(none)).toBe('');
	});
});
