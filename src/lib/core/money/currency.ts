/** ISO 4217 codes with the number of digits after the decimal mark. */
const EXPONENTS: Readonly<Record<string, number>> = {
	AED: 2,
	AUD: 2,
	BHD: 3,
	BRL: 2,
	CAD: 2,
	CHF: 2,
	CLP: 0,
	CNY: 2,
	CZK: 2,
	DKK: 2,
	EUR: 2,
	GBP: 2,
	HKD: 2,
	HUF: 2,
	IDR: 2,
	ILS: 2,
	INR: 2,
	ISK: 0,
	JOD: 3,
	JPY: 0,
	KRW: 0,
	KWD: 3,
	MXN: 2,
	MYR: 2,
	NOK: 2,
	NZD: 2,
	OMR: 3,
	PHP: 2,
	PLN: 2,
	RON: 2,
	SEK: 2,
	SGD: 2,
	THB: 2,
	TND: 3,
	TRY: 2,
	TWD: 2,
	UGX: 0,
	USD: 2,
	VND: 0,
	ZAR: 2
};

/** A three-letter ISO 4217 code, for instance `EUR`. */
export type Currency = string;

/** The codes this installation knows, in alphabetical order. */
export const CURRENCIES: readonly Currency[] = Object.keys(EXPONENTS).sort();

/** Whether a text is an ISO 4217 code that we know the exponent of. */
export const isCurrency = (code: string): code is Currency => Object.hasOwn(EXPONENTS, code);

/**
 * Digits after the decimal mark: JPY 0, EUR 2, KWD 3.
 * @throws RangeError for a code that is not known
 * @source ISO 4217
 */
export function exponentOf(code: Currency): number {
	const exponent = EXPONENTS[code];
	if (exponent === undefined) throw new RangeError(`No such currency: ${code}`);
	return exponent;
}
