import { log } from '../log';

/** Thrown where a job was stopped before its end. */
export class Stopped extends Error {
	constructor() {
		super('It was stopped before its end.');
	}
}

/** How far a job has come, in whatever it counts. */
export interface Progress {
	done: number;
	of: number;
}

/** Long work under way or done. A page that waits for it asks how far it is, and can stop it. */
export interface Job<T> {
	readonly key: string;
	readonly progress: Progress;
	readonly result: Promise<T>;
	/** whether it has come to its end, in whatever way */
	ended: boolean;
	/** whether something went wrong on the way */
	failed: boolean;
	stop(): void;
}

/** What the work is given: where it tells how far it is, and the question whether anyone still wants it. */
export interface Work {
	readonly progress: Progress;
	/** lets others be served, and ends here where the job was stopped. @throws Stopped */
	breathe(): Promise<void>;
}

/** Jobs of one kind, by what they are asked for: what was asked before and is the same still is not done again. */
export class Jobs<T> {
	private readonly known = new Map<string, Job<T>>();

	/**
	 * @param name what the log calls them
	 * @param kept how many are kept after their end
	 */
	constructor(
		private readonly name: string,
		private readonly kept: number
	) {}

	at(key: string): Job<T> | undefined {
		return this.known.get(key);
	}

	/** Begins a job, or gives the one that was begun for the same key. One that failed is begun again. */
	begin(key: string, work: (told: Work) => Promise<T>): Job<T> {
		const known = this.known.get(key);
		if (known && !known.failed) return known;
		const progress = { done: 0, of: 0 };
		let stopped = false;
		const breathe = async () => {
			await new Promise((next) => setImmediate(next));
			if (stopped) throw new Stopped();
		};
		const job: Job<T> = {
			key,
			progress,
			ended: false,
			failed: false,
			stop: () => void (stopped = true),
			result: work({ progress, breathe })
		};
		this.known.set(key, job);
		job.result.then(
			() => (job.ended = true),
			(error: unknown) => {
				job.ended = true;
				if (error instanceof Stopped) return void this.known.delete(key);
				// kept, so that a page that waits hears of it; who asks again begins again
				job.failed = true;
				log.error({ error: error instanceof Error ? error.stack : String(error) }, `${this.name} failed`);
			}
		);
		for (const [old, { ended }] of this.known) {
			if (this.known.size <= this.kept) break;
			if (ended) this.known.delete(old);
		}
		return job;
	}
}

/** The result of a job if it is there within so many milliseconds, or undefined: also where it was stopped. */
export const resultWithin = <T>(job: Job<T>, ms: number): Promise<T | undefined> =>
	Promise.race([
		job.result.catch((error: unknown) => {
			if (error instanceof Stopped) return undefined;
			throw error;
		}),
		new Promise<undefined>((next) => setTimeout(next, ms))
	]);
