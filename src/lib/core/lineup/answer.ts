import { isNoType, type CardTypes } from '../cards';
import {
	abilityOf,
	boundsFor,
	checkOffer,
	chooseRoute,
	connectionOf,
	domainTroubles,
	limitIn,
	offlineOf,
	typesLeft,
	type Check,
	type ChosenRoute
} from './checks';
import { choiceHolds, type Carrier, type LineUp, type Offer } from './lineup';
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

/** An offer that passed every check of its own and is withheld for what stands above it. */
export interface Beaten {
	readonly offer: Offer;
	readonly why: 'excluded' | 'same-name';
}

/** An offer as it stands for all payers of one currency, day, domain and way of paying: only amount and payer are open. */
export interface Prepared {
	readonly offer: Offer;
	readonly order: number;
	readonly carrier: Carrier;
	readonly standby: boolean;
	readonly types?: CardTypes;
	readonly connection?: ConnectionState;
	readonly name: string;
	/** minor units, included */
	readonly least: number;
	readonly most: number;
	readonly asks: boolean;
}

/** Prepared once for each kind of payment; line-up and states are never changed in place. */
const prepared = new WeakMap<LineUp, WeakMap<States, Map<string, Prepared[]>>>();

/** The offers that a currency, a day, a domain and a way of paying leave; none where the till does not take the currency. */
export function prepare(lineUp: LineUp, context: Context, states: States): readonly Prepared[] {
	if (!context.tillCurrencies.includes(context.currency) || states.pausedCurrencies?.includes(context.currency))
		return [];
	const byStates = prepared.get(lineUp) ?? prepared.set(lineUp, new WeakMap()).get(lineUp)!;
	const byKind = byStates.get(states) ?? byStates.set(states, new Map()).get(states)!;
	const key = `${context.mode} ${context.currency} ${context.entry} ${context.recurring} ${context.day} ${context.domain}`;
	const known = byKind.get(key);
	if (known) return known;
	const list: Prepared[] = [];
	lineUp.forEach((offer, order) => {
		if (!offer.on || states.pausedMethods.includes(offer.method)) return;
		const route: ChosenRoute = chooseRoute(offer, context, states);
		if (!route.usable) return;
		const connection = connectionOf(route.carrier, states);
		const offline = offlineOf(route.carrier, states);
		const ability = abilityOf(connection, offer.method);
		let [least, most] = [-Infinity, Infinity];
		if (offline) {
			if (offline.method !== offer.method || !offline.currencies.includes(context.currency)) return;
		} else if (
			!ability ||
			!ability.currencies.includes(context.currency) ||
			!ability.entries.includes(context.entry) ||
			(context.recurring && !ability.entries.includes('recurring'))
		)
			return;
		else
			for (const limit of ability.limits) {
				if (limit.currency !== context.currency) continue;
				least = Math.max(least, limit.minimum ?? -Infinity);
				most = Math.min(most, limit.maximum ?? Infinity);
			}
		for (const bound of boundsFor(offer, offline, context, states)) {
			const limit = limitIn(bound, context, states);
			// without a rate the bound cannot be compared, and fails
			if (limit === undefined) return;
			if (bound.side === 'minimum') least = Math.max(least, limit);
			else most = Math.min(most, limit);
		}
		if (domainTroubles(ability, connection, context, states).length) return;
		const types = typesLeft(offer, ability, states);
		if (types && isNoType(types)) return;
		const { amounts: _, ...asked } = offer.conditions;
		list.push({
			offer,
			order,
			carrier: route.carrier!,
			standby: route.standby,
			types,
			connection,
			name: nameKey(offer.name),
			least,
			most,
			asks: Object.values(asked).some((one) => one !== undefined && one !== false)
		});
	});
	if (byKind.size > 20_000) byKind.clear();
	byKind.set(key, list);
	return list;
}

/**
 * What is offered of prepared offers, in their order.
 * @param passes whether amount and payer leave one
 * @param beaten filled with the offers that only what stands above them withholds
 */
export function offeredOf(list: readonly Prepared[], passes: (one: Prepared) => boolean, beaten?: Beaten[]): Offered[] {
	const offered: Offered[] = [];
	const beside: ConnectionState[] = [];
	const names: string[] = [];
	for (const one of list) {
		if (!passes(one)) continue;
		const excluded = excludedBy(one.connection, beside);
		if (excluded || names.includes(one.name)) {
			beaten?.push({ offer: one.offer, why: excluded ? 'excluded' : 'same-name' });
			continue;
		}
		offered.push({
			offer: one.offer,
			order: one.order,
			carrier: one.carrier,
			standby: one.standby,
			types: one.types
		});
		names.push(one.name);
		if (one.connection) beside.push(one.connection);
	}
	return offered;
}

/**
 * What is offered, without workings: the same as `answer(…).offered`, for hot loops.
 * @param beaten filled with the offers that only what stands above them withholds
 */
export const offeredOnly = (lineUp: LineUp, context: Context, states: States, beaten?: Beaten[]): Offered[] =>
	offeredOf(
		prepare(lineUp, context, states),
		(one) =>
			context.minor >= one.least && context.minor <= one.most && (!one.asks || conditionsHold(one.offer, context)),
		beaten
	);

const conditionsHold = ({ conditions: c }: Offer, context: Context): boolean =>
	choiceHolds(c.countries, context.country) &&
	choiceHolds(c.groups, context.groups) &&
	choiceHolds(c.goods, context.goods) &&
	choiceHolds(c.delivery, context.delivery) &&
	choiceHolds(c.domains, context.domain) &&
	(!c.recurrence || c.recurrence === (context.recurring ? 'recurring' : 'one-time')) &&
	(!c.orderedBy || c.orderedBy === context.orderedBy) &&
	(!c.withoutOnlineMethod || context.hasOnlineMethod === false);
