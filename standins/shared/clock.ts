import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** The clock of the stand-ins' world: the machine's, and as far ahead of it as somebody has moved it. */
let shift = 0;
let file: string | undefined;

/** Keeps the clock in a folder, so that it stays moved over a restart. */
export function keepClockIn(folder: string): void {
	file = join(folder, 'clock');
	if (existsSync(file)) shift = Number(readFileSync(file, 'utf8')) || 0;
}

/** Now, in milliseconds since 1970. */
export const timeNow = (): number => Date.now() + shift;

/** Sets by how many milliseconds the clock is ahead. It never goes back. */
export function setShift(ms: number): number {
	if (!Number.isSafeInteger(ms) || ms <= shift) return shift;
	shift = ms;
	if (file) {
		writeFileSync(`${file}.new`, String(shift));
		renameSync(`${file}.new`, file);
	}
	return shift;
}
