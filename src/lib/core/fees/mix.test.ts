import { describe, expect, it } from 'vitest';
import {
	answerMix,
	breakEven,
	commonMix,
	isPriced,
	kindAt,
	priceMix,
	priceOne,
	RateCard,
	spreadOf,
	volumeBreaks,
	type Kind,
	type Mix,
	type MixGroup,
	type MixSide,
	type PastKind
} from '.';

const card = (change: object): RateCard =>
	RateCard.parse({ settlement: 'EUR', rounding: 'total', mode: 'half-up', ...change } as never);
const line = (percentage: number, fixed: number, when: object = {}, more: object = {}) => ({
	when,
	percentage,
	fixed,
	...more
});
const past = (method: string, funding: string): PastKind => ({
	method,
	currency: 'EUR',
	entry: 'online',
	scheme: method === 'card' ? 'corvid' : 'unknown',
	funding: method === 'card' ? funding : 'unknown',
	issuer: method === 'card' ? 'BE' : 'unknown'
});
const [DEBIT, CREDIT, TRANSFER] = [past('card', 'debit'), past('card', 'credit'), past('bank-redirect', '')];
const GROUPS: MixGroup[] = [
	{
		name: 'Cards',
		share: 0.7,
		kinds: [
			{ kind: DEBIT, weight: 0.6 },
			{ kind: CREDIT, weight: 0.4 }
		],
		amounts: [2_000, 5_000, 9_000]
	},
	{ name: 'Bank redirects', share: 0.3, kinds: [{ kind: TRANSFER, weight: 1 }], amounts: [4_000, 8_000] }
];
const side = (id: string, own: RateCard, carries: (kind: Kind) => boolean = () => true): MixSide => ({
	id,
	card: own,
	kinds: GROUPS.map((group) =>
		group.kinds.map(({ kind }) => {
			const seen = kindAt(kind, own, 'BE');
			return carries(seen) ? seen : null;
		})
	)
});
const MIX: Mix = { volume: 5_000_000, average: 5_000, shares: [0.7, 0.3] };
/** The same without any of the module's short cuts: every amount of every kind priced by itself. */
function slowly(one: MixSide, { volume, average, shares }: Mix): { fees: number; carried: number } {
	const own = GROUPS.reduce(
		(sum, group, g) => sum + shares[g]! * (group.amounts.reduce((a, b) => a + b, 0) / group.amounts.length),
		0
	);
	let [fees, carried] = [0, 0];
	GROUPS.forEach((group, g) =>
		group.kinds.forEach(({ weight }, k) => {
			const kind = one.kinds[g]![k];
			if (!kind) return;
			const each = group.amounts.map((amount) => {
				const minor = Math.max(1, Math.round((amount * average) / own));
				const priced = priceOne(one.card, kind, { minor, currency: 'EUR' });
				return isPriced(priced) ? priced.fee.minor : 0;
			});
			fees += (volume / average) * shares[g]! * weight * (each.reduce((a, b) => a + b, 0) / each.length);
			carried += shares[g]! * weight;
		})
	);
	return { fees, carried };
}

