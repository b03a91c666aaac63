import { describe, expect, it } from 'vitest';
import { findRate, type FoundRate } from '../money';
import {
	checkCard,
	giveBackColumns,
	givenBack,
	isPriced,
	kindOf,
	priceColumns,
	priceMonth,
	priceOne,
	RateCard,
	UNPRICED,
	type Kind,
	type MonthPayment
} from '.';

// A second pricing, deliberately simple, by the text of the rules alone: fractions of whole numbers, nothing shared.
type Ratio = readonly [bigint, bigint];
const over = (top: number | bigint, bottom: number | bigint = 1): Ratio => [BigInt(top), BigInt(bottom)];
const sum = (...all: Ratio[]): Ratio => all.reduce(([a, b], [c, d]) => [a * d + c * b, b * d] as const, over(0));
const less = ([a, b]: Ratio, [c, d]: Ratio) => a * d < c * b;
function rounded([top, bottom]: Ratio, mode: RateCard['mode']): bigint {
	const whole = top / bottom;
	const left = top - whole * bottom;
	if (left === 0n) return whole;
	if (mode === 'up') return whole + 1n;
	if (left * 2n > bottom) return whole + 1n;
	if (left * 2n < bottom) return whole;
	return mode === 'half-up' || whole % 2n === 1n ? whole + 1n : whole;
}
const decimal = (text: string): Ratio => {
	const [whole = '', rest = ''] = text.split('.');
	return over(BigInt(whole + rest), 10n ** BigInt(rest.length));
};
const DIGITS: Record<string, number> = { EUR: 2, USD: 2, JPY: 0 };

function simple(
	card: RateCard,
	kind: Kind,
	minor: number,
	rate: string | undefined,
	before: number
): { fee: bigint; share: Ratio; fixed: number; base: bigint } | undefined {
	const best = (lines: RateCard['lines']) => {
		const fits = lines.filter((line) =>
			Object.entries(line.when).every(([part, value]) => value === undefined || kind[part as keyof Kind] === value)
		);
		const weight = (line: RateCard['lines'][number]) =>
			Object.values(line.when).filter((one) => one !== undefined).length;
		const most = Math.max(...fits.map(weight));
		const first = fits.filter((line) => weight(line) === most);
		return first.length === 1 ? first[0] : undefined;
	};
	const foreign = kind.currency !== card.settlement;
	if (foreign && !rate) return undefined;
	let base = BigInt(minor);
	if (foreign) {
		const [top, bottom] = decimal(rate!);
		base = rounded(
			[BigInt(minor) * top * 10n ** BigInt(DIGITS[card.settlement]!), bottom * 10n ** BigInt(DIGITS[kind.currency]!)],
			'half-even'
		);
	}
	// minor unit by minor unit would be slow: the limits that it crosses, from the lowest
	const stretches: [bigint, RateCard['lines']][] = [];
	const steps = card.tiers?.steps ?? [];
	const linesAt = (volume: bigint) => steps.filter((step) => volume >= BigInt(step.from)).at(-1)?.lines ?? card.lines;
	let at = BigInt(before);
	const end = at + base;
	if (card.tiers?.way === 'band') {
		for (const limit of steps.map((step) => BigInt(step.from)).filter((one) => one > at && one < end)) {
			stretches.push([limit - at, linesAt(at)]);
			at = limit;
		}
		stretches.push([end - at, linesAt(at)]);
	} else stretches.push([base, linesAt(at)]);
	const chosen = stretches.map(([part, lines]) => [part, best(lines)] as const);
	if (chosen.some(([, line]) => !line)) return undefined;
	const first = chosen[0]![1]!;
	const each = (value: Ratio): Ratio => (card.rounding === 'each' ? over(rounded(value, card.mode)) : value);
	const share = (ppm: number, of = base) => each(over(of * BigInt(ppm), 1_000_000));
	let markup = sum(...chosen.map(([part, line]) => share(line!.percentage, part)), over(first.fixed));
	if (first.minimum !== undefined && less(markup, over(first.minimum))) markup = over(first.minimum);
	if (first.maximum !== undefined && less(over(first.maximum), markup)) markup = over(first.maximum);
	const parts = [markup];
	if (card.costs && kind.method === 'card') {
		const cost = card.costs.find(
			(one) => one.scheme === kind.scheme && one.funding === kind.funding && one.region === kind.region
		);
		if (!cost) return undefined;
		parts.push(share(cost.interchange), share(cost.schemeFee));
	}
	if (foreign) parts.push(share(card.conversion));
	parts.push(share(card.intermediary));
	const percentage = sum(markup, over(-first.fixed));
	return {
		fee: rounded(sum(...parts), card.mode),
		share: less(percentage, over(0)) ? over(0) : percentage,
		fixed: first.fixed,
		base
	};
}

