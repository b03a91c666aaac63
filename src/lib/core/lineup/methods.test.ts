import { describe, expect, it } from 'vitest';
import { METHODS, methodName, methodNameIn } from './methods';

describe('the names of methods', () => {
	it('are there in every language that payers are spoken to, no two alike in one', () => {
		for (const language of ['en', 'nl', 'fr', 'de']) {
			const names = METHODS.map((method) => methodNameIn(method, language));
			expect([language, new Set(names).size]).toEqual([language, METHODS.length]);
			for (const name of names) expect(name.trim().length).toBeGreaterThan(2);
		}
		expect([methodNameIn('cash', 'fr'), methodNameIn('cash', 'de'), methodNameIn('cash', 'nl')]).toEqual([
			'Espèces',
			'Bar',
			'Contant'
		]);
	});
	it('are the trade’s where a language or a method is not known', () => {
		expect(methodNameIn('card', 'ja')).toBe(methodName('card'));
		expect(methodNameIn('card', 'toString')).toBe('Card');
		expect(methodNameIn('no-such-method', 'fr')).toBe('no-such-method');
	});
});
