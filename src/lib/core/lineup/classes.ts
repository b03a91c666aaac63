import type { Choice, LineUp, Offer } from './lineup';
import type { Context, States } from './states';

/** What may tell payers apart, beside currency and amount. */
export const FACETS = [
	'country',
	'groups',
	'goods',
	'delivery',
	'domain',
	'recurrence',
	'orderedBy',
	'online'
] as const;
export type Facet = (typeof FACETS)[number];

/** A class of payers that no condition of the line-up tells apart in one facet. */
export interface FacetClass {
	readonly says: string;
	readonly set: Partial<Context>;
}
export type Classes = Readonly<Record<Facet, readonly FacetClass[]>>;

/** More ways in which groups may come together are not told apart: each condition on groups can double them. */
const MOST_UNIONS = 4_096;

/** More classes than a computation may look at. */
export class TooManyClasses extends Error {}

/** stands for any kind of goods or delivery that no condition names */
const ELSE = 'anything else';
/** The classes into which conditions part one value: alike where every condition says the same of them. */
function valueClasses(
	choices: readonly Choice[],
	set: (value: string | undefined) => Partial<Context>,
	other: { value: string; says: string }
): FacetClass[] {
	if (!choices.length) return [{ says: '', set: {} }];
	const sign = (value: string) => choices.map((one) => (one.values.includes(value) ? '1' : '0')).join('');
	const bySign = new Map<string, string[]>();
	for (const value of new Set(choices.flatMap((one) => one.values)))
		bySign.set(sign(value), [...(bySign.get(sign(value)) ?? []), value]);
	return [
		...[...bySign.values()].map((values) => ({ says: either(values), set: set(values[0]) })),
		{ says: other.says, set: set(other.value) },
		{ says: 'not known', set: set(undefined) }
	];
}

/** Values that no condition tells apart, as one reads them aloud. */
const either = (values: readonly string[]): string => values.join(' or ');

/**
 * The classes into which conditions on groups part payers, who may be in any number of them. Groups that every condition
 * names alike are one; what a payer in several meets is what the conditions say of all of them together, so that the
 * classes are as many as there are different unions, however many groups there are.
 * @throws TooManyClasses where there are too many unions to tell apart
 */
function groupClasses(choices: readonly Choice[]): FacetClass[] {
	if (!choices.length) return [{ says: '', set: {} }];
	const bySign = new Map<bigint, string[]>();
	for (const group of new Set(choices.flatMap((one) => one.values))) {
		const sign = choices.reduce((bits, one, at) => (one.values.includes(group) ? bits | (1n << BigInt(at)) : bits), 0n);
		bySign.set(sign, [...(bySign.get(sign) ?? []), group]);
	}
	const classes = new Map<bigint, { says: string[]; groups: string[] }>([[0n, { says: [], groups: [] }]]);
	for (const [sign, groups] of bySign)
		for (const [before, one] of [...classes]) {
			const union = before | sign;
			// the first way to a union is the one with the fewest groups that matter
			const way = { says: [...one.says, either(groups)], groups: [...one.groups, groups[0]!] };
			const known = classes.get(union);
			if (!known || known.groups.length > way.groups.length) classes.set(union, way);
			if (classes.size > MOST_UNIONS) throw new TooManyClasses();
		}
	return [
		...[...classes.values()].map(({ says, groups }) => ({
			says: says.join(' and ') || 'in none of them',
			set: { groups }
		})),
		{ says: 'not known', set: { groups: undefined } }
	];
}

/**
 * The classes into which conditions, proofs and page codes part web domains: the till's own, every other one that something
 * knows, any other, and none where an order that names none has none.
 */
