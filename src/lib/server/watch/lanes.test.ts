import { describe, expect, it } from 'vitest';
import { onWake } from '../signals/wake';
import { ConnectionLanes } from './lanes';

const of = (connectionId: string, count: number) => Array.from({ length: count }, (_, n) => ({ connectionId, n }));
/** Something to wait for, that is ended from outside. */
function gate() {
	let open!: () => void;
	const opened = new Promise<void>((done) => (open = done));
	return { open, opened };
}
const soon = () => new Promise((next) => setImmediate(next));

describe('work of connections', () => {
	it('goes in order for each, and none waits for another', async () => {
		const lanes = new ConnectionLanes();
		const { open, opened } = gate();
		const done: string[] = [];
		lanes.begin([...of('slow', 2), ...of('quick', 3)], async ([one]) => {
			if (one!.connectionId === 'slow') await opened;
			done.push(`${one!.connectionId} ${one!.n}`);
		});
		await soon();
		expect(done).toEqual(['quick 0', 'quick 1', 'quick 2']);
		expect(lanes.busy).toEqual(['slow']);
		open();
		await lanes.end();
		expect(done.slice(3)).toEqual(['slow 0', 'slow 1']);
		expect(lanes.busy).toEqual([]);
	});
	it('is not begun again while it is under way', async () => {
		const lanes = new ConnectionLanes();
		const { open, opened } = gate();
		let begun = 0;
		const act = async () => {
			begun++;
			await opened;
		};
		lanes.begin(of('a', 1), act);
		lanes.begin(of('a', 1), act);
		expect(begun).toBe(1);
		open();
		await lanes.end();
		lanes.begin(of('a', 1), act);
		await lanes.end();
		expect(begun).toBe(2);
	});
	it('is given so many together, and is under way so many times at once', async () => {
		const lanes = new ConnectionLanes();
		const sizes: number[] = [];
		lanes.begin(of('a', 7), (some) => Promise.resolve(void sizes.push(some.length)), { together: 3 });
		await lanes.end();
		expect(sizes).toEqual([3, 3, 1]);
		let [now, most] = [0, 0];
		lanes.begin(
			of('b', 9),
			async () => {
				most = Math.max(most, ++now);
				await soon();
				now--;
			},
			{ atOnce: 4 }
		);
		await lanes.end();
		expect(most).toBe(4);
	});
	it('that fails leaves the rest of its connection for later, asks for no other round at once, and touches no other', async () => {
		const lanes = new ConnectionLanes();
		let woken = 0;
		onWake(() => woken++);
		const done: string[] = [];
		lanes.begin([...of('broken', 3), ...of('sound', 2)], ([one]) => {
			if (one!.connectionId === 'broken' && one!.n === 1) return Promise.reject(new Error('the disk is full'));
			done.push(`${one!.connectionId} ${one!.n}`);
			return Promise.resolve();
		});
		await lanes.end();
		expect(done.sort()).toEqual(['broken 0', 'sound 0', 'sound 1']);
		// whoever is well wakes once; whoever is not would wake itself for ever
		expect(woken).toBe(1);
		expect(lanes.busy).toEqual([]);
		lanes.begin(of('broken', 1), ([one]) => Promise.resolve(void done.push(`again ${one!.n}`)));
		await lanes.end();
		expect(done).toContain('again 0');
	});
});
