import { parentPort } from 'node:worker_threads';
import { Stopped } from '../../core/lineup';
import { TASKS, type TaskName } from './tasks';

// The other thread: does one task after another, so that payers' pages never wait for a large computation.
let last: Promise<void> = Promise.resolve();
/** Goes on with a task whose piece was taken, or ends it. */
const taken = new Map<number, { done(): void; fail(error: Error): void }>();

async function run(turn: number, task: TaskName, asked: never, stop: Int32Array): Promise<void> {
	const isStopped = () => Atomics.load(stop, 0) === 1;
	// the next piece is made while the one before is taken, and waits for that: no heap of them grows
	let before: Promise<void> = Promise.resolve();
	const give = async (piece: unknown) => {
		await before;
		before = new Promise<void>((done, fail) => {
			taken.set(turn, { done, fail });
			parentPort!.postMessage({ turn, piece });
		});
		// told at the next piece, or at the end
		before.catch(() => {});
	};
	try {
		if (isStopped()) throw new Stopped('Nobody waits for it any more.');
		const answer = await TASKS[task](asked, give as never, isStopped);
		await before;
		parentPort!.postMessage({ turn, answer });
	} catch (error) {
		parentPort!.postMessage({ turn, trouble: error instanceof Error ? error.stack : String(error) });
	}
}

type Message =
	| { turn: number; task: TaskName; asked: never; stop: Int32Array }
	| { turn: number; goOn: true }
	| { turn: number; trouble: string };
parentPort?.on('message', (message: Message) => {
	const { turn } = message;
	if ('task' in message) {
		last = last.then(() => run(turn, message.task, message.asked, message.stop));
		return;
	}
	const one = taken.get(turn);
	taken.delete(turn);
	if ('goOn' in message) one?.done();
	else one?.fail(new Error(message.trouble));
});
