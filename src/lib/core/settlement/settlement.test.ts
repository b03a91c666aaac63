import { describe, expect, it } from 'vitest';
import { FURTHER_COLUMNS, SETTLEMENT_COLUMNS, SettlementReader, type Told } from '.';

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
/** A whole file: what it tells, by kind of line, or what is wrong with it. */
function readSettlement(records: { line: number; cells: string[] }[]) {
	const reader = new SettlementReader();
	const told = records.map(({ line, cells }) => reader.take(line, cells)).filter((one): one is Told => !!one);
	const troubles = reader.end();
	if (troubles.length) return { troubles };
	return {
		lines: told.flatMap((one) => ('captured' in one ? [one.captured] : [])),
		declined: told.flatMap((one) => ('declined' in one ? [one.declined] : [])),
		others: told.flatMap((one) => ('other' in one ? [one.other] : [])),
		elsewhere: reader.elsewhere()
	};
}
const read = (...rows: string[][]) =>
	readSettlement([[...SETTLEMENT_COLUMNS], ...rows].map((cells, at) => ({ line: at + 1, cells })));
const troubles = (...rows: string[][]) => {
	const told = read(...rows);
	return told.troubles ? told.troubles.map((one) => `${one.line}: ${one.says}`) : [];
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

describe('a settlement file with attempts and when they were ordered', () => {
	type Further = Partial<Record<(typeof FURTHER_COLUMNS)[number], string>>;
	const more = (cells: string[], change: Further = {}) => [
		...cells,
		...FURTHER_COLUMNS.map((name) => change[name] ?? (name === 'outcome' ? 'captured' : ''))
	];
	const declined = (change: Parameters<typeof row>[0] = {}, further: Further = {}) =>
		more(
			row({
				payment: 'FE-D1',
				captured_at: '',
				base_minor: '',
				refunded_minor: '',
				disputed_minor: '',
				fee_minor: '3',
				...change
			}),
			{ ordered_at: '2026-11-20T09:58:00Z', outcome: 'declined', reason: 'not enough money', ...further }
		);
	const readMore = (...rows: string[][]) =>
		readSettlement(
			[[...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS], ...rows].map((cells, at) => ({ line: at + 1, cells }))
		);
	const troublesOf = (...rows: string[][]) => {
		const told = readMore(...rows);
		return told.troubles ? told.troubles.map((one) => `${one.line}: ${one.says}`) : [];
	};
	const totals = [more(total('EUR', 1, 8_450, 132)), more(total('EUR', 1, 8_450, 3), { outcome: 'declined' })];

	it('keeps what was captured apart from what was declined, each with totals of its own', () => {
		const told = readMore(more(row(), { ordered_at: '2026-10-30T10:00:00Z' }), declined(), ...totals);
		expect(told).toMatchObject({
			lines: [{ payment: 'FE-1', ordered_at: Date.parse('2026-10-30T10:00:00Z'), line: 2 }],
			declined: [{ payment: 'FE-D1', amount_minor: 8450, fee_minor: 3, reason: 'not enough money', line: 3 }]
		});
	});
	it('takes a payment without an order time as ordered when it was captured', () => {
		const told = readMore(more(row()), more(total('EUR', 1, 8_450, 132)));
		expect(told.lines).toMatchObject([{ payment: 'FE-1', ordered_at: undefined }]);
	});
	it('names what cannot be', () => {
		expect(troublesOf(more(row(), { ordered_at: '2026-11-21T00:00:00Z' }), more(total('EUR', 1, 8_450, 132)))).toEqual([
			'2: It was captured before it was ordered.'
		]);
		expect(troublesOf(more(row()), declined({ refunded_minor: '5' }), ...totals)).toEqual([
			'3: refunded_minor must be empty: a declined attempt captured nothing.'
		]);
		expect(troublesOf(more(row()), declined({}, { ordered_at: '' }), ...totals)[0]).toMatch(
			/^3: ordered_at is not a time/
		);
		expect(troublesOf(more(row(), { outcome: 'maybe' }), ...totals)[0]).toBe(
			'2: outcome is neither captured nor declined.'
		);
		expect(troublesOf(more(row()), declined({ payment: 'FE-1' }), ...totals)).toEqual([
			'3: Payment FE-1 stands in line 2 already.'
		]);
	});
	it('misses totals of declined attempts as it does those of payments', () => {
		expect(troublesOf(more(row()), declined(), totals[0]!)).toEqual([
			'0: There is no total for declined attempts in EUR.'
		]);
		expect(
			troublesOf(more(row()), declined(), totals[0]!, more(total('EUR', 2, 8_450, 3), { outcome: 'declined' }))
		).toEqual(['5: The total of EUR is 2 declined attempts, 8450 and fees of 3; the lines come to 1, 8450 and 3.']);
	});
});

describe('a settlement file with lines of their own', () => {
	const columns = [...SETTLEMENT_COLUMNS, ...FURTHER_COLUMNS, 'of_payment'];
	const full = (cells: string[], outcome = 'captured', of = '') => [...cells, '', outcome, '', of];
	const other = (
		outcome: string,
		{ id = 'X-1', minor = '500', fee = '0', of = '' }: { id?: string; minor?: string; fee?: string; of?: string } = {}
	) =>
		full(
			row({
				payment: id,
				source: '',
				method: '',
				amount_minor: minor,
				entry: '',
				scheme: '',
				funding: '',
				issuer: '',
				fee_minor: fee,
				base_minor: '',
				refunded_minor: '',
				disputed_minor: ''
			}),
			outcome,
			of
		);
	const totalOf = (outcome: string, count: number, sum: number, fees: number) =>
		full(total('EUR', count, sum, fees), outcome);
	const readFull = (...rows: string[][]) =>
		readSettlement([columns, ...rows].map((cells, at) => ({ line: at + 1, cells })));
	const wrong = (...rows: string[][]) => (readFull(...rows).troubles ?? []).map((one) => `${one.line}: ${one.says}`);

	it('tells refunds, disputes, charges and payouts apart, each with a total of its own', () => {
		const told = readFull(
			full(row()),
			other('refund', { id: 'R-1', minor: '300', of: 'FE-1' }),
			other('dispute', { id: 'D-1', minor: '200', fee: '1800', of: 'FE-1' }),
			other('dispute won', { id: 'D-1', minor: '0', fee: '-1800', of: 'FE-1' }),
			other('adjustment', { id: 'A-1', minor: '0', fee: '-25' }),
			other('monthly', { id: 'M-1', minor: '0', fee: '2400' }),
			other('payout', { id: 'PO-1', minor: '7000' }),
			totalOf('captured', 1, 8_450, 132),
			totalOf('refund', 1, 300, 0),
			totalOf('dispute', 1, 200, 1_800),
			totalOf('dispute won', 1, 0, -1_800),
			totalOf('adjustment', 1, 0, -25),
			totalOf('monthly', 1, 0, 2_400),
			totalOf('payout', 1, 7_000, 0)
		);
		expect(told.troubles).toBe(undefined);
		expect(told.others!.map(({ outcome, fee_minor, of_payment }) => [outcome, fee_minor, of_payment])).toEqual([
			['refund', 0, 'FE-1'],
			['dispute', 1_800, 'FE-1'],
			['dispute won', -1_800, 'FE-1'],
			['adjustment', -25, ''],
			['monthly', 2_400, ''],
			['payout', 0, '']
		]);
		expect(told.elsewhere).toEqual([]);
	});
	it('names what belongs to no payment, is nothing, or is of an unknown kind', () => {
		expect(
			wrong(
				full(row()),
				other('refund', { id: 'R-1', minor: '300' }),
				other('refund', { id: 'R-2', minor: '0', of: 'FE-1' }),
				other('payout', { id: 'PO-1', minor: '0' }),
				other('gift', { id: 'G-1' }),
				full(row({ payment: 'FE-2' }), 'captured', 'FE-1'),
				totalOf('captured', 2, 16_900, 264)
			).slice(0, 5)
		).toEqual([
			'3: A refund must name its payment.',
			'4: A refund of nothing.',
			'5: A payout of nothing.',
			'6: outcome is none of captured, declined, refund, dispute, dispute won, adjustment, monthly, payout.',
			'7: A captured payment belongs to no other.'
		]);
	});
	it('may have one id for a refund and a dispute, and not for two refunds', () => {
		const both = [
			other('refund', { id: 'S-1', minor: '100', of: 'FE-1' }),
			other('dispute', { id: 'S-1', minor: '100', of: 'FE-1' })
		];
		expect(
			wrong(
				full(row()),
				...both,
				totalOf('captured', 1, 8_450, 132),
				totalOf('refund', 1, 100, 0),
				totalOf('dispute', 1, 100, 0)
			)
		).toEqual([]);
		expect(
			wrong(full(row()), both[0]!, both[0]!, totalOf('captured', 1, 8_450, 132), totalOf('refund', 2, 200, 0))
		).toEqual(['4: Payment refund S-1 stands in line 3 already.']);
	});
	it('tells which of them belong to a payment that is not captured in it: another file’s, or a declined one', () => {
		const declined = full(
			row({ payment: 'FE-D', captured_at: '', base_minor: '', refunded_minor: '', disputed_minor: '' }),
			'declined'
		);
		declined[columns.indexOf('ordered_at')] = '2026-11-20T09:58:00Z';
		const told = readFull(
			full(row()),
			declined,
			other('refund', { id: 'R-1', minor: '100', of: 'FE-1' }),
			other('refund', { id: 'R-2', minor: '100', of: 'FE-D' }),
			other('refund', { id: 'R-3', minor: '100', of: 'FE-OLD' }),
			totalOf('captured', 1, 8_450, 132),
			totalOf('declined', 1, 8_450, 132),
			totalOf('refund', 3, 300, 0)
		);
		expect(told.troubles).toBe(undefined);
		expect(told.elsewhere).toEqual([
			{ line: 5, payment: 'FE-D' },
			{ line: 6, payment: 'FE-OLD' }
		]);
	});
	it('holds every kind of line to its own total', () => {
		expect(
			wrong(full(row()), other('monthly', { minor: '0', fee: '2400' }), totalOf('captured', 1, 8_450, 132))
		).toEqual(['0: There is no total for lines of monthly in EUR.']);
		expect(
			wrong(
				full(row()),
				other('monthly', { minor: '0', fee: '2400' }),
				totalOf('captured', 1, 8_450, 132),
				totalOf('monthly', 1, 0, 2_399)
			)
		).toEqual(['5: The total of EUR is 1 lines of monthly, 0 and fees of 2399; the lines come to 1, 0 and 2400.']);
	});
	it('tells at most fifty things that are wrong, and reads on without any of them', () => {
		const many = Array.from({ length: 80 }, (_, n) => full(row({ payment: `FE-${n}`, method: 'barter' })));
		expect(wrong(...many, totalOf('captured', 80, 676_000, 10_560)).length).toBe(50);
		const reader = new SettlementReader();
		reader.take(1, columns);
		expect(reader.take(2, many[0]!)).toBe(undefined);
		expect(reader.isBroken).toBe(true);
		expect(reader.take(3, full(row()))).toMatchObject({ captured: { payment: 'FE-1', line: 3 } });
	});
});

describe('a settlement file of an offline method', () => {
	const receipt = (change: Parameters<typeof row>[0] = {}) =>
		row({ method: 'cash', scheme: '', funding: '', issuer: '', fee_minor: '0', ...change });
	const told = (...rows: string[][]) => {
		const reader = new SettlementReader('cash');
		[[...SETTLEMENT_COLUMNS], ...rows].forEach((cells, at) => reader.take(at + 1, cells));
		return reader.end().map((one) => `${one.line}: ${one.says}`);
	};
	it('tells what was received, without fee, card or another currency', () => {
		expect(told(receipt(), receipt({ payment: 'FE-2' }), total('EUR', 2, 16_900, 0))).toEqual([]);
		expect(told(receipt({ method: 'cheque' }), total('EUR', 1, 8_450, 0))).toEqual(['2: method is not cash (Cash).']);
		expect(told(receipt({ scheme: 'corvid' }), total('EUR', 1, 8_450, 0))).toEqual([
			'2: scheme, funding and issuer must be empty: there is no card.'
		]);
		expect(told(receipt({ fee_minor: '4' }), total('EUR', 1, 8_450, 4))).toEqual([
			'2: fee_minor is not 0: an offline method has no fee.'
		]);
		expect(told(receipt({ disputed_minor: '8450' }), total('EUR', 1, 8_450, 0))).toEqual([
			'2: disputed_minor is not 0: no scheme stands behind an offline method.'
		]);
	});
});
