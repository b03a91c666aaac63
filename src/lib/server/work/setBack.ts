import { bringForward, newestEventAt, write } from '../db';
import { log } from '../log';
import { takeSetBack, timeNow } from '../signals/clock';
import { wake } from '../signals/wake';

// The machine's clock may be set back: after it was ahead, or by hand. What was put off by it would be tried hours too late.

/** Small corrections, as every machine makes them, are none of this. */
const LEAST_MS = 5_000;
const LOOK_MS = 1_000;

let timer: NodeJS.Timeout | undefined;

/** Begins to look out for a clock that is set back; what happened while nobody looked is seen by the newest event. */
export async function watchClock(): Promise<void> {
	timer ??= setInterval(() => void goOn(takeSetBack()), LOOK_MS);
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
