import { describe, expect, it } from 'vitest';
import { checkCode, CODE_PROBLEMS, CodeForm, mostOff, type CodeProblem } from './codes';
import { BillContent, BillTo, DuePlanForm, ItemForm, LineForm, MOST_LINES, OffForm } from './content';
import { encodeStrictly, fieldProblems, linkProblems, LinkSettings, withTax } from './links';
import { hasAddress, inputOf, planOf, purposeOf } from './purpose';

const fits = (schema: { safeParse(value: unknown): { success: boolean } }, value: unknown) =>
	schema.safeParse(value).success;

describe('a line of a bill', () => {
	it('has a text, a quantity and a price as decimals with a point', () => {
		expect(LineForm.parse({ text: ' Rosin ', price: '12.35' })).toEqual({
			text: 'Rosin',
			quantity: '1',
			unit: '',
			price: '12.35',
			category: 'standard',
			rate: 0
		});
		for (const price of ['', '-1', '1,5', '1.123456789', '1e3', '1234567890123', ' '])
			expect([price, fits(LineForm, { text: 'A', price })]).toEqual([price, false]);
		for (const price of ['0', '0.00', '999999999999.99999999', ' 12.5 '])
			expect([price, fits(LineForm, { text: 'A', price })]).toEqual([price, true]);
	});
	it('has a discount of a hundred percent at most, or a sum', () => {
		expect(fits(OffForm, { kind: 'percentage', ppm: 1_000_000 })).toBe(true);
		expect(fits(OffForm, { kind: 'percentage', ppm: 1_000_001 })).toBe(false);
		expect(fits(OffForm, { kind: 'percentage', ppm: 0.5 })).toBe(false);
		expect(fits(OffForm, { kind: 'sum', minor: -1 })).toBe(false);
		expect(fits(OffForm, { kind: 'gift', minor: 1 })).toBe(false);
	});
	it('stands among five hundred at most', () => {
		const lines = (count: number) => Array.from({ length: count }, () => ({ text: 'A', price: '1' }));
		expect(fits(BillContent, { lines: lines(MOST_LINES) })).toBe(true);
		expect(fits(BillContent, { lines: lines(MOST_LINES + 1) })).toBe(false);
	});
});

describe('a bill', () => {
	it('of nothing has everything that is left out: with tax, all at once in a fortnight', () => {
		expect(BillContent.parse({})).toMatchObject({
			pricing: 'with tax',
			lines: [],
			discounts: [],
			dues: { kind: 'all at once', days: 14 },
			billTo: { name: '', company: '', country: '' },
			fields: []
		});
	});
	it('is paid by a plan that can be kept', () => {
		const plans: [unknown, boolean][] = [
			[{ kind: 'all at once', days: 0 }, true],
			[{ kind: 'all at once', days: -1 }, false],
			[{ kind: 'deposit', deposit: { ppm: 300_000 }, days: 0, rest: 30 }, true],
			[{ kind: 'deposit', deposit: { minor: 5_000 }, days: 0, rest: 30 }, true],
			[{ kind: 'deposit', deposit: { ppm: 0 }, days: 0, rest: 30 }, false],
			[{ kind: 'instalments', count: 120, days: 14, every: 30 }, true],
			[{ kind: 'instalments', count: 121, days: 14, every: 30 }, false],
			[{ kind: 'instalments', count: 3, days: 14, every: 0 }, false],
			[{ kind: 'by hand', dues: [{ day: '2026-12-24', minor: 100 }] }, true],
			[{ kind: 'by hand', dues: [] }, false],
			[{ kind: 'by hand', dues: [{ day: '24.12.2026', minor: 100 }] }, false],
			[{ kind: 'when there is money' }, false]
		];
		for (const [plan, fit] of plans) expect([plan, fits(DuePlanForm, plan)]).toEqual([plan, fit]);
	});
	it('has a country of two letters, in any case, and at most eight fields of its own', () => {
		expect(BillTo.parse({ country: 'be' }).country).toBe('BE');
		expect(fits(BillTo, { country: 'BEL' })).toBe(false);
		const fields = (count: number) => Array.from({ length: count }, (_, n) => ({ name: `f${n}`, value: '' }));
		expect([fits(BillContent, { fields: fields(8) }), fits(BillContent, { fields: fields(9) })]).toEqual([true, false]);
	});
	it('says in one line what it is for, in the payer’s language', () => {
		const lines = [{ text: 'New strings\nwound' }, { text: 'Rosin' }, { text: 'Case' }];
		expect(purposeOf([])).toBe('');
		expect(purposeOf(lines.slice(0, 1))).toBe('New strings');
		expect((['en', 'nl', 'fr', 'de'] as const).map((language) => purposeOf(lines, language))).toEqual([
			'New strings and 2 more',
			'New strings en nog 2',
			'New strings et 2 autres',
			'New strings und 2 weitere'
		]);
	});
	it('has an address for a tax invoice only with somebody, a street, a place and a country', () => {
		const whole = BillTo.parse({ name: 'Ana', street: 'Rope Walk 4', city: 'Ghent', country: 'BE' });
		expect(hasAddress(whole)).toBe(true);
		expect(hasAddress({ ...whole, name: '', company: 'Müller Music' })).toBe(true);
		for (const missing of ['name', 'street', 'city', 'country'] as const)
			expect([missing, hasAddress({ ...whole, [missing]: '' })]).toEqual([missing, false]);
	});
	it('hands on what is summed and when it is due', () => {
		const content = BillContent.parse({ lines: [{ text: 'A', price: '2.50', quantity: '4' }] });
		expect(inputOf(content, 'EUR')).toEqual({
			currency: 'EUR',
			pricing: 'with tax',
			lines: content.lines,
			discounts: []
		});
		expect(planOf(content)).toEqual({ kind: 'all at once', days: 14 });
	});
});

