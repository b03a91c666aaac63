/**
 * Whether digits pass the Luhn check.
 * @source ISO/IEC 7812-1, annex B
 */
export function isLuhnValid(digits: string): boolean {
	if (!/^\d+$/.test(digits)) return false;
	let sum = 0;
	for (let i = 0; i < digits.length; i++) {
		let digit = Number(digits[digits.length - 1 - i]);
		if (i % 2 === 1) digit = digit > 4 ? digit * 2 - 9 : digit * 2;
		sum += digit;
	}
	return sum % 10 === 0;
}

const RUN = /\d(?:[ -]?\d){12,18}/g;

/**
 * Masks whatever looks like a full card number: 13 to 19 digits, single spaces or dashes between them, Luhn valid.
 * Only the last four digits stay.
 */
export const maskCardNumbers = (text: string): string =>
	text.replace(RUN, (run) => {
		const digits = run.replace(/\D/g, '');
		return isLuhnValid(digits) ? `•••• ${digits.slice(-4)}` : run;
	});