/** A small generator of its own, so that every run asks the same. */
function generator(seed: number) {
	let state = seed >>> 0;
	const next = () => {
		state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
		return state / 2 ** 32;
	};
	return {
		whole: (from: number, to: number) => from + Math.floor(next() * (to - from + 1)),
		pick: <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!,
		chance: (share: number) => next() < share
	};
}
type Random = ReturnType<typeof generator>;

const SCHEMES = ['corvid', 'mainsail'];
const FUNDINGS = ['debit', 'credit'] as const;
const REGIONS = ['domestic', 'regional'] as const;
function lines({ whole, pick, chance }: Random) {
	const one = (when: object) => {
		const minimum = chance(0.2) ? whole(0, 60) : undefined;
		return {
			when,
			percentage: whole(0, 60_000),
			fixed: whole(0, 60),
			minimum,
			maximum: chance(0.2) ? (minimum ?? 0) + whole(0, 400) : undefined
		};
	};
	return [
		one({}),
		...(chance(0.5) ? [one({ scheme: pick(SCHEMES) })] : []),
		...(chance(0.5) ? [one({ funding: pick(FUNDINGS), region: pick(REGIONS) })] : []),
		...(chance(0.3) ? [one({ currency: pick(['USD', 'JPY']), method: 'card', entry: 'online' })] : [])
	];
}
function randomCard(random: Random): RateCard {
	const { whole, pick, chance } = random;
	const first = whole(10_000, 200_000);
	return RateCard.parse({
		settlement: 'EUR',
		rounding: pick(['total', 'each']),
		mode: pick(['half-up', 'half-even', 'up']),
		lines: lines(random),
		conversion: chance(0.5) ? whole(0, 40_000) : 0,
		intermediary: chance(0.2) ? whole(0, 9_000) : 0,
		...(chance(0.3)
			? {
					costs: SCHEMES.flatMap((scheme) =>
						FUNDINGS.flatMap((funding) =>
							REGIONS.map((region) => ({
								scheme,
								funding,
								region,
								interchange: whole(0, 18_000),
								schemeFee: whole(0, 5_000)
							}))
						)
					)
				}
			: {}),
		...(chance(0.4)
			? {
					tiers: {
						way: pick(['band', 'whole']),
						steps: [
							{ from: first, lines: lines(random) },
							...(chance(0.5) ? [{ from: first + whole(1, 100_000), lines: lines(random) }] : [])
						]
					}
				}
			: {})
	});
}
const RATES: Record<string, string> = { USD: '0.9213', JPY: '0.006135' };
const found = (currency: string): FoundRate | undefined =>
	currency === 'EUR'
		? undefined
		: findRate(
				[{ day: '2026-11-24', from: currency, to: 'EUR', rate: RATES[currency]!, source: 'test' }],
				currency,
				'EUR',
				'2026-11-24'
			);
function randomPayment({ whole, pick, chance }: Random): MonthPayment {
	const currency = chance(0.7) ? 'EUR' : pick(['USD', 'JPY']);
	return {
		kind: kindOf({
			method: chance(0.9) ? 'card' : 'bank-debit',
			currency,
			scheme: pick(SCHEMES),
			funding: pick(FUNDINGS),
			region: pick(REGIONS)
		}),
		paid: { minor: chance(0.02) ? whole(10 ** 9, 10 ** 11) : whole(1, 60_000), currency },
		rate: found(currency)
	};
}

