import { describe, expect, it } from 'vitest';
import { addDays } from '../calendar';
import { findRate } from '../money';
import {
	answerMix,
	cardForm,
	cardInput,
	crossings,
	givenBack,
	isPriced,
	kindAt,
	payoutsOn,
	priceMix,
	priceOne,
	priceSide,
	RateCard,
	sayPlace,
	sumAround,
	type MixGroup,
	type Past,
	type PastKind,
	type Side
} from '.';

const card = (change: object): RateCard =>
	RateCard.parse({ settlement: 'EUR', rounding: 'total', mode: 'half-up', lines: [], ...change } as never);
const line = (percentage: number, fixed: number, when: object = {}) => ({ when, percentage, fixed });
const kinds: PastKind[] = [
	{ method: 'card', currency: 'EUR', entry: 'online', scheme: 'corvid', funding: 'debit', issuer: 'BE' },
	{ method: 'card', currency: 'EUR', entry: 'online', scheme: 'corvid', funding: 'credit', issuer: 'NL' },
	{ method: 'card', currency: 'USD', entry: 'online', scheme: 'mainsail', funding: 'credit', issuer: 'US' },
	{
		method: 'bank-debit',
		currency: 'EUR',
		entry: 'recurring',
		scheme: 'unknown',
		funding: 'unknown',
		issuer: 'unknown'
	}
];
const days = Array.from({ length: 90 }, (_, n) => addDays('2026-01-01', n));
const past: Past = (() => {
	const count = 900;
	let state = 5;
	const next = (to: number) => ((state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) >>> 8) % to;
	const day = Uint16Array.from({ length: count }, (_, n) => Math.floor(n / 10));
	return {
		count,
		kinds,
		days,
		day,
		kind: Uint16Array.from({ length: count }, () => next(4)),
		minor: Float64Array.from({ length: count }, () => 100 + next(40_000)),
		month: Uint16Array.from(day, (one) => Number(days[one]!.slice(5, 7)))
	};
})();
const rateOf = (currency: string, day: string) =>
	findRate([{ day, from: currency, to: 'EUR', rate: '0.9213', source: 'test' }], currency, 'EUR', day);
const side = (id: string, own: RateCard, carries: Side['carries'] = () => true, bankDays = 2): Side => ({
	id,
	card: own,
	country: 'BE',
	bankDays,
	carries
});

