import { exponentOf, findRate, type FoundRate } from '../money';
import { priceColumns } from './columns';
import type { Past, PastKind } from './compare';
import { linesAt, type Kind, type RateCard } from './rateCard';

/** A part of a mix set by hand: what people think of as one kind of payment, with its spread of amounts. */
export interface MixGroup {
	readonly name: string;
	/** shares add up to 1 over all groups */
	readonly share: number;
	/** what it is made of, weights adding up to 1 */
	readonly kinds: readonly { readonly kind: PastKind; readonly weight: number }[];
	/** amounts in minor units of the home currency, evenly spread over what the business had; one where it had none */
	readonly amounts: readonly number[];
}

/** A side of a mix: its card, and of each group's kinds how the card sees them, or that it cannot carry them. */
export interface MixSide {
	readonly id: string;
	readonly card: RateCard;
	readonly kinds: readonly (readonly (Kind | null)[])[];
}

export interface Mix {
	/** minor units of the home currency a month */
	readonly volume: number;
	/** minor units of the home currency */
	readonly average: number;
	/** share of each group, adding up to 1 */
	readonly shares: readonly number[];
}

/** What a mix costs a month at one side, in minor units, not rounded between kinds. */
export interface MixCost {
	readonly fees: number;
	readonly monthly: number;
	readonly total: number;
	/** share of the volume that it cannot carry */
	readonly hole: number;
	readonly groups: readonly { readonly fee: number; readonly volume: number; readonly carried: number }[];
}

/** Latest published rates, by currency, to the home currency. */
export type MixRates = Readonly<Record<string, string>>;

const unitsOf = new WeakMap<MixSide, Map<string, { fee: number; markup: number; base: number; carried: number }>>();

/** Mean fee of one payment of a group at a scale of its amounts and a tier of the month: priced once, then kept. */
function unitOf(
	side: MixSide,
	group: MixGroup,
	g: number,
	scale: number,
	tier: number,
	rates: MixRates
): { fee: number; markup: number; base: number; carried: number } {
	const kept = unitsOf.get(side) ?? unitsOf.set(side, new Map()).get(side)!;
	const key = `${g} ${tier} ${scale}`;
	const known = kept.get(key);
	if (known) return known;
	const { card } = side;
	const limit = tier === 0 ? 0 : card.tiers!.steps[tier - 1]!.from;
	const flat: RateCard = { ...card, lines: linesAt(card, limit), tiers: undefined };
	const bare: RateCard = { ...flat, costs: undefined, conversion: 0, intermediary: 0 };
	const count = group.amounts.length;
	// all kinds of the group are priced in one go, one stretch of the columns each
	const kinds: Kind[] = [];
	const weights: number[] = [];
	const found: (FoundRate | undefined)[] = [undefined];
	const minors: number[] = [];
	const rateOf: number[] = [];
	group.kinds.forEach(({ weight }, k) => {
		const kind = side.kinds[g]![k];
		if (!kind) return;
		let times = 1;
		let rateAt = 0;
		if (kind.currency !== card.settlement) {
			const rate = rates[kind.currency];
			const read =
				rate &&
				findRate(
					[{ day: '2000-01-01', from: kind.currency, to: card.settlement, rate, source: '' }],
					kind.currency,
					card.settlement,
					'2000-01-01'
				);
			if (!read) return;
			rateAt = found.push(read) - 1;
			times = 10 ** (exponentOf(kind.currency) - exponentOf(card.settlement)) / Number(rate);
		}
		kinds.push(kind);
		weights.push(weight);
		for (const one of group.amounts) {
			minors.push(Math.max(1, Math.round(one * scale * times)));
			rateOf.push(rateAt);
		}
	});
	const columns = {
		kinds,
		rates: found,
		kind: Uint16Array.from(minors, (_, n) => Math.floor(n / count)),
		minor: Float64Array.from(minors),
		rate: Uint16Array.from(rateOf)
	};
	const fees = new Float64Array(minors.length);
	const bases = new Float64Array(minors.length);
	const markups = new Float64Array(minors.length);
	priceColumns(flat, columns, fees, bases);
	// only a monthly minimum asks for the markup by itself
	if (card.monthly.minimum) priceColumns(bare, columns, markups);
	let [fee, markup, base, carried] = [0, 0, 0, 0];
	weights.forEach((weight, k) => {
		let [sum, own, volume] = [0, 0, 0];
		for (let n = k * count; n < (k + 1) * count; n++) {
			if (fees[n]! < 0) return;
			sum += fees[n]!;
			own += markups[n]!;
			volume += bases[n]!;
		}
		fee += (weight * sum) / count;
		markup += (weight * own) / count;
		base += (weight * volume) / count;
		carried += weight;
	});
	const unit = { fee, markup, base, carried };
	if (kept.size > 5_000) kept.clear();
	kept.set(key, unit);
	return unit;
}

