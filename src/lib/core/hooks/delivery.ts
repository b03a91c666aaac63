const [SECOND, MINUTE, HOUR] = [1_000, 60_000, 3_600_000];
/** Waits after the first try, the second, and so on. @source the recommended schedule of Standard Webhooks */
const WAITS = [5 * SECOND, 5 * MINUTE, 30 * MINUTE, 2 * HOUR, 5 * HOUR, 10 * HOUR, 14 * HOUR, 20 * HOUR, 24 * HOUR];

/**
 * How long to wait before a delivery is tried again.
 * @param tries tries so far, at least 1
 * @param jitter 0 to 1, drawn by the caller
 * @returns milliseconds, up to a tenth more or less than the schedule; undefined where it is not tried any more
 */
export function waitBeforeDelivery(tries: number, jitter: number): number | undefined {
	const wait = WAITS[tries - 1];
	return wait === undefined ? undefined : Math.round(wait * (0.9 + jitter / 5));
}

/** What an answer means. Any 2xx is success; 410 says that nobody listens there any more. */
export const readAnswer = (status: number): 'delivered' | 'gone' | 'failed' =>
	status >= 200 && status < 300 ? 'delivered' : status === 410 ? 'gone' : 'failed';

const DAY = 24 * HOUR;
/** An endpoint at which nothing at all succeeded for so long is paused. */
export const PAUSED_AFTER = 3 * DAY;
/** Its owner is told before that. */
export const WARNED_AFTER = DAY;

/**
 * What becomes of an endpoint after a failed try.
 * @param failingSince when the first of the tries failed since which none succeeded, milliseconds since 1970
 * @param isWarned whether its owner was told already
 */
export function judgeEndpoint(failingSince: number, now: number, isWarned: boolean): 'goes on' | 'warn' | 'pause' {
	if (now - failingSince >= PAUSED_AFTER) return 'pause';
	return !isWarned && now - failingSince >= WARNED_AFTER ? 'warn' : 'goes on';
}
