import { Worker } from 'node:worker_threads';
import { log } from '../log';
import { DOCUMENT_TASKS, SHORT_TASKS, TASKS, type Answered, type Asked, type Piece, type TaskName } from './tasks';

export * from './tasks';

interface Waiting {
	done(answer: unknown): void;
	fail(error: Error): void;
	take(piece: unknown): Promise<void>;
}
/** One for short tasks, one for long ones, one for documents: a page does not wait for a file. */
type Lane = 'short' | 'long' | 'documents';
const threads: Partial<Record<Lane, Worker>> = {};
const laneOf = (task: string): Lane =>
	SHORT_TASKS.includes(task) ? 'short' : DOCUMENT_TASKS.includes(task) ? 'documents' : 'long';
let turns = 0;
const waits: Readonly<Record<Lane, Map<number, Waiting>>> = {
	short: new Map(),
	long: new Map(),
	documents: new Map()
};

/** The built entry of the other thread, where there is one: in development tasks run here. */
const entry = () => process.env.JUSTPURSE_THREAD;

function started(file: string, lane: Lane): Worker {
	const waiting = waits[lane];
	if (threads[lane]) return threads[lane];
	const made = new Worker(file);
	threads[lane] = made;
	made.unref();
	made.on('message', (message: { turn: number; answer?: unknown; piece?: unknown; trouble?: string }) => {
		const { turn, answer, trouble } = message;
		const one = waiting.get(turn);
		if ('piece' in message) {
			one?.take(message.piece).then(
				() => made.postMessage({ turn, goOn: true }),
				(error: unknown) => made.postMessage({ turn, trouble: error instanceof Error ? error.stack : String(error) })
			);
			return;
		}
		waiting.delete(turn);
		if (waiting.size === 0) made.unref();
		if (trouble === undefined) one?.done(answer);
		else one?.fail(new Error(trouble));
	});
	// a thread that ends, for want of memory for instance, takes its tasks with it; the next task starts another
	const end = (error: Error) => {
		if (threads[lane] !== made) return;
		log.error({ error }, 'the thread for computations ended');
		threads[lane] = undefined;
		const lost = [...waiting.values()];
		waiting.clear();
		for (const one of lost) one.fail(error);
	};
	made.on('error', end);
	made.on('exit', (code) => end(new Error(`the thread ended with ${code}`)));
	return made;
}

/**
 * Works something out in another thread, after what it was asked before; the server answers others meanwhile.
 * What is asked is copied, but for columns that are shared.
 * @param take what the task hands over on its way, where it does; the task goes on when it was taken
 * @param stopped ends the task, begun or not, where it is one that can be stopped
 * @throws what the task throws, and what `take` throws
 */
export async function inThread<K extends TaskName>(
	task: K,
	asked: Asked<K>,
	take: (piece: Piece<K>) => Promise<void> = async () => {},
	stopped?: AbortSignal
): Promise<Answered<K>> {
	const file = entry();
	if (!file) return (await TASKS[task](asked as never, take as never, () => !!stopped?.aborted)) as Answered<K>;
	const lane = laneOf(task);
	const made = started(file, lane);
	const turn = ++turns;
	// memory that both threads see: the other one hears no message while it computes
	const stop = new Int32Array(new SharedArrayBuffer(4));
	const tellStop = () => void Atomics.store(stop, 0, 1);
	if (stopped?.aborted) tellStop();
	stopped?.addEventListener('abort', tellStop, { once: true });
	return new Promise<Answered<K>>((done, fail) => {
		waits[lane].set(turn, { done: (answer) => done(answer as Answered<K>), fail, take: take as Waiting['take'] });
		made.ref();
		made.postMessage({ turn, task, asked, stop });
	});
}
