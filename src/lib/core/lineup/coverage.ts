import { answer, offeredOnly, type Beaten } from './answer';
import type { Rule } from './checks';
import type { Choice, LineUp, Offer } from './lineup';
import { formatNumber } from '../money';
import { amountCuts } from './ruler';
import type { Context, States } from './states';

/** What may tell payers apart, beside currency and amount. */
export const FACETS = ['country', 'groups', 'goods', 'delivery', 'domain', 'orderedBy', 'online'] as const;
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
/** more groups than this no line-up names; their combinations are each looked at once */
const MANY_GROUPS = 14;

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
		...[...bySign.values()].map((values) => ({ says: values.join(', '), set: set(values[0]) })),
		{ says: other.says, set: set(other.value) },
		{ says: 'not known', set: set(undefined) }
	];
}

function groupClasses(choices: readonly Choice[]): FacetClass[] {
	if (!choices.length) return [{ says: '', set: {} }];
	const groups = [...new Set(choices.flatMap((one) => one.values))].slice(0, MANY_GROUPS);
	const seen = new Set<string>();
	const classes: FacetClass[] = [];
	for (let bits = 0; bits < 2 ** groups.length; bits++) {
		const mine = groups.filter((_, at) => bits & (1 << at));
		const sign = choices.map((one) => (mine.some((group) => one.values.includes(group)) ? '1' : '0')).join('');
		if (seen.has(sign)) continue;
		seen.add(sign);
		classes.push({ says: mine.join(' and ') || 'in none of them', set: { groups: mine } });
	}
	return [...classes, { says: 'not known', set: { groups: undefined } }];
}

const given = (lineUp: LineUp, pick: (offer: Offer) => Choice | undefined): Choice[] =>
	lineUp.map(pick).filter((one) => one !== undefined);

/** The classes of payers in every facet, exact: what no condition tells apart is one. */
export function facetClasses(lineUp: LineUp, domains: readonly string[]): Record<Facet, FacetClass[]> {
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
		domain: domains.length ? domains.map((domain) => ({ says: domain, set: { domain } })) : [{ says: '', set: {} }],
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
		facetClasses(lineUp, domains),
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
		facetClasses([...before.lineUp, ...after.lineUp], domains),
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
			.split(/(, | and |; )/)
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
