import type { MethodOfSides, SideTotal } from './sides';

/** One side as the verdict sees it. Sums are minor units of the home currency. */
export interface JudgedSide {
	readonly id: string;
	/** fees and charges around the payments that all of those held against each other can carry, in the period */
	readonly cost: number;
	/** what the account itself costs in the period: monthly fees, and what lacks to a monthly minimum */
	readonly monthly: number;
	/** both together, for 365 days, rounded half-up */
	readonly yearly: number;
}

/** Which side is cheapest for what the business takes, or why that cannot be told. */
export type SidesVerdict =
	| { readonly is: 'no payments' }
	| { readonly is: 'alone'; readonly id: string; readonly method: string }
	| { readonly is: 'nothing shared'; readonly method: string }
	| {
			readonly is: 'cheapest';
			/** the method of the largest volume that at least two of them carry */
			readonly method: string;
			/** all of its payments, and those that are compared */
			readonly count: number;
			readonly shared: number;
			/** the cheapest first */
			readonly sides: readonly JudgedSide[];
			/** what the cheapest saves in 365 days against the next; 0 where they cost the same */
			readonly saves: number;
			/** payments of the method that the cheapest cannot carry, and what they are worth */
			readonly leftOut: { readonly count: number; readonly minor: number };
	  };

/**
 * The verdict of a comparison: for the method of the largest volume, the side that costs least over the payments that all
 * sides of that method can carry, with what its account costs by the month.
 * @param days length of the period in days
 */
export function judgeSides(
	methods: readonly MethodOfSides[],
	totals: Readonly<Record<string, Pick<SideTotal, 'monthly'>>>,
	days: number
): SidesVerdict {
	const byVolume = [...methods].sort((a, b) => b.volume - a.volume);
	const largest = byVolume[0];
	if (!largest) return { is: 'no payments' };
	const ableOf = (one: MethodOfSides) => Object.keys(one.costs).filter((id) => one.costs[id]!.count > 0);
	const several = byVolume.find((one) => ableOf(one).length > 1);
	if (!several) {
		const [id] = ableOf(largest);
		return id === undefined
			? { is: 'nothing shared', method: largest.method }
			: { is: 'alone', id, method: largest.method };
	}
	const { method, count, costs } = several;
	const sides = ableOf(several)
		.filter((id) => costs[id]!.common.count > 0)
		.map((id): JudgedSide => {
			const { cost } = costs[id]!.common;
			const { monthly } = totals[id]!;
			return { id, cost, monthly, yearly: perYear(cost + monthly, days) };
		})
		.sort((a, b) => a.cost + a.monthly - (b.cost + b.monthly));
	const [first, second] = sides;
	if (!first || !second) return { is: 'nothing shared', method };
	return {
		is: 'cheapest',
		method,
		count,
		shared: costs[first.id]!.common.count,
		sides,
		saves: second.yearly - first.yearly,
		leftOut: { count: costs[first.id]!.holes, minor: costs[first.id]!.leftOutHome }
	};
}

/** A sum of so many days for 365 of them: minor units, half-up, exact. */
function perYear(minor: number, days: number): number {
	const twice = BigInt(minor) * 730n;
	const by = BigInt(days) * 2n;
	const sign = twice < 0n ? -1n : 1n;
	return Number((sign * (sign * twice + BigInt(days))) / by);
}
