import { keep } from '../kept';
import { amount, AmountError, LARGEST_MINOR, type Amount } from './amount';
import { exponentOf, isCurrency, type Currency } from './currency';

/** What was read from a typed amount: the amount, and a sentence when it could have been meant otherwise. */
export interface ReadAmount {
	readonly amount: Amount;
	readonly readAs?: string;
}

const plain = (minor: number, exponent: number): string => {
	const digits = Math.abs(minor)
		.toString()
		.padStart(exponent + 1, '0');
	const text = exponent ? `${digits.slice(0, -exponent)}.${digits.slice(-exponent)}` : digits;
	return minor < 0 ? `-${text}` : text;
};

/** The number alone with a point and no grouping, as addresses, forms and files carry it: `84.50`, `12800`. */
export const plainAmount = ({ minor, currency }: Amount): string => plain(minor, exponentOf(currency));

const formats = new Map<string, Intl.NumberFormat>();

/**
 * The number alone, in the reader's locale, with the digits of its currency: `1,284.50`.
 * @param locale BCP 47, for instance `en-GB`
 */
export function formatNumber({ minor, currency }: Amount, locale: string): string {
	const exponent = exponentOf(currency);
	const key = `${locale} ${exponent}`;
	let format = formats.get(key);
	if (!format) {
		format = new Intl.NumberFormat(locale, { minimumFractionDigits: exponent, maximumFractionDigits: exponent });
		formats.set(key, format);
	}
	// a decimal string is formatted exactly, a binary number would not be
	return format.format(plain(minor, exponent) as unknown as number);
}

/** The number and its code: `1,284.50 EUR`. */
export const formatAmount = (value: Amount, locale: string): string =>
	`${formatNumber(value, locale)} ${value.currency}`;

const signs = new Map<string, string>();

/**
 * A decimal text, `1.3075`, with the decimal sign of a locale: every digit stays as it is.
 * @param locale BCP 47, for instance `nl-BE`
 */
export function localDecimal(text: string, locale: string): string {
	let sign = signs.get(locale);
	if (sign === undefined) {
		sign = new Intl.NumberFormat(locale).formatToParts(0.5).find((part) => part.type === 'decimal')?.value ?? '.';
		signs.set(locale, sign);
	}
	return text.replace('.', sign);
}

/** A number with so many decimal places, as a locale writes it: `12.5` is `12,5`. */
export const formatDecimal = (value: number, places: number, locale: string): string =>
	decimalFormat(`${locale} ${places}`).format(value);
/** by locale and places, with a space between */
const decimalFormat = keep((key) => {
	const [locale, places] = key.split(' ');
	return new Intl.NumberFormat(locale, {
		minimumFractionDigits: Number(places),
		maximumFractionDigits: Number(places)
	});
});

/**
 * Reads the form that addresses and interfaces carry: digits, at most one point, exactly the digits the currency has.
 * @throws AmountError that names what is wrong
 * @example readPlainAmount('84.50', 'EUR').minor // 8450
 */
export function readPlainAmount(text: string, currency: Currency): Amount {
	if (!isCurrency(currency)) throw new AmountError(`${currency || 'An empty text'} is not a currency code.`);
	const exponent = exponentOf(currency);
	const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
	if (!match) throw new AmountError(`The amount “${text.slice(0, 40)}” is not a number such as ${example(currency)}.`);
	const [, sign, whole = '', rest = ''] = match;
	if (rest.length > 0 && rest.length !== exponent)
		throw new AmountError(
			exponent === 0
				? `${currency} has no decimals; the amount has ${rest.length}.`
				: `${currency} has ${exponent} decimals; the amount has ${rest.length}.`
		);
	if (whole.replace(/^0+/, '').length > 13) throw tooLarge();
	const minor = Number(whole + rest.padEnd(exponent, '0'));
	if (minor > LARGEST_MINOR) throw tooLarge();
	if (sign) throw new AmountError('The amount is negative; it must be above zero.');
	if (minor === 0) throw new AmountError('The amount is zero; it must be above zero.');
	return amount(minor, currency);
}

const tooLarge = () => new AmountError('The amount is too large: at most 10^12 minor units.');
/** An amount as the locale writes it. */
const example = (currency: Currency, locale?: string) =>
	plain(8450, exponentOf(currency)).replace('.', marksOf(locale ?? '').decimal || '.');

/** The marks that a locale puts into numbers: before decimals, and between groups. */
const marksOf = keep((locale) => {
	if (!locale) return { decimal: '', group: '' };
	const parts = new Intl.NumberFormat(locale, { useGrouping: true, minimumFractionDigits: 1 }).formatToParts(1234567.5);
	const mark = (type: string) => plainMark(parts.find((part) => part.type === type)?.value ?? '');
	return { decimal: mark('decimal'), group: mark('group') };
});
/** All spaces are one, and all apostrophes. */
const plainMark = (text: string): string => text.replace(/[\u00a0\u202f\u2009]/g, ' ').replace(/[\u2018\u2019]/g, "'");