/**
 * Prices a mix set by hand. Kinds and amounts are priced once for each scale; what moves after is only how many of each
 * there are, so that an answer comes while a slider moves.
 */
export function priceMix(
	side: MixSide,
	groups: readonly MixGroup[],
	{ volume, average, shares }: Mix,
	rates: MixRates
): MixCost {
	const { card } = side;
	const own = groups.reduce(
		(sum, group, g) => sum + shares[g]! * (group.amounts.reduce((a, b) => a + b, 0) / group.amounts.length),
		0
	);
	const scale = own > 0 ? average / own : 1;
	const payments = average > 0 ? volume / average : 0;
	// how the month's volume falls into tiers: all of it into the one it reaches, or each stretch into its own
	const limits = [0, ...(card.tiers?.steps.map((step) => step.from) ?? []), Infinity];
	let carriedVolume = 0;
	groups.forEach((group, g) => {
		const unit = unitOf(side, group, g, scale, 0, rates);
		carriedVolume += payments * shares[g]! * unit.base;
	});
	const parts: number[] = limits.slice(0, -1).map((limit, tier) => {
		if (!card.tiers) return 1;
		const next = limits[tier + 1]!;
		if (card.tiers.way === 'whole') return carriedVolume >= limit && carriedVolume < next ? 1 : 0;
		return carriedVolume > 0 ? Math.max(0, Math.min(carriedVolume, next) - limit) / carriedVolume : tier === 0 ? 1 : 0;
	});
	let [fees, markup, hole] = [0, 0, 0];
	const told = groups.map((group, g) => {
		const count = payments * shares[g]!;
		let fee = 0;
		let carried = 0;
		let base = 0;
		parts.forEach((part, tier) => {
			if (!part) return;
			const unit = unitOf(side, group, g, scale, tier, rates);
			fee += part * count * unit.fee;
			markup += part * count * unit.markup;
			base += part * count * unit.base;
			carried += part * unit.carried;
		});
		fees += fee;
		hole += shares[g]! * (1 - carried);
		return { fee, volume: base, carried };
	});
	const minimum = card.monthly.minimum ? Math.max(0, card.monthly.minimum - markup) : 0;
	const monthly = card.monthly.fee + minimum;
	return { fees, monthly, total: fees + monthly, hole, groups: told };
}

/**
 * Numbers of payments a month at which the cost of a mix jumps or bends as they grow: where its volume reaches a tier, and
 * where its markup reaches the monthly minimum. Between two of them the cost is a straight line.
 * @param at the mix of so many payments a month
 */
export function volumeBreaks(
	side: MixSide,
	groups: readonly MixGroup[],
	at: (payments: number) => Mix,
	rates: MixRates,
	[from, to]: readonly [number, number]
): number[] {
	const { card } = side;
	const one = at(1);
	const own = groups.reduce(
		(sum, group, g) => sum + one.shares[g]! * (group.amounts.reduce((a, b) => a + b, 0) / group.amounts.length),
		0
	);
	const scale = own > 0 ? one.average / own : 1;
	const perPayment = groups.reduce(
		(sum, group, g) => sum + one.shares[g]! * unitOf(side, group, g, scale, 0, rates).base,
		0
	);
	const breaks = (card.tiers?.steps ?? []).flatMap((step) =>
		perPayment > 0 ? [Math.ceil(step.from / perPayment), Math.floor(step.from / perPayment)] : []
	);
	if (!card.monthly.minimum) return breaks;
	// within a stretch that no tier breaks the markup grows, so that the minimum ends once
	const isShort = (payments: number) => priceMix(side, groups, at(payments), rates).monthly > card.monthly.fee;
	const ends = [from, ...breaks.filter((one) => one > from && one < to).sort((a, b) => a - b), to];
	for (let n = 0; n + 1 < ends.length; n++) {
		let [low, high] = [ends[n]!, ends[n + 1]! - (n + 2 < ends.length ? 1 : 0)];
		if (!isShort(low) || isShort(high)) continue;
		while (high - low > 1) {
			const middle = Math.floor((low + high) / 2);
			if (isShort(middle)) low = middle;
			else high = middle;
		}
		breaks.push(low, high);
	}
	return breaks;
}

/**
 * What two sides can both carry of a mix: its groups with only those kinds, and both sides as they see them. Costs are
 * compared over nothing else, so that a side is not cheaper for what it leaves out.
 * @returns the shares of what is left, adding up to 1, and how much of the whole that is
 */
