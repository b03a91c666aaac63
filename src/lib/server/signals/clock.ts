import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';

/**
 * The one clock that all of the server takes its now from. In a demo it can be moved forward, with the stand-ins' own;
 * an installation that is no demo has no such door, and its clock is the machine's.
 */
let shift = 0;
let isRead = false;

/** Addresses of the clocks that move along with this one. The command that starts a demo sets them; nothing else does. */
export const demoClocks = (): string[] => (process.env.JUSTPURSE_DEMO_CLOCKS ?? '').split(' ').filter(Boolean);

/** Whether this installation is a demo. */
export const isDemo = (): boolean => demoClocks().length > 0;

const file = (): string => join(resolve(process.env.JUSTPURSE_DATA ?? 'data/purse'), 'demo-clock');

function read(): void {
	isRead = true;
	if (!isDemo()) return;
	if (existsSync(file())) {
		const kept = Number(readFileSync(file(), 'utf8'));
		if (Number.isSafeInteger(kept)) shift = kept;
		return;
	}
	// a demo may begin in the past, so that what it shows came about day by day
	const begins = Number(process.env.JUSTPURSE_DEMO_BEGINS ?? 0);
	if (Number.isSafeInteger(begins) && begins > 0 && begins < Date.now()) {
		shift = begins - Date.now();
		keep();
	}
}

function keep(): void {
	writeFileSync(`${file()}.new`, String(shift));
	renameSync(`${file()}.new`, file());
}

/** How far this clock was ahead of the one that never jumps, at most, since it was asked whether it was set back. */
let furthest = -Infinity;

/** Now, in milliseconds since 1970. */
export function timeNow(): number {
	if (!isRead) read();
	const now = Date.now() + shift;
	furthest = Math.max(furthest, now - performance.now());
	return now;
}

/** By how much the clock was set back since this was asked last, in milliseconds: from the furthest that anybody was told. */
export function takeSetBack(): number {
	const was = furthest;
	furthest = -Infinity;
	const now = timeNow();
	return was === -Infinity ? 0 : was - (now - performance.now());
}

/** By how much the clock is ahead of the machine's, in milliseconds; below zero while a demo is made from its past. */
export function clockShift(): number {
	if (!isRead) read();
	return shift;
}

/**
 * Moves the clock of a demo forward; it stays moved over a restart.
 * @throws where this is no demo, or the clock would go back
 */
export function moveClock(ms: number): number {
	if (!isDemo()) throw new Error('Only the clock of a demo can be moved.');
	if (!Number.isSafeInteger(ms) || ms < 0) throw new Error('A clock only moves forward.');
	shift = clockShift() + ms;
	// a past that is made up to within an hour of now has come to its end
	if (shift < 0 && shift > -3_600_000) shift = 0;
	keep();
	return shift;
}
