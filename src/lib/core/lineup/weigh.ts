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
