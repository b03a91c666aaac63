import { intersectTypes, isNoType, type CardTypes } from '../cards';
import { compare, findRate, fraction, isCurrency, round, unrounded, type Currency, type FoundRate } from '../money';
import { choiceHolds, type Carrier, type Choice, type Offer } from './lineup';
import { hasCard } from './methods';
import type { Ability, ConnectionState, Context, OfflineState, States } from './states';

/** The checks in their order; the numbers are those of the calculation. */
export type Rule =
	| 'on' // 1
	| 'method' // 1
	| 'route' // 2
	| 'account' // 3
	| 'currency' // 4
	| 'amount' // 5
	| 'payer' // 6
	| 'domain' // 7
	| 'card types' // 8
	| 'beside'; // 9

/** The checks, by the names under which they are told. */
export const CHECK_RULES = [
	'on',
	'method',
	'route',
	'account',
	'currency',
	'amount',
	'payer',
	'domain',
	'card types',
	'beside'
] as const satisfies readonly Rule[];

/** What a check found, as data; `words.ts` says it. */
export type Fact =
	| { readonly code: 'offer-on' | 'offer-off' | 'method-free' | 'method-paused' }
	| {
			readonly code: 'route';
			readonly carrier: Carrier;
			readonly name: string;
			readonly standby: boolean;
			readonly firstWhy?: RouteTrouble;
			readonly firstName?: string;
	  }
	| { readonly code: 'no-route'; readonly currency: Currency }
	| {
			readonly code: 'route-out';
			readonly name: string;
			readonly why: RouteTrouble;
			readonly standbyName?: string;
			readonly standbyWhy?: RouteTrouble;
	  }
	| { readonly code: 'account-ok' | 'own-account'; readonly name: string }
	| { readonly code: 'not-offered'; readonly name: string; readonly method: string }
	| {
			readonly code: 'account-currency';
			readonly name: string;
			readonly currency: Currency;
			readonly takes: readonly Currency[];
	  }
	| { readonly code: 'account-entry'; readonly name: string; readonly entry: string }
	| {
			readonly code: 'account-limit';
			readonly name: string;
			readonly currency: Currency;
			readonly bound: number;
			readonly side: 'minimum' | 'maximum';
	  }
	| {
			readonly code: 'currency-ok' | 'till-currency' | 'offer-currency' | 'currency-paused';
			readonly currency: Currency;
			readonly takes: readonly Currency[];
	  }
	| { readonly code: 'amount-ok'; readonly bounds: readonly Bound[] }
	| { readonly code: 'amount-out'; readonly bound: Bound; readonly minor: number; readonly currency: Currency }
	| { readonly code: 'no-rate'; readonly from: Currency; readonly to: Currency }
	| { readonly code: 'condition-ok'; readonly asked: number }
	| {
			readonly code: 'condition';
			readonly what: 'country' | 'group' | 'goods' | 'delivery' | 'domain';
			readonly choice: Choice;
			readonly value?: string;
	  }
	| { readonly code: 'recurrence'; readonly wanted: string }
	| { readonly code: 'ordered-by'; readonly wanted: string }
	| { readonly code: 'has-online' }
	| { readonly code: 'domain-ok' | 'no-proof' | 'no-page-code'; readonly domain?: string }
	| { readonly code: 'types-ok'; readonly types?: CardTypes }
	| { readonly code: 'no-types' | 'types-paused' }
	| { readonly code: 'beside-ok' }
	| { readonly code: 'excluded'; readonly name: string; readonly other: string }
	| { readonly code: 'same-name'; readonly name: string };

/** Every fact that can make a check fail, by its stable code. */
export const FACT_CODES = [
	'offer-off',
	'method-paused',
	'currency-paused',
	'no-route',
	'route-out',
	'not-offered',
	'account-currency',
	'account-entry',
	'account-limit',
	'till-currency',
	'offer-currency',
	'amount-out',
	'no-rate',
	'condition',
	'recurrence',
	'ordered-by',
	'has-online',
	'no-proof',
	'no-page-code',
	'no-types',
	'types-paused',
	'excluded',
	'same-name'
] as const satisfies readonly Fact['code'][];
export type FailedCode = (typeof FACT_CODES)[number];

const WHOEVER_PAYS: readonly Fact['code'][] = [
	'offer-off',
	'method-paused',
	'currency-paused',
	'no-route',
	'route-out',
	'not-offered',
	'account-currency',
	'account-entry',
	'till-currency',
	'no-types',
	'types-paused',
	'same-name'
];
/** Whether a fact holds whoever the payer is: what makes an offer one that nobody meets. */
export const isWhoeverPays = ({ code }: Fact): boolean => WHOEVER_PAYS.includes(code);

