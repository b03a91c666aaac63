import { fraction, findRate, isCurrency, LARGEST_MINOR, type Currency } from '../money';
import { offeredOnly } from './answer';
import { offlineOf, abilityOf, connectionOf } from './checks';
import type { LineUp } from './lineup';
import type { Context, States } from './states';

/** A stretch of amounts in which the same offers are shown. */
export interface Stretch {
	/** minor units, included */
	readonly from: number;
	/** minor units, included; undefined when it never ends */
	readonly to?: number;
	readonly offers: readonly string[];
	/** how many different connections and offline methods carry them */
	readonly carriers: number;
}

const ceil = (top: bigint, bottom: bigint) => (top + bottom - 1n) / bottom;

/** The amounts at which what is offered may change, in one currency: every limit in play, converted where it must be. */
function cuts(lineUp: LineUp, context: Context, states: States): number[] {
	const found = new Set<number>([1]);
	const add = (minor: number, currency: Currency, side: 'minimum' | 'maximum') => {
		let first: bigint;
		if (currency === context.currency) first = side === 'minimum' ? BigInt(minor) : BigInt(minor) + 1n;
		else {
			const rate = isCurrency(context.currency)
				? findRate(states.rates, context.currency, currency, context.day)
				: undefined;
			if (!rate) return;
			const { top, bottom } = fraction(rate.perMinor.top, rate.perMinor.bottom);
			// amount × rate ≥ limit begins at the next whole amount; amount × rate ≤ limit ends at the last one
			first = side === 'minimum' ? ceil(BigInt(minor) * bottom, top) : (BigInt(minor) * bottom) / top + 1n;
		}
		if (first >= 1n && first <= BigInt(LARGEST_MINOR)) found.add(Number(first));
	};
	for (const offer of lineUp) {
		for (const { currency, minimum, maximum } of offer.conditions.amounts) {
			if (minimum !== undefined) add(minimum, currency, 'minimum');
			if (maximum !== undefined) add(maximum, currency, 'maximum');
		}
		const route = Object.hasOwn(offer.routes, context.currency) ? offer.routes[context.currency] : undefined;
		for (const carrier of [route?.first, route?.standby]) {
			for (const { currency, minimum } of offlineOf(carrier, states)?.thresholds ?? [])
				add(minimum, currency, 'minimum');
			for (const { currency, minimum, maximum } of abilityOf(connectionOf(carrier, states), offer.method)?.limits ??
				[]) {
				if (minimum !== undefined) add(minimum, currency, 'minimum');
				if (maximum !== undefined) add(maximum, currency, 'maximum');
			}
		}
	}
	return [...found].sort((a, b) => a - b);
}

/**
 * How many ways to pay there are at each amount, for one kind of payer, in one currency. Exact: between two cuts nothing
 * can change, so each stretch is asked for once.
 * @param context the amount in it does not count
 */
export function coverageRuler(lineUp: LineUp, context: Context, states: States): Stretch[] {
	const stretches: Stretch[] = [];
	const starts = cuts(lineUp, context, states);
	starts.forEach((from, i) => {
		const offered = offeredOnly(lineUp, { ...context, minor: from }, states);
		const offers = offered.map((one) => one.offer.name);
		const next = starts[i + 1];
		const to = next === undefined ? undefined : next - 1;
		const before = stretches.at(-1);
		const carriers = new Set(offered.map((one) => one.carrier.id)).size;
		if (before && before.offers.join('\n') === offers.join('\n')) stretches[stretches.length - 1] = { ...before, to };
		else stretches.push({ from, to, offers, carriers });
	});
	return stretches;
}