describe('one side of a comparison', () => {
	const flat = card({
		areas: [['BE', 'NL']],
		lines: [line(13_500, 18), line(15_500, 18, { region: 'regional' }), line(29_500, 22, { region: 'international' })],
		conversion: 17_500,
		monthly: { fee: 900, minimum: 0 }
	});
	it('costs the sum of the single prices behind it', () => {
		const told = priceSide(past, [0, past.count], side('a', flat), rateOf, 0);
		const sums = kinds.map(() => 0);
		for (let n = 0; n < past.count; n++) {
			const kind = kindAt(kinds[past.kind[n]!]!, flat, 'BE');
			const priced = priceOne(
				flat,
				kind,
				{ minor: past.minor[n]!, currency: kind.currency },
				kind.currency === 'EUR' ? undefined : rateOf(kind.currency, days[past.day[n]!]!)
			);
			if (!isPriced(priced)) throw new Error(priced.reason);
			expect(told.fees[n]).toBe(priced.fee.minor);
			sums[past.kind[n]!]! += priced.fee.minor;
		}
		expect(told.kinds.map((one) => one.fee)).toEqual(sums);
		expect([told.months, told.monthlyFee]).toEqual([3, 2_700]);
	});
	it('shows what it cannot carry or price as a hole, with how much', () => {
		const only = priceSide(
			past,
			[0, past.count],
			side('b', flat, ({ method }) => method === 'card'),
			() => undefined,
			0
		);
		const count = (k: number) => past.kind.filter((one) => one === k).length;
		const sum = (k: number) => past.minor.reduce((all, minor, n) => all + (past.kind[n] === k ? minor : 0), 0);
		expect(only.kinds.map((one) => [one.holes, one.leftOut, one.hole])).toEqual([
			[0, 0, undefined],
			[0, 0, undefined],
			[count(2), sum(2), 'no rate'],
			[count(3), sum(3), 'not carried']
		]);
		const none = priceSide(
			past,
			[0, past.count],
			side('c', card({ lines: [line(1, 1, { method: 'card' })] })),
			rateOf,
			0
		);
		expect(none.kinds[3]).toMatchObject({ hole: 'no line', count: 0 });
	});
	it('counts tiers over what it can carry, by the month', () => {
		const tiers = card({
			lines: [line(20_000, 0)],
			tiers: { way: 'whole', steps: [{ from: 100_000, lines: [line(10_000, 0)] }] }
		});
		const told = priceSide(past, [0, past.count], side('t', tiers), rateOf, 0);
		// each month is far over the limit: all of it at one percent
		const fees = told.kinds.reduce((all, one) => all + one.fee, 0);
		const base = told.kinds.reduce((all, one) => all + one.base, 0);
		expect(Math.abs(fees - base / 100)).toBeLessThan(past.count);
	});
	it('charges what a month lacks to its minimum, also a month without payments', () => {
		const minimum = card({ rounding: 'each', lines: [line(0, 1)], monthly: { fee: 0, minimum: 1_000 } });
		const told = priceSide(past, [0, past.count], side('m', minimum), rateOf, 0);
		expect(told.monthlyMinimum).toBe(3 * 1_000 - past.count);
	});
	it('counts waiting exactly, and rounds it once', () => {
		const one: Past = {
			...past,
			count: 1,
			kind: Uint16Array.of(0),
			minor: Float64Array.of(1_000_000),
			day: Uint16Array.of(0),
			month: Uint16Array.of(1)
		};
		// taken on 1 January, when nothing settles: it counts from Friday the 2nd, and is there on Tuesday the 6th
		const told = priceSide(
			one,
			[0, 1],
			side('w', flat, () => true, 2),
			rateOf,
			40_000
		);
		expect(told.waiting).toBe(Math.round((1_000_000 * 5 * 0.04) / 365));
	});
});

describe('what happens around payments', () => {
	const own = card({
		lines: [line(13_500, 18)],
		refund: { keeps: 'fixed', fee: 10 },
		dispute: { fee: 2_000, returnedWhenWon: true },
		declined: 3,
		payout: 25
	});
	const refunded = past.minor.map((minor, n) => (n % 20 === 0 ? minor : n % 33 === 0 ? Math.floor(minor / 2) : 0));
	const happened = { disputes: [3, 0, 1, 0], declined: [40, 0, 0, 2] };
	const told = priceSide({ ...past, refunded }, [0, past.count], side('a', own), rateOf, 0, happened);
	it('is charged by the card: a fee per refund, dispute, declined attempt and payout', () => {
		const refunds = refunded.filter((one) => one > 0).length;
		expect(told.around).toMatchObject({
			refunds: { count: refunds, fee: 10 * refunds },
			disputes: { count: 4, fee: 8_000 },
			declined: { count: 42, fee: 126 }
		});
		// money of ninety days arrives on the bank days of three months
		expect(told.around.payouts.count).toBeGreaterThan(55);
		expect(told.around.payouts).toEqual({ count: told.around.payouts.count, fee: told.around.payouts.count * 25 });
	});
	it('gives back of each fee what its refund gives back, and the sums are those of the kinds', () => {
		let back = 0;
		for (let n = 0; n < past.count; n++) {
			const kind = kindAt(kinds[past.kind[n]!]!, own, 'BE');
			const priced = priceOne(
				own,
				kind,
				{ minor: past.minor[n]!, currency: kind.currency },
				kind.currency === 'EUR' ? undefined : rateOf(kind.currency, days[past.day[n]!]!)
			);
			if (!isPriced(priced)) throw new Error(priced.reason);
			const { percentagePart, fee } = priced;
			const given = givenBack(own, {
				percentagePart,
				fee: fee.minor,
				captured: past.minor[n]!,
				refunded: refunded[n]!
			});
			expect(told.givenBack.get(n) ?? 0).toBe(given);
			back += given;
		}
		expect(told.around.givenBack).toBe(back);
		const payouts = told.around.payouts.fee;
		expect(told.kinds.reduce((sum, one) => sum + one.around, 0)).toBe(sumAround(told.around) - payouts);
	});
	it('counts nothing of what a side cannot carry', () => {
		const only = side('b', own, ({ method }) => method === 'bank-debit');
		const { around } = priceSide({ ...past, refunded }, [0, past.count], only, rateOf, 0, happened);
		expect(around).toMatchObject({ disputes: { count: 0 }, declined: { count: 2, fee: 6 } });
	});
	it('pays out by its rhythm', () => {
		const some = ['2026-01-30', '2026-02-02', '2026-02-03', '2026-02-09', '2026-03-02'];
		expect([payoutsOn(some, undefined), payoutsOn(some, 'weekly'), payoutsOn(some, 'monthly')]).toEqual([5, 4, 3]);
	});
	it('takes fixed parts of tiers by the tier that each payment falls into', () => {
		const tiers = card({
			lines: [line(0, 10)],
			tiers: { way: 'band', steps: [{ from: 1_000_000, lines: [line(0, 4)] }] }
		});
		const { kinds: costs } = priceSide(past, [0, past.count], side('t', tiers), rateOf, 0);
		for (const one of costs) expect(one.fixed).toBe(one.fee);
	});
});