export type RouteTrouble = 'gone' | 'unverified' | 'mode' | 'paused' | 'failing';

/** A bound that was compared, and the rate when it is set in another currency than the payment's. */
export interface Bound {
	readonly side: 'minimum' | 'maximum';
	readonly minor: number;
	readonly currency: Currency;
	readonly from: 'offer' | 'method' | 'common';
	readonly rate?: {
		readonly day: string;
		readonly rate: string;
		readonly source: string;
		readonly inverse: boolean;
		readonly convertedMinor: number;
	};
}

export interface Check {
	readonly rule: Rule;
	readonly ok: boolean;
	readonly fact: Fact;
}

/** The route that was chosen for a context, or the first choice when none can carry it. */
export interface ChosenRoute {
	readonly carrier?: Carrier;
	readonly standby: boolean;
	readonly usable: boolean;
}

export function routeTrouble(carrier: Carrier, context: Context, states: States): RouteTrouble | undefined {
	if (carrier.kind === 'offline') {
		const method = states.offline[carrier.id];
		return !method ? 'gone' : method.paused ? 'paused' : undefined;
	}
	const connection = states.connections[carrier.id];
	if (!connection) return 'gone';
	if (!connection.verified) return 'unverified';
	if (connection.mode !== context.mode) return 'mode';
	if (connection.paused) return 'paused';
	if (connection.failing) return 'failing';
	return undefined;
}

export const carrierName = (carrier: Carrier, states: States): string =>
	(carrier.kind === 'offline' ? states.offline[carrier.id]?.name : states.connections[carrier.id]?.name) ??
	'a removed route';

/** Check 2: the first choice when it can, else its standby, which never chains further. */
export function chooseRoute(offer: Offer, context: Context, states: States): ChosenRoute {
	const route = Object.hasOwn(offer.routes, context.currency) ? offer.routes[context.currency] : undefined;
	if (!route) {
		// the later checks still test something: the first choice of any currency
		const first = context.tillCurrencies.find((code) => Object.hasOwn(offer.routes, code));
		const any = first === undefined ? Object.values(offer.routes)[0] : offer.routes[first];
		return { carrier: any?.first, standby: false, usable: false };
	}
	if (!routeTrouble(route.first, context, states)) return { carrier: route.first, standby: false, usable: true };
	if (route.standby && !routeTrouble(route.standby, context, states))
		return { carrier: route.standby, standby: true, usable: true };
	return { carrier: route.first, standby: false, usable: false };
}

export const connectionOf = (carrier: Carrier | undefined, states: States): ConnectionState | undefined =>
	carrier?.kind === 'connection' ? states.connections[carrier.id] : undefined;
export const offlineOf = (carrier: Carrier | undefined, states: States): OfflineState | undefined =>
	carrier?.kind === 'offline' ? states.offline[carrier.id] : undefined;
export const abilityOf = (connection: ConnectionState | undefined, method: string): Ability | undefined =>
	connection?.abilities.find((ability) => ability.method === method);

/** Every bound that counts for this context: a bound set in the payment's currency, else the home currency's. */
export function boundsFor(
	offer: Offer,
	offline: OfflineState | undefined,
	context: Context,
	states: States
): Omit<Bound, 'rate'>[] {
	const bounds: Omit<Bound, 'rate'>[] = [];
	/** of several in one currency all count: those of the payment's, else those of the home currency */
	const counting = <T extends { readonly currency: Currency }>(list: readonly T[]): readonly T[] => {
		const own = list.filter((one) => one.currency === context.currency);
		return own.length ? own : list.filter((one) => one.currency === states.homeCurrency);
	};
	for (const side of ['minimum', 'maximum'] as const)
		for (const found of counting(offer.conditions.amounts.filter((one) => one[side] !== undefined)))
			bounds.push({ side, minor: found[side]!, currency: found.currency, from: 'offer' });
	for (const common of [false, true])
		for (const found of counting(offline?.thresholds.filter((one) => one.common === common) ?? []))
			bounds.push({
				side: 'minimum',
				minor: found.minimum,
				currency: found.currency,
				from: common ? 'common' : 'method'
			});
	return bounds;
}

/**
 * The first amount (or the last, for a maximum) in the payment's currency that a bound allows; undefined where there is
 * no rate. Exact: amount × rate ≥ limit holds from the next whole amount on.
 */
export function limitIn(
	bound: Pick<Bound, 'side' | 'minor' | 'currency'>,
	context: Pick<Context, 'currency' | 'day'>,
	states: Pick<States, 'rates'>
): number | undefined {
	if (bound.currency === context.currency) return bound.minor;
	const rate = isCurrency(context.currency)
		? findRate(states.rates, context.currency, bound.currency, context.day)
		: undefined;
	if (!rate) return undefined;
	const { top, bottom } = rate.perMinor;
	const exact = BigInt(bound.minor) * bottom;
	return Number(bound.side === 'minimum' ? (exact + top - 1n) / top : exact / top);
}

