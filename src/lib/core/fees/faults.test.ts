import { describe, expect, it } from 'vitest';
import {
	answerMix,
	giveBackColumns,
	givenBack,
	isPriced,
	kindAt,
	priceColumns,
	priceMonth,
	priceOne,
	priceSide,
	RateCard,
	type Kind
} from '.';

const card = (more: object) => RateCard.parse({ settlement: 'EUR', rounding: 'total', mode: 'half-up', ...more });
const kind = (more: Partial<Kind> = {}): Kind => ({
	method: 'card',
	scheme: 'corvid',
	funding: 'debit',
	region: 'domestic',
	currency: 'EUR',
	entry: 'online',
	...more
});
const line = (percentage: number, fixed = 0, more: object = {}) => ({ when: {}, percentage, fixed, ...more });
const columns = (kinds: Kind[], list: readonly (readonly [kind: number, minor: number])[]) => ({
	kinds,
	rates: [undefined],
	kind: Uint16Array.from(list, ([k]) => k),
	minor: Float64Array.from(list, ([, minor]) => minor),
	rate: new Uint16Array(list.length),
	month: new Uint16Array(list.length)
});

describe('tiers', () => {
	const tiered = (way: 'band' | 'whole') =>
		card({
			lines: [{ when: { scheme: 'corvid' }, percentage: 20_000, fixed: 0 }],
			tiers: { way, steps: [{ from: 100_000, lines: [{ when: { scheme: 'corvid' }, percentage: 10_000, fixed: 0 }] }] }
		});
	const payments = [
		{ kind: kind({ scheme: 'tessel' }), paid: { minor: 150_000, currency: 'EUR' } },
		{ kind: kind(), paid: { minor: 10_000, currency: 'EUR' } }
	];
	it.each(['band', 'whole'] as const)('count captures that have no price: %s', (way) => {
		const month = priceMonth(tiered(way), payments);
		expect([month.unpriced, month.volume]).toEqual([1, 160_000]);
		expect(month.fees + month.correction).toBe(100);
		const asked = columns(
			[kind({ scheme: 'tessel' }), kind()],
			[
				[0, 150_000],
				[1, 10_000]
			]
		);
		const fees = new Float64Array(2);
		priceColumns(tiered(way), asked, fees);
		expect([...fees]).toEqual([-1, 100]);
	});
	it('whose lines differ in what they cover leave out what the reached one does not', () => {
		const whole = card({
			refund: { keeps: 'fixed' },
			lines: [{ when: {}, percentage: 10_000, fixed: 0 }],
			tiers: {
				way: 'whole',
				steps: [
					{
						from: 1,
						lines: [
							{ when: { entry: 'recurring' }, percentage: 5_000, fixed: 0 },
							{ when: { scheme: 'mainsail' }, percentage: 5_000, fixed: 0 }
						]
					}
				]
			}
		});
		const asked = columns(
			[kind({ scheme: 'mainsail' }), kind({ scheme: 'tessel' })],
			[
				[0, 1],
				[1, 1]
			]
		);
		const [fees, bases] = [new Float64Array(2), new Float64Array(2)];
		priceColumns(whole, asked, fees, bases);
		const back = giveBackColumns(whole, asked, fees, bases, Float64Array.of(1, 1), new Float64Array(2));
		expect([...fees]).toEqual([0, -1]);
		expect([...back]).toEqual([0, 0]);
	});
});