describe('break-even', () => {
	const groups: MixGroup[] = [{ name: 'Card', share: 1, kinds: [{ kind: kinds[0]!, weight: 1 }], amounts: [8450] }];
	const mixSide = (id: string, own: RateCard) => ({ id, card: own, kinds: [[kindAt(kinds[0]!, own, 'BE')]] });
	it('1.35 % + 0.18 against 0.82 % + 0.11 + 39.00 a month at 84.50: from the 76th payment of a month', () => {
		const flat = mixSide('flat', card({ lines: [line(13_500, 18)] }));
		const monthly = mixSide('monthly', card({ lines: [line(8_200, 11)], monthly: { fee: 3_900, minimum: 0 } }));
		const at = (which: typeof flat, payments: number) =>
			priceMix(which, groups, { volume: payments * 8450, average: 8450, shares: [1] }, {}).total;
		expect(crossings('flat', 'monthly', (n) => at(flat, n) - at(monthly, n), [1, 1_000])).toEqual([
			{ at: 76, below: 'flat', above: 'monthly' }
		]);
	});
	it('finds every crossing, not only the first', () => {
		const wave = (n: number) => Math.sin(n / 100);
		expect(crossings('a', 'b', wave, [1, 1_000]).map((one) => one.at)).toEqual([315, 629, 943]);
		expect(crossings('a', 'b', () => 5, [1, 1_000])).toEqual([]);
	});
	it('is told with both lines, the axis and what is left out', () => {
		const two: MixGroup[] = [
			{ name: 'Card', share: 0.75, kinds: [{ kind: kinds[0]!, weight: 1 }], amounts: [8450] },
			{ name: 'Debit', share: 0.25, kinds: [{ kind: kinds[3]!, weight: 1 }], amounts: [8450] }
		];
		const flat = card({ lines: [line(13_500, 18)] });
		const monthly = card({ lines: [line(8_200, 11)], monthly: { fee: 3_900, minimum: 0 } });
		const sides = [
			{ id: 'flat', card: flat, kinds: [[kindAt(kinds[0]!, flat, 'BE')], [null]] },
			{ id: 'monthly', card: monthly, kinds: [[kindAt(kinds[0]!, monthly, 'BE')], [kindAt(kinds[3]!, monthly, 'BE')]] }
		];
		const mix = { volume: 100 * 8450, average: 8450, shares: [0.75, 0.25] };
		const given = { groups: two, sides, rates: {} };
		const told = answerMix(given, { mix, pair: [0, 1], along: 'volume' });
		expect(told.even).toMatchObject({ from: 1, to: 400, crossings: [{ at: 76, above: 1 }], leaves: 0.25 });
		expect(told.even!.lines[0].at(-1)).toBe(400 * 132);
		expect(told.even!.lines[1].at(-1)).toBe(400 * 80 + 3_900);
		// one that cannot carry a quarter of it is not the cheapest, whatever it costs
		expect([told.cheapest, told.priced[0]!.hole]).toEqual([[1], 0.25]);
		expect(answerMix(given, { mix, pair: [1, 0], along: 'volume' }).even!.crossings).toMatchObject([
			{ at: 76, above: 0 }
		]);
		// a share that one of them cannot carry cannot be moved, nor is there a break-even with oneself
		expect(answerMix(given, { mix, pair: [0, 1], along: 1 }).even).toBe(undefined);
		expect(answerMix(given, { mix, pair: [1, 1], along: 'volume' }).even).toBe(undefined);
	});
	it('tells which is the cheaper where they never cross', () => {
		const cheap = mixSide('cheap', card({ lines: [line(5_000, 5)] }));
		const dear = mixSide('dear', card({ lines: [line(9_000, 9)] }));
		const ask = (sides: (typeof cheap)[]) =>
			answerMix(
				{ groups, sides, rates: {} },
				{ mix: { volume: 845_000, average: 8450, shares: [1] }, pair: [0, 1], along: 'average' }
			).even!;
		expect(ask([cheap, dear])).toMatchObject({ crossings: [], cheaper: 0 });
		expect(ask([dear, cheap])).toMatchObject({ crossings: [], cheaper: 1 });
		expect(ask([cheap, { ...cheap, id: 'same' }]).cheaper).toBe(undefined);
	});
	it('a mix keeps the spread of amounts, scaled to the average, and names what cannot be carried', () => {
		const spread: MixGroup[] = [
			{ name: 'Card', share: 0.5, kinds: [{ kind: kinds[0]!, weight: 1 }], amounts: [1_000, 3_000] },
			{ name: 'Debit', share: 0.5, kinds: [{ kind: kinds[3]!, weight: 1 }], amounts: [2_000] }
		];
		const own = card({ lines: [line(10_000, 0)] });
		const told = priceMix(
			{ id: 'x', card: own, kinds: [[kindAt(kinds[0]!, own, 'BE')], [null]] },
			spread,
			{ volume: 400_000, average: 4_000, shares: [0.5, 0.5] },
			{}
		);
		expect(told).toMatchObject({ hole: 0.5, fees: 50 * 40 });
	});
});

