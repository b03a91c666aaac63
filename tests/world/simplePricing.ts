import { findRate, type FoundRate } from '../../src/lib/core/money/index.ts';
import { kindOf, RateCard, type Kind, type MonthPayment } from '../../src/lib/core/fees/index.ts';

// A second pricing, deliberately simple, by the text of the rules alone: fractions of whole numbers, nothing shared.
export type Ratio = readonly [bigint, bigint];
export const over = (top: number | bigint, bottom: number | bigint = 1): Ratio => [BigInt(top), BigInt(bottom)];
export const sum = (...all: Ratio[]): Ratio => all.reduce(([a, b], [c, d]) => [a * d + c * b, b * d] as const, over(0));
export const less = ([a, b]: Ratio, [c, d]: Ratio) => a * d < c * b;
export function rounded([top, bottom]: Ratio, mode: RateCard['mode']): bigint {
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

export function simple(
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
export function generator(seed: number) {
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
export type Random = ReturnType<typeof generator>;

const SCHEMES = ['corvid', 'mainsail'];
const FUNDINGS = ['debit', 'credit'] as const;
const REGIONS = ['domestic', 'regional'] as const;
export function lines({ whole, pick, chance }: Random) {
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
export function randomCard(random: Random): RateCard {
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
export const RATES: Record<string, string> = { USD: '0.9213', JPY: '0.006135' };
export const found = (currency: string): FoundRate | undefined =>
	currency === 'EUR'
		? undefined
		: findRate(
				[{ day: '2026-11-24', from: currency, to: 'EUR', rate: RATES[currency]!, source: 'test' }],
				currency,
				'EUR',
				'2026-11-24'
			);
export function randomPayment({ whole, pick, chance }: Random): MonthPayment {
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