describe('a mix set by hand', () => {
	const flat = card({ lines: [line(13_500, 18), line(5_000, 30, { method: 'bank-redirect' })] });
	it('costs what its amounts cost one by one, at any average and any shares', () => {
		for (const average of [1_500, 5_000, 12_345])
			for (const shares of [
				[0.7, 0.3],
				[1, 0],
				[0, 1],
				[0.25, 0.75]
			]) {
				const mix = { volume: 3_333_300, average, shares };
				const told = priceMix(side('a', flat), GROUPS, mix, {});
				expect(told.fees).toBeCloseTo(slowly(side('a', flat), mix).fees, 4);
				expect([told.monthly, told.hole]).toEqual([0, 0]);
				expect(told.total).toBe(told.fees);
			}
	});
	it('leaves out what a side cannot carry, and says how much of the payments that is', () => {
		const only = side('a', flat, (kind) => kind.funding !== 'credit');
		const told = priceMix(only, GROUPS, MIX, {});
		expect(told.hole).toBeCloseTo(0.7 * 0.4, 10);
		expect(told.fees).toBeCloseTo(slowly(only, MIX).fees, 4);
		expect(told.groups.map((one) => one.carried)).toEqual([0.6, 1]);
	});
	it('pays a fee of the month, and what its markups lack to the minimum', () => {
		const monthly = card({ lines: [line(10_000, 0)], monthly: { fee: 900, minimum: 80_000 } });
		const told = priceMix(side('a', monthly), GROUPS, MIX, {});
		// one percent of 50,000.00 is about 500.00, each fee rounded; the rest of 800.00 is missing
		const { fees } = slowly(side('b', monthly), MIX);
		expect(Math.abs(fees - 50_000)).toBeLessThan(500);
		expect(told.fees).toBeCloseTo(fees, 4);
		expect(told.monthly).toBeCloseTo(900 + 80_000 - fees, 4);
		expect(told.total).toBeCloseTo(told.fees + told.monthly, 6);
	});
	it('falls into tiers as the month does: all of it into the one it reaches, or each stretch into its own', () => {
		const steps = [{ from: 2_000_000, lines: [line(5_000, 0)] }];
		const whole = card({ lines: [line(10_000, 0)], tiers: { way: 'whole', steps } });
		const bands = card({ lines: [line(10_000, 0)], tiers: { way: 'band', steps } });
		const at = (own: RateCard, volume: number) => priceMix(side('a', own), GROUPS, { ...MIX, volume }, {}).fees;
		const flatAt = (percentage: number, volume: number) =>
			slowly(side('b', card({ lines: [line(percentage, 0)] })), { ...MIX, volume }).fees;
		expect(at(whole, 1_900_000)).toBeCloseTo(flatAt(10_000, 1_900_000), 4);
		expect(at(whole, 2_100_000)).toBeCloseTo(flatAt(5_000, 2_100_000), 4);
		expect(at(bands, 1_900_000)).toBeCloseTo(flatAt(10_000, 1_900_000), 4);
		// two thirds of the volume lie below the limit, as far as amounts are rounded
		const both = (2 * flatAt(10_000, 3_000_000) + flatAt(5_000, 3_000_000)) / 3;
		expect(Math.abs(at(bands, 3_000_000) - both) / both).toBeLessThan(0.005);
	});
	it('in another currency is converted by the latest rate; without one it cannot be carried', () => {
		const dollar: MixGroup[] = [
			{ name: 'Dollars', share: 1, kinds: [{ kind: { ...DEBIT, currency: 'USD' }, weight: 1 }], amounts: [5_000] }
		];
		const own: MixSide = { id: 'a', card: flat, kinds: [[kindAt({ ...DEBIT, currency: 'USD' }, flat, 'BE')]] };
		const mix = { volume: 500_000, average: 5_000, shares: [1] };
		const told = priceMix(own, dollar, mix, { USD: '0.9' });
		expect(told.hole).toBe(0);
		expect(told.groups[0]!.volume).toBeCloseTo(500_000, -1);
		expect(priceMix({ ...own, id: 'b' }, dollar, mix, {}).hole).toBe(1);
	});
	it('is answered with the cheapest of those that carry all of it', () => {
		const dear = card({ lines: [line(20_000, 0)] });
		const cheap = card({ lines: [line(1_000, 0)] });
		const sides = [side('dear', dear), side('cheap', cheap, (kind) => kind.method === 'card'), side('flat', flat)];
		const told = answerMix({ groups: GROUPS, sides, rates: {} }, { mix: MIX, pair: [0, 2], along: 'volume' });
		// the cheapest carries no bank redirect
		expect(told.priced[1]!.hole).toBeCloseTo(0.3, 10);
		expect(told.cheapest).toEqual([2]);
	});
});

