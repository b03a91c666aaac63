import { describe, expect, it } from 'vitest';
import { listen, tell, told, toldSince, type Topic } from './live';

describe('what open screens are told', () => {
	it('is told to all who listen, each time with a higher number, until they stop', () => {
		const heard: [Topic, number][] = [];
		const other: Topic[] = [];
		const stop = listen((topic, number) => heard.push([topic, number]));
		const stopOther = listen((topic) => other.push(topic));
		tell('takings');
		tell('tills');
		stop();
		tell('takings');
		stopOther();
		expect(heard.map(([topic]) => topic)).toEqual(['takings', 'tills']);
		expect(other).toEqual(['takings', 'tills', 'takings']);
		expect(heard[1]![1]).toBeGreaterThan(heard[0]![1]);
		expect(told()).toBeGreaterThan(heard[1]![1]);
	});
	it('since a number is what changed after it, each topic once, however often it changed', () => {
		const before = told();
		expect(toldSince(before)).toEqual([]);
		tell('arrivals');
		tell('arrivals');
		const between = told();
		tell('connections');
		expect(toldSince(before).sort()).toEqual(['arrivals', 'connections']);
		expect(toldSince(between)).toEqual(['connections']);
		expect(toldSince(told())).toEqual([]);
	});
	it('since a number of another process is everything: nobody knows what was missed', () => {
		expect(toldSince(told() + 1_000_000).sort()).toEqual([
			'alerts',
			'arrivals',
			'bill',
			'connections',
			'fees',
			'hooks',
			'takings',
			'tills'
		]);
	});
	it('since before the process began is all that was told in it', () => {
		tell('tills');
		expect(toldSince(0)).toContain('tills');
	});
});
