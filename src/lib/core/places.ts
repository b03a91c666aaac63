import { keep } from './kept';

/** ISO 3166-1 alpha-2. */
export const COUNTRIES: readonly string[] =
	'AD AE AF AG AI AL AM AO AR AT AU AZ BA BB BD BE BF BG BH BI BJ BN BO BR BS BT BW BY BZ CA CD CF CG CH CI CL CM CN CO CR CU CV CY CZ DE DJ DK DM DO DZ EC EE EG ER ES ET FI FJ FR GA GB GD GE GH GM GN GQ GR GT GW GY HK HN HR HT HU ID IE IL IN IQ IR IS IT JM JO JP KE KG KH KI KM KN KR KW KZ LA LB LC LI LK LR LS LT LU LV LY MA MC MD ME MG MK ML MM MN MO MR MT MU MV MW MX MY MZ NA NE NG NI NL NO NP NZ OM PA PE PG PH PK PL PS PT PY QA RO RS RU RW SA SB SC SD SE SG SI SK SL SM SN SO SR SS ST SV SY SZ TD TG TH TJ TL TM TN TO TR TT TW TZ UA UG US UY UZ VA VC VE VN VU WS YE ZA ZM ZW'.split(
		' '
	);

/** Names of countries in a language, and in English where it has none. */
const regionNames = keep((locale) => new Intl.DisplayNames([locale, 'en'], { type: 'region' }));

/** Countries with their names in a language, in the order of the names. */
export function countriesIn(locale: string): { code: string; name: string }[] {
	const names = regionNames(locale);
	return COUNTRIES.map((code) => ({ code, name: names.of(code) ?? code })).sort((a, b) =>
		a.name.localeCompare(b.name, locale)
	);
}

const EU = 'AT BE BG CY CZ DE DK EE ES FI FR GR HR HU IE IT LT LU LV MT NL PL PT RO SE SI SK'.split(' ');
/** Countries that are often meant together. */
export const AREAS: readonly { readonly name: string; readonly codes: readonly string[] }[] = [
	{ name: 'European Economic Area', codes: [...EU, 'IS', 'LI', 'NO'].sort() },
	{ name: 'European Union', codes: EU }
];

/** The name of a country, in English if no other language is said; a code that is none stays as it is. */
export const countryName = (code: string, locale = 'en'): string =>
	/^[A-Z]{2}$/.test(code) ? (regionNames(locale).of(code) ?? code) : code;

/** Countries by name, whole areas as one: `European Economic Area, Switzerland`. */
export function sayCountries(codes: readonly string[]): string {
	const area = AREAS.find((one) => one.codes.every((code) => codes.includes(code)));
	const rest = area ? codes.filter((code) => !area.codes.includes(code)) : codes;
	return [...(area ? [area.name] : []), ...rest.map((code) => countryName(code)).sort()].join(', ');
}

const LOCALES =
	'en-GB en-BE nl-BE fr-BE de-BE nl-NL fr-FR de-DE de-AT de-CH fr-CH it-CH it-IT es-ES pt-PT en-IE en-US da-DK sv-SE nb-NO fi-FI pl-PL cs-CZ ja-JP'.split(
		' '
	);

/** Ways to write sums and days, each with a sample: `English (Belgium): 1.284,50, 24/11/2026`. */
export function localeChoices(reader: string): { value: string; name: string }[] {
	const names = new Intl.DisplayNames([reader, 'en'], { type: 'language' });
	const sample = (locale: string) =>
		`${new Intl.NumberFormat(locale, { minimumFractionDigits: 2 }).format(1284.5)}, ${new Intl.DateTimeFormat(locale, { timeZone: 'UTC' }).format(Date.UTC(2026, 10, 24))}`;
	return [...new Set([reader, ...LOCALES])].map((value) => ({
		value,
		name: `${names.of(value) ?? value}: ${sample(value)}`
	}));
}