describe('what two sides can both carry', () => {
	const flat = card({ lines: [line(13_500, 18)] });
	it('is a mix of its own, with shares that add up to one', () => {
		const a = side('a', flat, (kind) => kind.funding !== 'credit');
		const b = side('b', flat);
		const both = commonMix([a, b], GROUPS, MIX.shares);
		expect(both.part).toBeCloseTo(0.7 * 0.6 + 0.3, 10);
		expect(both.shares.reduce((sum, one) => sum + one, 0)).toBeCloseTo(1, 10);
		expect(both.groups[0]!.kinds).toEqual([{ kind: DEBIT, weight: 1 }]);
		expect(both.from).toEqual([0, 1]);
	});
	it('leaves whole groups out, and is nothing where nothing is shared', () => {
		const cards = side('a', flat, (kind) => kind.method === 'card');
		const redirects = side('b', flat, (kind) => kind.method !== 'card');
		expect(commonMix([cards, side('c', flat)], GROUPS, MIX.shares)).toMatchObject({ from: [0], part: 0.7 });
		expect(commonMix([cards, redirects], GROUPS, MIX.shares)).toMatchObject({ groups: [], part: 0 });
		expect(breakEven([cards, redirects], GROUPS, MIX, 'volume', {})).toBe(undefined);
	});
});

describe('where two sides break even', () => {
	const cheapEach = card({ lines: [line(10_000, 5)], monthly: { fee: 3_000, minimum: 0 } });
	const noMonth = card({ lines: [line(14_000, 10)] });
	it('is found to the payment, as looking at every number finds it', () => {
		const pair = [side('month', cheapEach), side('none', noMonth)] as const;
		const mix = { volume: 300_000, average: 5_000, shares: [0.7, 0.3] };
		const found = breakEven(pair, GROUPS, mix, 'volume', {})!;
		const difference = (payments: number) =>
			priceMix(pair[0], GROUPS, { ...mix, volume: payments * 5_000 }, {}).total -
			priceMix(pair[1], GROUPS, { ...mix, volume: payments * 5_000 }, {}).total;
		const looked: number[] = [];
		for (let n = found.from + 1; n <= found.to; n++)
			if (Math.sign(difference(n)) !== Math.sign(difference(n - 1))) looked.push(n);
		expect(found.crossings.map((one) => one.at)).toEqual(looked);
		expect(looked).toHaveLength(1);
		// from there on the one with the monthly fee is the cheaper
		expect(found.crossings[0]!.above).toBe(0);
		expect(found.leaves).toBe(0);
	});
	it('along the average is where the percentage begins to weigh more than the fixed part', () => {
		const pair = [
			side('fixed', card({ lines: [line(5_000, 60)] })),
			side('share', card({ lines: [line(20_000, 0)] }))
		] as const;
		const found = breakEven(pair, GROUPS, MIX, 'average', {})!;
		const costs = (at: number) => pair.map((one) => priceMix(one, GROUPS, { ...MIX, average: at }, {}).total);
		for (const { at, above } of found.crossings) {
			const [fixed, share] = costs(at) as [number, number];
			expect(above === 0 ? fixed <= share : share <= fixed).toBe(true);
		}
		// 0.60 is one and a half percent of 40.00
		expect(found.crossings.some((one) => Math.abs(one.at - 4_000) < 200)).toBe(true);
	});
	it('along a share moves the others in proportion', () => {
		const pair = [
			side('cards dear', card({ lines: [line(30_000, 0), line(1_000, 0, { method: 'bank-redirect' })] })),
			side('same', card({ lines: [line(10_000, 0)] }))
		] as const;
		const found = breakEven(pair, GROUPS, MIX, 0, {})!;
		expect([found.from, found.to]).toEqual([0, 1000]);
		expect(found.crossings).toHaveLength(1);
		const { at, above } = found.crossings[0]!;
		expect(above).toBe(1);
		const cost = (one: MixSide, thousandths: number) =>
			priceMix(one, GROUPS, { ...MIX, shares: [thousandths / 1000, 1 - thousandths / 1000] }, {}).total;
		expect(cost(pair[0], at)).toBeGreaterThanOrEqual(cost(pair[1], at));
		expect(cost(pair[0], at - 1)).toBeLessThan(cost(pair[1], at - 1));
	});
	it('is nowhere where one is always the cheaper, and that one is told', () => {
		const pair = [
			side('a', card({ lines: [line(10_000, 0)] })),
			side('b', card({ lines: [line(12_000, 0)] }))
		] as const;
		expect(breakEven(pair, GROUPS, MIX, 'volume', {})).toMatchObject({ crossings: [], cheaper: 0 });
		expect(breakEven([pair[1], pair[0]], GROUPS, MIX, 'volume', {})).toMatchObject({ crossings: [], cheaper: 1 });
		expect(breakEven([pair[0], { ...pair[0], id: 'c' }], GROUPS, MIX, 'volume', {})!.cheaper).toBe(undefined);
	});
	it('bends where a tier begins and where a monthly minimum is reached', () => {
		const own = card({
			lines: [line(10_000, 0)],
			monthly: { fee: 0, minimum: 10_000 },
			tiers: { way: 'whole', steps: [{ from: 4_000_000, lines: [line(8_000, 0)] }] }
		});
		const breaks = volumeBreaks(
			side('a', own),
			GROUPS,
			(payments) => ({ ...MIX, volume: payments * MIX.average }),
			{},
			[1, 2_000]
		);
		// 1 % of 200 payments of 50.00 is the minimum of 100.00; the tier begins at 800 of them
		expect(breaks.some((one) => Math.abs(one - 200) <= 2)).toBe(true);
		expect(breaks.some((one) => Math.abs(one - 800) <= 2)).toBe(true);
	});
});

