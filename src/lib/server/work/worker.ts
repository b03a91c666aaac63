import { allConnections, rereadDue } from '../connect/connections';
import { fetchRates } from '../connect/rates';
import { probeFailing } from '../connect/speak';
import { retireDue } from '../connect/keys';
import { askApplications } from '../connect/applications';
import { business } from '../connect/business';
import { endPauses } from '../accept/pauses';
import { takeInbox } from '../choose/files';
import { db, nextDue, packMonths, write } from '../db';
import { log } from '../log';
import { settleUnknown } from '../takings/unknown';
import { workOnArrivals } from '../watch/work';
import { onWake } from './wake';

/** How long to wait before work on what has just come, in milliseconds; a test makes it long. */
const DELAY = Number(process.env.JUSTPURSE_WORK_DELAY_MS ?? 0);
const IDLE_MS = Number(process.env.JUSTPURSE_ROUND_MS ?? 30_000);

let timer: NodeJS.Timeout | undefined;
let plannedAt = 0;
let running = false;
let again = false;
let stopped = true;
let lastRound = 0;

/** Starts the work that happens beside requests: arrivals, unknown outcomes, probes, rates. One at a time. */
export function startWorker(): void {
	stopped = false;
	onWake(() => plan(DELAY));
	// whatever an earlier process was waiting for, nobody waits for now: it is asked after at once
	void write((tx) => db.actions.update({ state: 'unknown' }, { nextAt: 0 }, tx)).finally(() => plan(DELAY));
}

export function stopWorker(): void {
	stopped = true;
	clearTimeout(timer);
	timer = undefined;
}

function plan(ms: number): void {
	if (stopped) return;
	if (running) {
		again = true;
		return;
	}
	const at = Date.now() + ms;
	// what is planned for as soon stays; arrivals that come in a burst plan once
	if (timer && plannedAt <= at) return;
	clearTimeout(timer);
	plannedAt = at;
	timer = setTimeout(() => {
		timer = undefined;
		void run();
	}, ms);
}

async function run(): Promise<void> {
	running = true;
	again = false;
	try {
		while ((await workOnArrivals(Date.now())) > 0);
		await settleUnknown(Date.now());
		if (await business()) await takeInbox();
		await packMonths();
		await endPauses(Date.now());
		if (Date.now() - lastRound > IDLE_MS && (await business()) && (await allConnections()).length) {
			lastRound = Date.now();
			await probeFailing();
			await retireDue(Date.now());
			await rereadDue(Date.now());
			await askApplications(Date.now());
			await fetchRates().catch((error: unknown) => log.warn({ error: String(error) }, 'no rates'));
		}
	} catch (error) {
		log.error({ error: String(error) }, 'the worker stumbled');
	}
	running = false;
	const due = await nextDue().catch(() => undefined);
	plan(again ? DELAY : Math.max(50, Math.min(IDLE_MS, (due ?? Infinity) - Date.now())));
}