/** Compares an amount with one bound, unrounded where it is set in another currency. */
export function withinBound(bound: Omit<Bound, 'rate'>, context: Context, rate: FoundRate | undefined): boolean {
	if (bound.currency === context.currency)
		return bound.side === 'minimum' ? context.minor >= bound.minor : context.minor <= bound.minor;
	if (!rate) return false;
	const order = compare(unrounded(context.minor, rate), fraction(bound.minor));
	return bound.side === 'minimum' ? order >= 0 : order <= 0;
}

const one = (value: string | undefined) => (value === undefined ? undefined : [value]);

/** All checks but the last of one offer, each with its fact, all of them even after one has failed. */
export function checkOffer(
	offer: Offer,
	context: Context,
	states: States
): { checks: Check[]; route: ChosenRoute; types?: CardTypes } {
	const checks: Check[] = [];
	const add = (rule: Rule, ok: boolean, fact: Fact) => checks.push({ rule, ok, fact });
	// 1
	add('on', offer.on, { code: offer.on ? 'offer-on' : 'offer-off' });
	const methodPaused = states.pausedMethods.includes(offer.method);
	add('method', !methodPaused, { code: methodPaused ? 'method-paused' : 'method-free' });
	// 2
	const route = chooseRoute(offer, context, states);
	const choice = Object.hasOwn(offer.routes, context.currency) ? offer.routes[context.currency] : undefined;
	if (!choice) add('route', false, { code: 'no-route', currency: context.currency });
	else {
		const firstWhy = routeTrouble(choice.first, context, states);
		const firstName = carrierName(choice.first, states);
		if (route.usable)
			add('route', true, {
				code: 'route',
				carrier: route.carrier!,
				name: carrierName(route.carrier!, states),
				standby: route.standby,
				...(route.standby ? { firstWhy, firstName } : {})
			});
		else
			add('route', false, {
				code: 'route-out',
				name: firstName,
				why: firstWhy!,
				...(choice.standby
					? {
							standbyName: carrierName(choice.standby, states),
							standbyWhy: routeTrouble(choice.standby, context, states)
						}
					: {})
			});
	}
	// 3
	const connection = connectionOf(route.carrier, states);
	const offline = offlineOf(route.carrier, states);
	const name = route.carrier ? carrierName(route.carrier, states) : '';
	const ability = abilityOf(connection, offer.method);
	for (const fact of accountFacts(offer, context, name, connection, offline, ability))
		add('account', fact.code === 'account-ok' || fact.code === 'own-account', fact);
	// 4
	const tillTakes = context.tillCurrencies.includes(context.currency);
	if (states.pausedCurrencies?.includes(context.currency))
		add('currency', false, {
			code: 'currency-paused',
			currency: context.currency,
			takes: context.tillCurrencies
		});
	else if (!tillTakes)
		add('currency', false, { code: 'till-currency', currency: context.currency, takes: context.tillCurrencies });
	else if (!choice)
		add('currency', false, { code: 'offer-currency', currency: context.currency, takes: Object.keys(offer.routes) });
	else add('currency', true, { code: 'currency-ok', currency: context.currency, takes: Object.keys(offer.routes) });
	// 5
	const compared: Bound[] = [];
	let amountOk = true;
	for (const bound of boundsFor(offer, offline, context, states)) {
		const foreign = bound.currency !== context.currency;
		const rate =
			foreign && isCurrency(context.currency)
				? findRate(states.rates, context.currency, bound.currency, context.day)
				: undefined;
		if (foreign && !rate) {
			amountOk = false;
			add('amount', false, { code: 'no-rate', from: context.currency, to: bound.currency });
			continue;
		}
		const told: Bound = rate
			? {
					...bound,
					rate: {
						day: rate.published.day,
						rate: rate.published.rate,
						source: rate.published.source,
						inverse: rate.inverse,
						// for the workings alone: it may be more than an amount may be
						convertedMinor: Number(round(unrounded(context.minor, rate), 'half-even'))
					}
				}
			: bound;
		if (withinBound(bound, context, rate)) compared.push(told);
		else {
			amountOk = false;
			add('amount', false, { code: 'amount-out', bound: told, minor: context.minor, currency: context.currency });
		}
	}
	if (amountOk) add('amount', true, { code: 'amount-ok', bounds: compared });
	// 6
	const { conditions } = offer;
	let asked = 0;
	let payerOk = true;
	const payer = (wanted: boolean, holds: boolean, fact: Fact) => {
		if (!wanted) return;
		asked++;
		if (!holds) {
			payerOk = false;
			add('payer', false, fact);
		}
	};
	const listed = (
		what: 'country' | 'group' | 'goods' | 'delivery' | 'domain',
		choice: Choice | undefined,
		values: readonly string[] | undefined
	) =>
		payer(!!choice, choiceHolds(choice, values), {
			code: 'condition',
			what,
			choice: choice!,
			value: values?.join(', ')
		});
	listed('country', conditions.countries, one(context.country));
	listed('group', conditions.groups, context.groups);
	listed('goods', conditions.goods, one(context.goods));
	listed('delivery', conditions.delivery, one(context.delivery));
	listed('domain', conditions.domains, one(context.domain));
	payer(!!conditions.recurrence, conditions.recurrence === (context.recurring ? 'recurring' : 'one-time'), {
		code: 'recurrence',
		wanted: conditions.recurrence!
	});
	payer(!!conditions.orderedBy, conditions.orderedBy === context.orderedBy, {
		code: 'ordered-by',
		wanted: conditions.orderedBy!
	});
	payer(!!conditions.withoutOnlineMethod, context.hasOnlineMethod === false, { code: 'has-online' });
	if (payerOk) add('payer', true, { code: 'condition-ok', asked });
	// 7
	const troubles = domainTroubles(ability, connection, context, states);
	for (const code of troubles) add('domain', false, { code, domain: context.domain });
	if (!troubles.length) add('domain', true, { code: 'domain-ok', domain: context.domain });
	// 8
	const types = typesLeft(offer, ability, states);
	if (types && isNoType(types))
		add('card types', false, { code: states.pausedSchemes?.length ? 'types-paused' : 'no-types' });
	else add('card types', true, { code: 'types-ok', types });
	return { checks, route, types };
}

