import { answer, offeredOf, prepare, type Beaten, type Offered, type Prepared } from './answer';
import type { Rule } from './checks';
import { FACETS, facetClasses, TooManyClasses, type Classes, type Facet } from './classes';
import { choiceHolds, type LineUp, type Offer } from './lineup';
import { formatNumber } from '../money';
import { amountCuts } from './ruler';
import type { Context, States } from './states';

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

/** A currency whose situations were not looked at: they are more than the computation may take. */
export interface NotLooked {
	readonly currency: string;
	/** how many classes of payers and amounts it has; undefined where even their number is beyond counting */
	readonly classes?: number;
}

export interface Coverage {
	/** how many classes of payers and amounts there are in what was looked at, every one of them answered */
	readonly asked: number;
	readonly situations: readonly Situation[];
	/** told where everything was looked at */
	readonly buried: readonly Buried[];
	readonly notLooked: readonly NotLooked[];
}

export interface CoverageInput {
	readonly lineUp: LineUp;
	readonly states: States;
	/** till, mode, day, entry; the rest of it does not count */
	readonly base: Context;
	/** web domains on which the till is shown; none where it has none */
	readonly domains: readonly string[];
}

/** So many steps one question may take: two to three seconds, and some hundred megabytes at most. */
const STEPS = 2_000_000;
/** Steps that are left; each currency may take an equal share of what those before it left. */
interface Budget {
	left: number;
	readonly isStopped: IsStopped;
}
/** Asked on the way: whether nobody waits for the answer any more. */
export type IsStopped = () => boolean;
const NEVER: IsStopped = () => false;
/** Thrown where a computation is stopped on its way. */
export class Stopped extends Error {}

type Told = Pick<Situation, 'offers' | 'carriers' | 'beaten'> & { readonly key: string };
/** A stretch of amounts over which the same is told. */
interface Stretch {
	readonly from: number;
	readonly to?: number;
	readonly told: Told;
}
/** Payers who differ in no facet that matters. */
interface Box {
	readonly key: string;
	readonly payers: Partial<Record<Facet, string>>;
	readonly set: Partial<Context>;
}
type Boxes = Map<Stretch, Map<string, Box>>;
type Side = Pick<CoverageInput, 'lineUp' | 'states'>;

/** Facets that decide of each offer alone, in whatever class the others are; domain and recurrence bear on routes, too. */
const INDEPENDENT = ['country', 'groups', 'goods', 'delivery', 'orderedBy', 'online'] as const;
type Independent = (typeof INDEPENDENT)[number];
const isIndependent = (facet: Facet): facet is Independent => (INDEPENDENT as readonly Facet[]).includes(facet);

/** Whether an offer's condition in one facet holds. */
const HOLDS: Readonly<Record<Independent, (offer: Offer, set: Partial<Context>) => boolean>> = {
	country: ({ conditions: c }, { country }) => choiceHolds(c.countries, country),
	groups: ({ conditions: c }, { groups }) => choiceHolds(c.groups, groups),
	goods: ({ conditions: c }, { goods }) => choiceHolds(c.goods, goods),
	delivery: ({ conditions: c }, { delivery }) => choiceHolds(c.delivery, delivery),
	orderedBy: ({ conditions: c }, { orderedBy }) => !c.orderedBy || c.orderedBy === orderedBy,
	online: ({ conditions: c }, { hasOnlineMethod }) => !c.withoutOnlineMethod || hasOnlineMethod === false
};

/** How many classes of payers and amounts a currency has: known before any of them is asked. */
const countClasses = (classes: Classes, cuts: number): number =>
	FACETS.reduce((product, facet) => product * classes[facet].length, cuts);

/**
 * The situations of one currency. Conditions are factored: what each class of a facet says of all offers is one set of
 * bits, so that classes whose bits come to the same are asked once, however many they are together. A class is told with
 * others that differ from it in one facet alone where all of them are told alike.
 * @param tell what is told where these are offered on each side, with a key that is the same for what is alike; nothing
 * leaves the class out
 * @throws TooManyClasses where it would take too many steps
 */
