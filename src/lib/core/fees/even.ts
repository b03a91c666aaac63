import { crossings } from './compare';
import {
	commonMix,
	priceMix,
	volumeBreaks,
	type Mix,
	type MixCost,
	type MixGroup,
	type MixRates,
	type MixSide
} from './mix';

/** What a break-even scales: the number of payments, their average, or the share of one group by its place. */
export type Along = 'volume' | 'average' | number;

/** A mix set by hand, and the two sides whose break-even is asked for, by their places. */
export interface ByHand {
	readonly mix: Mix;
	readonly pair: readonly [number, number];
	readonly along: Along;
}

/** Where two sides cost the same, along one axis. Costs are minor units a month. */
export interface Even {
	/** both ends of the axis: payments a month, minor units on average, or thousandths of the whole */
	readonly from: number;
	readonly to: number;
	readonly points: readonly number[];
	readonly lines: readonly [readonly number[], readonly number[]];
	/** from `at` on the side at the place `above` of the pair is the cheaper one, below it the other */
	readonly crossings: readonly { readonly at: number; readonly above: 0 | 1; readonly cost: number }[];
	/** which is the cheaper where they never cross; undefined where they cost the same throughout */
	readonly cheaper?: 0 | 1;
	/** share of the payments that one of the two cannot carry; they are left out */
	readonly leaves: number;
}
export interface MixAnswer {
	/** one entry a side */
	readonly priced: readonly MixCost[];
	/** places of those that cost least among those that carry all */
	readonly cheapest: readonly number[];
	/** undefined where the two carry nothing in common */
	readonly even?: Even;
}

const POINTS = 60;
/** So small a part of the payments is no hole that is told. */
export const HARDLY = 0.005;

/** Prices a mix through every side and finds where two of them break even. */
export function answerMix(
	{
		groups,
		sides,
		rates
	}: { readonly groups: readonly MixGroup[]; readonly sides: readonly MixSide[]; readonly rates: MixRates },
	{ mix, pair, along }: ByHand
): MixAnswer {
	const priced = sides.map((side) => priceMix(side, groups, mix, rates));
	const whole = priced.filter((one) => one.hole < HARDLY).map((one) => one.total);
	const least = Math.min(...whole);
	const [a, b] = [sides[pair[0]], sides[pair[1]]];
	return {
		priced,
		cheapest: priced.flatMap((one, at) => (one.hole < HARDLY && one.total === least ? [at] : [])),
		even: a && b && a !== b ? breakEven([a, b], groups, mix, along, rates) : undefined
	};
}

/**
 * Scales one thing at a time: the volume at a fixed mix, the average at a fixed volume, or one share at the cost of the
 * others in proportion. Costs are compared over what both sides can carry.
 */
export function breakEven(
	pair: readonly [MixSide, MixSide],
	groups: readonly MixGroup[],
	{ volume, average, shares }: Mix,
	along: Along,
	rates: MixRates
): Even | undefined {
	const both = commonMix(pair, groups, shares);
	// of a group that neither is left of there is nothing to move
	if (!both.groups.length || (typeof along === 'number' && !both.from.includes(along))) return undefined;
	const own = both.shares;
	const mixAt = (at: number): Mix => {
		if (along === 'volume') return { volume: at * average, average, shares: own };
		const all: Mix = { volume: volume * both.part, average, shares: own };
		if (along === 'average') return { ...all, average: at };
		const moved = both.from.indexOf(along);
		const rest = 1 - (own[moved] ?? 0);
		return {
			...all,
			shares: own.map((share, g) => (g === moved ? at / 1000 : rest > 0 ? (share * (1 - at / 1000)) / rest : 0))
		};
	};
	const costAt = (side: 0 | 1, at: number) => priceMix(both.sides[side], both.groups, mixAt(at), rates).total;
	const [from, to] =
		along === 'volume'
			? [1, Math.max(100, Math.round((volume / average) * 4))]
			: along === 'average'
				? [100, Math.max(20_000, average * 6)]
				: [0, 1000];
	const points = Array.from({ length: POINTS + 1 }, (_, i) => Math.round(from + ((to - from) * i) / POINTS));
	const difference = (at: number) => costAt(0, at) - costAt(1, at);
	const breaks =
		along === 'volume' ? both.sides.flatMap((side) => volumeBreaks(side, both.groups, mixAt, rates, [from, to])) : [];
	const found = crossings('0', '1', difference, [from, to], breaks);
	const sign = points.map(difference).find((one) => one !== 0);
	return {
		from,
		to,
		points,
		lines: [points.map((at) => Math.round(costAt(0, at))), points.map((at) => Math.round(costAt(1, at)))],
		crossings: found.map(({ at, above }) => ({ at, above: above === '0' ? 0 : 1, cost: Math.round(costAt(0, at)) })),
		cheaper: found.length || sign === undefined ? undefined : sign < 0 ? 0 : 1,
		leaves: 1 - both.part
	};
}
