import type { Currency } from '../money';
import type { AmountBounds, Carrier, LineUp, Offer } from './lineup';
import type { Context, States } from './states';

// Acts that change what is offered: on the line-up, elsewhere with us, or at a processor or a domain.

export type Listed = 'countries' | 'groups' | 'goods' | 'delivery' | 'domains';

/** One act that settles a failed check. Ours change line-up, till or what is paused; the rest happens elsewhere. */
export type Act =
	// on the line-up
	| { readonly kind: 'switch on'; readonly offer: string }
	| { readonly kind: 'add route'; readonly offer: string; readonly currency: Currency; readonly carrier: Carrier }
	| { readonly kind: 'change route'; readonly offer: string; readonly currency: Currency; readonly carrier: Carrier }
	| {
			readonly kind: 'set limit';
			readonly offer: string;
			readonly currency: Currency;
			readonly side: 'minimum' | 'maximum';
			readonly minor: number;
	  }
	| { readonly kind: 'include'; readonly offer: string; readonly list: Listed; readonly value: string }
	| {
			readonly kind: 'drop condition';
			readonly offer: string;
			readonly condition: Listed | 'recurrence' | 'orderedBy' | 'withoutOnlineMethod';
	  }
	| { readonly kind: 'take all cards'; readonly offer: string }
	| { readonly kind: 'rename'; readonly offer: string; readonly name: string }
	| { readonly kind: 'add offer'; readonly made: Offer }
	// of ours, elsewhere
	| { readonly kind: 'take currency'; readonly currency: Currency }
	| {
			readonly kind: 'resume';
			readonly what: 'method' | 'currency' | 'scheme' | 'connection' | 'offline method';
			readonly value: string;
	  }
	| {
			readonly kind: 'set threshold';
			readonly offline: string;
			readonly currency: Currency;
			readonly minor: number;
			readonly common: boolean;
	  }
	| { readonly kind: 'add offline currency'; readonly offline: string; readonly currency: Currency }
	// at the processor, or at the domain
	| { readonly kind: 'verify'; readonly connection: string }
	| { readonly kind: 'be sound'; readonly connection: string }
	| { readonly kind: 'prove domain'; readonly connection: string; readonly domain: string }
	| { readonly kind: 'page code'; readonly connection: string; readonly domain: string };

export type ActKind = Act['kind'];
const LINE_UP_ACTS: readonly ActKind[] = [
	'switch on',
	'add route',
	'change route',
	'set limit',
	'include',
	'drop condition',
	'take all cards',
	'rename',
	'add offer'
];
const OUTSIDE_ACTS: readonly ActKind[] = ['verify', 'be sound', 'prove domain', 'page code'];
/** Whether a draft of the till carries it. */
export const isOnLineUp = (act: Act): boolean => LINE_UP_ACTS.includes(act.kind);
/** Whether it is settled at the processor or at the domain, not here. */
export const isOutside = (act: Act): boolean => OUTSIDE_ACTS.includes(act.kind);

/** What acts change: the line-up, the till's currencies, and what is known of carriers. */
export interface Standing {
	readonly lineUp: LineUp;
	readonly context: Context;
	readonly states: States;
}

const without = (values: readonly string[], gone: readonly string[]) => values.filter((one) => !gone.includes(one));