describe('the spread of a period’s amounts', () => {
	const draws = (seed: number, count: number) => {
		let state = seed;
		const next = (to: number) => ((state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) >>> 8) % to;
		return {
			kind: Uint16Array.from({ length: count }, () => next(4)),
			minor: Float64Array.from({ length: count }, () => 100 + next(50_000)),
			month: Uint16Array.from({ length: count }, (_, n) => Math.floor((n * 3) / count))
		};
	};
	const asked = { worth: [1, 1, 0.9, 0], names: ['Cards', 'Cards', 'Dollars', 'Unknown'], alike: [0, 0, 2, 3] };
	it('counts every payment with a rate once, in groups that add up to the whole', () => {
		for (let seed = 1; seed <= 20; seed++) {
			const past = draws(seed, 500);
			const told = spreadOf({ past, range: [40, 460], ...asked });
			let [count, volume] = [0, 0];
			for (let n = 40; n < 460; n++) {
				const worth = asked.worth[past.kind[n]!]!;
				if (!worth) continue;
				count++;
				volume += past.minor[n]! * worth;
			}
			expect(told.count).toBe(count);
			expect(told.volume).toBeCloseTo(volume, 4);
			expect(told.groups.reduce((sum, one) => sum + one.count, 0)).toBe(count);
			expect(told.groups.map((one) => one.name)).toEqual(['Cards', 'Dollars']);
			expect(told.months).toBe(3);
			for (const group of told.groups) {
				// kinds that differ in nothing that is priced are one
				expect(group.kinds.reduce((sum, [, many]) => sum + many, 0)).toBe(group.count);
				expect(group.amounts).toEqual([...group.amounts].sort((a, b) => a - b));
				expect(group.amounts.length).toBe(Math.min(24, group.count));
			}
		}
	});
	it('of few payments is those payments, and of none is nothing', () => {
		const past = {
			kind: Uint16Array.of(0, 1, 0),
			minor: Float64Array.of(300, 100, 200),
			month: Uint16Array.of(0, 0, 0)
		};
		expect(spreadOf({ past, range: [0, 3], ...asked }).groups).toEqual([
			{ name: 'Cards', count: 3, kinds: [[0, 3]], amounts: [100, 200, 300] }
		]);
		expect(spreadOf({ past, range: [1, 1], ...asked })).toEqual({ count: 0, volume: 0, months: 0, groups: [] });
	});
});

describe('what was priced before', () => {
	it('changes no answer: averages that hardly differ are two', () => {
		const group: MixGroup = { name: 'Debit', share: 1, kinds: [{ kind: DEBIT, weight: 1 }], amounts: [2_000] };
		const own = card({ lines: [line(14_000, 10)] });
		const fresh = (): MixSide => ({ id: 'a', card: own, kinds: [[kindAt(DEBIT, own, 'BE')]] });
		const at = (average: number): Mix => ({ volume: 1_000_000, average, shares: [1] });
		const used = fresh();
		for (const average of [2_000.5, 2_000.4999, 2_000.5001])
			expect(priceMix(used, [group], at(average), {})).toEqual(priceMix(fresh(), [group], at(average), {}));
	});
});
