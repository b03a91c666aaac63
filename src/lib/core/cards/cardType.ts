import { z } from 'zod';

export const FUNDINGS = ['debit', 'credit', 'prepaid', 'commercial'] as const;
export const REGIONS = ['domestic', 'regional', 'international'] as const;
export type Funding = (typeof FUNDINGS)[number];
export type Region = (typeof REGIONS)[number];
export const UNKNOWN = 'unknown' as const;

/** What a processor reports of a card: never the number. What it does not tell is `unknown`. */
export const ReportedCard = z.object({
	scheme: z.string().min(1).max(40).default(UNKNOWN),
	funding: z.enum([...FUNDINGS, UNKNOWN]).default(UNKNOWN),
	issuerCountry: z
		.string()
		.regex(/^[A-Z]{2}$/)
		.or(z.literal(UNKNOWN))
		.default(UNKNOWN),
	last4: z
		.string()
		.regex(/^\d{4}$/)
		.optional(),
	expiry: z
		.string()
		.regex(/^\d{4}-\d{2}$/)
		.optional()
});
export type ReportedCard = z.infer<typeof ReportedCard>;

/** A card type: scheme × funding × region. */
export interface CardType {
	readonly scheme: string;
	readonly funding: Funding | typeof UNKNOWN;
	readonly region: Region | typeof UNKNOWN;
}

/** The EEA, the area for which most rate cards in Europe set a price of their own. ISO 3166-1 alpha-2. */
export const EEA: readonly string[] =
	'AT BE BG CY CZ DE DK EE ES FI FR GR HR HU IE IS IT LI LT LU LV MT NL NO PL PT RO SE SI SK'.split(' ');

/**
 * Domestic when issuer and account are in one country, regional when both are in one of the areas, else international.
 * @param areas lists of ISO 3166-1 alpha-2 codes that the rate card names
 */
export function regionOf(
	issuerCountry: string,
	accountCountry: string,
	areas: readonly (readonly string[])[]
): CardType['region'] {
	if (issuerCountry === UNKNOWN || accountCountry === UNKNOWN || !issuerCountry || !accountCountry) return UNKNOWN;
	if (issuerCountry === accountCountry) return 'domestic';
	return areas.some((area) => area.includes(issuerCountry) && area.includes(accountCountry))
		? 'regional'
		: 'international';
}

/** Commercial outranks debit, credit and prepaid when a processor reports more than one. */
export function fundingOf(reported: readonly string[]): CardType['funding'] {
	if (reported.includes('commercial')) return 'commercial';
	const known = reported.filter((one): one is Funding => (FUNDINGS as readonly string[]).includes(one));
	return known.length === 1 ? known[0]! : UNKNOWN;
}

export const cardTypeOf = (
	card: Pick<ReportedCard, 'scheme' | 'funding' | 'issuerCountry'>,
	accountCountry: string,
	areas: readonly (readonly string[])[]
): CardType => ({
	scheme: card.scheme,
	funding: card.funding,
	region: regionOf(card.issuerCountry, accountCountry, areas)
});

/** The card types that something takes: every combination of the three lists. `any` asks nothing. */
const Scheme = z.string().refine((id) => id !== UNKNOWN, 'nothing can ask for an unknown scheme');
export const CardTypes = z.strictObject({
	schemes: z.array(Scheme).or(z.literal('any')).default('any'),
	fundings: z.array(z.enum(FUNDINGS)).or(z.literal('any')).default('any'),
	regions: z.array(z.enum(REGIONS)).or(z.literal('any')).default('any')
});
export type CardTypes = z.infer<typeof CardTypes>;

const takesOne = (taken: readonly string[] | 'any', value: string) => taken === 'any' || taken.includes(value);

/** What of a card type is not taken; empty when it is taken. An unknown part fails any condition on it. */
export function refusedParts(types: CardTypes, card: CardType): ('scheme' | 'funding' | 'region')[] {
	const refused: ('scheme' | 'funding' | 'region')[] = [];
	if (!takesOne(types.schemes, card.scheme)) refused.push('scheme');
	if (!takesOne(types.fundings, card.funding)) refused.push('funding');
	if (!takesOne(types.regions, card.region)) refused.push('region');
	return refused;
}

/** Whether a card type is taken, part by part. */
export const typeTaken = (types: CardTypes, card: CardType): boolean =>
	takesOne(types.schemes, card.scheme) &&
	takesOne(types.fundings, card.funding) &&
	takesOne(types.regions, card.region);

const both = <T extends string>(a: readonly T[] | 'any', b: readonly T[] | 'any'): T[] | 'any' =>
	a === 'any' ? (b === 'any' ? 'any' : [...b]) : b === 'any' ? [...a] : a.filter((one) => b.includes(one));

/** What both take. */
export const intersectTypes = (a: CardTypes, b: CardTypes): CardTypes => ({
	schemes: both(a.schemes, b.schemes),
	fundings: both(a.fundings, b.fundings),
	regions: both(a.regions, b.regions)
});

/** Whether no card type at all is left. */
export const isNoType = ({ schemes, fundings, regions }: CardTypes): boolean =>
	[schemes, fundings, regions].some((list) => list !== 'any' && list.length === 0);
