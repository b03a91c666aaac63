import { LARGEST_MINOR, type Currency } from '../money';
import { offeredOnly } from './answer';
import { abilityOf, connectionOf, limitIn, offlineOf } from './checks';
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

/** The amounts at which what is offered may change, in one currency: every limit in play, converted where it must be. */
export function amountCuts(lineUp: LineUp, context: Context, states: States): number[] {
	const found = new Set<number>([1]);
	const add = (minor: number, currency: Currency, side: 'minimum' | 'maximum') => {
		const limit = limitIn({ side, minor, currency }, context, states);
		if (limit === undefined) return;
		// a minimum opens a stretch, a maximum ends one
		const first = side === 'minimum' ? limit : limit + 1;
		if (first >= 1 && first <= LARGEST_MINOR) found.add(first);
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
	const starts = amountCuts(lineUp, context, states);
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
