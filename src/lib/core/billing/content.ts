import { z } from 'zod';
import { isCurrency } from '../money';
import { TAX_CATEGORIES } from './sums';

// What an invoice or a quote says, as it is kept and as the interface carries it. Sums are minor units, rates parts per
// million, quantities and prices decimal texts with a point.

const line = (most: number) => z.string().trim().max(most, `At most ${most} characters.`).default('');
const DECIMAL = /^\d{1,12}(\.\d{1,8})?$/;
const Day = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'A day as 2026-11-29.');

export const MOST_LINES = 500;

export const OffForm = z.discriminatedUnion('kind', [
	z.object({ kind: z.literal('percentage'), ppm: z.number().int().min(0).max(1_000_000, 'At most 100 %.') }),
	z.object({ kind: z.literal('sum'), minor: z.number().int().min(0).max(1_000_000_000_000) })
]);
export const LineForm = z.object({
	text: z.string().trim().min(1, 'Say what it is.').max(300, 'At most 300 characters.'),
	quantity: z.string().trim().regex(DECIMAL, 'A quantity, such as 1 or 1.75.').default('1'),
	unit: line(20),
	price: z.string().trim().regex(DECIMAL, 'A price, such as 12.35.'),
	discount: OffForm.optional(),
	category: z.enum(TAX_CATEGORIES).default('standard'),
	rate: z.number().int().min(0).max(1_000_000, 'At most 100 %.').default(0),
	item: z.string().max(40).optional()
});
export type LineForm = z.infer<typeof LineForm>;

export const DuePlanForm = z.discriminatedUnion('kind', [
	z.object({ kind: z.literal('all at once'), days: z.number().int().min(0).max(3650) }),
	z.object({
		kind: z.literal('deposit'),
		deposit: z.union([
			z.object({ ppm: z.number().int().min(1).max(1_000_000) }),
			z.object({ minor: z.number().int().min(1) })
		]),
		days: z.number().int().min(0).max(3650),
		rest: z.number().int().min(0).max(3650)
	}),
	z.object({
		kind: z.literal('instalments'),
		count: z.number().int().min(1).max(120, 'At most 120 instalments.'),
		days: z.number().int().min(0).max(3650),
		every: z.number().int().min(1).max(366)
	}),
	z.object({
		kind: z.literal('by hand'),
		dues: z
			.array(z.object({ day: Day, minor: z.number().int().min(1) }))
			.min(1)
			.max(120)
	})
]);

/** Whom a document is made out to: a person, a company, or both. */
export const BillTo = z.object({
	name: line(120),
	company: line(120),
	street: line(160),
	postcode: line(20),
	city: line(80),
	country: z
		.string()
		.trim()
		.toUpperCase()
		.regex(/^([A-Z]{2})?$/, 'A country of two letters, such as BE.')
		.default(''),
	mail: line(200),
	taxNumber: line(40)
});
export type BillTo = z.infer<typeof BillTo>;

export const BillContent = z.object({
	pricing: z.enum(['without tax', 'with tax']).default('with tax'),
	lines: z.array(LineForm).max(MOST_LINES, `At most ${MOST_LINES} lines.`).default([]),
	discounts: z
		.array(z.object({ name: z.string().trim().min(1).max(80), off: OffForm, items: z.array(z.string()).optional() }))
		.max(5)
		.default([]),
	/** why it is exempt, or the tax reverse charged */
	reason: line(200),
	billTo: BillTo.default(() => BillTo.parse({})),
	dues: DuePlanForm.default({ kind: 'all at once', days: 14 }),
	noteTop: line(2_000),
	noteFoot: line(2_000),
	terms: line(4_000),
	/** header fields of the business's own: an order number, an instrument, a class */
	fields: z
		.array(z.object({ name: z.string().trim().min(1).max(40), value: z.string().trim().max(120) }))
		.max(8)
		.default([])
});
export type BillContent = z.infer<typeof BillContent>;

/** A thing or a charge of the price list. */
export const ItemForm = z.object({
	code: z.string().trim().min(1, 'Give it a code, such as ROSIN-A.').max(40, 'At most 40 characters.'),
	name: z.string().trim().min(1, 'Give it a name.').max(200, 'At most 200 characters.'),
	about: line(1_000),
	unit: line(20),
	category: z.enum(TAX_CATEGORIES).default('standard'),
	rate: z.number().int().min(0).max(1_000_000).default(0),
	/** whether the prices hold the tax */
	pricing: z.enum(['without tax', 'with tax']).default('with tax'),
	prices: z
		.array(z.object({ currency: z.string().refine(isCurrency, 'No currency code.'), price: z.string().regex(DECIMAL) }))
		.min(1, 'Give it a price in one currency at least.'),
	picture: z
		.string()
		.max(120_000, 'The picture is larger than 90 kB.')
		.regex(/^(data:image\/(png|jpeg|webp);base64,[A-Za-z0-9+/=]+)?$/, 'PNG, JPEG or WebP.')
		.default(''),
	/** so many are left; none where it is not counted */
	stock: z.number().int().min(0).max(1_000_000).nullable().default(null)
});
export type ItemForm = z.infer<typeof ItemForm>;
