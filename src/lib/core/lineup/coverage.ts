import { answer, offeredOnly, type Beaten } from './answer';
import type { Rule } from './checks';
import type { Choice, LineUp, Offer } from './lineup';
import { formatNumber } from '../money';
import { amountCuts } from './ruler';
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

/** A set of payers and amounts to all of which the same is offered. A facet that is left out does not matter. */
export interface Situation {
	readonly currency: string;
	/** minor units, included */
	readonly from: number;
	/** minor units, included; undefined when it never ends */
	readonly to?: number;
	readonly payers: Readonly<Partial<Record<Facet, string>>>;
	/** a context of the situation, to ask with */
	readonly context: Context;
	readonly offers: readonly { readonly id: string; readonly name: string; readonly carrier: string }[];
	/** how many connections and offline methods carry them */
	readonly carriers: number;
	/** offers withheld for what stands above them */
	readonly beaten: readonly { readonly id: string; readonly name: string; readonly why: Beaten['why'] }[];
}

/** An offer that no payer ever meets, and the rules that bury it: one where it fails everywhere, else those that do in turn. */
export interface Buried {
	readonly id: string;
	readonly name: string;
	readonly rules: readonly Rule[];
	/** a context in which it comes nearest to being offered */
	readonly nearest: Context;
}

export interface Coverage {
	/** how many classes were asked, each once */
	readonly asked: number;
	readonly situations: readonly Situation[];
	readonly buried: readonly Buried[];
}

export interface CoverageInput {
	readonly lineUp: LineUp;
	readonly states: States;
	/** till, mode, day, entry; the rest of it does not count */
	readonly base: Context;
	/** web domains on which the till is shown; none where it has none */
	readonly domains: readonly string[];
}

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

