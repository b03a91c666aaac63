import {
	AmountError,
	exponentOf,
	formatNumber,
	LARGEST_MINOR,
	PPM,
	round,
	times,
	fraction,
	decimalFraction
} from '../money';
import type { Currency, Fraction } from '../money';
import type { Working, WorkingStep } from '../workings';
import { splitInProportion } from './split';

// The sums of an invoice or a quote, by the rules of EN 16931: a line is rounded by itself, tax is taken once a group.

export const TAX_CATEGORIES = ['standard', 'reduced', 'zero', 'exempt', 'reverse charge', 'outside scope'] as const;
export type TaxCategory = (typeof TAX_CATEGORIES)[number];
/** Categories that can carry a rate above nothing. */
const TAXED: readonly TaxCategory[] = ['standard', 'reduced'];

/** What is taken off: parts per million of it, or a sum in minor units; never more than there is. */
export type Discount =
	{ readonly kind: 'percentage'; readonly ppm: number } | { readonly kind: 'sum'; readonly minor: number };

export interface BillLine {
	readonly text: string;
	/** decimal text, above nothing, up to 4 places */
	readonly quantity: string;
	readonly unit: string;
	/** decimal text in the currency's major unit, up to 4 places beyond its own */
	readonly price: string;
	readonly discount?: Discount;
	readonly category: TaxCategory;
	/** parts per million; 0 where the category has no tax */
	readonly rate: number;
	/** the thing of the price list, where it is one */
	readonly item?: string;
}
/** A discount of the whole document, or of some things on it. */
export interface DocumentDiscount {
	readonly name: string;
	readonly off: Discount;
	/** things of the price list that it is for; all where there is none */
	readonly items?: readonly string[];
}
export interface BillInput {
	readonly currency: Currency;
	/** whether prices hold the tax */
	readonly pricing: 'without tax' | 'with tax';
	readonly lines: readonly BillLine[];
	readonly discounts?: readonly DocumentDiscount[];
}

/** One line as it counts. Sums are minor units. */
export interface LineSum {
	readonly gross: number;
	readonly discount: number;
	/** the rounded line less its own discount */
	readonly sum: number;
	readonly group: number;
}
export interface TaxGroup {
	readonly category: TaxCategory;
	readonly rate: number;
	/** of its lines, before the document's discounts */
	readonly lines: number;
	readonly discount: number;
	/** what the tax is taken of: without it, whatever the prices hold */
	readonly base: number;
	readonly tax: number;
}
export interface BillSums {
	readonly currency: Currency;
	readonly lines: readonly LineSum[];
	readonly groups: readonly TaxGroup[];
	/** each document discount, as it was taken */
	readonly discounts: readonly { readonly name: string; readonly minor: number }[];
	readonly linesTotal: number;
	readonly discount: number;
	readonly net: number;
	readonly tax: number;
	readonly total: number;
}

const PLACES = 4;
/** A decimal text as an exact fraction. @throws AmountError */
function decimal(text: string, places: number, what: string): Fraction {
	if (!/^\d{1,12}(\.\d+)?$/.test(text)) throw new AmountError(`${what} “${text}” is not a number.`);
	if ((text.split('.')[1]?.length ?? 0) > places)
		throw new AmountError(`${what} “${text}” has more than ${places} decimals.`);
	return decimalFraction(text);
}
const percentOf = (minor: number, ppm: number): number =>
	Number(round(fraction(BigInt(minor) * BigInt(ppm), BigInt(PPM)), 'half-up'));
/** What a discount takes of a sum: never more than it, never below nothing. */
export const discountOf = (minor: number, off: Discount): number =>
	Math.max(0, Math.min(minor, off.kind === 'percentage' ? percentOf(minor, off.ppm) : off.minor));

