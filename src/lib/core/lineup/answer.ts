import { intersectTypes, isNoType, type CardTypes } from '../cards';
import { findRate, isCurrency } from '../money';
import {
	abilityOf,
	anyTypes,
	boundsFor,
	checkOffer,
	chooseRoute,
	connectionOf,
	domainTrouble,
	offlineOf,
	withinBound,
	type Check,
	type ChosenRoute
} from './checks';
import type { Carrier, Choice, LineUp, Offer } from './lineup';
import { hasCard } from './methods';
import type { ConnectionState, Context, States } from './states';

/** One way to pay that a payer sees. */
export interface Offered {
	readonly offer: Offer;
	readonly order: number;
	readonly carrier: Carrier;
	readonly standby: boolean;
	/** what the offer takes of what the account can take; only for cards */
	readonly types?: CardTypes;
	readonly checks?: readonly Check[];
}

/** One that they do not see, with every check; those that failed are the reasons. */
export interface Withheld {
	readonly offer: Offer;
	readonly order: number;
	readonly checks: readonly Check[];
}

export interface Answer {
	readonly offered: readonly Offered[];
	readonly withheld: readonly Withheld[];
}

/** Whether a processor may stand beside those already offered; gives the other one when not. */
function excludedBy(
	connection: ConnectionState | undefined,
	beside: readonly ConnectionState[]
): ConnectionState | undefined {
	if (!connection) return undefined;
	return beside.find(
		(other) =>
			other.id !== connection.id &&
			(connection.excludes.includes(other.processor) || other.excludes.includes(connection.processor))
	);
}

/**
 * What one payer is offered and what is withheld, with every check.
 * The same line-up, states and context give the same answer to the byte.
 */
export function answer(lineUp: LineUp, context: Context, states: States): Answer {
	const offered: Offered[] = [];
	const withheld: Withheld[] = [];
	const names = new Set<string>();
	const beside: ConnectionState[] = [];
	lineUp.forEach((offer, order) => {
		const { checks, route, types } = checkOffer(offer, context, states);
		const passed = checks.every((check) => check.ok);
		const connection = connectionOf(route.carrier, states);
		// 9
		const other = excludedBy(connection, beside);
		const sameName = names.has(nameKey(offer.name));
		if (other)
			checks.push({ rule: 'beside', ok: false, fact: { code: 'excluded', name: connection!.name, other: other.name } });
		if (sameName) checks.push({ rule: 'beside', ok: false, fact: { code: 'same-name', name: offer.name } });
		if (!other && !sameName) checks.push({ rule: 'beside', ok: true, fact: { code: 'beside-ok' } });
		if (passed && !other && !sameName) {
			offered.push({ offer, order, carrier: route.carrier!, standby: route.standby, types, checks });
			names.add(nameKey(offer.name));
			if (connection) beside.push(connection);
		} else withheld.push({ offer, order, checks });
	});
	return { offered, withheld };
}

/** Two names are one to a payer when they differ in case and spaces only. */
export const nameKey = (name: string): string => name.trim().replace(/\s+/g, ' ').toLowerCase();

/** What is offered, without workings: the same as `answer(…).offered`, for hot loops. */
export function offeredOnly(lineUp: LineUp, context: Context, states: States): Offered[] {
	const offered: Offered[] = [];
	const beside: ConnectionState[] = [];
	if (!context.tillCurrencies.includes(context.currency)) return offered;
	for (let order = 0; order < lineUp.length; order++) {
		const offer = lineUp[order]!;
		if (!offer.on || states.pausedMethods.includes(offer.method)) continue;
		if (!conditionsHold(offer, context)) continue;
		const route: ChosenRoute = chooseRoute(offer, context, states);
		if (!route.usable) continue;
		const connection = connectionOf(route.carrier, states);
		const offline = offlineOf(route.carrier, states);
		const ability = abilityOf(connection, offer.method);
		if (offline) {
			if (offline.method !== offer.method || !offline.currencies.includes(context.currency)) continue;
		} else if (
			!ability ||
			!ability.currencies.includes(context.currency) ||
			!ability.entries.includes(context.entry) ||
			(context.recurring && !ability.entries.includes('recurring')) ||
			ability.limits.some(
				(limit) =>
					limit.currency === context.currency &&
					((limit.minimum !== undefined && context.minor < limit.minimum) ||
						(limit.maximum !== undefined && context.minor > limit.maximum))
			)
		)
			continue;
		if (!amountsHold(offer, context, states)) continue;
		if (domainTrouble(ability, connection, context, states)) continue;
		const types = hasCard(offer.method)
			? intersectTypes(offer.cardTypes ?? anyTypes, ability?.cardTypes ?? anyTypes)
			: undefined;
		if (types && isNoType(types)) continue;
		if (excludedBy(connection, beside) || offered.some((one) => nameKey(one.offer.name) === nameKey(offer.name)))
			continue;
		offered.push({ offer, order, carrier: route.carrier!, standby: route.standby, types });
		if (connection) beside.push(connection);
	}
	return offered;
}

function amountsHold(offer: Offer, context: Context, states: States): boolean {
	const offline = offlineOf(chooseRoute(offer, context, states).carrier, states);
	return boundsFor(offer, offline, context, states).every((bound) =>
		withinBound(
			bound,
			context,
			bound.currency === context.currency || !isCurrency(context.currency)
				? undefined
				: findRate(states.rates, context.currency, bound.currency, context.day)
		)
	);
}

const holds = (choice: Choice | undefined, value: string | readonly string[] | undefined): boolean => {
	if (!choice) return true;
	if (value === undefined) return false;
	const meets =
		typeof value === 'string' ? choice.values.includes(value) : value.some((one) => choice.values.includes(one));
	return meets === (choice.rule === 'only');
};

const conditionsHold = ({ conditions: c }: Offer, context: Context): boolean =>
	holds(c.countries, context.country) &&
	holds(c.groups, context.groups) &&
	holds(c.goods, context.goods) &&
	holds(c.delivery, context.delivery) &&
	holds(c.domains, context.domain) &&
	(!c.recurrence || c.recurrence === (context.recurring ? 'recurring' : 'one-time')) &&
	(!c.orderedBy || c.orderedBy === context.orderedBy) &&
	(!c.withoutOnlineMethod || context.hasOnlineMethod === false);
