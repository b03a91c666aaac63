/** After so many tries an arrival is stuck: visible, with its reason and a way to run it again. */
export const TRIES_UNTIL_STUCK = 8;

/**
 * How long to wait before the next try of an arrival that did not fit.
 * @param tries tries so far, at least 1
 * @param jitter 0 to 1, drawn by the caller
 * @returns milliseconds, growing fourfold from 2 s, at most 6 h, spread by ± 20 %
 */
export function waitBeforeTry(tries: number, jitter: number): number {
	const base = Math.min(2_000 * 4 ** (tries - 1), 6 * 3_600_000);
	return Math.round(base * (0.8 + 0.4 * jitter));
}

const LONGEST_WAIT_MS = 3_600_000;

/**
 * How long to wait before a processor is asked once more what became of an action: twice as long each time, from a second
 * to an hour, up to a quarter more or less so that those that began together do not ask together.
 * @param tries how often it was asked, from 1
 * @param chance 0 to 1
 * @returns milliseconds
 */
export const waitForAnswer = (tries: number, chance: number): number =>
	Math.round(Math.min(1_000 * 2 ** (tries - 1), LONGEST_WAIT_MS) * (0.75 + chance / 2));
