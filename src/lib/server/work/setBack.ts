import { bringForward, newestEventAt, write } from '../db';
import { log } from '../log';
import { timeNow } from '../signals/clock';
import { wake } from '../signals/wake';

// The machine's clock may be set back: after it was ahead, or by hand. What was put off by it would be tried hours too late.

/** Small corrections, as every machine makes them, are none of this. */
const LEAST_MS = 5_000;
const LOOK_MS = 1_000;

/** The machine's clock less the one that never jumps, in milliseconds, as it was looked at last. */
let ahead: number | undefined;
let timer: NodeJS.Timeout | undefined;

/** Begins to look out for a clock that is set back; what happened while nobody looked is seen by the newest event. */
export async function watchClock(): Promise<void> {
	ahead = timeNow() - performance.now();
	timer ??= setInterval(() => {
		const now = timeNow() - performance.now();
		const by = ahead! - now;
		ahead = now;
		void goOn(by);
	}, LOOK_MS);
	timer.unref();
	const newest = await newestEventAt().catch(() => undefined);
	if (newest !== undefined) await goOn(newest - timeNow());
}

async function goOn(by: number): Promise<void> {
	if (by < LEAST_MS) return;
	log.warn({ seconds: Math.round(by / 1_000) }, 'the clock was set back');
	try {
		await write((tx) => bringForward(Math.round(by), timeNow(), tx));
		wake();
	} catch (error) {
		log.error({ error: String(error) }, 'what was put off stays put off');
	}
}

export const stopWatchingClock = (): void => clearInterval(timer);