describe('a second, simple pricing', () => {
	it('agrees on a hundred thousand random payments under random valid cards, to the minor unit', () => {
		const random = generator(20_417);
		let priced = 0;
		for (let round = 0; round < 2_000; round++) {
			const card = randomCard(random);
			for (let n = 0; n < 50; n++) {
				const { kind, paid, rate } = randomPayment(random);
				const before = random.whole(0, 300_000);
				const ours = priceOne(card, kind, paid, rate, before);
				const theirs = simple(card, kind, paid.minor, RATES[kind.currency], before)?.fee;
				if (isPriced(ours)) priced++;
				if ((isPriced(ours) ? BigInt(ours.fee.minor) : undefined) !== theirs)
					expect({ card, kind, paid, before, ours }).toEqual({ fee: theirs });
			}
		}
		expect(priced).toBeGreaterThan(80_000);
	});
	it('agrees with columns over whole months, tiers and all', () => {
		const random = generator(7);
		for (let round = 0; round < 400; round++) {
			const card = randomCard(random);
			const months = Array.from({ length: 2 }, () =>
				Array.from({ length: random.whole(1, 40) }, () => randomPayment(random))
			);
			const kinds: Kind[] = [];
			const index = (kind: Kind) => {
				const at = kinds.findIndex((one) => JSON.stringify(one) === JSON.stringify(kind));
				return at >= 0 ? at : kinds.push(kind) - 1;
			};
			const all = months.flatMap((list, month) => list.map((one) => ({ ...one, month, k: index(one.kind) })));
			const rates = [undefined, found('USD'), found('JPY')];
			const columns = {
				kind: Uint16Array.from(all, (one) => one.k),
				minor: Float64Array.from(all, (one) => one.paid.minor),
				rate: Uint16Array.from(all, (one) => ['EUR', 'USD', 'JPY'].indexOf(one.paid.currency)),
				month: Uint16Array.from(all, (one) => one.month),
				kinds,
				rates
			};
			const fees = new Float64Array(all.length);
			priceColumns(card, columns, fees);
			months.forEach((list, month) => {
				const told = priceMonth(card, list);
				const mine = [...fees].filter((_, n) => all[n]!.month === month);
				expect(mine.filter((fee) => fee === UNPRICED)).toHaveLength(told.unpriced);
				const total = mine.reduce((whole, fee) => whole + Math.max(0, fee), 0);
				if (total !== told.fees + told.correction)
					expect({ card, total }).toEqual({ total: told.fees + told.correction });
			});
		}
	});
	it('agrees on what refunds give back, tiers and all, and on the fixed parts', () => {
		const random = generator(11);
		let [full, part] = [0, 0];
		for (let round = 0; round < 600; round++) {
			const bare = randomCard(random);
			const keeps = random.pick(['all', 'fixed', 'nothing'] as const);
			const card: RateCard = { ...bare, refund: { keeps, fee: 0 } };
			const list = Array.from({ length: random.whole(1, 30) }, () => randomPayment(random));
			const kinds = list.map((one) => one.kind);
			const columns = {
				kind: Uint16Array.from(list, (_, n) => n),
				minor: Float64Array.from(list, (one) => one.paid.minor),
				rate: Uint16Array.from(list, (one) => ['EUR', 'USD', 'JPY'].indexOf(one.paid.currency)),
				month: new Uint16Array(list.length),
				kinds,
				rates: [undefined, found('USD'), found('JPY')]
			};
			const refunded = Float64Array.from(list, ({ paid }) =>
				random.pick([0, paid.minor, Math.max(1, Math.floor(paid.minor / random.whole(2, 9)))])
			);
			const [fees, bases] = [new Float64Array(list.length), new Float64Array(list.length)];
			const fixed = new Float64Array(list.length);
			priceColumns(card, columns, fees, bases);
			const back = giveBackColumns(card, columns, fees, bases, refunded, fixed);
			const at = (n: number, before: bigint) =>
				simple(card, kinds[n]!, list[n]!.paid.minor, RATES[kinds[n]!.currency], Number(before));
			const volume = list.reduce((all, _, n) => all + (bases[n]! < 0 ? 0n : BigInt(bases[n]!)), 0n);
			let before = 0n;
			list.forEach(({ paid }, n) => {
				const told = at(n, card.tiers?.way === 'whole' ? volume : before)!;
				if (bases[n]! >= 0) before += BigInt(bases[n]!);
				if (fees[n]! < 0) return expect(back[n]).toBe(0);
				expect(fixed[n]).toBe(told.fixed);
				const [top, bottom] = told.share;
				const all = refunded[n]! >= paid.minor;
				const wanted =
					keeps === 'all' || !refunded[n]
						? 0n
						: keeps === 'nothing'
							? rounded([BigInt(fees[n]!) * BigInt(refunded[n]!), BigInt(paid.minor)], card.mode)
							: rounded([top * BigInt(refunded[n]!), bottom * BigInt(paid.minor)], card.mode);
				if (wanted && all) full++;
				else if (wanted) part++;
				if (BigInt(back[n]!) !== wanted)
					expect({ card, paid, refunded: refunded[n], back: back[n] }).toEqual({ back: wanted });
			});
		}
		expect(Math.min(full, part)).toBeGreaterThan(1_000);
	});
	it('gives back in part refunds what it gives back at once, and never drifts', () => {
		const random = generator(3);
		for (let round = 0; round < 5_000; round++) {
			const card = randomCard(random);
			const captured = random.whole(100, 60_000);
			const part = { top: BigInt(random.whole(0, 500_000)), bottom: 1000n };
			const keeps = random.pick(['all', 'fixed', 'nothing'] as const);
			const at = (refunded: number) =>
				givenBack({ ...card, refund: { keeps, fee: 0 } }, { percentagePart: part, fee: 132, captured, refunded });
			let given = 0;
			let refunded = 0;
			while (refunded < captured) {
				const next = Math.min(captured, refunded + random.whole(1, captured));
				given += at(next) - at(refunded);
				refunded = next;
			}
			const full = keeps === 'nothing' ? 132n : rounded([part.top, part.bottom], card.mode);
			expect(given).toBe(keeps === 'all' ? 0 : Number(full));
		}
	});
});

