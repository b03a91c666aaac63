import type { Currency } from '../money';
import { applyAct, isOutside, type Act, type Listed, type Standing } from './acts';
import { answer, nameKey } from './answer';
import {
	abilityOf,
	anyTypes,
	carrierName,
	connectionOf,
	routeTrouble,
	typesLeft,
	type Check,
	type Fact
} from './checks';
import { Offer, type Carrier, type Choice, type LineUp } from './lineup';
import { hasCard, methodName, type Method } from './methods';
import type { Context, States } from './states';

// The least change: the fewest acts that would make offered what is withheld. Each failed check has the act that settles it;
// what settles one may fail another, so the offer is asked again after each act, until it is offered or nothing helps.

/** A change that makes one offer offered. */
export interface LeastChange {
	/** the offer that is then offered */
	readonly offer: string;
	readonly name: string;
	readonly acts: readonly Act[];
	/** everything as it is after the acts */
	readonly after: Standing;
}

/** So many acts are tried on one offer before it is given up. */
const MOST_ACTS = 12;
/** How many changes are told. */
export const TOLD_CHANGES = 3;

/** What can carry a method in a context, whether it is paused or not: connections of the till's mode, and offline methods. */
function carriersOf(method: string, { context, states }: Standing): Carrier[] {
	const connections = Object.values(states.connections)
		.filter((one) => one.mode === context.mode && abilityOf(one, method))
		.map((one): Carrier => ({ kind: 'connection', id: one.id }));
	const offline = Object.values(states.offline)
		.filter((one) => one.method === method)
		.map((one): Carrier => ({ kind: 'offline', id: one.id }));
	return [...connections, ...offline];
}

/** The act that settles a failed check; nothing where the account cannot, whatever we do. */
function actFor(offer: Offer, { fact }: Check, standing: Standing): Act | undefined {
	const { context, states, lineUp } = standing;
	const { id } = offer;
	const carrier = Object.hasOwn(offer.routes, context.currency) ? offer.routes[context.currency]!.first : undefined;
	const connection = connectionOf(carrier, states);
	switch (fact.code) {
		case 'offer-off':
			return { kind: 'switch on', offer: id };
		case 'method-paused':
			return { kind: 'resume', what: 'method', value: offer.method };
		case 'currency-paused':
			return { kind: 'resume', what: 'currency', value: context.currency };
		case 'till-currency':
			return { kind: 'take currency', currency: context.currency };
		case 'route-out':
			if (!carrier) return undefined;
			if (fact.why === 'paused')
				return {
					kind: 'resume',
					what: carrier.kind === 'offline' ? 'offline method' : 'connection',
					value: carrier.id
				};
			if (fact.why === 'unverified') return { kind: 'verify', connection: carrier.id };
			if (fact.why === 'failing') return { kind: 'be sound', connection: carrier.id };
			return undefined;
		case 'account-currency':
			return carrier?.kind === 'offline'
				? { kind: 'add offline currency', offline: carrier.id, currency: context.currency }
				: undefined;
		case 'amount-out': {
			const { bound } = fact;
			if (bound.from === 'offer')
				return { kind: 'set limit', offer: id, currency: context.currency, side: bound.side, minor: context.minor };
			return carrier?.kind === 'offline'
				? {
						kind: 'set threshold',
						offline: carrier.id,
						currency: context.currency,
						minor: context.minor,
						common: bound.from === 'common'
					}
				: undefined;
		}
		case 'no-rate': {
			// a limit in the payment's own currency needs no rate
			const bound = offer.conditions.amounts.find((one) => one.currency === fact.to);
			const side =
				bound?.minimum !== undefined && !hasLimit(offer, context.currency, 'minimum') ? 'minimum' : 'maximum';
			if (bound && bound[side] !== undefined && !hasLimit(offer, context.currency, side))
				return { kind: 'set limit', offer: id, currency: context.currency, side, minor: context.minor };
			const threshold =
				carrier?.kind === 'offline' && states.offline[carrier.id]?.thresholds.find((one) => one.currency === fact.to);
			return carrier && threshold
				? {
						kind: 'set threshold',
						offline: carrier.id,
						currency: context.currency,
						minor: context.minor,
						common: threshold.common
					}
				: undefined;
		}
		case 'condition':
			return listAct(offer, fact, context);
		case 'recurrence':
			return { kind: 'drop condition', offer: id, condition: 'recurrence' };
		case 'ordered-by':
			return { kind: 'drop condition', offer: id, condition: 'orderedBy' };
		case 'has-online':
			return { kind: 'drop condition', offer: id, condition: 'withoutOnlineMethod' };
		case 'no-proof':
			return connection && context.domain !== undefined
				? { kind: 'prove domain', connection: connection.id, domain: context.domain }
				: undefined;
		case 'no-page-code':
			return connection && context.domain !== undefined
				? { kind: 'page code', connection: connection.id, domain: context.domain }
				: undefined;
		case 'no-types':
		case 'types-paused': {
			const ability = abilityOf(connection, offer.method);
			const free = typesLeft({ ...offer, cardTypes: undefined }, ability, { ...states, pausedSchemes: [] });
			if (!free || (free.schemes !== 'any' && !free.schemes.length)) return undefined;
			const own = typesLeft(offer, ability, { ...states, pausedSchemes: [] });
			const left = own?.schemes === 'any' ? [] : (own?.schemes ?? []);
			const paused = left.find((one) => states.pausedSchemes?.includes(one));
			if (paused) return { kind: 'resume', what: 'scheme', value: paused };
			return offer.cardTypes ? { kind: 'take all cards', offer: id } : undefined;
		}
		case 'same-name': {
			const name = freeName(offer, carrier, lineUp, states);
			return name ? { kind: 'rename', offer: id, name } : undefined;
		}
		default:
			return undefined;
	}
}

