import { EN16931UBLValidator } from '@fin.cx/einvoice/dist_ts/formats/ubl/en16931.ubl.validator.js';
import { invoiceSchema } from '@e-invoice-eu/core';
import Ajv from 'ajv/dist/2019.js';
import addFormats from 'ajv-formats';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { convert } from 'xmlbuilder2';
import { BillContent, inputOf, sumBill } from '.';
import { ublProblems, writeUbl, type UblAsked } from './ubl';
import { plainAmount } from '../money';

// What is written is held against two validators that are not ours: the rules of EN 16931, and a schema of the document.

const seller = {
	name: 'Wren & Alder Strings',
	legalName: 'Wren & Alder Strings BV',
	taxNumber: 'BE 0123.456.749',
	street: 'Bowstraat 12',
	postcode: '9000',
	city: 'Gent',
	country: 'BE',
	mail: 'hello@wrenalder.example',
	phone: '+32 9 555 01 70'
};
const billTo = {
	name: 'Sœur Marie',
	company: 'Collège Sainte-Cécile',
	street: 'Rue Haute 3',
	postcode: '1000',
	city: 'Bruxelles',
	country: 'BE',
	mail: 'compta@cecile-school.example',
	taxNumber: 'BE0987654394'
};
const asked = (content: object, more: Partial<UblAsked> = {}): UblAsked => {
	const whole = BillContent.parse({ billTo, ...content });
	const currency = more.currency ?? 'EUR';
	return {
		kind: 'invoice',
		number: 'INV-2026-0042',
		day: '2026-11-03',
		dueDay: '2026-12-03',
		currency,
		content: whole,
		sums: sumBill(inputOf(whole, currency)),
		seller,
		outsideReference: 'SHOP-991',
		transfer: { iban: 'BE68 5390 0754 7034', bic: '', holder: 'Wren & Alder Strings', reference: 'RF18539007547034' },
		terms: 'Paid within 30 days.',
		...more
	};
};
const line = (text: string, quantity: string, price: string, category = 'standard', rate = 210_000, more = {}) => ({
	text,
	quantity,
	price,
	category,
	rate,
	unit: '',
	...more
});
/** What the rules of EN 16931 say is wrong. */
const ruleErrors = (xml: string): string[] => {
	const validator = new EN16931UBLValidator(xml);
	const { errors } = validator.validate('business' as never);
	return errors.map((one: { code: string; message: string }) => `${one.code} ${one.message}`);
};

type Schema = { type?: string; properties?: Record<string, Schema>; items?: Schema; $ref?: string };
const root = invoiceSchema as unknown as Schema & { $defs?: Record<string, Schema> };
/** The document as the schema of another house has it: attributes beside their elements, lists where it has lists. */
function asSchemaHasIt(node: unknown, schema: Schema | undefined): unknown {
	const of = schema?.$ref ? root.$defs?.[schema.$ref.split('/').at(-1)!] : schema;
	if (of?.type === 'array') return [node].flat().map((one) => asSchemaHasIt(one, of.items));
	if (typeof node !== 'object' || node === null) return node;
	const made: Record<string, unknown> = {};
	for (const [name, value] of Object.entries(node as Record<string, unknown>)) {
		if (name.startsWith('@xmlns')) continue;
		if (value && typeof value === 'object' && !Array.isArray(value) && '#' in value) {
			for (const [key, text] of Object.entries(value)) made[key === '#' ? name : `${name}${key}`] = text;
		} else made[name] = asSchemaHasIt(value, of?.properties?.[name]);
	}
	return made;
}
const ajv = new Ajv({ strict: false, allErrors: true });
addFormats(ajv);
const fits = ajv.compile(invoiceSchema as object);
function schemaErrors(xml: string): string[] {
	const { Invoice } = convert(xml, { format: 'object' }) as { Invoice: unknown };
	const document = { 'ubl:Invoice': asSchemaHasIt(Invoice, root.properties?.['ubl:Invoice']) };
	return fits(document) ? [] : (fits.errors ?? []).map((one) => `${one.instancePath} ${one.message}`);
}