function lineSum(line: BillLine, currency: Currency): Omit<LineSum, 'group'> {
	const exponent = exponentOf(currency);
	const quantity = decimal(line.quantity, PLACES, 'The quantity');
	if (quantity.top <= 0n) throw new AmountError('A quantity is more than nothing.');
	const price = decimal(line.price, exponent + PLACES, 'The price');
	const exact = times(times(quantity, price), fraction(10n ** BigInt(exponent)));
	const gross = round(exact, 'half-up');
	if (gross > BigInt(LARGEST_MINOR)) throw new AmountError('This line is larger than any sum that can be paid.');
	const minor = Number(gross);
	const discount = line.discount ? discountOf(minor, line.discount) : 0;
	return { gross: minor, discount, sum: minor - discount };
}

/**
 * The sums of a document. A line is quantity × price, rounded half-up, less its own discount. The document's discounts are
 * taken one after the other of what is left, each split over the tax groups in proportion by the largest remainder. Tax is
 * rounded once a group: of its sum where prices are without tax, out of it where they hold it.
 * @throws AmountError for what is no number, a quantity of nothing, or a sum that is too large
 * @source EN 16931, and docs/decisions for discounts that follow each other
 */
export function sumBill({ currency, pricing, lines, discounts = [] }: BillInput): BillSums {
	const keys: string[] = [];
	const kinds: { category: TaxCategory; rate: number }[] = [];
	const sums = lines.map((line): LineSum => {
		if (!TAXED.includes(line.category) && line.rate !== 0)
			throw new AmountError(`There is no tax of ${line.category}.`);
		if (!Number.isInteger(line.rate) || line.rate < 0 || line.rate > PPM)
			throw new AmountError('A tax rate lies between 0 and 100 %.');
		const key = `${line.category} ${line.rate}`;
		if (!keys.includes(key)) {
			keys.push(key);
			kinds.push({ category: line.category, rate: line.rate });
		}
		return { ...lineSum(line, currency), group: keys.indexOf(key) };
	});
	const inGroup = (group: number, pick: (line: LineSum, at: number) => number) =>
		sums.reduce((all, line, at) => all + (line.group === group ? pick(line, at) : 0), 0);
	const before = kinds.map((_, group) => inGroup(group, (line) => line.sum));
	const taken = kinds.map(() => 0);
	const told = discounts.map(({ name, off, items }) => {
		// what is left of the things that it is for, group by group
		const open = kinds.map((_, group) => {
			const all = before[group]! - taken[group]!;
			if (!items) return all;
			const named = inGroup(group, (line, at) => (items.includes(lines[at]!.item ?? '') ? line.sum : 0));
			return Math.min(all, named);
		});
		const minor = discountOf(
			open.reduce((all, one) => all + one, 0),
			off
		);
		splitInProportion(minor, open).forEach((part, group) => (taken[group]! += part));
		return { name, minor };
	});
	const groups = kinds.map(({ category, rate }, group): TaxGroup => {
		const sum = before[group]! - taken[group]!;
		const tax =
			pricing === 'without tax'
				? percentOf(sum, rate)
				: Number(round(fraction(BigInt(sum) * BigInt(rate), BigInt(PPM + rate)), 'half-up'));
		return {
			category,
			rate,
			lines: before[group]!,
			discount: taken[group]!,
			base: pricing === 'without tax' ? sum : sum - tax,
			tax
		};
	});
	const add = (list: readonly number[]) => list.reduce((all, one) => all + one, 0);
	const net = add(groups.map((one) => one.base));
	const tax = add(groups.map((one) => one.tax));
	if (net + tax > LARGEST_MINOR) throw new AmountError('The total is larger than any sum that can be paid.');
	return {
		currency,
		lines: sums,
		groups,
		discounts: told,
		linesTotal: add(before),
		discount: add(taken),
		net,
		tax,
		total: net + tax
	};
}