describe('the monthly minimum', () => {
	const asked = (percentage: number, more: object = {}) =>
		card({ lines: [line(percentage)], monthly: { fee: 0, minimum: 100 }, ...more });
	const past = (list: readonly (readonly [number, number])[], kinds = [kind()]) => ({
		...columns(kinds, list),
		count: list.length,
		kinds: kinds.map((one) => ({ ...one, entry: 'online' as const, issuer: 'BE' })),
		day: new Uint16Array(list.length),
		days: ['2026-10-31']
	});
	const side = (own: RateCard) => ({ id: 's', card: own, country: 'BE', bankDays: 0, carries: () => true });
	it('adds markups exactly and rounds their sum once', () => {
		// a hundred markups of 0.4 of a minor unit are 40, not nothing
		const list = Array.from({ length: 100 }, () => [0, 40] as const);
		const told = priceSide(past(list), [0, 100], side(asked(10_000)), () => undefined, 0);
		expect(told.monthlyMinimum).toBe(60);
		const month = priceMonth(
			asked(10_000),
			list.map(([, minor]) => ({ kind: kind(), paid: { minor, currency: 'EUR' } }))
		);
		expect(month.minimum).toBe(60);
	});
	it('counts no payment without an entry of the cost table', () => {
		const costs = [{ scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 2_000, schemeFee: 0 }];
		const list = [
			[0, 3_000],
			[1, 5_000]
		] as const;
		const told = priceSide(
			past(list, [kind(), kind({ scheme: 'tessel' })]),
			[0, 2],
			side(asked(10_000, { costs })),
			() => undefined,
			0
		);
		expect(told.monthlyMinimum).toBe(70);
	});
});

describe('a processor that gives back all', () => {
	it('gives back exactly the fee, also where a maximum or the rounding bit', () => {
		const own = card({ refund: { keeps: 'nothing' }, lines: [line(0, 30, { maximum: 20 })] });
		const priced = priceOne(own, kind(), { minor: 1_000, currency: 'EUR' });
		if (!isPriced(priced)) throw new Error(priced.reason);
		const back = (refunded: number) =>
			givenBack(own, { percentagePart: priced.percentagePart, fee: priced.fee.minor, captured: 1_000, refunded });
		expect([priced.fee.minor, back(1_000), back(500)]).toEqual([20, 20, 10]);
		const asked = columns([kind()], [[0, 1_000]]);
		const [fees, bases] = [new Float64Array(1), new Float64Array(1)];
		priceColumns(own, asked, fees, bases);
		expect([...giveBackColumns(own, asked, fees, bases, Float64Array.of(1_000), new Float64Array(1))]).toEqual([20]);
	});
});

describe('what is unknown of a card', () => {
	it('is unknown alone: a known country keeps its region beside an unknown scheme', () => {
		const past = {
			method: 'card',
			currency: 'EUR',
			entry: 'online',
			scheme: 'unknown',
			funding: 'debit',
			issuer: 'NL'
		} as const;
		expect(kindAt(past, { areas: [['BE', 'NL']] }, 'BE')).toMatchObject({ scheme: 'unknown', region: 'regional' });
	});
	it('is nothing that a line can ask for', () => {
		expect(() => card({ lines: [{ when: { scheme: 'unknown' }, percentage: 1, fixed: 0 }] })).toThrow(/unknown/);
	});
	it.each([
		[{ when: { methodd: 'card' }, percentage: 1, fixed: 0 }],
		[{ when: {}, percentage: 1, fixed: 0, minumum: 5 }],
		[{ when: { method: 'carrd' }, percentage: 1, fixed: 0 }]
	])('a misspelt condition is a fault, never dropped: %j', (wrong) => {
		expect(RateCard.safeParse({ settlement: 'EUR', rounding: 'total', mode: 'half-up', lines: [wrong] }).success).toBe(
			false
		);
	});
});

describe('break-even', () => {
	it('finds every crossing, also two within a few payments of each other', () => {
		const group = {
			name: 'Card',
			share: 1,
			kinds: [
				{
					weight: 1,
					kind: {
						method: 'card',
						currency: 'EUR',
						entry: 'online' as const,
						scheme: 'corvid',
						funding: 'debit',
						issuer: 'BE'
					}
				}
			],
			amounts: [1_000]
		};
		const sides = [
			card({ lines: [line(20_000)], tiers: { way: 'whole', steps: [{ from: 8_280_000, lines: [line(15_000)] }] } }),
			card({ lines: [line(10_000)], monthly: { fee: 82_690, minimum: 0 } })
		].map((own, n) => ({ id: String(n), card: own, kinds: [[kind()]] }));
		const mix = { volume: 5_000_000, average: 1_000, shares: [1] };
		const { even } = answerMix({ groups: [group], sides, rates: {} }, { mix, pair: [0, 1], along: 'volume' });
		expect(even!.crossings.map((one) => one.at)).toEqual([8_270, 8_280, 16_539]);
	});
});