function sweepCurrency(
	sides: readonly Side[],
	classes: Classes,
	base: Context,
	currency: string,
	cuts: readonly number[],
	tell: (sides: readonly { offered: Offered[]; beaten: Beaten[] }[]) => Told | undefined,
	budget: Budget
): Situation[] {
	const step = (many: number) => {
		budget.left -= many;
		if (budget.isStopped()) throw new Stopped();
		if (budget.left < 0) throw new TooManyClasses();
	};
	// one bit for each offer of each side
	const offsets = sides.map((_, s) => sides.slice(0, s).reduce((sum, one) => sum + one.lineUp.length, 0));
	const all = sides.flatMap((one) => one.lineUp);
	const bitsWhere = (holds: (offer: Offer) => boolean) =>
		all.reduce((bits, offer, at) => (holds(offer) ? bits | (1n << BigInt(at)) : bits), 0n);
	const masks = Object.fromEntries(
		INDEPENDENT.map((facet) => [
			facet,
			classes[facet].map(({ set }) => bitsWhere((offer) => HOLDS[facet](offer, { orderedBy: base.orderedBy, ...set })))
		])
	) as Record<Independent, bigint[]>;

	/** What domain and recurrence leave of each side, and which of it stands at each amount. */
	const roots = classes.domain.map((domain) =>
		classes.recurrence.map((recurrence) => {
			const context = { ...base, ...domain.set, ...recurrence.set, currency };
			const entries = sides.map((side) =>
				prepare(side.lineUp, context, side.states).filter((one) => {
					const { domains, recurrence: wanted } = one.offer.conditions;
					return (
						choiceHolds(domains, context.domain) &&
						(!wanted || wanted === (context.recurring ? 'recurring' : 'one-time'))
					);
				})
			);
			const bitOf = (s: number, one: Prepared) => 1n << BigInt(offsets[s]! + one.order);
			const standing = cuts.map((minor) =>
				entries.reduce(
					(bits, list, s) =>
						list.reduce((more, one) => (minor >= one.least && minor <= one.most ? more | bitOf(s, one) : more), bits),
					0n
				)
			);
			const outcomes = new Map<bigint, Told | undefined>();
			const outcome = (bits: bigint) => {
				if (outcomes.has(bits)) return outcomes.get(bits);
				step(all.length);
				const told = tell(
					entries.map((list, s) => {
						const beaten: Beaten[] = [];
						return { offered: offeredOf(list, (one) => (bits & bitOf(s, one)) !== 0n, beaten), beaten };
					})
				);
				outcomes.set(bits, told);
				return told;
			};
			return {
				standing,
				outcome,
				relevant: standing.reduce((bits, one) => bits | one, 0n),
				leaves: new Map<bigint, Boxes>()
			};
		})
	);

	const stretches = new Map<string, Stretch>();
	const NOBODY: Box = { key: '', payers: {}, set: {} };
	/** What is told from amount to amount where these offers' conditions hold. */
	const leaf = (root: (typeof roots)[number][number], mask: bigint): Boxes => {
		const known = root.leaves.get(mask);
		if (known) return known;
		step(cuts.length);
		const boxes: Boxes = new Map();
		let open: { from: number; told: Told } | undefined;
		const close = (to?: number) => {
			if (!open) return;
			const key = `${open.from} ${to} ${open.told.key}`;
			let stretch = stretches.get(key);
			if (!stretch) stretches.set(key, (stretch = { ...open, to }));
			boxes.set(stretch, new Map([['', NOBODY]]));
		};
		cuts.forEach((from, at) => {
			const told = root.outcome(root.standing[at]! & mask);
			if (told && open && open.told.key === told.key) return;
			close(from - 1);
			open = told && { from, told };
		});
		close();
		root.leaves.set(mask, boxes);
		return boxes;
	};

	const memo = FACETS.map(() => new Map<string, Boxes>());
	/** Joins what the classes of one facet tell, where all but this facet is the same. */
	const below = (level: number, mask: bigint, d: number, r: number): Boxes => {
		if (level < 0) return leaf(roots[d]![r]!, mask);
		const facet = FACETS[level]!;
		const key = `${mask} ${d} ${r}`;
		const known = memo[level]!.get(key);
		if (known) return known;
		const mine = classes[facet];
		const joined = new Map<Stretch, Map<string, { box: Box; at: number[] }>>();
		mine.forEach((_, at) => {
			let next = mask;
			if (isIndependent(facet)) next &= masks[facet][at]!;
			const [nextD, nextR] = [facet === 'domain' ? at : d, facet === 'recurrence' ? at : r];
			// below here domain and recurrence are chosen: what they leave nothing of tells nothing apart
			if (level <= LAST_ROOT) next &= roots[nextD]![nextR]!.relevant;
			for (const [stretch, boxes] of below(level - 1, next, nextD, nextR)) {
				step(boxes.size);
				let mineOf = joined.get(stretch);
				if (!mineOf) joined.set(stretch, (mineOf = new Map()));
				for (const box of boxes.values()) {
					const one = mineOf.get(box.key);
					if (one) one.at.push(at);
					else mineOf.set(box.key, { box, at: [at] });
				}
			}
		});
		const result: Boxes = new Map();
		for (const [stretch, boxes] of joined) {
			const list = new Map<string, Box>();
			for (const { box, at } of boxes.values()) {
				const first = mine[at[0]!]!;
				const says = at.length === mine.length && mine.length > 1 ? '' : at.map((n) => mine[n]!.says).join('; ');
				const made: Box = {
					key: `${box.key}\n${says}`,
					payers: says ? { ...box.payers, [facet]: says } : box.payers,
					set: { ...first.set, ...box.set }
				};
				list.set(made.key, made);
			}
			result.set(stretch, list);
		}
		memo[level]!.set(key, result);
		return result;
	};
	const found = below(FACETS.length - 1, (1n << BigInt(all.length)) - 1n, 0, 0);
	return [...found].flatMap(([{ from, to, told }, boxes]) =>
		[...boxes.values()].map(({ payers, set }) => {
			const { key: _, ...rest } = told;
			return { ...rest, currency, from, to, payers, context: { ...base, ...set, currency, minor: from } };
		})
	);
}
/** The lower of the two facets that bear on routes. */
const LAST_ROOT = FACETS.indexOf('domain');

