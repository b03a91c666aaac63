import { describe, expect, it } from 'vitest';
import { readSettlement, SETTLEMENT_COLUMNS } from '.';

const row = (change: Partial<Record<(typeof SETTLEMENT_COLUMNS)[number], string>> = {}) => {
	const cells: Record<string, string> = {
		payment: 'FE-1',
		captured_at: '2026-11-20T10:00:00.000Z',
		source: 'Web shop',
		method: 'card',
		currency: 'EUR',
		amount_minor: '8450',
		entry: 'online',
		scheme: 'corvid',
		funding: 'debit',
		issuer: 'BE',
		fee_currency: 'EUR',
		fee_minor: '132',
		base_minor: '8450',
		rate: '',
		refunded_minor: '0',
		disputed_minor: '0',
		...change
	};
	return SETTLEMENT_COLUMNS.map((name) => cells[name]!);
};
const total = (currency: string, count: number, sum: number, fees: number) =>
	row({
		payment: 'total',
		captured_at: '',
		source: String(count),
		method: '',
		currency,
		amount_minor: String(sum),
		fee_minor: String(fees)
	});
const read = (...rows: string[][]) =>
	readSettlement([[...SETTLEMENT_COLUMNS], ...rows].map((cells, at) => ({ line: at + 1, cells })));
const troubles = (...rows: string[][]) => {
	const told = read(...rows);
	return 'troubles' in told ? told.troubles.map((one) => `${one.line}: ${one.says}`) : [];
};

describe('a settlement file', () => {
	it('is taken when every line and the totals are right', () => {
		expect(read(row(), row({ payment: 'FE-2' }), total('EUR', 2, 16_900, 264))).toMatchObject({
			lines: [{ payment: 'FE-1', amount_minor: 8450 }, { payment: 'FE-2' }]
		});
	});
	it('names each line that is wrong, and why', () => {
		expect(
			troubles(
				row({ amount_minor: '84.50' }),
				row({ payment: 'FE-2', currency: 'XXQ' }),
				row({ payment: 'FE-3', method: 'barter' }),
				row({ payment: 'FE-4', captured_at: 'yesterday' }),
				row({ payment: 'FE-5', refunded_minor: '9000' }),
				row({ payment: 'FE-6', currency: 'GBP' }),
				row({ payment: 'FE-7' }).slice(0, 5)
			)
		).toEqual([
			'2: amount_minor is not a whole number of minor units.',
			'3: currency is no currency.',
			'4: method is no method that is known here.',
			'5: captured_at is not a time such as 2026-11-24T10:00:00Z.',
			'6: More was refunded and disputed than was taken.',
			'7: A rate from GBP to EUR is missing.',
			'8: It has 5 values where there are 16.',
			'0: The totals at the end are missing: the file was cut off.'
		]);
	});
	it('refuses doubled lines, wrong totals, and totals that are missing', () => {
		expect(troubles(row(), row(), total('EUR', 2, 16_900, 264))).toEqual(['3: Payment FE-1 stands in line 2 already.']);
		expect(troubles(row(), total('EUR', 1, 8451, 132))[0]).toMatch(/^3: The total of EUR is 1 payments, 8451/);
		expect(troubles(row(), total('GBP', 0, 0, 0))).toEqual(['0: There is no total for EUR.']);
		expect(troubles(row())).toEqual(['0: The totals at the end are missing: the file was cut off.']);
	});
	it('refuses another header, and an empty file', () => {
		expect(readSettlement([{ line: 1, cells: ['id', 'amount'] }])).toMatchObject({ troubles: [{ line: 1 }] });
		expect(readSettlement([])).toMatchObject({ troubles: [{ says: 'The file is empty.' }] });
	});
});
