import { addDays, weekdayOf, type Day } from '../calendar';
import { divideRounded, PPM } from '../money';
import type { PaymentColumns } from './columns';
import { isPriced, priceOne } from './price';
import { lineFor, type RateCard } from './rateCard';
import { givenBack } from './refund';

/** What happened around past payments that a rate card may charge for. One entry a kind of the past. */
export interface PastAround {
	/** payments that were disputed */
	readonly disputes: readonly number[];
	/** attempts that were declined, by the kind of payment that each would have been */
	readonly declined: readonly number[];
}

/** How often something happened and what it cost, in minor units of the settlement currency. */
export interface Charge {
	readonly count: number;
	readonly fee: number;
}
/** What one side charges around its payments. */
export interface AroundCost {
	readonly refunds: Charge;
	/** what refunds give back of the fees, taken off */
	readonly givenBack: number;
	readonly disputes: Charge;
	readonly declined: Charge;
	readonly payouts: Charge;
}
export const NOTHING_AROUND: AroundCost = {
	refunds: { count: 0, fee: 0 },
	givenBack: 0,
	disputes: { count: 0, fee: 0 },
	declined: { count: 0, fee: 0 },
	payouts: { count: 0, fee: 0 }
};
export const sumAround = ({ refunds, givenBack, disputes, declined, payouts }: AroundCost): number =>
	refunds.fee - givenBack + disputes.fee + declined.fee + payouts.fee;

const SAFE = Number.MAX_SAFE_INTEGER;

/**
 * What follows the pricing of columns: what refunds give back of each fee, and how much of all fees are fixed parts.
 * Agrees with `priceOne` and `givenBack`, which it uses where a double would not be exact.
 * @param fees as `priceColumns` filled them, with their `bases`
 * @param refunded minor units of each payment's currency, in all so far
 * @param fixed filled with the sum of fixed parts of each kind, before any clamp
 * @returns minor units of the settlement currency given back of each payment
 */
export function giveBackColumns(
	card: RateCard,
	columns: PaymentColumns,
	fees: Float64Array,
	bases: Float64Array,
	refunded: Float64Array | undefined,
	fixed: Float64Array
): Float64Array {
	const { kind, minor, rate, month, kinds, rates } = columns;
	const count = kind.length;
	const back = new Float64Array(refunded ? count : 0);
	const limits = card.tiers?.steps.map((step) => step.from) ?? [];
	const lists = [card.lines, ...(card.tiers?.steps.map((step) => step.lines) ?? [])];
	const lines = lists.map((list) =>
		kinds.map((one) => {
			const choice = lineFor({ lines: list }, one);
			return choice.found === 'one' ? choice.line : undefined;
		})
	);
	const tierAt = (volume: number) => {
		let tier = 0;
		while (tier < limits.length && volume >= limits[tier]!) tier++;
		return tier;
	};
	const tiered = limits.length > 0 && month !== undefined;
	const whole = card.tiers?.way === 'whole';
	const volumes = new Map<number, number>();
	if (tiered && whole)
		for (let n = 0; n < count; n++)
			if (bases[n]! >= 0) volumes.set(month[n]!, (volumes.get(month[n]!) ?? 0) + bases[n]!);
	const keeps = card.refund.keeps;
	const each = card.rounding === 'each';
	for (let n = 0; n < count; n++) {
		const k = kind[n]!;
		const base = bases[n]!;
		let [tier, before] = [0, 0];
		if (tiered) {
			before = volumes.get(month[n]!) ?? 0;
			tier = tierAt(before);
			// what has no price counts for tiers all the same
			if (!whole && base >= 0) volumes.set(month[n]!, before + base);
		}
		if (fees[n]! < 0) continue;
		// a payment that crosses a limit is the first band's; one that the reached tier does not cover has no fee
		const line = lines[tier]![k];
		if (!line) continue;
		fixed[k]! += line.fixed;
		if (!refunded || keeps === 'all' || !(refunded[n]! > 0)) continue;
		if (keeps === 'nothing') {
			// the fee as it was charged, in proportion
			const part = BigInt(fees[n]!) * BigInt(Math.min(refunded[n]!, minor[n]!));
			back[n] = Number(divideRounded(part, BigInt(minor[n]!), card.mode));
			continue;
		}
		const crosses = tiered && !whole && tier < limits.length && before + base > limits[tier]!;
		const product = base * line.percentage;
		if (crosses || product > SAFE - PPM) {
			const exact = priceOne(
				crosses ? card : { ...card, lines: lists[tier]!, tiers: undefined },
				kinds[k]!,
				{ minor: minor[n]!, currency: kinds[k]!.currency },
				rates[rate[n]!],
				before
			);
			if (isPriced(exact))
				back[n] = givenBack(card, {
					percentagePart: exact.percentagePart,
					fee: exact.fee.minor,
					captured: minor[n]!,
					refunded: refunded[n]!
				});
			continue;
		}
		// in millionths of a minor unit: the percentage part, after its rounding and the clamp
		let share = each ? roundedMillionths(product, card.mode) * PPM : product;
		if (line.minimum !== undefined) share = Math.max(share, (line.minimum - line.fixed) * PPM);
		if (line.maximum !== undefined) share = Math.min(share, (line.maximum - line.fixed) * PPM);
		share = Math.max(0, share);
		const all = refunded[n]! >= minor[n]!;
		const part = all
			? roundedMillionths(share, card.mode)
			: Number(divideRounded(BigInt(share) * BigInt(refunded[n]!), BigInt(minor[n]!) * BigInt(PPM), card.mode));
		back[n] = part;
	}
	return back;
}

/** Millionths as whole units, exact for whole numbers below 2^53. */
function roundedMillionths(value: number, mode: RateCard['mode']): number {
	const rest = value % PPM;
	const quotient = (value - rest) / PPM;
	if (rest === 0) return quotient;
	if (mode === 'up' || rest * 2 > PPM) return quotient + 1;
	if (rest * 2 < PPM) return quotient;
	return mode === 'half-up' || quotient % 2 === 1 ? quotient + 1 : quotient;
}

/**
 * How many payouts a stretch of arrivals makes: one a day on which money arrives, or one a week or month that has any.
 * @param days on which money is at the bank
 */
export function payoutsOn(days: Iterable<Day>, rhythm: string | undefined): number {
	const seen = new Set<string>();
	for (const day of days)
		if (rhythm === 'monthly') seen.add(day.slice(0, 7));
		else if (rhythm === 'weekly') seen.add(addDays(day, -((weekdayOf(day) + 6) % 7)));
		else seen.add(day);
	return seen.size;
}
