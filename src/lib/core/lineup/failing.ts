/** One answer, or none, of a processor. A decline is an answer: it is sound. */
export interface Outcome {
	/** milliseconds since 1970 */
	readonly at: number;
	readonly sound: boolean;
	readonly probe?: boolean;
}

export const IN_A_ROW = 5;
export const AT_LEAST = 20;
export const WINDOW_MS = 600_000;
export const SOUND_IN_A_ROW = 3;

/**
 * Whether a connection is failing after its latest outcomes: 5 technical errors in a row, or over half of at least 20 in
 * ten minutes; sound again after 3 successes in a row or a successful probe.
 * @param outcomes in the order in which they happened
 */
export function isFailing(outcomes: readonly Outcome[], wasFailing: boolean): boolean {
	const last = outcomes.at(-1);
	if (!last) return wasFailing;
	if (wasFailing) {
		if (last.probe && last.sound) return false;
		const latest = outcomes.slice(-SOUND_IN_A_ROW);
		return !(latest.length === SOUND_IN_A_ROW && latest.every((one) => one.sound));
	}
	const row = outcomes.slice(-IN_A_ROW);
	if (row.length === IN_A_ROW && row.every((one) => !one.sound)) return true;
	const recent = outcomes.filter((one) => one.at > last.at - WINDOW_MS);
	return recent.length >= AT_LEAST && recent.filter((one) => !one.sound).length * 2 > recent.length;
}
