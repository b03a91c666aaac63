import { describe, expect, it } from 'vitest';
import { formatDay, formatMoment } from './calendar';
import { keep } from './kept';

describe('what is kept', () => {
	it('is made once for a key', () => {
		let made = 0;
		const get = keep((key) => ({ key, made: ++made }));
		expect(get('a')).toBe(get('a'));
		expect([get('a').made, get('b').made, made]).toEqual([1, 2, 2]);
	});
	it('never grows without end, and answers rightly all the same', () => {
		let made = 0;
		const get = keep((key) => (made++, key.toUpperCase()));
		for (let n = 0; n < 1_000; n++) expect(get(`k${n % 300}`)).toBe(`K${n % 300}`);
		expect(made).toBeGreaterThan(300);
	});
	it('makes no new format for each day that is written', () => {
		const Made = Intl.DateTimeFormat;
		let made = 0;
		formatDay('2026-11-24', 'nl-BE');
		formatMoment(0, 'nl-BE', 'Europe/Brussels');
		Intl.DateTimeFormat = new Proxy(Made, {
			construct(target, given) {
				made++;
				return Reflect.construct(target, given) as object;
			}
		});
		try {
			for (let n = 1; n < 28; n++) {
				expect(formatDay(`2026-11-${String(n).padStart(2, '0')}`, 'nl-BE')).toContain('11/2026');
				formatMoment(n * 86_400_000, 'nl-BE', 'Europe/Brussels');
			}
		} finally {
			Intl.DateTimeFormat = Made;
		}
		expect(made).toBe(0);
	});
});