/** Asks every class of every currency of a till, as far as each can be looked at. */
function sweep(
	sides: readonly Side[],
	base: Context,
	domains: readonly string[],
	tell: Parameters<typeof sweepCurrency>[5],
	isStopped: IsStopped
): { asked: number; situations: Situation[]; notLooked: NotLooked[]; classes?: Classes } {
	let classes: Classes;
	const lineUp = sides.flatMap((one) => one.lineUp);
	try {
		classes = facetClasses(
			lineUp,
			sides.map((one) => one.states),
			base,
			domains
		);
	} catch (error) {
		if (!(error instanceof TooManyClasses)) throw error;
		return { asked: 0, situations: [], notLooked: base.tillCurrencies.map((currency) => ({ currency })) };
	}
	let asked = 0;
	const situations: Situation[] = [];
	const notLooked: NotLooked[] = [];
	let left = STEPS;
	for (const [at, currency] of base.tillCurrencies.entries()) {
		const context = { ...base, currency };
		const cuts = [...new Set(sides.flatMap((one) => amountCuts(one.lineUp, context, one.states)))].sort(
			(a, b) => a - b
		);
		const many = countClasses(classes, cuts.length);
		const share = Math.floor(left / (base.tillCurrencies.length - at));
		const budget = { left: share, isStopped };
		try {
			situations.push(...sweepCurrency(sides, classes, base, currency, cuts, tell, budget));
			asked += many;
		} catch (error) {
			if (!(error instanceof TooManyClasses)) throw error;
			notLooked.push({ currency, classes: many });
		}
		left -= share - Math.max(0, budget.left);
	}
	return { asked, situations: situations.sort(worstFirst), notLooked, classes };
}

/**
 * What every payer would meet at a till: each class of payers and amounts is answered, and classes to which the same is
 * offered are told as one. Exact, for every condition is a step: between two limits in play nothing can change. A currency
 * whose classes are too many is told as not looked at.
 * @throws Stopped where it is stopped on its way
 */
