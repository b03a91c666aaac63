import { z } from 'zod';
import { AmountError, plainAmount, readPlainAmount } from '../money';
import { sumBill, type BillLine, type BillSums, type DocumentDiscount } from './sums';
import type { ItemForm } from './content';

// Pay links: an address that never changes, and settings that may.

const text = (most: number) => z.string().trim().max(most, `At most ${most} characters.`).default('');
const ASKED = z.enum(['no', 'may', 'must']).default('no');

export const FIELD_KINDS = ['text', 'choice', 'number', 'date'] as const;
export const LinkField = z.object({
	id: z.string().regex(/^[a-z0-9-]{1,20}$/),
	label: z.string().trim().min(1, 'Say what is asked.').max(80),
	kind: z.enum(FIELD_KINDS),
	choices: z.array(z.string().trim().min(1).max(80)).max(30).default([]),
	must: z.boolean().default(false)
});
export type LinkField = z.infer<typeof LinkField>;

export const LinkSettings = z.object({
	title: z.string().trim().min(1, 'Say what is paid for.').max(120, 'At most 120 characters.'),
	about: text(2_000),
	picture: z.string().max(120_000, 'The picture is larger than 90 kB.').default(''),
	currency: z.string().length(3, 'A currency.'),
	asksFor: z.enum(['goods', 'fixed sum', 'free sum']).default('fixed sum'),
	/** goods of the price list: so many at most of each; `fixed` ones are always part of it */
	goods: z
		.array(
			z.object({
				item: z.string(),
				most: z.number().int().min(1).max(999).default(1),
				fixed: z.boolean().default(false)
			})
		)
		.max(60)
		.default([]),
	/** whether several kinds of goods may be chosen */
	several: z.boolean().default(true),
	/** minor units */
	fixed: z.number().int().min(0).default(0),
	free: z
		.object({
			least: z.number().int().min(0).default(0),
			most: z.number().int().min(0).default(0),
			suggested: z.array(z.number().int().min(1)).max(6).default([])
		})
		.default({ least: 0, most: 0, suggested: [] }),
	/** offers of the till's line-up that it is narrowed to; all where there is none */
	ways: z.array(z.string()).default([]),
	fields: z.array(LinkField).max(12).default([]),
	asksName: ASKED.default('must'),
	asksMail: ASKED.default('must'),
	asksPhone: ASKED,
	asksAddress: ASKED,
	asksTaxNumber: ASKED,
	takesCodes: z.boolean().default(false),
	button: z.enum(['pay', 'book', 'donate', 'own']).default('pay'),
	ownButton: text(40),
	/** the last day, `YYYY-MM-DD`, or empty */
	until: z.string().default(''),
	/** so many sign-ups or orders in all; none where they are not counted */
	cap: z.number().int().min(1).max(1_000_000).nullable().default(null),
	/** how long a place is held for an order that is not paid, in minutes */
	holdMinutes: z.number().int().min(5).max(43_200).default(60),
	landing: z.enum(['receipt', 'own words', 'address']).default('receipt'),
	landingText: text(1_000),
	landingAddress: z
		.string()
		.trim()
		.max(300)
		.refine((one) => one === '' || /^https?:\/\/[^\s]+$/.test(one), 'An address that begins with https://.')
		.default(''),
	sendsReceipt: z.boolean().default(true),
	tellsBusiness: z.boolean().default(false),
	/** kind of goods and of delivery, as conditions of offers name them */
	goodsKind: text(60),
	delivery: text(60),
	colour: z
		.string()
		.regex(/^(#[0-9a-f]{6})?$/i, 'A colour, such as #6b2d2a.')
		.default('')
});
export type LinkSettings = z.infer<typeof LinkSettings>;

/** What stands in the way of saving a link, by the field. */
export function linkProblems(link: LinkSettings): Record<string, string> {
	const wrong: Record<string, string> = {};
	if (link.asksFor === 'goods' && !link.goods.length) wrong.goods = 'Choose one thing of the price list at least.';
	if (link.asksFor === 'fixed sum' && link.fixed <= 0) wrong.fixed = 'Give the sum.';
	if (link.asksFor === 'free sum') {
		const { least, most, suggested } = link.free;
		if (most && most < least) wrong.free = 'The largest sum is below the smallest.';
		else if (suggested.some((one) => one < least || (most && one > most)))
			wrong.free = 'A suggested sum lies outside the smallest and the largest.';
	}
	if (link.landing === 'address' && !link.landingAddress) wrong.landingAddress = 'Give the address.';
	if (link.landing === 'own words' && !link.landingText) wrong.landingText = 'Say what the payer reads.';
	if (link.button === 'own' && !link.ownButton) wrong.ownButton = 'Say what the button says.';
	for (const [at, field] of link.fields.entries())
		if (field.kind === 'choice' && field.choices.length < 2) wrong[`field-${at}`] = 'Give two choices at least.';
	if (new Set(link.fields.map((one) => one.id)).size < link.fields.length) wrong.fields = 'Two fields have one name.';
	return wrong;
}

/** What a payer gave at a link's page. */
export interface LinkChoice {
	/** how many of each thing */
	readonly quantities: Readonly<Record<string, number>>;
	/** a free sum, in minor units */
	readonly minor?: number;
	readonly fields: Readonly<Record<string, string>>;
}
export const CHOICE_PROBLEMS = [
	'nothing chosen',
	'too many',
	'one kind only',
	'sum too small',
	'sum too large',
	'no sum'
] as const;
export type ChoiceProblem = (typeof CHOICE_PROBLEMS)[number];

export interface PricedOrder {
	readonly lines: readonly BillLine[];
	readonly sums: BillSums;
}

/**
 * What an order by a link comes to.
 * @param items the things of the price list, by id
 * @param discount what a code takes off, after the lines
 * @throws AmountError where sums grow beyond what can be paid
 */
export function priceOrder(
	link: LinkSettings,
	choice: LinkChoice,
	items: ReadonlyMap<string, ItemForm>,
	discount?: DocumentDiscount
): PricedOrder | { readonly problem: ChoiceProblem } {
	const { currency } = link;
	if (link.asksFor !== 'goods') {
		const minor = link.asksFor === 'fixed sum' ? link.fixed : (choice.minor ?? 0);
		if (link.asksFor === 'free sum') {
			if (!minor) return { problem: 'no sum' };
			if (minor < link.free.least) return { problem: 'sum too small' };
			if (link.free.most && minor > link.free.most) return { problem: 'sum too large' };
		}
		const price = plainAmount({ minor, currency });
		const lines: BillLine[] = [
			{ text: link.title, quantity: '1', unit: '', price, category: 'outside scope', rate: 0 }
		];
		return { lines, sums: sumBill({ currency, pricing: 'with tax', lines, discounts: discount ? [discount] : [] }) };
	}
	const lines: BillLine[] = [];
	for (const { item, most, fixed } of link.goods) {
		const thing = items.get(item);
		const count = fixed ? Math.max(1, choice.quantities[item] ?? 1) : (choice.quantities[item] ?? 0);
		if (!thing || !count) continue;
		if (!Number.isInteger(count) || count < 0 || count > most) return { problem: 'too many' };
		const price = thing.prices.find((one) => one.currency === currency)?.price;
		if (price === undefined) continue;
		lines.push({
			text: thing.name,
			quantity: String(count),
			unit: thing.unit,
			price: thing.pricing === 'with tax' ? price : withTax(price, thing.rate, currency),
			category: thing.category,
			rate: thing.rate,
			item
		});
	}
	if (!lines.length) return { problem: 'nothing chosen' };
	if (!link.several && lines.filter((one) => !isFixed(link, one.item)).length > 1) return { problem: 'one kind only' };
	return { lines, sums: sumBill({ currency, pricing: 'with tax', lines, discounts: discount ? [discount] : [] }) };
}
const isFixed = (link: LinkSettings, item: string | undefined): boolean =>
	link.goods.some((one) => one.item === item && one.fixed);

/** A price without tax as a payer is asked it: with the tax of one piece, rounded half-up to the currency. */
export function withTax(price: string, rate: number, currency: string): string {
	const { total } = sumBill({
		currency,
		pricing: 'without tax',
		lines: [{ text: '', quantity: '1', unit: '', price, category: rate ? 'standard' : 'zero', rate }]
	});
	return plainAmount({ minor: total, currency });
}

/** What is wrong with what a payer filled in, by the field's id. */
export function fieldProblems(
	fields: readonly LinkField[],
	given: Readonly<Record<string, string>>
): Record<string, 'missing' | 'no number' | 'no date' | 'no choice'> {
	const wrong: Record<string, 'missing' | 'no number' | 'no date' | 'no choice'> = {};
	for (const { id, kind, choices, must } of fields) {
		const value = (given[id] ?? '').trim();
		if (!value) {
			if (must) wrong[id] = 'missing';
		} else if (kind === 'number' && !/^-?\d{1,12}([.,]\d{1,6})?$/.test(value)) wrong[id] = 'no number';
		else if (kind === 'date' && (!/^\d{4}-\d{2}-\d{2}$/.test(value) || Number.isNaN(Date.parse(value))))
			wrong[id] = 'no date';
		else if (kind === 'choice' && !choices.includes(value)) wrong[id] = 'no choice';
	}
	return wrong;
}

// Prefilled addresses: what one payer is asked, signed so that it cannot be altered on the way.

/** Fields that an address may fill in. */
export const PREFILLED = ['sum', 'name', 'mail', 'phone', 'reference', 'quantity'] as const;
export type Prefilled = (typeof PREFILLED)[number];
export type PrefilledValues = Readonly<Partial<Record<Prefilled | `field.${string}`, string>>>;

/** What is signed: every field on its own line with its length, in the order of their names. */
export const prefilledText = (slug: string, values: PrefilledValues): string =>
	[
		`link:${slug.length}:${slug}`,
		...Object.entries(values)
			.filter(([, value]) => value)
			.sort(([a], [b]) => (a < b ? -1 : 1))
			.map(([name, value]) => `${name}:${value!.length}:${value}`)
	].join('\n');

/** The query of a prefilled address, percent-encoded as RFC 3986 asks. */
export function prefilledQuery(slug: string, values: PrefilledValues, sign: (text: string) => string): string {
	const parts = Object.entries(values)
		.filter(([, value]) => value)
		.sort(([a], [b]) => (a < b ? -1 : 1))
		.map(([name, value]) => `${encodeURIComponent(name)}=${encodeStrictly(value!)}`);
	return `${parts.join('&')}&sign=${sign(prefilledText(slug, values))}`;
}
/** @source RFC 3986, 2.2 and 2.3: everything but unreserved signs is encoded */
export const encodeStrictly = (value: string): string =>
	encodeURIComponent(value).replace(/[!'()*]/g, (sign) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`);

export type ReadPrefilled =
	| { readonly values: PrefilledValues; readonly isSigned: boolean }
	| { readonly problem: 'damaged' | 'altered' | 'twice' };

/**
 * Reads the fields of an address. `+` is a space and `%2B` a plus; a part that was encoded twice, as in `%2540`, is taken
 * as it stands, and its signature then tells that it was altered.
 * @param isRight whether a signature fits a text
 * @param mayBeUnsigned whether it may come without one: a template of an outside program
 */
export function readPrefilled(
	slug: string,
	query: string,
	isRight: (text: string, sign: string) => boolean,
	mayBeUnsigned: boolean
): ReadPrefilled {
	const values: Record<string, string> = {};
	let sign = '';
	for (const pair of query.split('&').filter(Boolean)) {
		const at = pair.indexOf('=');
		const [rawName, rawValue] = at < 0 ? [pair, ''] : [pair.slice(0, at), pair.slice(at + 1)];
		let name: string;
		let value: string;
		try {
			name = decodeURIComponent(rawName.replace(/\+/g, ' '));
			value = decodeURIComponent(rawValue.replace(/\+/g, ' '));
		} catch {
			return { problem: 'damaged' };
		}
		if (value.includes('\ufffd') || /\p{Cc}/u.test(value)) return { problem: 'damaged' };
		if (name !== 'sign' && !(PREFILLED as readonly string[]).includes(name) && !name.startsWith('field.')) continue;
		if (name in values || (name === 'sign' && sign)) return { problem: 'twice' };
		if (name === 'sign') sign = value;
		else if (value) values[name] = value;
	}
	if (!Object.keys(values).length) return { values: {}, isSigned: false };
	if (sign) return isRight(prefilledText(slug, values), sign) ? { values, isSigned: true } : { problem: 'altered' };
	return mayBeUnsigned ? { values, isSigned: false } : { problem: 'altered' };
}

/** A sum that an address carries, with a point. @returns undefined where it is none of the currency */
export function readSum(text: string, currency: string): number | undefined {
	try {
		return readPlainAmount(text, currency).minor;
	} catch (error) {
		if (!(error instanceof AmountError)) throw error;
		return undefined;
	}
}
