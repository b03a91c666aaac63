/** One figure of a run, and what it was to be. */
export interface Figure {
	readonly name: string;
	readonly value: number;
	readonly unit: string;
	readonly wanted: string;
	readonly holds: boolean;
}

/** The value that so many of a hundred do not pass. */
export function percentile(values: readonly number[], share: number): number {
	const sorted = [...values].sort((a, b) => a - b);
	return sorted[Math.min(sorted.length - 1, Math.ceil((sorted.length * share) / 100) - 1)] ?? NaN;
}

/** How long something takes, in milliseconds. */
export async function timed(act: () => Promise<unknown>): Promise<number> {
	const begun = performance.now();
	await act();
	return performance.now() - begun;
}

/** Does so many things, so many at once. */
export async function many(count: number, atOnce: number, act: (n: number) => Promise<void>): Promise<void> {
	let next = 0;
	await Promise.all(
		Array.from({ length: atOnce }, async () => {
			while (next < count) await act(next++);
		})
	);
}
