import { parentPort } from 'node:worker_threads';
import { TASKS, type TaskName } from './tasks';

// The other thread: does one task after another, so that payers' pages never wait for a large computation.
parentPort?.on('message', ({ turn, task, asked }: { turn: number; task: TaskName; asked: never }) => {
	try {
		parentPort!.postMessage({ turn, answer: TASKS[task](asked) });
	} catch (error) {
		parentPort!.postMessage({ turn, trouble: error instanceof Error ? error.stack : String(error) });
	}
});
