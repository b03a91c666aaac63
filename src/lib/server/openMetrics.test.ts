import { describe, expect, it } from 'vitest';
import { writeMetrics } from './openMetrics';

describe('metrics as text', () => {
	it('have type, unit and help before their samples, and an end', () => {
		expect(
			writeMetrics([
				{
					name: 'purse_wait_seconds',
					type: 'gauge',
					unit: 'seconds',
					help: 'How long it waits.',
					samples: [
						[{ lane: 'hooks' }, 1.5],
						[{ lane: 'arrivals', state: 'idle' }, 0]
					]
				},
				{ name: 'purse_rounds', type: 'counter', help: 'Rounds.', samples: [[{}, 7]] }
			])
		).toBe(
			[
				'# TYPE purse_wait_seconds gauge',
				'# UNIT purse_wait_seconds seconds',
				'# HELP purse_wait_seconds How long it waits.',
				'purse_wait_seconds{lane="hooks"} 1.5',
				'purse_wait_seconds{lane="arrivals",state="idle"} 0',
				'# TYPE purse_rounds counter',
				'# HELP purse_rounds Rounds.',
				'purse_rounds_total 7',
				'# EOF',
				''
			].join('\n')
		);
	});
	it('escape what would end a label or a line', () => {
		const text = writeMetrics([
			{ name: 'a', type: 'gauge', help: 'one\ntwo', samples: [[{ name: 'say "no"\\\n' }, 1]] }
		]);
		expect(text.split('\n')).toEqual([
			'# TYPE a gauge',
			'# HELP a one\\ntwo',
			'a{name="say \\"no\\"\\\\\\n"} 1',
			'# EOF',
			''
		]);
	});
	it('of nothing are the end alone', () => {
		expect(writeMetrics([])).toBe('# EOF\n');
	});
});
