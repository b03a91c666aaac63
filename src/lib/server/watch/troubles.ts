import { statfs } from 'node:fs/promises';
import { checkIntegrity, dataFolder } from '../db';
import { log } from '../log';
import { tell } from '../signals/live';

// What is wrong with the machine itself: a clock that is off, a database that is damaged. Known here, told on Needs you.

/** So many honest notifications must be off by the same before the machine's own clock is said to be. */
const AT_LEAST = 3;
/** They are off by the same when they are within so many seconds of each other. */
const SPREAD_S = 120;
const WINDOW_MS = 3_600_000;
const KEPT = 50;

interface Offset {
	readonly connectionId: string;
	/** seconds by which our clock is ahead of the sender's */
	readonly seconds: number;
	/** by the clock that never jumps */
	readonly at: number;
}
let offsets: Offset[] = [];

/** Notes that a notification with a right signature was refused for its time. */
export function noteOffset(connectionId: string, seconds: number): void {
	offsets = [...offsets.slice(1 - KEPT), { connectionId, seconds, at: performance.now() }];
	if (clockOffset() !== undefined) tell('arrivals');
}

/** Notes that one came in time: whatever was off is right again. */
export function noteInTime(): void {
	if (!offsets.length) return;
	offsets = [];
	tell('arrivals');
}

/** By how many seconds this machine's clock is ahead of those of processors, where several agree; undefined where it is right. */
export function clockOffset(): { readonly seconds: number; readonly refused: number } | undefined {
	const recent = offsets.filter((one) => performance.now() - one.at < WINDOW_MS).map((one) => one.seconds);
	if (recent.length < AT_LEAST) return undefined;
	const middle = [...recent].sort((a, b) => a - b)[Math.floor(recent.length / 2)]!;
	const alike = recent.filter((one) => Math.abs(one - middle) <= SPREAD_S);
	return alike.length >= AT_LEAST && alike.length * 2 > recent.length
		? { seconds: middle, refused: recent.length }
		: undefined;
}

/** Below so much free space, a write may fail soon: a day of a busy business, and what a backup needs beside it. */
const LEAST_FREE = Number(process.env.JUSTPURSE_LEAST_FREE ?? 500_000_000);

/** How much is left on the disk of the database, in bytes, where that is too little; undefined where there is enough. */
export async function diskTrouble(): Promise<number | undefined> {
	try {
		const { bavail, bsize } = await statfs(dataFolder());
		const free = bavail * bsize;
		return free < LEAST_FREE ? free : undefined;
	} catch {
		// a file system that does not tell is no trouble
		return undefined;
	}
}

let damage: readonly string[] = [];
/** What the last look at the database found wrong with it. */
export const databaseDamage = (): readonly string[] => damage;

const DAY_MS = 86_400_000;
/** The first look comes a while after the start, when nobody waits for it. */
let nextLook = performance.now() + Number(process.env.JUSTPURSE_INTEGRITY_MS ?? 600_000);

/** Looks through the whole database once a day. */
export async function lookAtDatabase(): Promise<void> {
	if (performance.now() < nextLook) return;
	nextLook = performance.now() + DAY_MS;
	let found: string[];
	try {
		found = await checkIntegrity();
	} catch (error) {
		found = [String(error)];
	}
	if (found.length) log.error({ found }, 'the database is damaged');
	damage = found;
	tell('connections');
}