describe('a rate card as a person edits it', () => {
	const full = card({
		rounding: 'each',
		areas: [
			['BE', 'NL'],
			['CH', 'LI']
		],
		lines: [
			{ ...line(13_550, 18, { method: 'card', region: 'domestic' }), minimum: 10, maximum: 390 },
			line(29_500, 0)
		],
		tiers: { way: 'band', steps: [{ from: 1_000_000, lines: [line(11_000, 5)] }] },
		costs: [{ scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 2_000, schemeFee: 300 }],
		conversion: 17_500,
		intermediary: 500,
		monthly: { fee: 2_400, minimum: 1_500 },
		refund: { keeps: 'fixed', fee: 10 },
		dispute: { fee: 1_800, returnedWhenWon: true },
		declined: 2,
		payout: 25
	});
	it('comes back as it was', () => {
		expect(RateCard.parse(cardInput(cardForm(full)))).toEqual(full);
		expect(cardForm(full).lines[0]).toMatchObject({
			percentage: '1.355',
			fixed: '0.18',
			minimum: '0.10',
			maximum: '3.90'
		});
	});
	it('says where something is no price', () => {
		const form = cardForm(full);
		form.lines[1]!.percentage = 'two';
		form.tiers[0]!.from = '-5';
		const read = RateCard.safeParse(cardInput(form));
		expect(read.success).toBe(false);
		expect([...new Set(read.error!.issues.map((issue) => sayPlace(issue.path)))]).toEqual([
			'Line 2, percentage',
			'Tier 1, from'
		]);
	});
});