describe('a thing of the price list', () => {
	const item = { code: 'ROSIN-A', name: 'Rosin', prices: [{ currency: 'EUR', price: '12.35' }] };
	it('has a code, a name, and a price in one currency at least', () => {
		expect(fits(ItemForm, item)).toBe(true);
		for (const wrong of [
			{ code: '' },
			{ name: '' },
			{ prices: [] },
			{ prices: [{ currency: 'EUX', price: '1' }] },
			{ prices: [{ currency: 'EUR', price: '1,5' }] },
			{ stock: -1 },
			{ stock: 1.5 },
			{ picture: 'data:image/svg+xml;base64,AAAA' },
			{ picture: 'https://pictures.example/rosin.png' }
		])
			expect([wrong, fits(ItemForm, { ...item, ...wrong })]).toEqual([wrong, false]);
		expect(fits(ItemForm, { ...item, picture: 'data:image/png;base64,AAAA', stock: 0 })).toBe(true);
	});
	it('without tax in its price is asked for with the tax of one piece', () => {
		expect(withTax('10.00', 210_000, 'EUR')).toBe('12.10');
		expect(withTax('0.33', 60_000, 'EUR')).toBe('0.35');
		expect(withTax('100', 80_000, 'JPY')).toBe('108');
		expect(withTax('9.99', 0, 'EUR')).toBe('9.99');
	});
});

