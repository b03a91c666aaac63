import type { CardTypes } from '../cards';
import { formatAmount, formatNumber } from '../money';
import type { Bound, Check, Fact, RouteTrouble } from './checks';
import type { Choice, Offer } from './lineup';
import { countryName, sayCountries } from '../places';
import { methodName } from './methods';

const TROUBLE: Record<RouteTrouble, string> = {
	gone: 'is no longer connected',
	unverified: 'is not verified',
	mode: 'is of the other mode (test and live never mix)',
	paused: 'is paused',
	failing: 'is failing'
};

const list = (values: readonly string[]) => values.join(', ');

/** What is compared with what: “from 20.00 EUR, set on this offer”. */
function sayBound(bound: Bound, locale: string): string {
	const text = `${bound.side === 'minimum' ? 'from' : 'to'} ${formatAmount(bound, locale)}`;
	const where = {
		offer: 'set on this offer',
		method: 'set on the offline method',
		common: 'set for all offline methods'
	}[bound.from];
	return `${text}, ${where}`;
}

function sayRate(bound: Bound, minor: number, currency: string, locale: string): string {
	if (!bound.rate) return '';
	const { rate, day, source, inverse, convertedMinor } = bound.rate;
	return ` ${formatAmount({ minor, currency }, locale)} is ${formatNumber({ minor: convertedMinor, currency: bound.currency }, locale)} ${bound.currency} at ${inverse ? `1 ÷ ${rate}` : rate} of ${day} (${source}).`;
}

const sayChoice = (choice: Choice, what: string): string =>
	what === 'country'
		? `${choice.rule === 'only' ? 'only' : 'not'} for payers in ${sayCountries(choice.values)}`
		: `${choice.rule === 'only' ? 'only' : 'not'} for ${what} ${list(choice.values)}`;

/** Says which card types are left, in a few words. */
export function sayTypes(types: CardTypes | undefined, names: Readonly<Record<string, string>> = {}): string {
	if (!types) return 'No card is needed.';
	const part = (values: readonly string[] | 'any', all: string) =>
		values === 'any' ? all : list(values.map((one) => names[one] ?? one));
	return `${part(types.schemes, 'any scheme')} · ${part(types.fundings, 'any funding')} · ${part(types.regions, 'any region')}`;
}

/**
 * Says what a check found, in a sentence a busy person reads once.
 * @param locale BCP 47, for the figures
 */
export function sayFact(fact: Fact, locale: string): string {
	switch (fact.code) {
		case 'offer-on':
			return 'The offer is on.';
		case 'offer-off':
			return 'The offer is switched off.';
		case 'method-free':
			return 'The method is not paused.';
		case 'method-paused':
			return 'The method is paused everywhere.';
		case 'route':
			return fact.standby
				? `${fact.name} stands by, because ${fact.firstName} ${TROUBLE[fact.firstWhy!]}.`
				: `${fact.name} is verified and working.`;
		case 'no-route':
			return `No route is set for ${fact.currency}.`;
		case 'route-out':
			return `${fact.name} ${TROUBLE[fact.why]}; ${fact.standbyName ? `standby ${fact.standbyName} ${TROUBLE[fact.standbyWhy!]}` : 'there is no standby'}.`;
		case 'account-ok':
			return `The account at ${fact.name} can carry it.`;
		case 'own-account':
			return `${fact.name} needs no processor.`;
		case 'not-offered':
			return `${fact.name || 'The route'} does not carry ${methodName(fact.method).toLowerCase()}.`;
		case 'account-currency':
			return `${fact.name} carries ${list(fact.takes)}, not ${fact.currency}.`;
		case 'account-entry':
			return `${fact.name} does not carry ${fact.entry} payments.`;
		case 'account-limit':
			return `${fact.name} itself carries ${fact.side === 'minimum' ? 'from' : 'up to'} ${formatAmount({ minor: fact.bound, currency: fact.currency }, locale)}.`;
		case 'currency-ok':
			return `Till and offer take ${fact.currency}.`;
		case 'currency-paused':
			return `${fact.currency} is paused everywhere.`;
		case 'till-currency':
			return `The till takes ${list(fact.takes)}, not ${fact.currency}.`;
		case 'offer-currency':
			return `The offer takes ${list(fact.takes) || 'no currency'}, not ${fact.currency}.`;
		case 'amount-ok':
			return fact.bounds.length
				? `The amount is within: ${fact.bounds.map((bound) => sayBound(bound, locale)).join('; ')}.`
				: 'Any amount.';
		case 'amount-out':
			return `Only ${sayBound(fact.bound, locale)}.${sayRate(fact.bound, fact.minor, fact.currency, locale)}`;
		case 'no-rate':
			return `No rate from ${fact.from} to ${fact.to} is known, so the limit cannot be compared.`;
		case 'condition-ok':
			return fact.asked ? `All ${fact.asked} conditions on the payer hold.` : 'No condition on the payer.';
		case 'condition':
			return `It is ${sayChoice(fact.choice, fact.what)}; this payer’s is ${(fact.value && fact.what === 'country' ? countryName(fact.value) : fact.value) || 'not known'}.`;
		case 'recurrence':
			return `Only for ${fact.wanted} payments.`;
		case 'ordered-by':
			return fact.wanted === 'page' ? 'Only for orders made on the page.' : 'Only for orders made through the API.';
		case 'has-online':
			return 'Only for payers without an online method.';
		case 'domain-ok':
			return 'No proof or page code is missing.';
		case 'no-proof':
			return `${fact.domain ?? 'The domain'} has no proof for this wallet yet.`;
		case 'no-page-code':
			return `${fact.domain ?? 'The domain'} lacks the page code that this method wants.`;
		case 'types-ok':
			return sayTypes(fact.types);
		case 'types-paused':
			return 'The schemes that are left are paused everywhere.';
		case 'no-types':
			return 'No card type is left: what the offer takes, the account cannot take.';
		case 'beside-ok':
			return 'Nothing offered above it stands in its way.';
		case 'excluded':
			return `${fact.name} may not stand at one till with ${fact.other}, which is offered above.`;
		case 'same-name':
			return `“${fact.name}” is already shown above, and two ways of one name would confuse payers.`;
	}
}

