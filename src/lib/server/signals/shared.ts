import { createHash } from 'node:crypto';
import { askerGone } from './asker';

// One answer for all who ask the same, stopped when all of them have gone away.

const KEPT = 40;
interface SharedAnswer {
	readonly answer: Promise<unknown>;
	readonly stop: AbortController;
	/** how many wait; what was asked by no request is waited for to its end */
	waiting: number;
}
const answers = new Map<string, SharedAnswer>();

/** An answer that is kept as long as its question stays the same; what failed or was stopped is asked again. */
export function shareAnswer<T>(question: unknown, ask: (stopped: AbortSignal) => Promise<T>): Promise<T> {
	const key = createHash('sha256').update(JSON.stringify(question)).digest('base64');
	let one = answers.get(key);
	if (!one) {
		const stop = new AbortController();
		const made: SharedAnswer = { answer: ask(stop.signal), stop, waiting: 0 };
		answers.set(key, (one = made));
		made.answer.catch(() => answers.get(key) === made && answers.delete(key));
		if (answers.size > KEPT) answers.delete(answers.keys().next().value!);
	}
	waitFor(key, one);
	return one.answer as Promise<T>;
}

function waitFor(key: string, one: SharedAnswer): void {
	const gone = askerGone();
	one.waiting++;
	if (!gone) return;
	const leave = () => {
		if (--one.waiting > 0) return;
		one.stop.abort();
		// whoever asks now begins anew
		if (answers.get(key) === one) answers.delete(key);
	};
	if (gone.aborted) return leave();
	gone.addEventListener('abort', leave, { once: true });
	const stay = () => gone.removeEventListener('abort', leave);
	one.answer.then(stay, stay);
}
