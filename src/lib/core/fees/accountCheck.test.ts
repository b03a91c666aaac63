import { describe, expect, it } from 'vitest';
import { FEE_CAUSES, sayCause, type ContractVersion } from '.';
import { checkCharges, monthCharged, type ToldCharge } from './accountCheck';
import { RateCard } from './rateCard';

const card = (change: Record<string, unknown> = {}): RateCard =>
	RateCard.parse({
		settlement: 'EUR',
		rounding: 'total',
		mode: 'half-up',
		lines: [{ when: {}, percentage: 10_000, fixed: 0 }],
		monthly: { fee: 2_400, minimum: 0 },
		refund: { keeps: 'all', fee: 10 },
		dispute: { fee: 2_000, returnedWhenWon: true },
		payout: 20,
		...change
	});
const VERSIONS: ContractVersion[] = [
	{ id: 1, validFrom: '2026-01-01', card: card() },
	{ id: 2, validFrom: '2026-07-01', card: card({ monthly: { fee: 2_900, minimum: 0 }, payout: 0 }) }
];
let next = 1;
const told = (
	kind: ToldCharge['kind'],
	day: string,
	minor: number,
	object = `${kind}-${next}`,
	currency = 'EUR'
): ToldCharge => ({ id: next++, kind, object, day, currency, minor });
const named = (charges: readonly ToldCharge[], shortfalls?: ReadonlyMap<string, number>) =>
	checkCharges(charges, VERSIONS, shortfalls).map((one) => [one.key, one.parameter, one.charged, one.expected]);

describe('the month that a monthly charge is for', () => {
	it('is the month before until the tenth, over the turn of the year, too', () => {
		expect(['2026-03-01', '2026-03-10', '2026-03-11', '2026-03-31', '2026-01-02'].map(monthCharged)).toEqual([
			'2026-02',
			'2026-02',
			'2026-03',
			'2026-03',
			'2025-12'
		]);
	});
});

describe('charges of an account', () => {
	it('that are as agreed differ in nothing', () => {
		expect(
			named([
				told('monthly', '2026-03-01', 2_400),
				told('monthly', '2026-04-01', 2_400),
				told('refund', '2026-03-04', 10),
				told('dispute', '2026-03-05', 2_000),
				told('payout', '2026-03-06', 20)
			])
		).toEqual([]);
	});

	it('are held against the version of their month and their day', () => {
		// June is charged in July by the version of June; July in August by that of July
		expect(named([told('monthly', '2026-07-01', 2_400), told('monthly', '2026-08-01', 2_900)])).toEqual([]);
		expect(named([told('monthly', '2026-08-01', 2_400)])).toEqual([
			['monthly 2026-07', 'from 2026-01-01', 2_400, 2_900]
		]);
		expect(named([told('payout', '2026-06-30', 20), told('payout', '2026-07-01', 20, 'P-9')])).toEqual([
			['payout P-9', 'not agreed', 20, 0]
		]);
	});

	it('that were made twice, too large, or never are each named', () => {
		expect(
			named([
				told('monthly', '2026-03-01', 2_400),
				told('monthly', '2026-04-01', 4_800),
				told('monthly', '2026-06-01', 2_450),
				told('dispute', '2026-03-05', 2_500, 'D-1')
			])
		).toEqual([
			['dispute D-1', 'other', 2_500, 2_000],
			['monthly 2026-03', 'twice', 4_800, 2_400],
			['monthly 2026-05', 'other', 2_450, 2_400],
			['monthly 2026-04', 'missing', 0, 2_400]
		]);
	});

	it('a second charge of one month is owed nothing; the first stands', () => {
		const second = told('monthly', '2026-04-03', 2_400);
		expect(named([told('monthly', '2026-04-01', 2_400), second])).toEqual([
			[`monthly 2026-03 ${second.id}`, 'twice', 2_400, 0]
		]);
	});

	it('what is missing to a minimum belongs to its month', () => {
		expect(named([told('monthly', '2026-04-01', 3_100)], new Map([['2026-03', 700]]))).toEqual([]);
		expect(named([told('monthly', '2026-04-01', 2_400)], new Map([['2026-03', 700]]))).toEqual([
			['monthly 2026-03', 'other', 2_400, 3_100]
		]);
	});

	it('before the first contract, or in another currency, are not checked', () => {
		expect(
			named([
				told('monthly', '2025-11-01', 9_900),
				told('refund', '2025-12-31', 99),
				told('refund', '2026-03-04', 99, 'R-1', 'CHF')
			])
		).toEqual([]);
	});

	it('no month is missing before the first or after the last that was charged', () => {
		expect(named([told('monthly', '2026-05-01', 2_400)])).toEqual([]);
		expect(named([])).toEqual([]);
	});

	it('sums of planted faults are found whole over random histories', () => {
		let state = 7;
		const random = (below: number) => {
			state = (state * 48_271) % 2_147_483_647;
			return state % below;
		};
		for (let round = 0; round < 300; round++) {
			const charges: ToldCharge[] = [];
			let planted = 0;
			const fault = random(4);
			for (let n = 0; n < 40; n++) {
				const kind = (['payout', 'refund', 'dispute'] as const)[random(3)]!;
				const day = `2026-0${1 + random(6)}-${String(1 + random(28)).padStart(2, '0')}`;
				const agreed = { payout: 20, refund: 10, dispute: 2_000 }[kind];
				const more = fault && random(8) === 0 ? [agreed, 1, -agreed][fault - 1]! : 0;
				planted += more;
				charges.push(told(kind, day, agreed + more));
			}
			const found = checkCharges(charges, VERSIONS);
			expect(found.reduce((all, one) => all + one.charged - one.expected, 0)).toBe(planted);
			if (!fault) expect(found).toEqual([]);
		}
	});
});

it('every cause has its sentence', () => {
	const parameters: Record<string, string> = { 'another version': '2026-01-01', conversion: '20000' };
	const says = FEE_CAUSES.map((cause) => sayCause({ cause, parameter: parameters[cause] ?? 'missing' }, 'en-GB'));
	expect(new Set(says).size).toBe(says.length);
	expect(sayCause({ cause: 'monthly charge', parameter: 'from 2026-01-01' }, 'en-GB')).toBe(
		'The monthly charge by the rate card of 01/01/2026'
	);
	expect(sayCause({ cause: 'payout charge', parameter: 'not agreed' }, 'en-GB')).toBe(
		'A charge for a payout that was not agreed'
	);
});
