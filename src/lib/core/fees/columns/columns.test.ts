import { describe, expect, it } from 'vitest';
import { isPriced, kindOf, priceColumns, priceOne, RateCard, UNPRICED, type PaymentColumns } from '..';
import { findRate } from '../../money';

// Many payments at once are looked at in blocks, and what is not plain is put aside: at every edge of a block the same fee
// comes out as for the payment by itself.

const BLOCK = 4_096;
const kinds = [
	kindOf({ method: 'card', currency: 'EUR', region: 'domestic' }),
	kindOf({ method: 'card', currency: 'EUR', region: 'regional' }),
	kindOf({ method: 'card', currency: 'USD', region: 'international' }),
	// nothing is agreed for it
	kindOf({ method: 'bank-debit', currency: 'EUR' })
];
const rates = [
	undefined,
	findRate([{ day: '2026-11-24', from: 'USD', to: 'EUR', rate: '0.9213', source: 'test' }], 'USD', 'EUR', '2026-11-24'),
	undefined
];
const cardOf = (mode: RateCard['mode'], rounding: RateCard['rounding']) =>
	RateCard.parse({
		settlement: 'EUR',
		rounding,
		mode,
		conversion: 17_500,
		lines: [
			{ when: { method: 'card' }, percentage: 29_500, fixed: 22 },
			{ when: { method: 'card', region: 'domestic' }, percentage: 12_500, fixed: 18 },
			{ when: { method: 'card', region: 'regional' }, percentage: 15_500, fixed: 18, minimum: 30, maximum: 900 }
		]
	});

/** A small generator with a seed, so that a run that fails can be had again. */
function draws(seed: number): (below: number) => number {
	let state = seed;
	return (below) => {
		state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0;
		return Math.floor(((state >>> 8) / 16_777_216) * below);
	};
}
function columnsOf(count: number, odd: number, seed: number): PaymentColumns {
	const draw = draws(seed);
	const kind = new Uint16Array(count);
	const minor = new Float64Array(count);
	const rate = new Uint16Array(count);
	for (let n = 0; n < count; n++) {
		// `odd` of a hundred are in another currency, have no price, or are larger than a double is exact for
		const isOdd = draw(100) < odd;
		kind[n] = isOdd ? 1 + draw(3) : draw(2);
		minor[n] = isOdd && draw(10) === 0 ? 900_000_000_000 + draw(100_000) : draw(4) ? 1 + draw(100_000) : draw(500) * 40;
		// one in four of another currency has no rate
		rate[n] = kind[n] === 2 ? (draw(4) ? 1 : 2) : 0;
	}
	return { kind, minor, rate, kinds, rates };
}
/** What priced by itself comes to something else, by its place. */
function wrongOf(card: RateCard, columns: PaymentColumns): [place: number, fee: number, alone: number][] {
	const count = columns.kind.length;
	// what stood there before is no answer
	const fees = new Float64Array(count).fill(NaN);
	const bases = new Float64Array(count).fill(NaN);
	priceColumns(card, columns, fees, bases);
	const again = new Float64Array(count).fill(NaN);
	priceColumns(card, columns, again);
	const wrong: [number, number, number][] = [];
	for (let n = 0; n < count; n++) {
		const kind = kinds[columns.kind[n]!]!;
		const alone = priceOne(card, kind, { minor: columns.minor[n]!, currency: kind.currency }, rates[columns.rate[n]!]);
		const fee = isPriced(alone) ? alone.fee.minor : UNPRICED;
		if (fees[n] !== fee || again[n] !== fee) wrong.push([n, fees[n]!, fee]);
		else if (isPriced(alone) && bases[n] !== alone.base.minor) wrong.push([n, bases[n]!, alone.base.minor]);
	}
	return wrong;
}

