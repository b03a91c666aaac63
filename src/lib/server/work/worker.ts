import { allConnections, rereadDue } from '../connect/connections';
import { fetchRates } from '../connect/rates';
import { probeFailing } from '../speak/speak';
import { retireDue } from '../connect/keys';
import { askApplications } from '../connect/applications';
import { business } from '../connect/business';
import { endPauses } from '../accept/pauses';
import { endOldSessions } from '../access';
import { dropHalfKept, resumeFiles, takeInbox } from '../history/files';
import { isMerging } from '../history/merge';
import { deliver, tellEvents, tellUnfinished } from '../messages';
import { movePayments } from '../history/moves';
import { close, nextDue, packMonths } from '../db';
import { log } from '../log';
import { checkFees } from '../fees/run';
import { deliverHooks, endHooks } from '../hooks/deliver';
import { dropPacks } from '../bill/packs';
import { dropIncoming } from '../upload';
import { askAtOnce, settleOutcomes } from '../payments/outcomes';
import { tendStored } from '../payments/stored';
import { tendDebits } from '../bill/debits';
import { repriceDue } from '../payments/reprice';
import { lookForAlerts } from '../watch/alerts';
import { lookForSilence } from '../watch/silence';
import { lookAtDatabase } from '../watch/troubles';
import { endWork, workOnArrivals, workOnUnconfirmed, workOnWaitingFacts } from '../watch/work';
import { onWake } from '../signals/wake';
import { timeNow } from '../signals/clock';
import { stopWatchingClock, watchClock } from './setBack';

/** How long to wait before work on what has just come, in milliseconds; a test makes it long. */
const DELAY = Number(process.env.JUSTPURSE_WORK_DELAY_MS ?? 0);
const IDLE_MS = Number(process.env.JUSTPURSE_ROUND_MS ?? 30_000);
/** Messages about events are made of several at once: one act often writes more than one. */
const TOGETHER_MS = Math.max(DELAY, 40);
/** What is due and cannot be done yet is not looked at more often than this. */
const PAUSE_MS = 250;

let soonest: Promise<number | undefined> | undefined;
/** When something falls due next: lanes that come to their end at the same moment ask once. */
function askDue(): Promise<number | undefined> {
	soonest ??= new Promise<void>((next) => setImmediate(next)).then(() => {
		// whoever ends from here on has changed more than this will see
		soonest = undefined;
		return nextDue().catch(() => undefined);
	});
	return soonest;
}

/**
 * Work of one kind, apart from all others: whatever it waits for, and whatever goes wrong in it, stays with it.
 */
class Lane {
	private timer: NodeJS.Timeout | undefined;
	private plannedAt = 0;
	private running: Promise<void> | undefined;
	/** how soon it was asked to look again while it ran, in milliseconds */
	private again = Infinity;
	private stopped = false;

	/**
	 * @param run does what is due, and says how much that was
	 * @param isTimed whether it also runs when something of the database falls due
	 * @param wakesAfter how long after a wake it looks, in milliseconds: what nobody waits for looks once after many of them
	 */
	constructor(
		private readonly name: string,
		private readonly run: () => Promise<number | void>,
		private readonly isTimed = false,
		private readonly wakesAfter = DELAY
	) {}

	/** Something has come: it looks whether there is work. @param soon after a pause will do: what came is not for this lane */
	wake(soon = false): void {
		this.plan(soon ? Math.max(PAUSE_MS, this.wakesAfter) : this.wakesAfter);
	}

	plan(ms: number): void {
		if (this.stopped) return;
		if (this.running) {
			this.again = Math.min(this.again, ms);
			return;
		}
		// by the clock that never jumps: nothing is put off because somebody set the machine's
		const at = performance.now() + ms;
		// what is planned for as soon stays; what comes in a burst plans once
		if (this.timer && this.plannedAt <= at) return;
		clearTimeout(this.timer);
		this.plannedAt = at;
		this.timer = setTimeout(() => {
			this.timer = undefined;
			this.running = this.round().finally(() => (this.running = undefined));
			void this.running.then(() => this.planNext());
		}, ms);
	}