const hasLimit = (offer: Offer, currency: Currency, side: 'minimum' | 'maximum'): boolean =>
	offer.conditions.amounts.some((one) => one.currency === currency && one[side] !== undefined);

const LISTS: Readonly<Record<'country' | 'group' | 'goods' | 'delivery' | 'domain', Listed>> = {
	country: 'countries',
	group: 'groups',
	goods: 'goods',
	delivery: 'delivery',
	domain: 'domains'
};
/** Names the payer's own value in a list, or takes it out of one; where it is not known, or is several, the list goes. */
function listAct(offer: Offer, fact: Extract<Fact, { code: 'condition' }>, context: Context): Act {
	const list = LISTS[fact.what];
	const values = {
		countries: context.country === undefined ? [] : [context.country],
		groups: context.groups ?? [],
		goods: context.goods === undefined ? [] : [context.goods],
		delivery: context.delivery === undefined ? [] : [context.delivery],
		domains: context.domain === undefined ? [] : [context.domain]
	}[list];
	const choice: Choice = fact.choice;
	if (choice.rule === 'only' && values.length) return { kind: 'include', offer: offer.id, list, value: values[0]! };
	const barred = values.filter((one) => choice.values.includes(one));
	if (choice.rule === 'except' && barred.length === 1)
		return { kind: 'include', offer: offer.id, list, value: barred[0]! };
	return { kind: 'drop condition', offer: offer.id, condition: list };
}

const NAME_MAX = 40;
/** A name that no offer of the line-up has. */
function freeName(
	offer: Pick<Offer, 'id' | 'name'>,
	carrier: Carrier | undefined,
	lineUp: LineUp,
	states: States
): string | undefined {
	const taken = new Set(lineUp.filter((one) => one.id !== offer.id).map((one) => nameKey(one.name)));
	const wanted = [
		offer.name,
		...(carrier ? [`${offer.name}, ${carrierName(carrier, states)}`] : []),
		...Array.from({ length: 40 }, (_, n) => `${offer.name} ${n + 2}`)
	];
	return wanted.find((one) => one.length <= NAME_MAX && !taken.has(nameKey(one)));
}

/** The acts that make one offer offered, beginning with some; nothing where an account cannot. */
function settle(id: string, begun: readonly Act[], standing: Standing): LeastChange | undefined {
	let after = standing;
	const acts: Act[] = [];
	for (const act of begun) {
		after = applyAct(after, act);
		acts.push(act);
	}
	while (acts.length <= MOST_ACTS) {
		const { offered, withheld } = answer(after.lineUp, after.context, after.states);
		const shown = offered.find((one) => one.offer.id === id);
		if (shown) return { offer: id, name: shown.offer.name, acts, after };
		const one = withheld.find((each) => each.offer.id === id);
		const failed = one?.checks.filter((check) => !check.ok) ?? [];
		// each fact is settled by itself; what one act settles of the others is seen when it is asked again
		const act = failed.length ? firstAct(one!.offer, failed, after) : undefined;
		if (!act) return undefined;
		after = applyAct(after, act);
		acts.push(act);
	}
	return undefined;
}

