import { describe, expect, it } from 'vitest';
import { Jobs, resultWithin, Stopped } from '.';

/** Something that is under way until it is let go. */
function gate<T>() {
	let open!: (value: T) => void;
	let shut!: (error: Error) => void;
	const through = new Promise<T>((done, fail) => ([open, shut] = [done, fail]));
	return { through, open, shut };
}
const settled = () => new Promise((next) => setTimeout(next, 5));

describe('jobs', () => {
	it('do what was asked before, and is the same still, once', async () => {
		const jobs = new Jobs<number>('a sum', 3);
		let runs = 0;
		const work = async () => ++runs;
		const [first, second] = [jobs.begin('a', work), jobs.begin('a', work)];
		expect(second).toBe(first);
		expect(await first.result).toBe(1);
		expect(await jobs.begin('a', work).result).toBe(1);
		expect(await jobs.begin('b', work).result).toBe(2);
		expect(jobs.at('a')).toBe(first);
		expect(jobs.at('nobody asked')).toBe(undefined);
	});
	it('tell how far they are, and that they have ended', async () => {
		const jobs = new Jobs<string>('a walk', 3);
		const half = gate<void>();
		const job = jobs.begin('a', async ({ progress }) => {
			progress.of = 10;
			progress.done = 5;
			await half.through;
			progress.done = 10;
			return 'there';
		});
		expect([job.progress, job.ended]).toEqual([{ done: 5, of: 10 }, false]);
		half.open();
		expect(await job.result).toBe('there');
		await settled();
		expect([job.progress.done, job.ended, job.failed]).toEqual([10, true, false]);
	});
	it('stop where they let others be served, and are forgotten: who asks again begins anew', async () => {
		const jobs = new Jobs<number>('a walk', 3);
		let steps = 0;
		const walk = async ({ breathe }: { breathe(): Promise<void> }) => {
			for (; steps < 1_000_000; steps++) await breathe();
			return steps;
		};
		const job = jobs.begin('a', walk);
		job.stop();
		await expect(job.result).rejects.toBeInstanceOf(Stopped);
		expect(steps).toBeLessThan(10);
		await settled();
		expect([jobs.at('a'), job.ended, job.failed]).toEqual([undefined, true, false]);
		steps = 999_999;
		expect(await jobs.begin('a', walk).result).toBe(1_000_000);
	});
	it('that fail are told to who waits, and begun again by who asks again', async () => {
		const jobs = new Jobs<number>('a division', 3);
		let isBroken = true;
		const work = async () => {
			if (isBroken) throw new Error('by zero');
			return 1;
		};
		const job = jobs.begin('a', work);
		await expect(job.result).rejects.toThrow('by zero');
		await settled();
		expect([job.failed, job.ended, jobs.at('a')]).toEqual([true, true, job]);
		isBroken = false;
		expect(await jobs.begin('a', work).result).toBe(1);
	});
	it('are kept so many after their end, and those under way in any number', async () => {
		const jobs = new Jobs<number>('a sum', 2);
		const open = gate<number>();
		const running = jobs.begin('running', () => open.through);
		for (const key of ['a', 'b', 'c']) {
			await jobs.begin(key, async () => 1).result;
			await settled();
		}
		expect([jobs.at('running'), !!jobs.at('a'), !!jobs.at('c')]).toEqual([running, false, true]);
		open.open(5);
		expect(await running.result).toBe(5);
	});
});

describe('the result of a job', () => {
	it('is there within a time, or not yet', async () => {
		const jobs = new Jobs<number>('a wait', 3);
		const open = gate<number>();
		const job = jobs.begin('a', () => open.through);
		expect(await resultWithin(job, 5)).toBe(undefined);
		open.open(3);
		expect(await resultWithin(job, 1_000)).toBe(3);
	});
	it('is none where the job was stopped, and its error where it failed', async () => {
		const jobs = new Jobs<number>('a wait', 3);
		const stopped = jobs.begin('a', async ({ breathe }) => {
			for (;;) await breathe();
		});
		stopped.stop();
		expect(await resultWithin(stopped, 1_000)).toBe(undefined);
		const failing = gate<number>();
		const failed = jobs.begin('b', () => failing.through);
		failing.shut(new Error('no more'));
		await expect(resultWithin(failed, 1_000)).rejects.toThrow('no more');
	});
});
