import { EventEmitter } from 'node:events';
import type { Socket } from 'node:net';
import { describe, expect, it } from 'vitest';
import { askerGone, withAsker } from './asker';
import { shareAnswer } from './shared';

// One answer for all who ask the same; it goes on as long as one of them is there.

const browser = () => Object.assign(new EventEmitter(), { destroyed: false }) as unknown as Socket & EventEmitter;
/** A question whose answer is given by hand. */
function question(name: string) {
	let times = 0;
	let stopped: AbortSignal | undefined;
	let done: (answer: string) => void = () => {};
	return {
		ask: () =>
			shareAnswer(name, (signal) => {
				times++;
				stopped = signal;
				return new Promise<string>((give, fail) => {
					done = give;
					signal.addEventListener('abort', () => fail(new Error('stopped')));
				});
			}),
		give: (answer: string) => done(answer),
		get times() {
			return times;
		},
		get isStopped() {
			return !!stopped?.aborted;
		}
	};
}

describe('an answer that is shared', () => {
	it('is worked out once, and goes on while one of those who asked is there', async () => {
		const [first, second] = [browser(), browser()];
		const one = question('is it shared?');
		const answers = [withAsker(first, one.ask), withAsker(second, one.ask)];
		await Promise.resolve();
		first.emit('close');
		expect([one.times, one.isStopped]).toEqual([1, false]);
		one.give('yes');
		expect(await Promise.all(answers)).toEqual(['yes', 'yes']);
		expect(await one.ask()).toBe('yes');
		expect(one.times).toBe(1);
		// nothing listens to a browser that was answered
		expect([first.listenerCount('close'), second.listenerCount('close')]).toEqual([0, 0]);
	});
	it('is stopped when all have gone, and asked anew by whoever comes', async () => {
		const [first, second] = [browser(), browser()];
		const one = question('is it stopped?');
		const answers = [withAsker(first, one.ask), withAsker(second, one.ask)];
		const ends = Promise.allSettled(answers);
		await Promise.resolve();
		first.emit('close');
		second.emit('close');
		expect(one.isStopped).toBe(true);
		expect((await ends).map((end) => end.status)).toEqual(['rejected', 'rejected']);
		const again = withAsker(browser(), one.ask);
		await Promise.resolve();
		one.give('no');
		expect([await again, one.times]).toEqual(['no', 2]);
	});
	it('is never stopped where no request asked for it, nor after it was given', async () => {
		const one = question('does the worker wait?');
		const own = one.ask();
		const visitor = browser();
		const theirs = withAsker(visitor, one.ask);
		await Promise.resolve();
		visitor.emit('close');
		expect(one.isStopped).toBe(false);
		one.give('it does');
		expect([await own, await theirs]).toEqual(['it does', 'it does']);
		const late = browser();
		await withAsker(late, one.ask);
		late.emit('close');
		expect([one.isStopped, await one.ask(), one.times]).toEqual([false, 'it does', 1]);
	});
	it('is not begun for a browser that is gone already', async () => {
		const gone = Object.assign(browser(), { destroyed: true });
		expect(await withAsker(gone, () => askerGone()!.aborted)).toBe(true);
		expect(askerGone()).toBeUndefined();
	});
});