/** Where the decimal mark of a typed number stands, or -1 where it has none. */
function decimalMarkAt(typed: string, text: string, exponent: number, locale: string | undefined): number {
	const marks = [...text.matchAll(/[.,]/g)].map((match) => ({ mark: match[0], at: match.index }));
	const last = marks.at(-1);
	if (!last) return -1;
	const kinds = new Set(marks.map(({ mark }) => mark));
	if (kinds.size === 2) return last.at;
	if (marks.length > 1) return -1;
	// another mark between the groups leaves this one no other meaning
	if (/[ ']/.test(text.slice(0, last.at))) return last.at;
	const after = text.length - last.at - 1;
	if (after !== 3 || last.at === 0) return last.at;
	// one mark before three digits: thousands, or a currency with three decimals
	if (exponent === 0) return -1;
	const own = marksOf(locale ?? '');
	if (last.mark === own.group) return -1;
	if (exponent === 3) return last.at;
	if (exponent > 3 && last.mark === own.decimal) return last.at;
	const whole = text.slice(0, last.at);
	throw new AmountError(
		`“${typed}” can be read two ways: as ${whole}${text.slice(last.at + 1)}, or as ${whole} and a part of one. Write ${whole}${text.slice(last.at + 1)} for the whole number, or ${exponent} decimals.`
	);
}

/**
 * Reads what a person typed. Both decimal marks are taken, and the usual marks between thousands: a space of any kind, an
 * apostrophe, a point, a comma; one kind within a number. Where it can be read two ways the locale decides.
 * @param locale BCP 47, the business's own; without one, what can be read two ways is refused
 * @throws AmountError that says what is wrong and what would be right
 * @example readTypedAmount('1.284,50', 'EUR').amount.minor // 128450
 */
export function readTypedAmount(
	typed: string,
	currency: Currency,
	{ zero = false, locale }: { zero?: boolean; locale?: string } = {}
): ReadAmount {
	if (!isCurrency(currency)) throw new AmountError(`${currency || 'An empty text'} is not a currency code.`);
	const exponent = exponentOf(currency);
	const text = plainMark(typed.trim());
	if (text === '') throw new AmountError(`Give an amount, such as ${example(currency, locale)}.`);
	if (/^[-−]/.test(text)) throw new AmountError('The amount is negative; it must be above zero.');
	if (!/^\d[\d .,']*$/.test(text))
		throw new AmountError(`“${typed}” is not an amount. Write it in digits, such as ${example(currency, locale)}.`);
	const decimalAt = decimalMarkAt(typed, text, exponent, locale);
	const groupText = decimalAt >= 0 ? text.slice(0, decimalAt) : text;
	const groupMarks = new Set(groupText.match(/[ .,']/g) ?? []);
	if (groupMarks.size > 1 || (groupMarks.size === 1 && !/^\d{1,3}([ .,']\d{3})+$/.test(groupText)))
		throw new AmountError(
			`“${typed}” is not an amount. Write it without grouping, such as ${example(currency, locale)}.`
		);
	const whole = groupText.replace(/[ .,']/g, '');
	const rest = decimalAt >= 0 ? text.slice(decimalAt + 1) : '';
	if (/[^\d]/.test(rest)) throw new AmountError(`“${typed}” is not an amount.`);
	if (rest.length > exponent)
		throw new AmountError(
			exponent === 0 ? `${currency} has no decimals.` : `${currency} has ${exponent} decimals; you gave ${rest.length}.`
		);
	if (whole.replace(/^0+/, '').length > 13) throw tooLarge();
	const minor = Number(whole + rest.padEnd(exponent, '0'));
	if (minor > LARGEST_MINOR) throw tooLarge();
	if (minor === 0 && !zero) throw new AmountError('The amount is zero; it must be above zero.');
	const value = amount(minor, currency);
	const shown = locale ? formatNumber(value, locale) : plain(minor, exponent);
	const asTyped = plain(minor, exponent) === text || plainMark(shown) === text;
	return { amount: value, readAs: asTyped ? undefined : `Read as ${shown} ${currency}.` };
}

/**
 * Reads a number that a person typed, such as a quantity or a price with more decimals than its currency: both decimal marks
 * are taken, and marks between thousands.
 * @returns a decimal text with a point, or undefined where it is no number
 * @example readTypedDecimal('1.234,5', 'nl-BE') // '1234.5'
 */
export function readTypedDecimal(typed: string, locale: string): string | undefined {
	const text = plainMark(typed.trim()).replace(/[ ']/g, '');
	if (!/^\d[\d.,]*$/.test(text)) return undefined;
	const marks = [...text.matchAll(/[.,]/g)].map((match) => ({ mark: match[0], at: match.index }));
	const last = marks.at(-1);
	if (!last) return text;
	const kinds = new Set(marks.map(({ mark }) => mark));
	const isGroup =
		kinds.size === 1 &&
		(marks.length > 1 || (text.length - last.at === 4 && last.mark === marksOf(locale ?? '').group));
	const whole = (isGroup ? text : text.slice(0, last.at)).replace(/[.,]/g, '');
	const rest = isGroup ? '' : text.slice(last.at + 1);
	return rest ? `${whole}.${rest}` : whole;
}
