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
const example = (currency: Currency) => plain(8450, exponentOf(currency));

/**
 * Reads what a person typed. Both decimal marks are taken, but only where they cannot be misread: one mark followed by
 * exactly three digits is refused unless the currency has three.
 * @throws AmountError that says what is wrong and what would be right
 */
export function readTypedAmount(typed: string, currency: Currency, { zero = false } = {}): ReadAmount {
	if (!isCurrency(currency)) throw new AmountError(`${currency || 'An empty text'} is not a currency code.`);
	const exponent = exponentOf(currency);
	const text = typed.trim().replace(/[\u00a0\u202f']/g, ' ');
	if (text === '') throw new AmountError(`Give an amount, such as ${example(currency)}.`);
	if (/^[-−]/.test(text)) throw new AmountError('The amount is negative; it must be above zero.');
	if (!/^\d[\d ., ]*$/.test(text))
		throw new AmountError(`“${typed}” is not an amount. Write it in digits, such as ${example(currency)}.`);
	const marks = [...text.matchAll(/[.,]/g)].map((match) => ({ mark: match[0], at: match.index }));
	const last = marks.at(-1);
	const after = last ? text.slice(last.at + 1).replace(/ /g, '').length : 0;
	const kinds = new Set(marks.map(({ mark }) => mark));
	let decimalAt = -1;
	if (last && (kinds.size === 2 || marks.length === 1)) {
		const groupsSame = kinds.size === 1;
		if (groupsSame && after === 3 && exponent !== 3 && exponent !== 0)
			throw new AmountError(
				`“${typed}” can be read two ways. Write ${text.replace(/[.,]/, '')} for the whole number, or ${exponent} decimals.`
			);
		if (!(groupsSame && exponent === 0 && after === 3)) decimalAt = last.at;
	}
	const groupText = decimalAt >= 0 ? text.slice(0, decimalAt) : text;
	if (/[., ]/.test(groupText) && !/^\d{1,3}([., ]\d{3})+$/.test(groupText))
		throw new AmountError(`“${typed}” is not an amount. Write it without grouping, such as ${example(currency)}.`);
	const whole = groupText.replace(/[., ]/g, '');
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
	const canonical = plain(minor, exponent);
	return { amount: value, readAs: canonical === text ? undefined : `Read as ${canonical} ${currency}.` };
}
