import { answer, offeredOnly } from './answer';
import type { CoverageInput, Situation } from './coverage';

/** Payers of the past who asked for the same: those who paid, and those who met nothing. */
export interface PastPayers {
	readonly currency: string;
	/** minor units */
	readonly minor: number;
	/** the card's issuer country, or what the payer said; empty where it is not known */
	readonly country: string;
	readonly count: number;
	/** how many of them met nothing */
	readonly met: number;
}

/** How many past payers were in a situation, and what they came for. */
export interface Weight {
	readonly count: number;
	readonly met: number;
	/** minor units of the situation's currency */
	readonly minor: number;
}
const NONE: Weight = { count: 0, met: 0, minor: 0 };

const keyOf = (offers: readonly { readonly id: string; readonly carrier: string }[]): string =>
	offers.map((one) => `${one.id} ${one.carrier}`).join('\n');

/**
 * How many past payers were in each situation: every one of them is asked again, and counts where the same is offered at the
 * same amounts. What is not known of them stays unknown.
 */
export function weighSituations(
	situations: readonly Situation[],
	{ lineUp, states, base }: Pick<CoverageInput, 'lineUp' | 'states' | 'base'>,
	past: readonly PastPayers[]
): Weight[] {
	const byCurrency = new Map<string, { at: number; one: Situation; key: string }[]>();
	situations.forEach((one, at) => {
		const list = byCurrency.get(one.currency) ?? [];
		list.push({ at, one, key: keyOf(one.offers) });
		byCurrency.set(one.currency, list);
	});
	const weights = situations.map(() => ({ ...NONE }) as { -readonly [K in keyof Weight]: Weight[K] });
	for (const { currency, minor, country, count, met } of past) {
		const context = { ...base, currency, minor, ...(country && country !== 'unknown' ? { country } : {}) };
		const key = keyOf(
			offeredOnly(lineUp, context, states).map((one) => ({ id: one.offer.id, carrier: one.carrier.id }))
		);
		const fits = (byCurrency.get(currency) ?? []).filter(
			({ one, key: own }) => own === key && minor >= one.from && (one.to === undefined || minor <= one.to)
		);
		const mine = fits.find(({ one }) => one.context.country === context.country) ?? fits[0];
		if (!mine) continue;
		const weight = weights[mine.at]!;
		weight.count += count;
		weight.met += met;
		weight.minor += count * minor;
	}
	return weights;
}

/** To how many payers an offer was shown, by currency. */
export interface OfferShare {
	readonly shown: number;
	readonly of: number;
	readonly byCurrency: readonly { readonly currency: string; readonly shown: number; readonly of: number }[];
}

/**
 * What share of past payers each offer of a line-up would have been shown to: each of them is asked again. What is not known
 * of them stays unknown, so an offer that asks for it counts as not shown.
 * @returns by offer; none where nobody came
 */
export function shareOfOffers(
	{ lineUp, states, base }: Pick<CoverageInput, 'lineUp' | 'states' | 'base'>,
	past: readonly PastPayers[]
): Map<string, OfferShare> {
	const came = new Map<string, number>();
	const shown = new Map<string, Map<string, number>>();
	for (const { currency, minor, country, count } of past) {
		came.set(currency, (came.get(currency) ?? 0) + count);
		const context = { ...base, currency, minor, ...(country && country !== 'unknown' ? { country } : {}) };
		for (const { offer } of offeredOnly(lineUp, context, states)) {
			const mine = shown.get(offer.id) ?? new Map<string, number>();
			mine.set(currency, (mine.get(currency) ?? 0) + count);
			shown.set(offer.id, mine);
		}
	}
	const all = [...came.values()].reduce((sum, one) => sum + one, 0);
	if (!all) return new Map();
	const currencies = [...came].sort((a, b) => b[1] - a[1]);
	return new Map(
		lineUp.map(({ id }) => {
			const mine = shown.get(id);
			return [
				id,
				{
					shown: [...(mine?.values() ?? [])].reduce((sum, one) => sum + one, 0),
					of: all,
					byCurrency: currencies.map(([currency, of]) => ({ currency, shown: mine?.get(currency) ?? 0, of }))
				}
			];
		})
	);
}

/** Whether nothing is offered in a situation only because processors themselves take no such amounts. */
export function isProcessorsOwnBound(
	situation: Situation,
	{ lineUp, states }: Pick<CoverageInput, 'lineUp' | 'states'>
): boolean {
	if (situation.offers.length) return false;
	return answer(lineUp, situation.context, states).withheld.some(({ checks }) => {
		const failed = checks.filter((check) => !check.ok);
		return failed.length > 0 && failed.every((check) => check.fact.code === 'account-limit');
	});
}