/** Everything after one act. @throws Error for an act on an offer that is not there */
export function applyAct({ lineUp, context, states }: Standing, act: Act): Standing {
	const edit = (id: string, change: (offer: Offer) => Offer): Standing => {
		if (!lineUp.some((one) => one.id === id)) throw new Error(`There is no offer ${id}.`);
		return { lineUp: lineUp.map((one) => (one.id === id ? change(one) : one)), context, states };
	};
	const onStates = (changes: Partial<States>): Standing => ({ lineUp, context, states: { ...states, ...changes } });
	switch (act.kind) {
		case 'switch on':
			return edit(act.offer, (offer) => ({ ...offer, on: true }));
		case 'add route':
			return edit(act.offer, (offer) => ({
				...offer,
				routes: { ...offer.routes, [act.currency]: { first: act.carrier } }
			}));
		case 'change route':
			return edit(act.offer, (offer) => ({
				...offer,
				routes: { ...offer.routes, [act.currency]: { first: act.carrier } }
			}));
		case 'set limit':
			return edit(act.offer, (offer) => ({
				...offer,
				conditions: { ...offer.conditions, amounts: withLimit(offer.conditions.amounts, act) }
			}));
		case 'include':
			return edit(act.offer, (offer) => {
				const choice = offer.conditions[act.list]!;
				const values = choice.rule === 'only' ? [...choice.values, act.value] : without(choice.values, [act.value]);
				return {
					...offer,
					conditions: { ...offer.conditions, [act.list]: values.length ? { ...choice, values } : undefined }
				};
			});
		case 'drop condition':
			return edit(act.offer, (offer) => ({
				...offer,
				conditions: { ...offer.conditions, [act.condition]: undefined }
			}));
		case 'take all cards':
			return edit(act.offer, (offer) => ({ ...offer, cardTypes: undefined }));
		case 'rename':
			return edit(act.offer, (offer) => ({ ...offer, name: act.name }));
		case 'add offer':
			return { lineUp: [...lineUp, act.made], context, states };
		case 'take currency':
			return { lineUp, states, context: { ...context, tillCurrencies: [...context.tillCurrencies, act.currency] } };
		case 'resume':
			if (act.what === 'method') return onStates({ pausedMethods: without(states.pausedMethods, [act.value]) });
			if (act.what === 'currency')
				return onStates({ pausedCurrencies: without(states.pausedCurrencies ?? [], [act.value]) });
			if (act.what === 'scheme') return onStates({ pausedSchemes: without(states.pausedSchemes ?? [], [act.value]) });
			return act.what === 'connection'
				? onStates({
						connections: { ...states.connections, [act.value]: { ...states.connections[act.value]!, paused: false } }
					})
				: onStates({ offline: { ...states.offline, [act.value]: { ...states.offline[act.value]!, paused: false } } });
		case 'set threshold': {
			const method = states.offline[act.offline]!;
			const others = method.thresholds.filter((one) => one.common !== act.common || one.currency !== act.currency);
			const thresholds = [...others, { currency: act.currency, minimum: act.minor, common: act.common }];
			return onStates({ offline: { ...states.offline, [act.offline]: { ...method, thresholds } } });
		}
		case 'add offline currency': {
			const method = states.offline[act.offline]!;
			return onStates({
				offline: { ...states.offline, [act.offline]: { ...method, currencies: [...method.currencies, act.currency] } }
			});
		}
		case 'verify':
			return onStates({
				connections: {
					...states.connections,
					[act.connection]: { ...states.connections[act.connection]!, verified: true }
				}
			});
		case 'be sound':
			return onStates({
				connections: {
					...states.connections,
					[act.connection]: { ...states.connections[act.connection]!, failing: false }
				}
			});
		case 'prove domain':
			return onStates({ provenDomains: added(states.provenDomains, act.domain, act.connection) });
		case 'page code':
			return onStates({ pageCodes: added(states.pageCodes, act.domain, act.connection) });
	}
}

const added = (book: Readonly<Record<string, readonly string[]>>, key: string, value: string) => ({
	...book,
	[key]: [...(Object.hasOwn(book, key) ? book[key]! : []), value]
});

/** Bounds with one of them moved so far that an amount lies within; one bound a currency and side is left. */
function withLimit(
	amounts: readonly AmountBounds[],
	{ currency, side, minor }: { currency: Currency; side: 'minimum' | 'maximum'; minor: number }
): AmountBounds[] {
	const other = side === 'minimum' ? 'maximum' : 'minimum';
	const left = amounts
		.map((one) => (one.currency === currency && one[side] !== undefined ? { ...one, [side]: undefined } : one))
		.filter((one) => one.minimum !== undefined || one.maximum !== undefined);
	const at = left.findIndex(
		(one) => one.currency === currency && one[side] === undefined && fits(one[other], minor, side)
	);
	if (at < 0) return [...left, { currency, [side]: minor }];
	return left.map((one, n) => (n === at ? { ...one, [side]: minor } : one));
}
const fits = (other: number | undefined, minor: number, side: 'minimum' | 'maximum'): boolean =>
	other === undefined || (side === 'minimum' ? minor <= other : minor >= other);