describe('a discount code', () => {
	const code = (more: Partial<CodeForm> = {}) =>
		CodeForm.parse({ code: 'early-26', name: 'Early bird', off: { kind: 'percentage', ppm: 100_000 }, ...more });
	const order = {
		currency: 'EUR',
		total: 10_000,
		items: ['rosin', 'case'],
		today: '2026-11-30',
		used: 0,
		usedByPayer: 0
	};
	it('is kept in capitals, of 3 to 24 letters, digits and hyphens', () => {
		expect(code().code).toBe('EARLY-26');
		for (const wrong of ['AB', 'A'.repeat(25), 'EARLY 26', 'ÉARLY', ''])
			expect([wrong, fits(CodeForm, { ...code(), code: wrong })]).toEqual([wrong, false]);
	});
	it('is good on its days, both of them among them, from its sum on, and until it is used up', () => {
		const problemOf = (form: Partial<CodeForm>, asked: Partial<typeof order> = {}): CodeProblem | 'good' => {
			const told = checkCode(code(form), { ...order, ...asked });
			return 'problem' in told ? told.problem : 'good';
		};
		const cases: [Partial<CodeForm>, Partial<typeof order>, CodeProblem | 'good'][] = [
			[{}, {}, 'good'],
			[{ from: '2026-12-01' }, {}, 'not yet'],
			[{ from: '2026-11-30' }, {}, 'good'],
			[{ until: '2026-11-30' }, {}, 'good'],
			[{ until: '2026-11-29' }, {}, 'over'],
			[{ least: 10_000, currency: 'EUR' }, {}, 'good'],
			[{ least: 10_001, currency: 'EUR' }, {}, 'too small'],
			[{ off: { kind: 'sum', minor: 500 }, currency: 'EUR' }, {}, 'good'],
			[{ off: { kind: 'sum', minor: 500 }, currency: 'CHF' }, {}, 'other currency'],
			[{ least: 1, currency: 'CHF' }, {}, 'other currency'],
			// a percentage is one in every currency
			[{ currency: 'CHF' }, {}, 'good'],
			[{ items: ['bow'] }, {}, 'other goods'],
			[{ items: ['bow', 'case'] }, {}, 'good'],
			[{ uses: 3 }, { used: 2 }, 'good'],
			[{ uses: 3 }, { used: 3 }, 'used up'],
			[{ usesEach: 1 }, { used: 50 }, 'good'],
			[{ usesEach: 1 }, { usedByPayer: 1 }, 'used by payer']
		];
		for (const [form, asked, wanted] of cases)
			expect([form, asked, problemOf(form, asked)]).toEqual([form, asked, wanted]);
		expect(new Set(cases.map((one) => one[2]))).toEqual(
			new Set(['good', ...CODE_PROBLEMS.filter((one) => one !== 'unknown')])
		);
	});
	it('takes off of its goods only, and never more than there is', () => {
		expect(checkCode(code({ items: ['case'] }), order)).toEqual({
			discount: { name: 'Early bird', off: { kind: 'percentage', ppm: 100_000 }, items: ['case'] }
		});
		expect(mostOff({ off: { kind: 'percentage', ppm: 125_000 } }, 999)).toBe(125);
		expect(mostOff({ off: { kind: 'sum', minor: 500 } }, 300)).toBe(300);
	});
});

describe('a pay link', () => {
	const link = (more: Partial<LinkSettings> = {}) =>
		LinkSettings.parse({ title: 'Autumn fair', currency: 'EUR', fixed: 1_500, ...more });
	it('can be saved once what it asks for is told', () => {
		expect(linkProblems(link())).toEqual({});
		const cases: [Partial<LinkSettings>, string][] = [
			[{ fixed: 0 }, 'fixed'],
			[{ asksFor: 'goods' }, 'goods'],
			[{ asksFor: 'free sum', free: { least: 500, most: 400, suggested: [] } }, 'free'],
			[{ asksFor: 'free sum', free: { least: 500, most: 0, suggested: [400] } }, 'free'],
			[{ asksFor: 'free sum', free: { least: 0, most: 900, suggested: [1_000] } }, 'free'],
			[{ landing: 'address' }, 'landingAddress'],
			[{ landing: 'own words' }, 'landingText'],
			[{ button: 'own' }, 'ownButton'],
			[{ fields: [{ id: 'size', label: 'Size', kind: 'choice', choices: ['S'], must: false }] }, 'field-0'],
			[
				{
					fields: [
						{ id: 'size', label: 'Size', kind: 'text', choices: [], must: false },
						{ id: 'size', label: 'Size', kind: 'text', choices: [], must: false }
					]
				},
				'fields'
			]
		];
		for (const [more, field] of cases) expect([more, Object.keys(linkProblems(link(more)))]).toEqual([more, [field]]);
	});
	it('asks what must be filled in, and takes numbers, days and choices as such', () => {
		const fields = (
			[
				['name', 'text', [], true],
				['age', 'number', [], false],
				['day', 'date', [], false],
				['size', 'choice', ['S', 'M'], false]
			] as const
		).map(([id, kind, choices, must]) => ({ id, label: id, kind, choices: [...choices], must }));
		expect(fieldProblems(fields, { name: ' ', age: '', day: '', size: '' })).toEqual({ name: 'missing' });
		expect(fieldProblems(fields, { name: 'Ana', age: '12,5', day: '2026-02-28', size: 'M' })).toEqual({});
		expect(fieldProblems(fields, { name: 'Ana', age: 'twelve', day: '2026-13-01', size: 'XL' })).toEqual({
			age: 'no number',
			day: 'no date',
			size: 'no choice'
		});
	});
	it('writes its addresses as RFC 3986 asks: only unreserved signs stay as they are', () => {
		expect(encodeStrictly("a-z_0~9.!'()*+ &=%@ü")).toBe('a-z_0~9.%21%27%28%29%2A%2B%20%26%3D%25%40%C3%BC');
	});
});