export function commonMix(
	[a, b]: readonly [MixSide, MixSide],
	groups: readonly MixGroup[],
	shares: readonly number[]
): { groups: MixGroup[]; sides: [MixSide, MixSide]; shares: number[]; from: number[]; part: number } {
	const left = groups.flatMap((group, g) => {
		const at = group.kinds.map((_, k) => k).filter((k) => a.kinds[g]![k] && b.kinds[g]![k]);
		const weight = at.reduce((sum, k) => sum + group.kinds[k]!.weight, 0);
		return at.length ? [{ group, g, at, weight }] : [];
	});
	const part = left.reduce((sum, one) => sum + shares[one.g]! * one.weight, 0);
	const sideOf = (side: MixSide): MixSide => ({
		...side,
		kinds: left.map(({ g, at }) => at.map((k) => side.kinds[g]![k]!))
	});
	return {
		groups: left.map(({ group, at, weight }) => ({
			...group,
			kinds: at.map((k) => ({ kind: group.kinds[k]!.kind, weight: group.kinds[k]!.weight / weight }))
		})),
		sides: [sideOf(a), sideOf(b)],
		shares: left.map(({ g, weight }) => (part > 0 ? (shares[g]! * weight) / part : 0)),
		from: left.map(({ g }) => g),
		part
	};
}

/** What the spread of amounts of a period is taken from. One entry a kind in the last three. */
export interface SpreadAsked {
	readonly past: Pick<Past, 'kind' | 'minor' | 'month'>;
	/** first payment, included; the second is not */
	readonly range: readonly [number, number];
	/** minor units of the home currency that a minor unit of the kind's is worth; 0 where no rate is known */
	readonly worth: readonly number[];
	/** the group that people think of the kind in */
	readonly names: readonly string[];
	/** the first kind that differs from it in nothing that is priced */
	readonly alike: readonly number[];
}
export interface Spread {
	/** the largest first */
	readonly groups: readonly {
		readonly name: string;
		readonly count: number;
		/** what it is made of, the most first: a kind's place, and how many */
		readonly kinds: readonly (readonly [number, number])[];
		/** minor units of the home currency, evenly spread over all amounts */
		readonly amounts: readonly number[];
	}[];
	readonly count: number;
	/** minor units of the home currency, not rounded */
	readonly volume: number;
	/** calendar months with payments */
	readonly months: number;
}
const SPREAD = 24;
const KINDS = 6;

/** The groups of a period, what each is made of, and how its amounts are spread. */
export function spreadOf({ past, range: [from, to], worth, names, alike }: SpreadAsked): Spread {
	interface Group {
		readonly name: string;
		readonly kinds: Map<number, number>;
		count: number;
		amounts: Float64Array;
	}
	const groups = new Map<string, Group>();
	const groupAt = names.map((name) => {
		const known = groups.get(name);
		if (known) return known;
		const made: Group = { name, kinds: new Map(), count: 0, amounts: new Float64Array(0) };
		groups.set(name, made);
		return made;
	});
	// counted first, so that each group's amounts are one column
	const counts = new Float64Array(names.length);
	for (let n = from; n < to; n++) counts[past.kind[n]!]!++;
	const sizes = new Map<Group, number>();
	groupAt.forEach((group, k) => worth[k] && sizes.set(group, (sizes.get(group) ?? 0) + counts[k]!));
	for (const [group, size] of sizes) group.amounts = new Float64Array(size);
	const months = new Set<number>();
	let [count, volume] = [0, 0];
	for (let n = from; n < to; n++) {
		const k = past.kind[n]!;
		const amount = past.minor[n]! * worth[k]!;
		if (!amount) continue;
		const group = groupAt[k]!;
		group.amounts[group.count++] = amount;
		months.add(past.month[n]!);
		count++;
		volume += amount;
	}
	names.forEach((_, k) => {
		if (!counts[k] || !worth[k]) return;
		const { kinds } = groupAt[k]!;
		kinds.set(alike[k]!, (kinds.get(alike[k]!) ?? 0) + counts[k]!);
	});
	return {
		count,
		volume,
		months: months.size,
		groups: [...groups.values()]
			.filter((group) => group.count > 0)
			.sort((a, b) => b.count - a.count)
			.map((group) => {
				const sorted = group.amounts.subarray(0, group.count).sort();
				const many = Math.min(SPREAD, sorted.length);
				return {
					name: group.name,
					count: group.count,
					kinds: [...group.kinds].sort(([, a], [, b]) => b - a).slice(0, KINDS),
					amounts: Array.from({ length: many }, (_, i) =>
						Math.round(sorted[Math.floor(((i + 0.5) * sorted.length) / many)]!)
					)
				};
			})
	};
}