/** The classes of payers in every facet, exact: what no condition, ability or address tells apart is one. */
export function facetClasses(
	lineUp: LineUp,
	states: readonly States[],
	base: Context,
	domains: readonly string[]
): Record<Facet, FacetClass[]> {
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
					{ says: 'by the interface', set: { orderedBy: 'interface' } }
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

type Raw = Situation & { readonly key: string };

/** Every combination of classes of payers. */
function combinations(classes: Record<Facet, FacetClass[]>) {
	let combos: { payers: Partial<Record<Facet, string>>; set: Partial<Context> }[] = [{ payers: {}, set: {} }];
	for (const facet of FACETS)
		combos = combos.flatMap(({ payers, set }) =>
			classes[facet].map((one) => ({
				payers: one.says ? { ...payers, [facet]: one.says } : payers,
				set: { ...set, ...one.set }
			}))
		);
	return combos;
}

const NOTHING = { offers: [], carriers: 0, beaten: [] };

/**
 * Asks each class of payers and amounts once, and joins neighbouring stretches of amounts that are told alike.
 * @param tell what is told of a class, with a key that is the same for what is alike; nothing leaves the class out
 */
function sweep(
	classes: Record<Facet, FacetClass[]>,
	base: Context,
	startsOf: (currency: string) => readonly number[],
	tell: (context: Context) => (Pick<Situation, 'offers' | 'carriers' | 'beaten'> & { key: string }) | undefined
): Raw[] {
	const raw: Raw[] = [];
	const combos = combinations(classes);
	for (const currency of base.tillCurrencies) {
		const starts = startsOf(currency);
		for (const { payers, set } of combos) {
			let last: Raw | undefined;
			starts.forEach((from, at) => {
				const next = starts[at + 1];
				const to = next === undefined ? undefined : next - 1;
				const context: Context = { ...base, ...set, currency, minor: from };
				const told = tell(context);
				if (!told) {
					last = undefined;
					return;
				}
				if (last && last.key === told.key) last = raw[raw.length - 1] = { ...last, to };
				else raw.push((last = { ...told, currency, from, to, payers, context }));
			});
		}
	}
	return FACETS.reduce((list, facet) => joined(list, facet, classes[facet].length), raw);
}

/**
 * What every payer would meet at a till: each class of payers and amounts is asked once, and classes to which the same
 * is offered are told as one. Exact, for every condition is a step: between two limits in play nothing can change.
 */
export function coverage({ lineUp, states, base, domains }: CoverageInput): Coverage {
	const shown = new Set<string>();
	const asked: Context[] = [];
	const situations = sweep(
		facetClasses(lineUp, [states], base, domains),
		base,
		(currency) => amountCuts(lineUp, { ...base, currency }, states),
		(context) => {
			const beaten: Beaten[] = [];
			const offered = offeredOnly(lineUp, context, states, beaten);
			asked.push(context);
			for (const one of offered) shown.add(one.offer.id);
			return {
				key: `${offered.map((one) => `${one.offer.id} ${one.carrier.id}`).join('\n')}\n\n${beaten.map((one) => `${one.offer.id} ${one.why}`).join('\n')}`,
				offers: offered.map((one) => ({ id: one.offer.id, name: one.offer.name, carrier: one.carrier.id })),
				carriers: new Set(offered.map((one) => one.carrier.id)).size,
				beaten: beaten.map((one) => ({ id: one.offer.id, name: one.offer.name, why: one.why }))
			};
		}
	);
	return {
		asked: asked.length,
		situations: situations.map(({ key: _, ...one }) => one).sort(worstFirst),
		buried: lineUp
			.filter((offer) => offer.on && !shown.has(offer.id))
			.map((offer) => buried(offer, lineUp, states, asked))
	};
}

/**
 * Situations in which something is offered before, and nothing after: of another line-up, or of the same one in other
 * states. Exact, over the classes that the conditions of both tell apart.
 */
export function lostSituations(
	before: Pick<CoverageInput, 'lineUp' | 'states'>,
	after: Pick<CoverageInput, 'lineUp' | 'states'>,
	base: Context,
	domains: readonly string[]
): Situation[] {
	const found = sweep(
		facetClasses([...before.lineUp, ...after.lineUp], [before.states, after.states], base, domains),
		base,
		(currency) =>
			[...new Set([before, after].flatMap((one) => amountCuts(one.lineUp, { ...base, currency }, one.states)))].sort(
				(a, b) => a - b
			),
		(context) =>
			offeredOnly(after.lineUp, context, after.states).length === 0 &&
			offeredOnly(before.lineUp, context, before.states).length > 0
				? { key: 'lost', ...NOTHING }
				: undefined
	);
	return found.map(({ key: _, ...one }) => one).sort(worstFirst);
}

/** Joins situations that differ in one facet only and are the same in all of its classes. */
function joined(list: readonly Raw[], facet: Facet, many: number): Raw[] {
	if (many < 2) return [...list];
	const groups = new Map<string, Raw[]>();
	for (const one of list) {
		const key = JSON.stringify([one.currency, one.from, one.to, one.key, { ...one.payers, [facet]: undefined }]);
		groups.set(key, [...(groups.get(key) ?? []), one]);
	}
	return [...groups.values()].flatMap((same) => {
		if (same.length < 2) return same;
		const { [facet]: _, ...rest } = same[0]!.payers;
		if (same.length === many) return [{ ...same[0]!, payers: rest }];
		return [{ ...same[0]!, payers: { ...rest, [facet]: same.map((one) => one.payers[facet]).join('; ') } }];
	});
}

const clashes = (one: Situation) => one.beaten.some((other) => other.why === 'same-name');
/** Empty ones first, then names that meet, then those that hang on one route. */
const rank = (one: Situation) => (one.offers.length === 0 ? 0 : clashes(one) ? 1 : one.carriers === 1 ? 2 : 3);
const worstFirst = (a: Situation, b: Situation) =>
	rank(a) - rank(b) || a.currency.localeCompare(b.currency) || a.from - b.from;

export const emptySituations = (list: readonly Situation[]) => list.filter((one) => one.offers.length === 0);
export const clashingSituations = (list: readonly Situation[]) => list.filter(clashes);
export const singleSituations = (list: readonly Situation[]) =>
	list.filter((one) => one.offers.length > 0 && one.carriers === 1);

/** Why an offer never appears: the rule that fails in every class, else those that fail where the fewest do. */
function buried(offer: Offer, lineUp: LineUp, states: States, asked: readonly Context[]): Buried {
	let everywhere: Set<Rule> | undefined;
	let nearest = asked[0];
	let fewest = Infinity;
	let inTurn = new Set<Rule>();
	for (const context of asked) {
		const withheld = answer(lineUp, context, states).withheld.find((one) => one.offer.id === offer.id);
		const failed = new Set((withheld?.checks ?? []).filter((check) => !check.ok).map((check) => check.rule));
		everywhere = everywhere ? new Set([...everywhere].filter((rule) => failed.has(rule))) : failed;
		if (failed.size < fewest) {
			[fewest, nearest] = [failed.size, context];
			inTurn = new Set();
		}
		if (failed.size === fewest) for (const rule of failed) inTurn.add(rule);
	}
	const [always] = everywhere ?? [];
	return { id: offer.id, name: offer.name, rules: always ? [always] : [...inTurn], nearest: nearest! };
}

const FACET_WORDS: Record<Facet, string> = {
	country: 'payer’s country',
	groups: 'group',
	goods: 'goods',
	delivery: 'delivery',
	domain: 'on',
	recurrence: 'payment',
	orderedBy: 'ordered',
	online: 'payer'
};

/** For whom and from when to when a situation holds: `EUR, 0.01 to 19.99; payer’s country: BE`. */
export function saySituation(
	{ currency, from, to, payers }: Pick<Situation, 'currency' | 'from' | 'to' | 'payers'>,
	locale: string,
	names: Readonly<Record<string, string>> = {}
): string {
	const sum = (minor: number) => formatNumber({ minor, currency }, locale);
	const amounts =
		to === undefined
			? from <= 1
				? 'any amount'
				: `from ${sum(from)} up`
			: from <= 1
				? `up to ${sum(to)}`
				: `${sum(from)} to ${sum(to)}`;
	const named = (text: string) =>
		text
			.split(/( or | and |; )/)
			.map((part) => names[part] ?? part)
			.join('');
	const parts = FACETS.filter((facet) => payers[facet]).map(
		(facet) => `${FACET_WORDS[facet]}: ${named(payers[facet]!)}`
	);
	return [`${currency}, ${amounts}`, ...parts].join('; ');
}

/**
 * Details that a till should ask for and does not.
 * @param till what it asks, and whether what it sells is delivered
 */
export function detailsNotAsked(
	lineUp: LineUp,
	till: { readonly asksAddress: string; readonly delivers: boolean }
): string[] {
	const says: string[] = [];
	if (till.asksAddress !== 'no') return says;
	if (till.delivers) says.push('What it sells is delivered, and it asks for no address.');
	const onDelivery = lineUp.find((offer) => offer.on && offer.method === 'on-delivery');
	if (onDelivery) says.push(`${onDelivery.name} is paid at the door, and no address is asked.`);
	return says;
}