/** The act for the first failed check; nothing where any of them has none. */
function firstAct(offer: Offer, failed: readonly Check[], standing: Standing): Act | undefined {
	let first: Act | undefined;
	for (const check of failed) {
		// the reasons that a missing route and an account in another currency give are one, and are settled by the route
		if (check.fact.code === 'offer-currency') continue;
		const act = actFor(offer, check, standing);
		if (!act) return undefined;
		first ??= act;
	}
	return first;
}

const outsideOf = (acts: readonly Act[]): number => acts.filter(isOutside).length;
const smaller = (a: LeastChange, b: LeastChange): LeastChange =>
	a.acts.length !== b.acts.length
		? a.acts.length < b.acts.length
			? a
			: b
		: outsideOf(a.acts) <= outsideOf(b.acts)
			? a
			: b;

/** The fewest acts that would make one withheld offer offered, over every carrier that could take it. */
function changeForOffer(offer: Offer, standing: Standing): LeastChange | undefined {
	const { context } = standing;
	const { currency } = context;
	const has = Object.hasOwn(offer.routes, currency);
	const own = has ? settle(offer.id, [], standing) : undefined;
	const current = has ? offer.routes[currency]!.first : undefined;
	let best = own;
	for (const carrier of carriersOf(offer.method, standing)) {
		if (current && carrier.kind === current.kind && carrier.id === current.id) continue;
		// a route that is out itself would only add to the acts
		if (has && routeTrouble(carrier, context, standing.states)) continue;
		const found = settle(
			offer.id,
			[{ kind: has ? 'change route' : 'add route', offer: offer.id, currency, carrier }],
			standing
		);
		if (found) best = best ? smaller(best, found) : found;
	}
	return best;
}

/** New offers of methods that the till lacks and some carrier of ours takes in this situation: one act each. */
function newOffers(standing: Standing, makeId: (method: string) => string): LeastChange[] {
	const { lineUp, context, states } = standing;
	if (lineUp.length >= 40) return [];
	const there = new Set(lineUp.map((one) => one.method));
	const carriers = [
		...Object.values(states.connections).flatMap((one) =>
			one.abilities.map((ability): [string, Carrier] => [ability.method, { kind: 'connection', id: one.id }])
		),
		...Object.values(states.offline).map((one): [string, Carrier] => [one.method, { kind: 'offline', id: one.id }])
	];
	const found: LeastChange[] = [];
	for (const [method, carrier] of carriers) {
		if (there.has(method as Method) || routeTrouble(carrier, context, states)) continue;
		if (found.some((one) => one.acts.some((act) => act.kind === 'add offer' && act.made.method === method))) continue;
		const bare = {
			id: makeId(method),
			name: carrier.kind === 'offline' ? carrierName(carrier, states).slice(0, NAME_MAX) : methodName(method)
		};
		const name = freeName(bare, carrier, lineUp, states);
		if (!name) continue;
		const made = Offer.parse({
			id: bare.id,
			method,
			name,
			routes: { [context.currency]: { first: carrier } },
			...(hasCard(method) ? { cardTypes: anyTypes } : {})
		});
		const change = settle(made.id, [{ kind: 'add offer', made }], standing);
		if (change) found.push(change);
	}
	return found;
}

const methodOf = ({ offer, after }: LeastChange): string | undefined =>
	after.lineUp.find((one) => one.id === offer)?.method;

/**
 * The smallest changes that would make something offered in a situation: for each withheld offer the fewest acts, and new
 * offers of methods that the till lacks. Fewest acts first, ours before others, then in the order of the line-up. Asked again
 * after its acts, each is offered.
 * @param makeId names an offer that would be added
 * @param only how many are told at most, and of which method alone
 */
export function leastChanges(
	standing: Standing,
	makeId: (method: string) => string,
	{ most = TOLD_CHANGES, method }: { readonly most?: number; readonly method?: string } = {}
): LeastChange[] {
	const { withheld } = answer(standing.lineUp, standing.context, standing.states);
	const found = [
		...withheld.flatMap(({ offer }) => changeForOffer(offer, standing) ?? []),
		...newOffers(standing, makeId)
	].filter((one) => !method || methodOf(one) === method);
	return found
		.map((change, order) => ({ change, order }))
		.sort(
			(a, b) =>
				a.change.acts.length - b.change.acts.length ||
				outsideOf(a.change.acts) - outsideOf(b.change.acts) ||
				a.order - b.order
		)
		.slice(0, most)
		.map(({ change }) => change);
}
