import { z } from 'zod';
import { CardTypes } from '../cards';
import { isCurrency, LARGEST_MINOR } from '../money';
import { METHODS } from './methods';

const currency = z.string().refine(isCurrency, 'not a currency code');
const minor = z.number().int().min(0).max(LARGEST_MINOR);

/** What carries an offer: a connection or an offline method, by id. */
export const Carrier = z.object({ kind: z.enum(['connection', 'offline']), id: z.string().min(1) });
export type Carrier = z.infer<typeof Carrier>;

/** First choice and standby for one currency. */
export const RouteChoice = z.object({ first: Carrier, standby: Carrier.optional() });
export type RouteChoice = z.infer<typeof RouteChoice>;

/** Bounds of the amount in one currency, both ends included. */
export const AmountBounds = z
	.strictObject({ currency, minimum: minor.optional(), maximum: minor.optional() })
	.refine(({ minimum, maximum }) => minimum === undefined || maximum === undefined || minimum <= maximum, {
		message: 'the smallest amount is over the largest',
		path: ['minimum']
	});
export type AmountBounds = z.infer<typeof AmountBounds>;

/** Only the listed ones, or all but the listed ones. */
export const Choice = z.strictObject({ rule: z.enum(['only', 'except']), values: z.array(z.string()).min(1) });
export type Choice = z.infer<typeof Choice>;

/** Whether a value, or any of several, meets a condition. What is not known fails a condition on it. */
export function choiceHolds(choice: Choice | undefined, value: string | readonly string[] | undefined): boolean {
	if (!choice) return true;
	if (value === undefined) return false;
	const meets =
		typeof value === 'string' ? choice.values.includes(value) : value.some((one) => choice.values.includes(one));
	return meets === (choice.rule === 'only');
}

/** When an offer is shown. What is left out asks nothing. */
export const Conditions = z.strictObject({
	amounts: z.array(AmountBounds).default([]),
	countries: Choice.optional(),
	groups: Choice.optional(),
	goods: Choice.optional(),
	delivery: Choice.optional(),
	recurrence: z.enum(['one-time', 'recurring']).optional(),
	orderedBy: z.enum(['page', 'interface']).optional(),
	withoutOnlineMethod: z.boolean().optional(),
	domains: Choice.optional()
});
export type Conditions = z.infer<typeof Conditions>;

/** When the money of an offer is captured: as its account is set, or as the offer says. */
export const CAPTURES = ['as the account', 'at once', 'later'] as const;
/** Where a payer meets an offer. */
export const PLACES = ['in the page', 'at the processor', 'on the basket'] as const;

/** Languages in which an offer can speak to payers, beside the first one of its till. */
export const OFFER_LANGUAGES = ['en', 'nl', 'fr', 'de'] as const;
export type OfferLanguage = (typeof OFFER_LANGUAGES)[number];
/** What an offer says in another language; what is left out is said as in the first. */
export const OfferText = z.strictObject({
	name: z.string().trim().min(1).max(40).optional(),
	note: z.string().max(200).optional(),
	noteAfter: z.string().max(200).optional()
});
export type OfferText = z.infer<typeof OfferText>;

/** One line of a line-up. */
export const Offer = z.object({
	id: z.string().min(1),
	on: z.boolean().default(true),
	method: z.enum(METHODS),
	/** what the payer reads; unique where offers meet */
	name: z.string().trim().min(1).max(40),
	note: z.string().max(200).default(''),
	noteAfter: z.string().max(200).default(''),
	/** the same in further languages */
	texts: z.partialRecord(z.enum(OFFER_LANGUAGES), OfferText).optional(),
	/** per currency; a currency that is not here is not taken by the offer */
	routes: z.record(z.string(), RouteChoice),
	cardTypes: CardTypes.optional(),
	capture: z.enum(CAPTURES).default('as the account'),
	/** whether a payer may have it stored for the next time */
	storing: z.boolean().default(false),
	place: z.enum(PLACES).default('in the page'),
	conditions: Conditions.prefault({})
});
export type Offer = z.infer<typeof Offer>;

/** What an offer says to a payer of a language. */
export function offerText(
	{ name, note, noteAfter, texts }: Pick<Offer, 'name' | 'note' | 'noteAfter' | 'texts'>,
	language: string
): { readonly name: string; readonly note: string; readonly noteAfter: string } {
	const own = texts && Object.hasOwn(texts, language) ? texts[language as OfferLanguage] : undefined;
	return { name: own?.name ?? name, note: own?.note ?? note, noteAfter: own?.noteAfter ?? noteAfter };
}

export const LineUp = z
	.array(Offer)
	.max(40)
	.superRefine((offers, context) => {
		const seen = new Set<string>();
		offers.forEach(({ id }, at) => {
			if (seen.has(id)) context.addIssue({ code: 'custom', path: [at, 'id'], message: 'two offers of one id' });
			seen.add(id);
		});
	});
export type LineUp = z.infer<typeof LineUp>;