export function coverage({ lineUp, states, base, domains }: CoverageInput, isStopped = NEVER): Coverage {
	const shown = new Set<string>();
	const { asked, situations, notLooked, classes } = sweep(
		[{ lineUp, states }],
		base,
		domains,
		([side]) => {
			const { offered, beaten } = side!;
			for (const one of offered) shown.add(one.offer.id);
			return {
				key: `${offered.map((one) => `${one.offer.id} ${one.carrier.id}`).join('\n')}\n\n${beaten.map((one) => `${one.offer.id} ${one.why}`).join('\n')}`,
				offers: offered.map((one) => ({ id: one.offer.id, name: one.offer.name, carrier: one.carrier.id })),
				carriers: new Set(offered.map((one) => one.carrier.id)).size,
				beaten: beaten.map((one) => ({ id: one.offer.id, name: one.offer.name, why: one.why }))
			};
		},
		isStopped
	);
	return {
		asked,
		situations,
		notLooked,
		buried:
			!classes || notLooked.length
				? []
				: lineUp
						.filter((offer) => offer.on && !shown.has(offer.id))
						.map((offer) => buried(offer, lineUp, states, base, classes))
	};
}

const NOTHING = { offers: [], carriers: 0, beaten: [] };

/** Situations that were lost, and the currencies in which that was not looked at. */
export interface Lost {
	readonly situations: readonly Situation[];
	readonly notLooked: readonly NotLooked[];
}

/**
 * Situations in which something is offered before, and nothing after: of another line-up, or of the same one in other
 * states. Exact, over the classes that the conditions of both tell apart.
 * @throws Stopped where it is stopped on its way
 */
export function lostSituations(
	before: Side,
	after: Side,
	base: Context,
	domains: readonly string[],
	isStopped = NEVER
): Lost {
	const { situations, notLooked } = sweep(
		[before, after],
		base,
		domains,
		([was, is]) => (is!.offered.length === 0 && was!.offered.length > 0 ? { key: 'lost', ...NOTHING } : undefined),
		isStopped
	);
	return { situations, notLooked };
}

const clashes = (one: Situation) => one.beaten.some((other) => other.why === 'same-name');
/** Empty ones first, then names that meet, then those that depend on one route. */
const rank = (one: Situation) => (one.offers.length === 0 ? 0 : clashes(one) ? 1 : one.carriers === 1 ? 2 : 3);
const worstFirst = (a: Situation, b: Situation) =>
	rank(a) - rank(b) || a.currency.localeCompare(b.currency) || a.from - b.from;

export const emptySituations = (list: readonly Situation[]) => list.filter((one) => one.offers.length === 0);
export const clashingSituations = (list: readonly Situation[]) => list.filter(clashes);
export const singleSituations = (list: readonly Situation[]) =>
	list.filter((one) => one.offers.length > 0 && one.carriers === 1);

/** So many contexts are looked at to say why an offer never appears. */
const NEAREST = 2_000;

/** Why an offer never appears: the rule that fails in every class, else those that fail where the fewest do. */
function buried(offer: Offer, lineUp: LineUp, states: States, base: Context, classes: Classes): Buried {
	// payers who meet its own conditions come nearest; what stands below it does not matter
	const payer = Object.assign(
		{},
		...INDEPENDENT.map((facet) => {
			const mine = classes[facet];
			return (mine.find(({ set }) => HOLDS[facet](offer, { orderedBy: base.orderedBy, ...set })) ?? mine[0]!).set;
		})
	) as Partial<Context>;
	const above = lineUp.slice(0, lineUp.indexOf(offer) + 1);
	let everywhere: Set<Rule> | undefined;
	let nearest: Context | undefined;
	let fewest = Infinity;
	let inTurn = new Set<Rule>();
	let looked = 0;
	for (const currency of base.tillCurrencies)
		for (const { set: domain } of classes.domain)
			for (const { set: recurrence } of classes.recurrence)
				for (const minor of amountCuts(above, { ...base, currency }, states)) {
					if (++looked > NEAREST) break;
					const context: Context = { ...base, ...payer, ...domain, ...recurrence, currency, minor };
					const withheld = answer(above, context, states).withheld.find((one) => one.offer.id === offer.id);
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

/** What was not looked at, as a sentence. */
export const sayNotLooked = ({ currency, classes }: NotLooked, locale: string): string =>
	`${currency} was not looked at whole: ${classes === undefined || classes > Number.MAX_SAFE_INTEGER ? 'its payers may be in more groups at once than can be told apart' : `it has ${classes.toLocaleString(locale)} classes of payers and amounts, more than can be gone through`}.`;

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
	if (onDelivery) says.push(`${onDelivery.name} is paid on delivery, and no address is asked.`);
	return says;
}
