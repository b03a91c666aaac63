/**
 * Splits a sum over weights in proportion, by the largest remainder: every part is rounded down, and what is left goes one
 * minor unit each to the parts that lost most, the first of equals first. The parts add up to the sum.
 * @param total minor units, not below zero
 * @param weights not below zero; where all are nothing, the first takes all
 */
export function splitInProportion(total: number, weights: readonly number[]): number[] {
	if (!weights.length) return [];
	const all = weights.reduce((sum, one) => sum + BigInt(one), 0n);
	if (all === 0n) return weights.map((_, at) => (at === 0 ? total : 0));
	const exact = weights.map((weight) => BigInt(total) * BigInt(weight));
	const parts = exact.map((one) => Number(one / all));
	const left = total - parts.reduce((sum, one) => sum + one, 0);
	const order = exact
		.map((one, at) => ({ at, rest: one % all }))
		.sort((a, b) => (a.rest === b.rest ? a.at - b.at : a.rest > b.rest ? -1 : 1));
	for (const { at } of order.slice(0, left)) parts[at]!++;
	return parts;
}

/** Splits a sum into so many parts that differ by one minor unit at most, the larger ones first. */
export const splitEvenly = (total: number, count: number): number[] =>
	splitInProportion(
		total,
		Array.from({ length: count }, () => 1)
	);
