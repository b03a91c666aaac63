import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatDecimal, localDecimal } from '../money';
import {
	CARD_COLUMNS,
	cardDifferences,
	cardForm,
	cardInput,
	cardRows,
	percent,
	RateCard,
	readCardRows,
	sayPlace
} from '.';

const card = RateCard.parse({
	settlement: 'EUR',
	rounding: 'each',
	mode: 'half-even',
	areas: [
		['BE', 'NL'],
		['CH', 'LI']
	],
	lines: [
		{ when: {}, percentage: 29_500, fixed: 22 },
		{ when: { method: 'card', region: 'domestic' }, percentage: 13_500, fixed: 18, minimum: 25, maximum: 900 }
	],
	tiers: {
		way: 'band',
		steps: [
			{ from: 1_000_000, lines: [{ when: {}, percentage: 20_000, fixed: 20 }] },
			{ from: 5_000_000, lines: [{ when: {}, percentage: 15_000, fixed: 15 }] }
		]
	},
	costs: [{ scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 2_000, schemeFee: 300 }],
	conversion: 17_500,
	monthly: { fee: 3_900, minimum: 5_000 },
	refund: { keeps: 'fixed', fee: 10 },
	dispute: { fee: 1_500, returnedWhenWon: true },
	declined: 3,
	payout: 25
});
const back = (one: RateCard) => {
	const read = readCardRows(cardRows(cardForm(one)));
	if ('troubles' in read) throw new Error(read.troubles.join());
	return RateCard.parse(cardInput(read.form));
};

describe('a rate card as CSV', () => {
	it('comes back as it was', () => {
		expect(back(card)).toEqual(card);
		expect(cardRows(cardForm(card))[0]).toEqual([...CARD_COLUMNS]);
	});
	it('keeps a whole cost table, a row a scheme and funding, and leaves out cells without figures', () => {
		const costs = (['corvid', 'tessel'] as const).flatMap((scheme) =>
			(['debit', 'credit'] as const).flatMap((funding) =>
				(['domestic', 'regional', 'international'] as const).map((region, n) => ({
					scheme,
					funding,
					region,
					interchange: 2_000 + n * 1_000,
					schemeFee: n * 100
				}))
			)
		);
		const plus = RateCard.parse({ ...card, costs });
		expect(back(plus)).toEqual(plus);
		const form = cardForm(plus);
		expect(form.costs.map((row) => `${row.scheme} ${row.funding}`)).toEqual([
			'corvid debit',
			'corvid credit',
			'tessel debit',
			'tessel credit'
		]);
		form.costs[1]!.regions.regional = { interchange: ' ', schemeFee: '' };
		expect(RateCard.parse(cardInput(form)).costs).toHaveLength(11);
	});
	it('names what is wrong in the cost table by its card type, and one that is given twice', () => {
		const form = cardForm(card);
		form.costs[0]!.regions.international = { interchange: 'much', schemeFee: '' };
		const input = cardInput(form);
		const told = RateCard.safeParse(input);
		expect(told.error!.issues.map((issue) => sayPlace(issue.path, input))).toEqual([
			'Cost table, corvid debit, international, interchange'
		]);
		const rows = cardRows(cardForm(card));
		const cost = rows.find(([part]) => part === 'cost')!;
		const twice = readCardRows([...rows, cost]);
		if ('troubles' in twice) throw new Error(twice.troubles.join());
		expect(RateCard.safeParse(cardInput(twice.form)).error!.issues[0]!.message).toBe(
			'two costs for corvid debit domestic'
		);
		expect(readCardRows([...rows, cost.map((cell) => (cell === 'domestic' ? 'nearby' : cell))])).toEqual({
			troubles: [`Row ${rows.length + 1}: “nearby” is no region of a cost.`]
		});
	});
	it('does so for any lines and prices', () => {
		const line = fc.record({
			when: fc.record(
				{ funding: fc.constantFrom('debit' as const, 'credit' as const), currency: fc.constantFrom('EUR', 'JPY') },
				{ requiredKeys: [] }
			),
			percentage: fc.integer({ min: 0, max: 999_999 }),
			fixed: fc.integer({ min: 0, max: 99_999 })
		});
		fc.assert(
			fc.property(
				fc.array(line, { minLength: 1, maxLength: 5 }),
				fc.constantFrom('EUR', 'JPY', 'KWD'),
				(lines, settlement) => {
					const one = RateCard.parse({ settlement, rounding: 'total', mode: 'up', lines });
					expect(back(one)).toEqual(one);
				}
			),
			{ numRuns: 200, seed: 20417 }
		);
	});
	it('takes columns in any order, and tells what is wrong by row', () => {
		const rows = cardRows(cardForm(card));
		const turned = rows.map((row) => [...row].reverse());
		expect(readCardRows(turned)).toEqual(readCardRows(rows));
		const troubles = (list: string[][]) => {
			const read = readCardRows(list);
			return 'troubles' in read ? read.troubles : [];
		};
		expect(troubles([['part', 'value']])[0]).toMatch(/^Row 1: the columns from, method/);
		expect(troubles([...rows, ['surcharge', ...rows[1]!.slice(1)]])).toEqual([
			`Row ${rows.length + 1}: “surcharge” is no part of a rate card.`
		]);
		expect(troubles([...rows, rows[1]!])).toEqual([`Row ${rows.length + 1}: settlement is given twice.`]);
		expect(troubles([rows[0]!, ...rows.slice(2)])).toEqual(['No row gives the settlement currency.']);
	});
});

