import { z } from 'zod';
import { FUNDINGS, REGIONS, UNKNOWN } from '../cards';
import { isMethod } from '../lineup/methods';
import { isCurrency, PPM } from '../money';

export const ENTRY_MODES = ['present', 'online', 'keyed', 'recurring'] as const;
export type EntryMode = (typeof ENTRY_MODES)[number];

const ppm = z.number().int().min(0).max(PPM);
const minor = z.number().int().min(0).max(1_000_000_000);
const country = z.string().regex(/^[A-Z]{2}$/);
/** A scheme's id. What is unknown of a card is no scheme, and nothing can ask for it. */
const scheme = z
	.string()
	.regex(/^[a-z][a-z0-9-]{0,39}$/, 'is not the id of a scheme')
	.refine((id) => id !== UNKNOWN, 'nothing can ask for an unknown scheme');
const currency = z.string().refine(isCurrency, 'not a currency code');

/** The conditions that a line may state. What is left out matches everything. */
export const LineConditions = z.strictObject({
	method: z.string().refine(isMethod, 'is no method that is known here').optional(),
	scheme: scheme.optional(),
	funding: z.enum(FUNDINGS).optional(),
	region: z.enum(REGIONS).optional(),
	currency: currency.optional(),
	entry: z.enum(ENTRY_MODES).optional()
});

/** One line: its conditions and its price. Amounts are minor units of the settlement currency. */
export const RateLine = z
	.strictObject({
		when: LineConditions,
		percentage: ppm,
		fixed: minor,
		minimum: minor.optional(),
		maximum: minor.optional()
	})
	.refine(({ minimum, maximum }) => minimum === undefined || maximum === undefined || minimum <= maximum, {
		message: 'the minimum is over the maximum',
		path: ['minimum']
	});
export type RateLine = z.infer<typeof RateLine>;

/** What one merchant account is charged, from a day on. */
export const RateCard = z
	.strictObject({
		settlement: currency,
		/** `total`: the exact sum rounded once; `each`: every part rounded, then added */
		rounding: z.enum(['total', 'each']),
		mode: z.enum(['half-up', 'half-even', 'up']),
		/** areas within which another country counts as regional */
		areas: z.array(z.array(country)).default([]),
		lines: z.array(RateLine).min(1),
		/** further lines from a calendar month's gross captures on; `lines` are those of the first tier */
		tiers: z
			.strictObject({
				/** `band`: each payment by the volume before it; `whole`: the whole month by the tier reached */
				way: z.enum(['band', 'whole']),
				steps: z.array(z.strictObject({ from: minor, lines: z.array(RateLine).min(1) })).min(1)
			})
			.optional(),
		/** a fee of every month, and what the month's markup comes to at least */
		monthly: z.strictObject({ fee: minor, minimum: minor }).default({ fee: 0, minimum: 0 }),
		/** one more percentage where the payment's currency is not the settlement currency */
		conversion: ppm.default(0),
		/** an intermediary's percentage of every payment */
		intermediary: ppm.default(0),
		/** interchange plus: the cost table; with it, the lines are the markup */
		costs: z
			.array(
				z.strictObject({
					scheme,
					funding: z.enum(FUNDINGS),
					region: z.enum(REGIONS),
					interchange: ppm,
					schemeFee: ppm
				})
			)
			.optional(),
		refund: z
			.strictObject({
				/** what the processor keeps of the fee */
				keeps: z.enum(['all', 'fixed', 'nothing']),
				fee: minor.default(0)
			})
			.default({ keeps: 'all', fee: 0 }),
		dispute: z.strictObject({ fee: minor, returnedWhenWon: z.boolean() }).default({ fee: 0, returnedWhenWon: false }),
		/** per declined attempt, and per payout */
		declined: minor.default(0),
		payout: minor.default(0)
	})
	.superRefine((card, context) => {
		const steps = card.tiers?.steps ?? [];
		steps.forEach((step, at) => {
			if (step.from <= (steps[at - 1]?.from ?? 0))
				context.addIssue({
					code: 'custom',
					path: ['tiers', 'steps', at, 'from'],
					message: 'each tier begins above the one before it'
				});
		});
		const costs = new Set<string>();
		card.costs?.forEach((one, at) => {
			const key = `${one.scheme} ${one.funding} ${one.region}`;
			if (costs.has(key)) context.addIssue({ code: 'custom', path: ['costs', at], message: `two costs for ${key}` });
			costs.add(key);
		});
	});
