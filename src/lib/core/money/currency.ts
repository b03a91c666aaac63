/**
 * Every active code of ISO 4217 (list one, funds codes among them), by the number of digits after the decimal mark. Metals,
 * units of account and codes for testing are no money that a payer pays.
 * @source ISO 4217, list one
 */
const BY_EXPONENT: Readonly<Record<number, string>> = {
	0: `
		BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF
	`,
	2: `
		AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BGN BMD BND BOB BOV BRL BSD BTN BWP BYN BZD CAD CDF CHE CHF
		CHW CNY COP COU CRC CUP CVE CZK DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GTQ GYD HKD HNL HTG
		HUF IDR ILS INR IRR JMD KES KGS KHR KPW KYD KZT LAK LBP LKR LRD LSL MAD MDL MGA MKD MMK MNT MOP MRU MUR MVR
		MWK MXN MXV MYR MZN NAD NGN NIO NOK NPR NZD PAB PEN PGK PHP PKR PLN QAR RON RSD RUB SAR SBD SCR SDG SEK SGD
		SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TOP TRY TTD TWD TZS UAH USD USN UYU UZS VED VES WST XCD XCG
		YER ZAR ZMW ZWG
	`,
	3: `
		BHD IQD JOD KWD LYD OMR TND
	`,
	4: `
		CLF UYW
	`
};
const EXPONENTS: Readonly<Record<string, number>> = Object.fromEntries(
	Object.entries(BY_EXPONENT).flatMap(([exponent, codes]) =>
		codes
			.trim()
			.split(/\s+/)
			.map((code) => [code, Number(exponent)])
	)
);

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