	private done = 0;
	private endedAt = performance.now();
	/** Whether it is at work, and since when it came to its end last, in milliseconds. */
	get state(): {
		readonly name: string;
		readonly isWorking: boolean;
		readonly idleMs: number;
		readonly failures: number;
	} {
		return {
			name: this.name,
			isWorking: this.running !== undefined,
			idleMs: performance.now() - this.endedAt,
			failures: this.failures
		};
	}
	private failures = 0;
	private async round(): Promise<void> {
		this.again = Infinity;
		try {
			this.done = (await this.run()) || 0;
		} catch (error) {
			this.done = 0;
			this.failures++;
			log.error(
				{ lane: this.name, error: error instanceof Error ? error.stack : String(error) },
				'the worker stumbled'
			);
		}
		this.endedAt = performance.now();
	}
	private async planNext(): Promise<void> {
		if (this.again < Infinity) return this.plan(this.again);
		if (this.done > 0) return this.plan(this.isTimed ? PAUSE_MS : 0);
		const due = this.isTimed ? await askDue() : undefined;
		this.plan(Math.max(PAUSE_MS, Math.min(IDLE_MS, (due ?? Infinity) - timeNow())));
	}

	async stop(): Promise<void> {
		this.stopped = true;
		clearTimeout(this.timer);
		await this.running;
	}
}

let lastRound = -Infinity;
/** What is looked at from time to time: soundness, keys, accounts, applications, rates. */
async function lookRound(): Promise<void> {
	await endPauses(timeNow());
	if (performance.now() - lastRound <= IDLE_MS || !(await business())) return;
	lastRound = performance.now();
	await endOldSessions();
	if (!(await allConnections()).length) return;
	await probeFailing();
	await retireDue(timeNow());
	await rereadDue(timeNow());
	await askApplications(timeNow());
	await fetchRates().catch((error: unknown) => log.warn({ error: String(error) }, 'no rates'));
}

/** The month that payments are captured in now is packed when somebody reads it, not after each of them. */
const isOver = (month: string): boolean => month < new Date(timeNow()).toISOString().slice(0, 7);

/** Work that follows from other work begins as soon as that is done. */
const andThen = (run: () => Promise<number>, next: () => Lane) => async (): Promise<number> => {
	const done = await run();
	if (done) next().plan(DELAY);
	return done;
};

const lanes: Record<string, Lane> = {
	arrivals: new Lane('arrivals', () => workOnArrivals(timeNow()), true),
	unconfirmed: new Lane('unconfirmed arrivals', () => workOnUnconfirmed(timeNow()), true),
	waiting: new Lane('waiting facts', () => workOnWaitingFacts(timeNow()), true),
	outcomes: new Lane('outcomes', () => settleOutcomes(timeNow()), true),
	files: new Lane('settlement files', async () => {
		if (!(await business())) return;
		await resumeFiles();
		await takeInbox();
	}),
	told: new Lane('what is told of events', tellEvents, false, TOGETHER_MS),
	messages: new Lane('messages', deliver, true),
	silence: new Lane('silence', lookForSilence, false, PAUSE_MS),
	alerts: new Lane('alerts', lookForAlerts, false, PAUSE_MS),
	hooks: new Lane('outgoing hooks', deliverHooks, true),
	moves: new Lane(
		'payments on their way to a till or an account',
		andThen(movePayments, () => lanes.prices!)
	),
	prices: new Lane(
		'prices',
		andThen(
			() => repriceDue(isMerging),
			() => lanes.fees!
		),
		false,
		PAUSE_MS
	),
	fees: new Lane('fee check', () => checkFees(isMerging), false, PAUSE_MS),
	months: new Lane(
		'months',
		async () => void (await packMonths((month) => isOver(month) && !isMerging())),
		false,
		PAUSE_MS
	),
	round: new Lane('round', lookRound, false, PAUSE_MS),
	stored: new Lane('stored methods', tendStored, false, PAUSE_MS),
	debits: new Lane('announced debits', tendDebits, false, PAUSE_MS),
	integrity: new Lane('looking through the database', lookAtDatabase, false, PAUSE_MS)
};

/** Every lane of the worker: whether it is at work, and how long ago it came to its end. */
export const laneStates = () => Object.values(lanes).map((lane) => lane.state);

/** Starts the work that happens beside requests: a lane for each kind. */
export function startWorker(): void {
	const wakeAll = (now?: readonly string[]) => {
		for (const [name, lane] of Object.entries(lanes)) lane.wake(now && !now.includes(name));
	};
	onWake(wakeAll);
	dropIncoming();
	dropPacks();
	void Promise.all([askAtOnce(), dropHalfKept(), tellUnfinished(), watchClock()]).finally(() => wakeAll());
}

/** Ends all work in its turn, and the database after it. */
export async function stopWorker(): Promise<void> {
	stopWatchingClock();
	await Promise.race([
		Promise.all(Object.values(lanes).map((lane) => lane.stop())).then(() => Promise.all([endWork(), endHooks()])),
		// a processor that hangs is not waited for: what is open is gone on with at the next start
		new Promise((next) => setTimeout(next, 3_000))
	]);
	await close();
}
