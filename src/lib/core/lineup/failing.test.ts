import { describe, expect, it } from 'vitest';
import { AT_LEAST, IN_A_ROW, isFailing, SOUND_IN_A_ROW, WINDOW_MS, type Outcome } from './failing';

/** Outcomes a second apart: `+` is sound, `-` is a technical error, `p` and `f` are probes. */
const run = (signs: string, from = 0, every = 1_000): Outcome[] =>
	[...signs].map((sign, at) => ({
		at: from + at * every,
		sound: sign === '+' || sign === 'p',
		...(sign === 'p' || sign === 'f' ? { probe: true } : {})
	}));

describe('a connection', () => {
	it('is failing after five technical errors in a row, and not after four', () => {
		expect(isFailing(run('+'.repeat(3) + '-'.repeat(IN_A_ROW - 1)), false)).toBe(false);
		expect(isFailing(run('+'.repeat(3) + '-'.repeat(IN_A_ROW)), false)).toBe(true);
		expect(isFailing(run('-'.repeat(IN_A_ROW)), false)).toBe(true);
		expect(isFailing(run('----+----'), false)).toBe(false);
	});

	it('is failing when more than half of at least twenty in ten minutes are errors', () => {
		const half = '+-'.repeat(AT_LEAST / 2);
		expect(isFailing(run(half), false)).toBe(false);
		// one more than half
		expect(isFailing(run(half.slice(0, -2) + '--'), false)).toBe(true);
		// of nineteen nothing is said
		expect(isFailing(run('--+'.repeat(7).slice(0, AT_LEAST - 1)), false)).toBe(false);
	});

	it('counts only what lies within the ten minutes before the last outcome', () => {
		const bad = '--+'.repeat(7);
		expect(isFailing(run(bad), false)).toBe(true);
		const old = run(bad);
		const later = run('+', old.at(-1)!.at + WINDOW_MS);
		expect(isFailing([...old, ...later], false)).toBe(false);
		const within = run('-', WINDOW_MS - 1);
		expect(isFailing([...old, ...within], false)).toBe(true);
	});

	it('is sound again after three successes in a row, or one successful probe', () => {
		expect(isFailing(run('-----++'), true)).toBe(true);
		expect(isFailing(run('-----' + '+'.repeat(SOUND_IN_A_ROW)), true)).toBe(false);
		expect(isFailing(run('-----++-+'), true)).toBe(true);
		expect(isFailing(run('-----p'), true)).toBe(false);
		expect(isFailing(run('-----f'), true)).toBe(true);
		// a probe that failed between two successes is an error like any other
		expect(isFailing(run('++f+'), true)).toBe(true);
	});

	it('stays what it was as long as nothing came', () => {
		expect([isFailing([], false), isFailing([], true)]).toEqual([false, true]);
	});

	it('that is failing does not become sound by the passing of time alone', () => {
		const old = run('-----');
		expect(isFailing([...old, ...run('+', old.at(-1)!.at + 10 * WINDOW_MS)], true)).toBe(true);
	});
});