/** The net of every line before the document's discounts; they add up to the nets of their groups: what a UBL line says. */
export function lineNets({ lines, groups }: BillSums, pricing: BillInput['pricing']): number[] {
	const nets = lines.map(() => 0);
	groups.forEach((group, at) => {
		const mine = lines.flatMap((line, n) => (line.group === at ? [n] : []));
		splitInProportion(
			group.base + netOfDiscount(group, pricing),
			mine.map((n) => lines[n]!.sum)
		).forEach((part, k) => (nets[mine[k]!] = part));
	});
	return nets;
}
/**
 * What a group's document discount is without tax. Where prices hold the tax, it is the net of all the group's lines less the
 * net that is left.
 */
export function netOfDiscount({ lines, discount, base, rate }: TaxGroup, pricing: BillInput['pricing']): number {
	if (pricing === 'without tax') return discount;
	return lines - Number(round(fraction(BigInt(lines) * BigInt(rate), BigInt(PPM + rate)), 'half-up')) - base;
}

/** What keeps a document from being approved: a reason for each. */
export function approvalProblems(
	{ lines }: Pick<BillInput, 'lines'>,
	{ reason = '' }: { readonly reason?: string } = {}
): string[] {
	const problems: string[] = [];
	if (!lines.length) problems.push('There is no line: nothing would be asked for.');
	const categories = new Set(lines.map((line) => line.category));
	if (categories.has('outside scope') && categories.size > 1)
		problems.push('What is outside the scope of the tax stands on an invoice of its own.');
	for (const category of ['exempt', 'reverse charge'] as const)
		if (categories.has(category) && !reason.trim())
			problems.push(category === 'exempt' ? 'Say why it is exempt from tax.' : 'Say why the tax is reverse charged.');
	return problems;
}

const NAMES: Readonly<Record<TaxCategory, string>> = {
	standard: 'Standard rate',
	reduced: 'Reduced rate',
	zero: 'Zero rate',
	exempt: 'Exempt',
	'reverse charge': 'Reverse charge',
	'outside scope': 'Outside the scope of the tax'
};
/** `21 %` of 210,000 parts per million. */
export const sayRate = (ppm: number): string => `${ppm / 10_000} %`;

/** How the total came about. */
export function sumsWorking(sums: BillSums, pricing: BillInput['pricing'], locale: string): Working {
	const say = (minor: number) => formatNumber({ minor, currency: sums.currency }, locale);
	const steps: WorkingStep[] = [
		{ title: 'Lines', sub: 'each rounded, less its own discount', sum: say(sums.linesTotal) }
	];
	for (const { name, minor } of sums.discounts)
		steps.push({ title: name, sub: 'over the tax groups in proportion', sum: say(-minor) });
	for (const group of sums.groups)
		steps.push({
			title: `${NAMES[group.category]}${group.rate ? ` ${sayRate(group.rate)}` : ''}`,
			sub:
				pricing === 'without tax'
					? `${say(group.base)} × ${sayRate(group.rate)}, rounded once`
					: `in ${say(group.base + group.tax)}: × ${sayRate(group.rate)} ÷ (1 + ${sayRate(group.rate)}), rounded once`,
			sum: say(group.tax)
		});
	steps.push({ title: 'Total', sub: sums.currency, sum: say(sums.total), total: true });
	return { title: `Total in ${sums.currency}`, steps };
}

/** A gratuity as a share of the total, half-up. */
export const gratuityOf = (totalMinor: number, ppm: number): number => percentOf(totalMinor, ppm);

/** Shares as an administrator types them, `5 10 12.5`, in parts per million. */
export const gratuityShares = (text: string): number[] => [
	...new Set(
		text
			.split(/[\s;]+/)
			.map((one) => Math.round(parseFloat(one.replace(',', '.')) * 10_000))
			.filter((ppm) => ppm > 0 && ppm <= PPM)
	)
];

/**
 * A sum that is paid in cash, to the nearest coin, halves away from zero.
 * @param coin the smallest coin in minor units: 5 for CHF
 */
export function roundToCoin(minor: number, coin: number): number {
	const twice = Math.abs(minor) * 2 + coin;
	return Math.sign(minor) * Math.floor(twice / (2 * coin)) * coin;
}