describe('tiers, by the worked example', () => {
	const card = (way: 'band' | 'whole', rounding: 'total' | 'each' = 'each') =>
		RateCard.parse({
			settlement: 'EUR',
			rounding,
			mode: 'half-up',
			lines: [{ when: {}, percentage: 13_500, fixed: 0 }],
			tiers: { way, steps: [{ from: 1_000_000, lines: [{ when: {}, percentage: 11_000, fixed: 5 }] }] },
			monthly: { fee: 1_000, minimum: 2_000 }
		});
	const eur = (minor: number): MonthPayment => ({
		kind: kindOf({ method: 'card', currency: 'EUR' }),
		paid: { minor, currency: 'EUR' }
	});
	it('a payment of 50.00 after 9,980.00 is split at the limit: 0.27 + 0.33', () => {
		const priced = priceOne(card('band'), eur(5_000).kind, eur(5_000).paid, undefined, 998_000);
		expect(isPriced(priced) && [priced.fee.minor, priced.parts.map((part) => part.rounded)]).toEqual([60, [27, 33, 0]]);
	});
	it('whole tiers correct the month in one entry, at or above the limit', () => {
		const told = priceMonth(card('whole'), [eur(998_000), eur(2_000)]);
		// expected before: 134.73 + 0.27; the tier reached: 109.78 + 0.05 + 0.22 + 0.05
		expect([told.fees, told.correction, told.total]).toEqual([13_500, 11_010 - 13_500, 12_010]);
	});
	it('charges what is missing to the month’s minimum, never below nothing', () => {
		expect(priceMonth(card('band'), [eur(10_000)])).toMatchObject({
			fees: 135,
			minimum: 1_865,
			monthly: 1_000,
			total: 3_000
		});
		expect(priceMonth(card('band'), [eur(900_000)])).toMatchObject({ minimum: 0 });
		expect(priceMonth(card('band'), [])).toMatchObject({ total: 3_000 });
	});
});

describe('a check of a rate card', () => {
	const carried = [{ method: 'card', currencies: ['EUR', 'GBP'], entries: ['online' as const], schemes: ['corvid'] }];
	const base = { settlement: 'EUR', rounding: 'total', mode: 'half-up' } as const;
	const line = (when: object) => ({ when, percentage: 10_000, fixed: 0 });
	it('names the two lines that fit equally well, and the kind', () => {
		const card = RateCard.parse({ ...base, lines: [line({}), line({ scheme: 'corvid' }), line({ funding: 'debit' })] });
		expect(checkCard(card, carried)).toMatchObject([
			{
				trouble: 'ambiguous',
				kind: { scheme: 'corvid', funding: 'debit' },
				lines: [{ when: { scheme: 'corvid' } }, { when: { funding: 'debit' } }]
			}
		]);
	});
	it('names what no line covers, and what has no cost', () => {
		const card = RateCard.parse({ ...base, lines: [line({ currency: 'EUR' })] });
		expect(checkCard(card, carried).map((one) => [one.trouble, one.kind.currency])).toEqual([['uncovered', 'GBP']]);
		const plus = RateCard.parse({
			...base,
			lines: [line({})],
			costs: [{ scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 2000, schemeFee: 300 }]
		});
		expect(checkCard(plus, carried)).toHaveLength(11);
	});
	it('is silent on a card that prices everything', () => {
		expect(checkCard(RateCard.parse({ ...base, lines: [line({})] }), carried)).toEqual([]);
	});
	it('refuses tiers out of order, a minimum over the maximum, negative prices and doubled costs', () => {
		const bad = (change: object) => RateCard.safeParse({ ...base, lines: [line({})], ...change }).success;
		const step = (from: number) => ({ from, lines: [line({})] });
		expect(bad({ tiers: { way: 'band', steps: [step(200), step(100)] } })).toBe(false);
		expect(bad({ tiers: { way: 'band', steps: [step(0)] } })).toBe(false);
		expect(bad({ lines: [{ ...line({}), minimum: 10, maximum: 5 }] })).toBe(false);
		expect(bad({ lines: [{ ...line({}), percentage: -1 }] })).toBe(false);
		const cost = { scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 1, schemeFee: 1 };
		expect(bad({ costs: [cost, cost] })).toBe(false);
		expect(bad({})).toBe(true);
	});
});
