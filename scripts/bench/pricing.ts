import { kindOf, priceColumns, RateCard, type Kind, type PaymentColumns } from '../../src/lib/core/fees/index.ts';
import { findRate } from '../../src/lib/core/money/index.ts';
import type { Ratio } from './ratio.ts';

const COUNT = 1_000_000;
const RUNS = 31;
const SEVENFOLD = 9;

const card = RateCard.parse({
	settlement: 'EUR',
	rounding: 'total',
	mode: 'half-up',
	areas: [],
	lines: [
		{ when: { method: 'card' }, percentage: 29_500, fixed: 22 },
		{ when: { method: 'card', region: 'domestic' }, percentage: 13_500, fixed: 18 },
		{ when: { method: 'card', region: 'regional' }, percentage: 15_500, fixed: 18 },
		{ when: { method: 'card', region: 'domestic', funding: 'commercial' }, percentage: 22_500, fixed: 18, minimum: 30 }
	],
	conversion: 17_500
});

/** A small generator with a seed, so that every run prices the same payments. */
function draws(seed: number): () => number {
	let state = seed;
	return () => {
		state = (Math.imul(state, 1_664_525) + 1_013_904_223) | 0;
		return (state >>> 8) / 16_777_216;
	};
}

export function columns(): PaymentColumns {
	const kinds: Kind[] = [];
	for (const scheme of ['corvid', 'mainsail', 'tessel'])
		for (const funding of ['debit', 'credit', 'commercial'])
			for (const region of ['domestic', 'regional', 'international'])
				for (const currency of ['EUR', 'USD'])
					kinds.push(kindOf({ method: 'card', currency, scheme, funding, region }));
	const rates = [
		undefined,
		...Array.from({ length: 30 }, (_, day) =>
			findRate(
				[{ day: '2026-11-01', from: 'USD', to: 'EUR', rate: (0.9 + day / 1000).toFixed(4), source: 'bench' }],
				'USD',
				'EUR',
				'2026-11-24'
			)
		)
	];
	const draw = draws(20417);
	const kind = new Uint16Array(COUNT);
	const minor = new Float64Array(COUNT);
	const rate = new Uint16Array(COUNT);
	for (let i = 0; i < COUNT; i++) {
		// one payment in ten comes in dollars
		const foreign = draw() < 0.1 ? 1 : 0;
		kind[i] = Math.floor(draw() * (kinds.length / 2)) * 2 + foreign;
		minor[i] = 100 + Math.floor(draw() ** 3 * 120_000);
		rate[i] = foreign ? 1 + Math.floor(draw() * 30) : 0;
	}
	const month = Uint16Array.from(kind, (_, i) => Math.floor((i * 18) / COUNT));
	return { kind, minor, rate, month, kinds, rates };
}

/** The floor: a multiplication, a rounded division and an addition of whole numbers for each payment, and nothing decided. */
function bare(
	{ kind, minor }: PaymentColumns,
	percentage: Float64Array,
	fixed: Float64Array,
	fees: Float64Array
): void {
	for (let i = 0; i < kind.length; i++) {
		const k = kind[i]!;
		fees[i] = Math.floor((minor[i]! * percentage[k]! + 500_000) / 1_000_000) + fixed[k]!;
	}
}

/** The middle of the ratios of neighbouring runs: a machine that slows down slows both, and its speed drops out. */
const middleRatio = (ours: number[], floor: number[]) => median(ours.map((one, n) => one / floor[n]!));
const median = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!;

export async function pricing(): Promise<Ratio> {
	const payments = columns();
	const fees = new Float64Array(COUNT);
	const percentage = new Float64Array(payments.kinds.length).fill(13_500);
	const fixed = new Float64Array(payments.kinds.length).fill(18);
	const [floor, ours]: [number[], number[]] = [[], []];
	for (let run = 0; run < RUNS + 3; run++) {
		const a = performance.now();
		bare(payments, percentage, fixed, fees);
		const b = performance.now();
		priceColumns(card, payments, fees);
		const c = performance.now();
		// the first runs warm the compiler
		if (run >= 3) {
			floor.push(b - a);
			ours.push(c - b);
		}
	}
	const ratio = middleRatio(ours, floor);
	return {
		name: 'pricing a million payments, against a bare loop of integers',
		ratio,
		wanted: 'at most 2',
		holds: ratio <= 2,
		detail: `${median(ours).toFixed(1)} ms, floor ${median(floor).toFixed(1)} ms, medians of ${RUNS}`
	};
}

/** Seven cards as unlike as the processors': flat, interchange plus with tiers, part by part, with floor and cap. */
export function sevenCards(kinds: readonly Kind[]): RateCard[] {
	const base = { settlement: 'EUR', rounding: 'total', mode: 'half-up' } as const;
	const line = (percentage: number, fixed: number, more: object = {}) => ({ when: {}, percentage, fixed, ...more });
	const costs = kinds
		.filter((kind) => kind.currency === 'EUR')
		.map(({ scheme, funding, region }) => ({ scheme, funding, region, interchange: 3_000, schemeFee: 400 }));
	return [
		card,
		RateCard.parse({
			...base,
			rounding: 'each',
			lines: [line(3_500, 4)],
			costs,
			conversion: 9_000,
			tiers: {
				way: 'whole',
				steps: [
					{ from: 4_000_000, lines: [line(2_800, 4)] },
					{ from: 15_000_000, lines: [line(2_200, 3)] }
				]
			}
		} as never),
		RateCard.parse({ ...base, lines: [line(34_000, 35)], conversion: 35_000 }),
		RateCard.parse({ ...base, lines: [line(7_000, 0, { minimum: 18, maximum: 390 })], conversion: 5_000 }),
		RateCard.parse({ ...base, lines: [line(39_000, 30)] }),
		RateCard.parse({ ...base, mode: 'half-even', lines: [line(4_500, 5)] }),
		RateCard.parse({ ...base, lines: [line(8_900, 5)], conversion: 11_000 })
	];
}

export async function sevenfold(): Promise<Ratio> {
	const payments = columns();
	const cards = sevenCards(payments.kinds);
	const fees = new Float64Array(COUNT);
	const percentage = new Float64Array(payments.kinds.length).fill(13_500);
	const fixed = new Float64Array(payments.kinds.length).fill(18);
	const [floor, ours]: [number[], number[]] = [[], []];
	for (let run = 0; run < SEVENFOLD + 3; run++) {
		const a = performance.now();
		for (let n = 0; n < cards.length; n++) bare(payments, percentage, fixed, fees);
		const b = performance.now();
		for (const one of cards) priceColumns(one, payments, fees);
		const c = performance.now();
		if (run >= 3) {
			floor.push(b - a);
			ours.push(c - b);
		}
	}
	const ratio = middleRatio(ours, floor);
	return {
		name: 'pricing a million payments through seven cards, against as many bare loops',
		ratio,
		wanted: 'at most 2.5',
		holds: ratio <= 2.5,
		detail: `${median(ours).toFixed(0)} ms, floor ${median(floor).toFixed(0)} ms, medians of ${SEVENFOLD}`
	};
}