describe('what a card changes', () => {
	it('is told line by line, and nothing where they are alike', () => {
		expect(cardDifferences(card, card, 'en-GB')).toEqual([]);
		const after = RateCard.parse({
			...card,
			lines: [
				{ when: {}, percentage: 31_000, fixed: 22 },
				{ when: { method: 'card', region: 'regional' }, percentage: 14_000, fixed: 18 }
			],
			tiers: { way: 'band', steps: [{ from: 2_000_000, lines: card.tiers!.steps[0]!.lines }] },
			monthly: { fee: 4_500, minimum: 5_000 },
			costs: undefined
		});
		expect(cardDifferences(card, after, 'en-GB')).toEqual([
			'everything else: 3.1 % + 0.22, was 2.95 % + 0.22.',
			'New line for card, regional: 1.4 % + 0.18.',
			'The line for card, domestic is gone.',
			'Tier 1 begins at 20,000.00, was 10,000.00.',
			'Tier 2 is gone.',
			'A month: 45.00, was 39.00.',
			'The cost table differs in 1 entry.'
		]);
	});
});

describe('a rate card in the boxes of its form', () => {
	const card = RateCard.parse({
		settlement: 'EUR',
		rounding: 'total',
		mode: 'half-up',
		lines: [{ when: {}, percentage: 13_500, fixed: 18, minimum: 1_250 }],
		conversion: 17_525,
		monthly: { fee: 123_450, minimum: 0 },
		refund: { keeps: 'fixed', fee: 5 }
	});
	it.each([
		['en-GB', '1.35', '0.18', '12.50', '1.7525', '1234.50'],
		['nl-BE', '1,35', '0,18', '12,50', '1,7525', '1234,50'],
		['', '1.35', '0.18', '12.50', '1.7525', '1234.50']
	])(
		'stands with the decimal sign of “%s”, and is read back as the very same',
		(locale, share, fixed, least, abroad, month) => {
			const form = cardForm(card, locale);
			expect(form.lines[0]).toMatchObject({ percentage: share, fixed, minimum: least });
			expect([form.conversion, form.monthlyFee]).toEqual([abroad, month]);
			expect(RateCard.parse(cardInput(form))).toEqual(card);
		}
	);
	it('tells its percentages and unrounded parts by the reader’s locale', () => {
		expect([percent(13_500, 'nl-BE'), percent(13_500, 'en-GB'), percent(0, 'nl-BE')]).toEqual([
			'1,35 %',
			'1.35 %',
			'0 %'
		]);
		expect([localDecimal('1.30755', 'fr-BE'), localDecimal('12', 'fr-BE'), localDecimal('-0.5', 'de-DE')]).toEqual([
			'1,30755',
			'12',
			'-0,5'
		]);
		expect(formatDecimal(1_234.5, 2, 'en-GB')).toBe('1,234.50');
	});
});
