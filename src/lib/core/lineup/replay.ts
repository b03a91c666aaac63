import type { CardType } from '../cards';
import { regionOf, typeTaken, UNKNOWN } from '../cards';
import type { EntryMode } from '../fees';
import { offeredOnly, type Offered } from './answer';
import { amountCuts } from './ruler';
import type { LineUp } from './lineup';
import { hasCard } from './methods';
import type { Context, States } from './states';

/** What tells past payments of one till apart. */
export interface ReplayKind {
	readonly method: string;
	readonly currency: string;
	readonly entry: EntryMode;
	readonly scheme: string;
	readonly funding: string;
	/** ISO 3166-1 alpha-2, or unknown; where no payer country was kept it stands for it */
	readonly issuer: string;
}

/** What the draft would have made of one past payment. */
export const VERDICTS = [
	'same route',
	'other route',
	'other method only',
	'nothing offered',
	'newly offered',
	'not offered by either'
] as const;
export type Verdict = (typeof VERDICTS)[number];

/** Past payments of one till as columns, in order of capture. */
export interface ReplayPast {
	readonly kinds: readonly ReplayKind[];
	readonly kind: Uint16Array;
	readonly minor: Float64Array;
	/** index into `days` */
	readonly day: Uint16Array;
	readonly days: readonly string[];
}

export interface ReplayInput {
	readonly past: ReplayPast;
	readonly published: LineUp;
	readonly draft: LineUp;
	/** all connections sound and unpaused; `sound` makes them so */
	readonly states: States;
	/** till, mode; the rest of it does not count */
	readonly base: Context;
	/** areas within which another country is regional, by connection */
	readonly areas: Readonly<Record<string, readonly (readonly string[])[]>>;
	/** country of each connection's account */
	readonly countries: Readonly<Record<string, string>>;
}

/** What each payment came to: the verdict, and what would have carried it under either line-up. */
export interface Replayed {
	/** index into `VERDICTS`, one a payment */
	readonly verdict: Uint8Array;
	/** index into `carriers`, or 0 where none */
	readonly before: Uint16Array;
	readonly after: Uint16Array;
	/** ids; entry 0 is unused */
	readonly carriers: readonly string[];
}

/** The states in which a replay asks: every connection sound and unpaused, nothing paused anywhere. */
export const sound = (states: States): States => ({
	...states,
	connections: Object.fromEntries(
		Object.entries(states.connections).map(([id, one]) => [
			id,
			{ ...one, paused: false, failing: false, verified: true }
		])
	),
	offline: Object.fromEntries(Object.entries(states.offline).map(([id, one]) => [id, { ...one, paused: false }])),
	pausedMethods: [],
	pausedSchemes: [],
	pausedCurrencies: []
});

/** More limits than a line-up of forty offers can have in play in one currency: two each, and those of what carries it. */
const INTERVALS = 2 ** 20;

/**
 * Answers past payments under the published line-up and the draft. Like payments are asked for once: those of one kind
 * whose amount lies between the same two limits, on one day where a limit is converted at the day's rate.
 * Yields after every stretch, so that others are served in between and it can be stopped.
 * @param range first payment, included; the second is not
 */