/** Check 8: what the offer takes of what the account can take, less the schemes that are paused everywhere. */
export function typesLeft(offer: Offer, ability: Ability | undefined, states: States): CardTypes | undefined {
	if (!hasCard(offer.method)) return undefined;
	const types = intersectTypes(offer.cardTypes ?? anyTypes, ability?.cardTypes ?? anyTypes);
	const { pausedSchemes: paused } = states;
	return paused?.length && types.schemes !== 'any'
		? { ...types, schemes: types.schemes.filter((one) => !paused.includes(one)) }
		: types;
}

export const anyTypes: CardTypes = { schemes: 'any', fundings: 'any', regions: 'any' };

/** Check 7: what the domain lacks; proof and page code are told both. */
export function domainTroubles(
	ability: Ability | undefined,
	connection: ConnectionState | undefined,
	context: Context,
	states: States
): ('no-proof' | 'no-page-code')[] {
	if (!connection || !ability) return [];
	const listed = (book: Readonly<Record<string, readonly string[]>>) =>
		context.domain !== undefined &&
		Object.hasOwn(book, context.domain) &&
		book[context.domain]!.includes(connection.id);
	return [
		...(ability.wantsDomainProof && !listed(states.provenDomains) ? (['no-proof'] as const) : []),
		...(ability.wantsPageCode && !listed(states.pageCodes) ? (['no-page-code'] as const) : [])
	];
}

function accountFacts(
	offer: Offer,
	context: Context,
	name: string,
	connection: ConnectionState | undefined,
	offline: OfflineState | undefined,
	ability: Ability | undefined
): Fact[] {
	if (offline)
		return offline.method !== offer.method
			? [{ code: 'not-offered', name, method: offer.method }]
			: offline.currencies.includes(context.currency)
				? [{ code: 'own-account', name }]
				: [{ code: 'account-currency', name, currency: context.currency, takes: offline.currencies }];
	if (!connection || !ability) return [{ code: 'not-offered', name, method: offer.method }];
	const facts: Fact[] = [];
	if (!ability.currencies.includes(context.currency))
		facts.push({ code: 'account-currency', name, currency: context.currency, takes: ability.currencies });
	if (!ability.entries.includes(context.entry)) facts.push({ code: 'account-entry', name, entry: context.entry });
	if (context.recurring && !ability.entries.includes('recurring'))
		facts.push({ code: 'account-entry', name, entry: 'recurring' });
	for (const limit of ability.limits) {
		if (limit.currency !== context.currency) continue;
		if (limit.minimum !== undefined && context.minor < limit.minimum)
			facts.push({ code: 'account-limit', name, currency: context.currency, bound: limit.minimum, side: 'minimum' });
		if (limit.maximum !== undefined && context.minor > limit.maximum)
			facts.push({ code: 'account-limit', name, currency: context.currency, bound: limit.maximum, side: 'maximum' });
	}
	return facts.length ? facts : [{ code: 'account-ok', name }];
}