describe('an invoice as UBL', () => {
	it('passes both validators, without tax, with discounts and three tax groups', () => {
		const xml = writeUbl(
			asked({
				pricing: 'without tax',
				reason: 'Music lessons, article 44 § 2',
				lines: [
					line('Double bass, setup', '1', '385.00', 'standard', 210_000, {
						discount: { kind: 'percentage', ppm: 50_000 }
					}),
					line('Rosin', '3', '12.35', 'reduced', 60_000),
					line('Lesson', '1.75', '64.00', 'exempt', 0, { unit: 'hour' })
				],
				discounts: [{ name: 'School discount', off: { kind: 'percentage', ppm: 43_500 } }],
				noteTop: 'With thanks'
			})
		);
		expect(ruleErrors(xml)).toEqual([]);
		expect(schemaErrors(xml)).toEqual([]);
		expect(xml).toContain('<cbc:PaymentID>RF18539007547034</cbc:PaymentID>');
	});
	it('passes with the tax in the prices, a reverse charge, and one outside the scope', () => {
		for (const content of [
			{ pricing: 'with tax', lines: [line('Strings', '3', '14.95'), line('Book', '2', '5.29', 'reduced', 60_000)] },
			{ pricing: 'without tax', reason: 'Reverse charge', lines: [line('Bows', '2', '400.00', 'reverse charge', 0)] },
			{ pricing: 'without tax', reason: 'Gift', lines: [line('Gift', '1', '25.00', 'outside scope', 0)] }
		]) {
			const xml = writeUbl(asked(content));
			expect([ruleErrors(xml), schemaErrors(xml)]).toEqual([[], []]);
		}
	});
	it('is a credit note that names what it corrects', () => {
		const xml = writeUbl(
			asked(
				{ lines: [line('Strings', '1', '14.95')] },
				{ kind: 'credit note', number: 'CN-2026-0001', corrects: { number: 'INV-2026-0042', day: '2026-11-03' } }
			)
		);
		expect(ruleErrors(xml)).toEqual([]);
		expect(xml).toMatch(/<CreditNote [^]*<cbc:CreditNoteTypeCode>381[^]*BillingReference[^]*INV-2026-0042/);
	});
	it('says what is missing before it is written', () => {
		const { content } = asked({ billTo: {}, lines: [line('Bow', '1', '10.00', 'reverse charge', 0)] });
		expect(ublProblems({ seller: { ...seller, taxNumber: '' }, content })).toHaveLength(4);
	});
	it('adds up for whoever reads it, whatever is on it', () => {
		const money = fc.integer({ min: 1, max: 200_000 }).map((minor) => plainAmount({ minor, currency: 'EUR' }));
		const taxes = fc.constantFrom(
			['standard', 210_000] as const,
			['reduced', 60_000] as const,
			['reduced', 120_000] as const,
			['zero', 0] as const
		);
		const anyLine = fc.tuple(money, taxes, fc.integer({ min: 1, max: 40 }), fc.integer({ min: 0, max: 900_000 }));
		fc.assert(
			fc.property(
				fc.array(anyLine, { minLength: 1, maxLength: 6 }),
				fc.boolean(),
				fc.integer({ min: 0, max: 300_000 }),
				(lines, withTax, off) => {
					const xml = writeUbl(
						asked({
							pricing: withTax ? 'with tax' : 'without tax',
							lines: lines.map(([price, [category, rate], quantity, ppm]) =>
								line('Thing', String(quantity), price, category, rate, { discount: { kind: 'percentage', ppm } })
							),
							discounts: off ? [{ name: 'Off', off: { kind: 'percentage', ppm: off } }] : []
						})
					);
					expect(ruleErrors(xml)).toEqual([]);
					const of = (name: string) =>
						[...xml.matchAll(new RegExp(`<cbc:${name} [^>]*>(-?[\\d.]+)<`, 'g'))].map((match) =>
							Math.round(Number(match[1]) * 100)
						);
					const [inLines, ...each] = of('LineExtensionAmount');
					expect(each.reduce((all, one) => all + one, 0)).toBe(inLines);
					const [taxAll, ...taxes] = of('TaxAmount');
					expect(taxes.reduce((all, one) => all + one, 0)).toBe(taxAll);
					expect(of('TaxableAmount').reduce((all, one) => all + one, 0)).toBe(of('TaxExclusiveAmount')[0]);
					expect(of('TaxExclusiveAmount')[0]! + taxAll!).toBe(of('PayableAmount')[0]);
				}
			),
			{ numRuns: 120, seed: 42 }
		);
	});
});