export function* replay(
	{ past, published, draft, states, base, areas, countries }: ReplayInput,
	[from, to]: readonly [number, number],
	stretch = 100_000
): Generator<number, Replayed> {
	const count = to - from;
	const verdict = new Uint8Array(count);
	const before = new Uint16Array(count);
	const after = new Uint16Array(count);
	const carriers: string[] = [''];
	const carrierIndex = new Map<string, number>([['', 0]]);
	const indexOf = (id: string) => {
		const known = carrierIndex.get(id);
		if (known !== undefined) return known;
		const made = carriers.push(id) - 1;
		carrierIndex.set(id, made);
		return made;
	};
	const sides = [published, draft].map((lineUp) => {
		// limits by currency; by day, too, where one is converted
		const floating = (currency: string) =>
			lineUp.some(
				(offer) =>
					offer.conditions.amounts.some((one) => one.currency !== currency) ||
					Object.values(offer.routes).some((route) =>
						[route.first, route.standby].some(
							(carrier) =>
								carrier?.kind === 'offline' &&
								states.offline[carrier.id]?.thresholds.some((one) => one.currency !== currency)
						)
					)
			);
		return { lineUp, floats: new Map<string, boolean>(), floating, cuts: new Map<string, Float64Array>() };
	});
	const many = past.days.length;
	// who paid in a way that is offered to some groups alone was in one of them, though no file says so
	const groupsBy = new Map<string, Context['groups']>();
	const groupsOf = (method: string): Context['groups'] => {
		if (groupsBy.has(method)) return groupsBy.get(method);
		const rules = published.filter((offer) => offer.method === method).map((offer) => offer.conditions.groups);
		const isLimited = rules.length > 0 && rules.every((rule) => rule?.rule === 'only');
		const groups = isLimited ? [...(base.groups ?? []), ...rules[0]!.values] : base.groups;
		groupsBy.set(method, groups);
		return groups;
	};
	const context = (k: number, minor: number, d: number): Context => {
		const kind = past.kinds[k]!;
		return {
			...base,
			groups: groupsOf(kind.method),
			currency: kind.currency,
			minor,
			entry: kind.entry === 'recurring' ? 'online' : kind.entry,
			recurring: kind.entry === 'recurring',
			country: kind.issuer === UNKNOWN || !kind.issuer ? undefined : kind.issuer,
			day: past.days[d]!
		};
	};
	/** where the amount lies between the limits of both line-ups */
	const intervalOf = (side: (typeof sides)[number], k: number, minor: number, d: number): number => {
		const { currency } = past.kinds[k]!;
		let floats = side.floats.get(currency);
		if (floats === undefined) side.floats.set(currency, (floats = side.floating(currency)));
		const key = floats ? `${currency} ${d}` : currency;
		let cuts = side.cuts.get(key);
		if (!cuts) {
			cuts = Float64Array.from(amountCuts(side.lineUp, context(k, minor, d), states));
			side.cuts.set(key, cuts);
		}
		let at = 0;
		while (at + 1 < cuts.length && minor >= cuts[at + 1]!) at++;
		return at;
	};
	/** whether an offer's card types take the card; what is unknown of it fails what asks for it */
	const takesCard = (one: Offered, k: number): boolean => {
		const kind = past.kinds[k]!;
		if (!hasCard(one.offer.method) || !hasCard(kind.method) || !one.types) return true;
		const type: CardType = {
			scheme: kind.scheme,
			funding: kind.funding as CardType['funding'],
			region: regionOf(kind.issuer, countries[one.carrier.id] ?? '', (areas[one.carrier.id] ?? []) as string[][])
		};
		return typeTaken(one.types, type);
	};
	type Found = { route: number; any: boolean };
	const answers: Map<number, Found>[] = [new Map(), new Map()];
	const ask = (s: 0 | 1, k: number, minor: number, d: number): Found => {
		const side = sides[s]!;
		const interval = intervalOf(side, k, minor, d);
		const floats = side.floats.get(past.kinds[k]!.currency)!;
		const key = ((floats ? d + 1 : 0) * past.kinds.length + k) * INTERVALS + interval;
		const known = answers[s]!.get(key);
		if (known) return known;
		const offered = offeredOnly(side.lineUp, context(k, minor, d), states);
		// what the card's type would be refused for is not offered
		const open = offered.filter((one) => takesCard(one, k));
		const fit = open.find((one) => one.offer.method === past.kinds[k]!.method);
		const found = { route: fit ? indexOf(fit.carrier.id) : 0, any: open.length > 0 };
		answers[s]!.set(key, found);
		return found;
	};
	if (many === 0) return { verdict, before, after, carriers };
	for (let n = 0; n < count; n++) {
		const at = from + n;
		const [k, minor, d] = [past.kind[at]!, past.minor[at]!, past.day[at]!];
		const was = ask(0, k, minor, d);
		const is = ask(1, k, minor, d);
		before[n] = was.route;
		after[n] = is.route;
		verdict[n] = was.route
			? is.route === was.route
				? 0
				: is.route
					? 1
					: is.any
						? 2
						: 3
			: is.route
				? 4
				: is.any && !was.any
					? 4
					: !is.any && was.any
						? 3
						: 5;
		if ((n + 1) % stretch === 0) yield n + 1;
	}
	return { verdict, before, after, carriers };
}
