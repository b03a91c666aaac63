import { describe, expect, it } from 'vitest';
import { BillContent } from '$lib/core/billing';
import { BillDraft, type ListedItem } from './billDraft.svelte';

const draft = (content: object = {}, locale = 'nl-BE') => new BillDraft(BillContent.parse(content), 'EUR', locale);
const item: ListedItem = {
	id: 'i1',
	code: 'ROSIN',
	name: 'Amber rosin',
	unit: '',
	category: 'standard',
	rate: 210_000,
	pricing: 'with tax',
	prices: [{ currency: 'EUR', price: '12.10' }]
};

describe('a document while it is written', () => {
	it('begins with an empty line, which is no line and is not wrong', () => {
		const bill = draft();
		expect([bill.lines.length, bill.read, bill.hasWrong]).toEqual([1, [], false]);
		expect(bill.problems).toEqual(['There is no line: nothing would be asked for.']);
	});
	it('is filled in by a code or a name of the price list, and reads sums as the business writes them', () => {
		const bill = draft();
		bill.lines[0]!.text = 'rosin';
		expect(bill.fill(0, [item])).toBe(true);
		expect(bill.lines[0]).toMatchObject({ text: 'Amber rosin', price: '12,10', item: 'i1' });
		bill.lines[0]!.quantity = '3';
		expect([bill.total, bill.sumOf(0)]).toEqual([3_630, '36,30']);
		bill.lines[0]!.off = '10 %';
		expect(bill.total).toBe(3_267);
		bill.off = '2,67';
		expect(bill.total).toBe(3_000);
	});
	it('keeps what was typed wrong, says what, and leaves it out of the sums', () => {
		const bill = draft({
			lines: [{ text: 'Bow', quantity: '1', price: '100.00', category: 'standard', rate: 210_000 }]
		});
		bill.add();
		Object.assign(bill.lines[1]!, { text: '', quantity: 'many', price: 'x', off: '200 %' });
		expect(Object.keys(bill.wrongOf(bill.lines[1]!)).sort()).toEqual(['off', 'price', 'quantity', 'text']);
		expect([bill.total, bill.hasWrong, bill.store().lines.length]).toEqual([10_000, true, 1]);
		bill.move(1, -1);
		expect([bill.lines[0]!.quantity, bill.sumOf(1)]).toEqual(['many', '100,00']);
		bill.remove(0);
		expect(bill.hasWrong).toBe(false);
	});
	it('shows the dues that its plan makes, or what is wrong with them', () => {
		const bill = draft({
			lines: [{ text: 'Bass', quantity: '1', price: '640.05', category: 'standard', rate: 210_000 }]
		});
		bill.duePlan.kind = 'deposit';
		bill.duePlan.deposit = '30 %';
		bill.duePlan.days = '0';
		expect(bill.dues('2026-11-03')).toEqual({
			dues: [
				{ day: '2026-11-03', minor: 19_202 },
				{ day: '2026-12-03', minor: 44_803 }
			]
		});
		bill.duePlan.deposit = 'some';
		expect(bill.dues('2026-11-03')).toEqual({ problem: 'A deposit is a sum or a share, such as 30 %.' });
		bill.duePlan.kind = 'by hand';
		bill.duePlan.byHand = [{ day: '2026-12-01', sum: '100,00' }];
		expect(bill.dues('2026-11-03')).toEqual({ problem: 'The dues add up to 100,00, and the total is 640,05.' });
		bill.duePlan.kind = 'instalments';
		bill.duePlan.count = '3';
		expect(
			'dues' in bill.dues('2026-11-03') &&
				(bill.dues('2026-11-03') as { dues: { minor: number }[] }).dues.map((one) => one.minor)
		).toEqual([21_335, 21_335, 21_335]);
	});
	it('stores what it was given, when nothing was touched', () => {
		const content = BillContent.parse({
			pricing: 'without tax',
			lines: [
				{
					text: 'Lesson',
					quantity: '1.75',
					unit: 'hour',
					price: '64.00',
					category: 'exempt',
					rate: 0,
					discount: { kind: 'sum', minor: 500 }
				}
			],
			discounts: [{ name: 'School', off: { kind: 'percentage', ppm: 43_500 } }],
			dues: { kind: 'deposit', deposit: { minor: 2_000 }, days: 3, rest: 20 },
			fields: [{ name: 'Instrument', value: 'Viola' }],
			reason: 'Lessons'
		});
		for (const locale of ['nl-BE', 'en-GB', 'de-DE', 'fr-BE'])
			expect(new BillDraft(content, 'EUR', locale).store()).toEqual(content);
	});
});
