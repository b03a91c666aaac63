import { electronicFormatIBAN, validateIBAN, ValidationErrorsIBAN } from 'ibantools';

/** What is wrong with an IBAN, in words, or the IBAN without spaces. */
export type ReadIban = { readonly iban: string } | { readonly problem: string };

/**
 * Checks the country's length and structure, the check digits (02 to 98) and mod 97.
 * @source ISO 13616
 */
export function readIban(typed: string): ReadIban {
	const iban = electronicFormatIBAN(typed.replace(/[\s\u00a0]/g, '')) ?? '';
	if (iban === '') return { problem: 'Give the IBAN of the account, such as BE68 5390 0754 7034.' };
	const { valid, errorCodes } = validateIBAN(iban);
	if (errorCodes.includes(ValidationErrorsIBAN.NoIBANCountry))
		return { problem: `${iban.slice(0, 2)} is not a country that issues IBANs.` };
	if (errorCodes.includes(ValidationErrorsIBAN.WrongBBANLength))
		return {
			problem: `It has ${iban.length} characters, which is not the length of an IBAN from ${iban.slice(0, 2)}. Is a part missing?`
		};
	if (errorCodes.includes(ValidationErrorsIBAN.WrongBBANFormat))
		return { problem: `Letters and digits are not where an IBAN from ${iban.slice(0, 2)} has them.` };
	const check = Number(iban.slice(2, 4));
	if (!valid || !(check >= 2 && check <= 98))
		return { problem: 'The check digits do not fit: at least one character is wrong, or two are swapped.' };
	return { iban };
}
