import { describe, expect, it } from 'vitest';
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
import {
	rounded,
	simple,
	generator,
	randomCard,
	RATES,
	found,
	randomPayment
} from '../../../../tests/world/simplePricing';

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