/** A reason why an offer is withheld, and what else is so for that very reason. */
export interface FoldedReason {
	readonly check: Check;
	readonly under: readonly Check[];
}

/**
 * Failed checks with each reason once: where a currency has no route, that its offer does not take it and that the account of
 * another currency does not carry it are the same reason; where the till does not take it, all of these are.
 */
export function foldReasons(failed: readonly Check[]): FoldedReason[] {
	const of = (code: Fact['code']) => failed.find((check) => check.fact.code === code);
	const main = of('till-currency') ?? of('currency-paused') ?? of('no-route');
	if (!main) return failed.map((check) => ({ check, under: [] }));
	const same: readonly Fact['code'][] = [
		'till-currency',
		'currency-paused',
		'no-route',
		'offer-currency',
		'account-currency'
	];
	const under = failed.filter((check) => check !== main && same.includes(check.fact.code));
	return [
		{ check: main, under },
		...failed.filter((check) => check !== main && !under.includes(check)).map((check) => ({ check, under: [] }))
	];
}

export const failedChecks = (checks: readonly Check[]): Check[] => checks.filter((check) => !check.ok);

/** What an offer asks, in short sentences; none where it asks nothing. */
export function conditionsInWords(
	offer: Offer,
	locale: string,
	names: Readonly<Record<string, string>> = {}
): string[] {
	const { conditions: c } = offer;
	const says: string[] = [];
	for (const { currency, minimum, maximum } of c.amounts)
		says.push(
			[
				minimum === undefined ? '' : `from ${formatAmount({ minor: minimum, currency }, locale)}`,
				maximum === undefined ? '' : `to ${formatAmount({ minor: maximum, currency }, locale)}`
			]
				.filter(Boolean)
				.join(' ')
		);
	const listed = (choice: Choice | undefined, what: string) => {
		if (choice)
			says.push(
				`${choice.rule === 'only' ? 'only' : 'not'} ${what} ${list(choice.values.map((one) => names[one] ?? one))}`
			);
	};
	listed(c.countries, 'payers in');
	listed(c.groups, 'the group');
	listed(c.goods, 'for');
	listed(c.delivery, 'delivered by');
	listed(c.domains, 'on');
	if (c.recurrence) says.push(c.recurrence === 'recurring' ? 'paid again and again only' : 'paid once only');
	if (c.orderedBy) says.push(c.orderedBy === 'page' ? 'ordered on the page only' : 'ordered through the API only');
	if (c.withoutOnlineMethod) says.push('only for payers without an online method');
	const { cardTypes } = offer;
	if (cardTypes && cardTypes.fundings !== 'any') says.push(`${list(cardTypes.fundings)} cards only`);
	if (cardTypes && cardTypes.regions !== 'any') says.push(`${list(cardTypes.regions)} cards only`);
	return says;
}