export type RateCard = z.infer<typeof RateCard>;

/** A kind of payment: what lines can ask for. */
export interface Kind {
	readonly method: string;
	readonly scheme: string;
	readonly funding: string;
	readonly region: string;
	readonly currency: string;
	readonly entry: string;
}

const CONDITIONS = ['method', 'scheme', 'funding', 'region', 'currency', 'entry'] as const;

/** A line matches when everything it states is equal. Unknown matches only lines that do not ask. */
export const lineMatches = (line: RateLine, kind: Kind): boolean =>
	CONDITIONS.every((name) => line.when[name] === undefined || line.when[name] === kind[name]);

/** How many conditions a line states: the most specific matching line wins. */
export const specificity = (line: RateLine): number =>
	CONDITIONS.reduce((count, name) => count + (line.when[name] === undefined ? 0 : 1), 0);

export type LineChoice =
	| { readonly found: 'one'; readonly line: RateLine; readonly index: number }
	| { readonly found: 'ambiguous'; readonly indexes: readonly number[] }
	| { readonly found: 'none' };

/** The line that prices a kind of payment; two best lines make the card ambiguous for it. */
export function lineFor(card: Pick<RateCard, 'lines'>, kind: Kind): LineChoice {
	let best = -1;
	let indexes: number[] = [];
	card.lines.forEach((line, index) => {
		if (!lineMatches(line, kind)) return;
		const weight = specificity(line);
		if (weight > best) [best, indexes] = [weight, [index]];
		else if (weight === best) indexes.push(index);
	});
	if (indexes.length === 0) return { found: 'none' };
	if (indexes.length > 1) return { found: 'ambiguous', indexes };
	return { found: 'one', line: card.lines[indexes[0]!]!, index: indexes[0]! };
}

/** Interchange is what card schemes charge: only payments with a card behind them have any. */
export const hasInterchange = (card: Pick<RateCard, 'costs'>, kind: Pick<Kind, 'method'>): boolean =>
	card.costs !== undefined && (kind.method === 'card' || kind.method === 'device-wallet');
/** The cost table's entry of a card type. */
export const costOf = (card: Pick<RateCard, 'costs'>, kind: Kind) =>
	card.costs?.find((one) => one.scheme === kind.scheme && one.funding === kind.funding && one.region === kind.region);

/** The lines that hold at a volume of the month: those of the last tier at or below it. */
export function linesAt(card: Pick<RateCard, 'lines' | 'tiers'>, volume: number): RateCard['lines'] {
	let lines = card.lines;
	for (const step of card.tiers?.steps ?? []) if (volume >= step.from) ({ lines } = step);
	return lines;
}

/** A stretch of one payment that falls into one tier. */
export interface Stretch {
	readonly minor: number;
	readonly lines: RateCard['lines'];
}

/**
 * How a payment falls into the tiers of its month: whole into one, or split at the limits that it crosses.
 * @param base minor units of the settlement currency
 * @param before gross captures of the month before it
 */
export function stretchesOf(card: Pick<RateCard, 'lines' | 'tiers'>, base: number, before: number): Stretch[] {
	if (card.tiers?.way !== 'band') return [{ minor: base, lines: linesAt(card, before) }];
	const stretches: Stretch[] = [];
	let at = before;
	const end = before + base;
	for (const limit of [...card.tiers.steps.map((step) => step.from), Infinity]) {
		if (limit <= at) continue;
		const to = Math.min(limit, end);
		stretches.push({ minor: to - at, lines: linesAt(card, at) });
		at = to;
		if (at >= end) break;
	}
	return stretches;
}