function domainClasses(
	choices: readonly Choice[],
	states: readonly States[],
	wanting: ReadonlySet<string>,
	base: Context,
	domains: readonly string[]
): FacetClass[] {
	const books = states.flatMap((one) => [one.provenDomains, one.pageCodes]);
	const known = new Set([
		...domains,
		...(base.domain === undefined ? [] : [base.domain]),
		...choices.flatMap((one) => one.values),
		...books.flatMap((book) => Object.keys(book))
	]);
	if (!choices.length && !wanting.size) return [{ says: '', set: {} }];
	const sign = (domain: string | undefined) =>
		JSON.stringify([
			domain === undefined,
			choices.map((one) => domain !== undefined && one.values.includes(domain)),
			books.map((book) => (domain === undefined ? [] : (book[domain] ?? []).filter((id) => wanting.has(id))))
		]);
	const bySign = new Map<string, { says: string[]; domain: string | undefined }>();
	const add = (says: string, domain: string | undefined) => {
		const key = sign(domain);
		const one = bySign.get(key);
		if (one) one.says.push(says);
		else bySign.set(key, { says: [says], domain });
	};
	for (const domain of known) add(domain, domain);
	add('another domain', 'another.invalid');
	if (base.domain === undefined) add('no domain', undefined);
	return [...bySign.values()].map(({ says, domain }) => ({ says: either(says), set: { domain } }));
}

const given = (lineUp: LineUp, pick: (offer: Offer) => Choice | undefined): Choice[] =>
	lineUp.map(pick).filter((one) => one !== undefined);

/** Connections that want something of the web domain for a method that a line-up offers through them. */
function wantingConnections(lineUp: LineUp, states: readonly States[]): Set<string> {
	const found = new Set<string>();
	for (const offer of lineUp)
		for (const route of Object.values(offer.routes))
			for (const carrier of [route.first, route.standby])
				for (const one of states) {
					const connection = carrier?.kind === 'connection' ? one.connections[carrier.id] : undefined;
					const ability = connection?.abilities.find(({ method }) => method === offer.method);
					if (ability?.wantsDomainProof || ability?.wantsPageCode) found.add(connection!.id);
				}
	return found;
}

/**
 * The classes of payers in every facet, exact: what no condition, ability or address tells apart is one.
 * @throws TooManyClasses where payers may be in too many different groups at once
 */
export function facetClasses(
	lineUp: LineUp,
	states: readonly States[],
	base: Context,
	domains: readonly string[]
): Classes {
	const on = lineUp.filter((offer) => offer.on);
	const countries = given(on, (offer) => offer.conditions.countries);
	const named = new Set(countries.flatMap((one) => one.values));
	const elsewhere = ['AQ', 'BV', 'HM', 'TF', 'IO', 'GS'].find((code) => !named.has(code)) ?? 'UM';
	const asksOrder = on.some((offer) => offer.conditions.orderedBy);
	return {
		country: valueClasses(countries, (country) => ({ country }), { value: elsewhere, says: 'another country' }),
		groups: groupClasses(given(on, (offer) => offer.conditions.groups)),
		goods: valueClasses(
			given(on, (offer) => offer.conditions.goods),
			(goods) => ({ goods }),
			{ value: ELSE, says: 'other goods' }
		),
		delivery: valueClasses(
			given(on, (offer) => offer.conditions.delivery),
			(delivery) => ({ delivery }),
			{ value: ELSE, says: 'another delivery' }
		),
		domain: domainClasses(
			given(on, (offer) => offer.conditions.domains),
			states,
			wantingConnections(on, states),
			base,
			domains
		),
		// an address may ask for recurring payments anywhere; where payments always recur, nothing says otherwise
		recurrence: base.recurring
			? [{ says: '', set: { recurring: true } }]
			: [
					{ says: 'one-time', set: { recurring: false } },
					{ says: 'recurring', set: { recurring: true } }
				],
		orderedBy: asksOrder
			? [
					{ says: 'on the page', set: { orderedBy: 'page' } },
					{ says: 'through the API', set: { orderedBy: 'interface' } }
				]
			: [{ says: '', set: {} }],
		online: on.some((offer) => offer.conditions.withoutOnlineMethod)
			? [
					{ says: 'with an online method', set: { hasOnlineMethod: true } },
					{ says: 'without an online method', set: { hasOnlineMethod: false } },
					{ says: 'not known', set: { hasOnlineMethod: undefined } }
				]
			: [{ says: '', set: {} }]
	};
}
