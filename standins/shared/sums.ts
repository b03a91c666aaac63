/** Exact arithmetic as the stand-ins price: whole numbers over a common bottom, rounded once or part by part. */
export const digitsOf = (currency: string): number => (currency === 'JPY' ? 0 : 2);
/** 8450 minor units of EUR are the text `84.50`. */
export const decimal = (minor: number, currency: string): string => {
	const digits = digitsOf(currency);
	if (digits === 0) return String(minor);
	const text = String(Math.abs(minor)).padStart(digits + 1, '0');
	return `${minor < 0 ? '-' : ''}${text.slice(0, -digits)}.${text.slice(-digits)}`;
};
/** The text `84.50` as minor units; undefined when it is no sum of the currency. */
export const minorOf = (text: string, currency: string): number | undefined => {
	const digits = digitsOf(currency);
	const match = new RegExp(digits ? `^(\\d{1,10})(?:\\.(\\d{${digits}}))?$` : '^(\\d{1,12})$').exec(text);
	return match ? Number(match[1]) * 10 ** digits + Number(match[2] ?? 0) : undefined;
};
export const shown = (minor: number, currency: string): string => `${decimal(minor, currency)} ${currency}`;

/** A decimal text as a whole number of 1 / 10^digits. */
export const scaled = (text: string, digits: number): bigint => {
	const [whole = '0', rest = ''] = text.split('.');
	return BigInt(whole + rest.padEnd(digits, '0').slice(0, digits));
};
export const halvesUp = (top: bigint, bottom: bigint): bigint => (top * 2n + bottom) / (bottom * 2n);
export const halvesEven = (top: bigint, bottom: bigint): bigint => {
	const twice = (top % bottom) * 2n;
	const down = top / bottom;
	return twice > bottom || (twice === bottom && down % 2n === 1n) ? down + 1n : down;
};

const CENTRE: Record<string, number> = { EUR: 1, GBP: 1.1432, USD: 0.9213, CHF: 1.0664, JPY: 0.006135 };
export const KNOWN = Object.keys(CENTRE);

/** A house's own rate of a day: a slow, repeatable movement around a centre, with five significant digits. */
export function rateOf(day: string, from: string, to: string, lean = 0): string {
	if (from === to) return '1';
	const at = Date.parse(`${day}T00:00:00Z`) / 86_400_000;
	const swing = (code: string) =>
		code === 'EUR'
			? 0
			: Math.sin(at / 19 + code.charCodeAt(0)) * 0.011 + Math.sin(at / 3 + code.charCodeAt(1)) * 0.003 + lean;
	const value = (CENTRE[from]! * (1 + swing(from))) / (CENTRE[to]! * (1 + swing(to)));
	const text = value.toPrecision(5);
	return text.includes('e') ? value.toFixed(9) : String(Number(text));
}

/** Minor units of one currency in another, halves to even. */
export function converted(minor: number, from: string, to: string, value: string): number {
	const top = BigInt(minor) * scaled(value, 12) * 10n ** BigInt(digitsOf(to));
	return Number(halvesEven(top, 10n ** BigInt(12 + digitsOf(from))));
}