describe.each([
	['half-up', 'total'],
	['half-even', 'total'],
	['up', 'total'],
	['half-up', 'each'],
	['half-even', 'each']
] as const)('columns of a card that rounds %s, %s', (mode, rounding) => {
	const card = cardOf(mode, rounding);
	it.each([1, 2, BLOCK - 1, BLOCK, BLOCK + 1, 2 * BLOCK, 2 * BLOCK + 7])(
		'%i payments, each as by itself',
		(count) => {
			expect(wrongOf(card, columnsOf(count, 20, count))).toEqual([]);
		},
		60_000
	);
	it('whole blocks of nothing plain, and of nothing else', () => {
		expect(wrongOf(card, columnsOf(BLOCK + 3, 100, 1))).toEqual([]);
		expect(wrongOf(card, columnsOf(BLOCK + 3, 0, 2))).toEqual([]);
	}, 60_000);
	it('small ones in several currencies, some without a price', () => {
		const columns = columnsOf(2 * BLOCK + 5, 40, 11);
		expect(wrongOf(card, { ...columns, minor: columns.minor.map((one) => one % 1_000_000) })).toEqual([]);
	}, 60_000);
	it('none at all', () => {
		expect(wrongOf(card, columnsOf(0, 20, 3))).toEqual([]);
	});
});

describe('columns in which something is not plain', () => {
	it('hold what the test means them to', () => {
		const { kind, minor, rate } = columnsOf(2 * BLOCK, 20, 7);
		const count = (is: (n: number) => boolean) => [...kind.keys()].filter(is).length;
		expect(count((n) => kind[n] === 2 && rate[n] === 1)).toBeGreaterThan(100);
		expect(count((n) => kind[n] === 2 && rate[n] === 2)).toBeGreaterThan(30);
		expect(count((n) => kind[n] === 3)).toBeGreaterThan(100);
		expect(count((n) => minor[n]! > 10 ** 11)).toBeGreaterThan(30);
		// ties of half a minor unit are among them
		expect(count((n) => kind[n] === 0 && (minor[n]! * 12_500) % 1_000_000 === 500_000)).toBeGreaterThan(100);
	});
});

describe.each(['half-up', 'half-even', 'up'] as const)('whole tiers of a card that rounds %s, part by part', (mode) => {
	const plain = cardOf(mode, 'each');
	const cheap = [{ when: { method: 'card' as const }, percentage: 9_500, fixed: 11 }];
	const card = RateCard.parse({
		...plain,
		areas: [],
		tiers: { way: 'whole', steps: [{ from: 100_000_000, lines: cheap }] }
	});
	it('each payment by the tier of its month, where a month ends within a block, at its end and after several', () => {
		// one and three blocks of small payments, some odd ones, and one of a lonely payment in between
		const ends = [BLOCK, BLOCK + 1, 4 * BLOCK + 17, 4 * BLOCK + 20];
		const all = columnsOf(ends.at(-1)!, 15, 23);
		const month = Uint16Array.from(all.kind, (_, n) => 3 + ends.findIndex((end) => n < end));
		const columns = { ...all, minor: all.minor.map((one) => one % 400_000), month };
		const fees = new Float64Array(columns.kind.length).fill(NaN);
		priceColumns(card, columns, fees);
		const alone = (of: RateCard, n: number) =>
			priceOne(
				of,
				kinds[columns.kind[n]!]!,
				{ minor: columns.minor[n]!, currency: kinds[columns.kind[n]!]!.currency },
				rates[columns.rate[n]!]
			);
		// what a payment counts for is its base; what the card has no line for counts all the same
		const counts = RateCard.parse({ ...plain, areas: [], lines: [{ when: {}, percentage: 0, fixed: 0 }] });
		const volumes = new Map<number, number>();
		for (const n of columns.kind.keys()) {
			const counted = alone(counts, n);
			if (isPriced(counted)) volumes.set(month[n]!, (volumes.get(month[n]!) ?? 0) + counted.base.minor);
		}
		const isHigh = [...volumes.values()].map((volume) => volume >= 100_000_000);
		expect(isHigh).toEqual([true, false, true, false]);
		const wrong: [number, number, number][] = [];
		for (const n of columns.kind.keys()) {
			const lines = volumes.get(month[n]!)! >= 100_000_000 ? cheap : plain.lines;
			const priced = alone({ ...plain, lines }, n);
			const fee = isPriced(priced) ? priced.fee.minor : UNPRICED;
			if (fees[n] !== fee) wrong.push([n, fees[n]!, fee]);
		}
		expect(wrong).toEqual([]);
	}, 60_000);
});
