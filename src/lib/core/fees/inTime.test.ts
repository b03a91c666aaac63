import { describe, expect, it } from 'vitest';
import { addDays, type Day } from '../calendar';
import { findRate } from '../money';
import {
	givenBack,
	isPriced,
	kindAt,
	priceMonth,
	priceOne,
	priceSide,
	priceSideInTime,
	RateCard,
	sumAround,
	versionDays,
	type Past,
	type PastAround,
	type PastKind,
	type Side,
	type TimedCard
} from '.';

const card = (change: object): RateCard =>
	RateCard.parse({ settlement: 'EUR', rounding: 'total', mode: 'half-up', ...change } as never);
const line = (percentage: number, fixed: number, when: object = {}) => ({ when, percentage, fixed });
const KINDS: PastKind[] = [
	{ method: 'card', currency: 'EUR', entry: 'online', scheme: 'corvid', funding: 'debit', issuer: 'BE' },
	{ method: 'card', currency: 'EUR', entry: 'online', scheme: 'tessel', funding: 'credit', issuer: 'NL' },
	{ method: 'card', currency: 'USD', entry: 'online', scheme: 'mainsail', funding: 'credit', issuer: 'US' }
];
function pastOf(seed: number, count = 600, length = 120): Past {
	let state = seed;
	const next = (to: number) => ((state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) >>> 8) % to;
	const days = Array.from({ length }, (_, n) => addDays('2026-01-01', n));
	const day = Uint16Array.from({ length: count }, (_, n) => Math.floor((n * length) / count));
	const minor = Float64Array.from({ length: count }, () => 100 + next(40_000));
	return {
		count,
		kinds: KINDS,
		days,
		day,
		kind: Uint16Array.from({ length: count }, () => next(3)),
		minor,
		month: Uint16Array.from(day, (one) => Number(days[one]!.slice(5, 7))),
		refunded: Float64Array.from(minor, (one) => (next(9) === 0 ? Math.floor(one / (1 + next(2))) : 0))
	};
}
const rateOf = (currency: string, day: Day) =>
	findRate([{ day, from: currency, to: 'EUR', rate: '0.9213', source: 'test' }], currency, 'EUR', day);
const side = (own: RateCard, rhythm?: string): Side => ({
	id: 'a',
	card: own,
	country: 'BE',
	bankDays: 2,
	...(rhythm ? { rhythm } : {}),
	carries: () => true
});
const FLAT = card({
	areas: [['BE', 'NL']],
	lines: [line(13_500, 18), line(29_500, 22, { region: 'international' })],
	conversion: 17_500,
	monthly: { fee: 900, minimum: 30_000 },
	refund: { keeps: 'fixed', fee: 10 },
	payout: 20
});
const DEARER = card({ ...FLAT, lines: FLAT.lines.map((one) => ({ ...one, fixed: one.fixed + 5 })), payout: 35 });
const BANDS = card({
	...FLAT,
	tiers: { way: 'band', steps: [{ from: 900_000, lines: [line(9_000, 10)] }] }
});
const from = (validFrom: Day, one: RateCard, happened?: PastAround): TimedCard => ({
	validFrom,
	card: one,
	...(happened ? { happened } : {})
});

describe('the days of versions', () => {
	it('are cut at the first day of each; the first counts before its own first day, too', () => {
		const versions = [{ validFrom: '2026-03-01' }, { validFrom: '2026-01-15' }];
		expect(versionDays(versions, '2026-01-01', '2026-04-10')).toEqual([
			{ at: 1, from: '2026-01-01', to: '2026-02-28' },
			{ at: 0, from: '2026-03-01', to: '2026-04-10' }
		]);
	});
	it('leave out versions that were over before, and those that begin after', () => {
		const versions = [{ validFrom: '2025-01-01' }, { validFrom: '2026-01-01' }, { validFrom: '2027-01-01' }];
		expect(versionDays(versions, '2026-02-01', '2026-02-28')).toEqual([
			{ at: 1, from: '2026-02-01', to: '2026-02-28' }
		]);
		expect(versionDays(versions, '2025-12-31', '2026-01-01').map((one) => [one.from, one.to])).toEqual([
			['2025-12-31', '2025-12-31'],
			['2026-01-01', '2026-01-01']
		]);
	});
});

describe('payments priced by the versions of their days', () => {
	it('by one version, or by versions that say the same, cost what they cost by that card', () => {
		for (const own of [FLAT, BANDS])
			for (const rhythm of [undefined, 'weekly', 'monthly'])
				for (let seed = 1; seed <= 12; seed++) {
					const past = pastOf(seed);
					const whole = priceSide(past, [0, past.count], side(own, rhythm), rateOf, 40_000);
					const one = priceSideInTime(
						past,
						[0, past.count],
						side(own, rhythm),
						[from('2026-01-01', own)],
						rateOf,
						40_000
					);
					expect(one).toEqual(whole);
					// cut anywhere, within a month, too: volumes of tiers go on over the cut
					const at = addDays('2026-01-02', (seed * 37) % 117);
					const cut = priceSideInTime(
						past,
						[0, past.count],
						side(own, rhythm),
						[from(at, own), from('2025-06-01', own)],
						rateOf,
						40_000
					);
					expect(cut.fees).toEqual(whole.fees);
					expect(cut.givenBack).toEqual(whole.givenBack);
					expect(cut.around).toEqual(whole.around);
					expect([cut.waited, cut.waiting, cut.months, cut.monthlyFee]).toEqual([
						whole.waited,
						whole.waiting,
						whole.months,
						whole.monthlyFee
					]);
					expect(cut.monthlyMinimum).toBe(whole.monthlyMinimum);
					cut.kinds.forEach((kind, k) => {
						const { conversion, ...rest } = whole.kinds[k]!;
						expect(kind).toMatchObject(rest);
						// each version's part is rounded by itself
						expect(Math.abs(kind.conversion - conversion)).toBeLessThanOrEqual(1);
					});
				}
	});

	it('by two versions, each costs what the simple pricing says of its day', () => {
		for (let seed = 20; seed < 40; seed++) {
			const past = pastOf(seed, 400);
			const change = addDays('2026-01-05', seed * 2);
			const told = priceSideInTime(
				past,
				[0, past.count],
				side(DEARER),
				[from('2026-01-01', FLAT), from(change, DEARER)],
				rateOf,
				0
			);
			let [all, back] = [0, 0];
			for (let n = 0; n < past.count; n++) {
				const day = past.days[past.day[n]!]!;
				const own = day < change ? FLAT : DEARER;
				const kind = kindAt(KINDS[past.kind[n]!]!, own, 'BE');
				const paid = { minor: past.minor[n]!, currency: kind.currency };
				const priced = priceOne(own, kind, paid, rateOf(kind.currency, day));
				if (!isPriced(priced)) throw new Error('it has a price');
				expect(told.fees[n]).toBe(priced.fee.minor);
				all += priced.fee.minor;
				back += givenBack(own, {
					percentagePart: priced.percentagePart,
					fee: priced.fee.minor,
					captured: paid.minor,
					refunded: past.refunded![n]!
				});
			}
			expect(told.kinds.reduce((sum, one) => sum + one.fee, 0)).toBe(all);
			expect(told.around.givenBack).toBe(back);
			expect(told.around.refunds.count).toBe([...past.refunded!].filter((one) => one > 0).length);
			// refunds cost by kind what they cost in all
			const { refunds, givenBack: whole } = told.around;
			expect(told.kinds.reduce((sum, one) => sum + one.around, 0)).toBe(refunds.fee - whole);
		}
	});

	it('a month in which a version begins has that version’s monthly charges', () => {
		const past = pastOf(3);
		const dear = card({ ...FLAT, monthly: { fee: 2_000, minimum: 0 } });
		const cheap = card({ ...FLAT, monthly: { fee: 900, minimum: 0 } });
		const told = (change: Day) =>
			priceSideInTime(past, [0, past.count], side(dear), [from('2026-01-01', cheap), from(change, dear)], rateOf, 0);
		// four months in all
		expect([told('2026-02-01').months, told('2026-02-01').monthlyFee]).toEqual([4, 900 + 3 * 2_000]);
		expect(told('2026-02-17').monthlyFee).toBe(900 + 3 * 2_000);
		expect(told('2026-04-30').monthlyFee).toBe(3 * 900 + 2_000);
		// two versions in one month: the later one has it
		const three = priceSideInTime(
			past,
			[0, past.count],
			side(dear),
			[from('2026-01-01', cheap), from('2026-02-05', cheap), from('2026-02-20', dear)],
			rateOf,
			0
		);
		expect([three.months, three.monthlyFee]).toEqual([4, 900 + 3 * 2_000]);
	});

	it('what a month lacks to its minimum is worked out on all of the month by its version', () => {
		const past = pastOf(5, 300);
		const plain = card({
			...FLAT,
			conversion: 0,
			areas: [],
			lines: [line(10_000, 5)],
			refund: { keeps: 'all', fee: 0 }
		});
		const strict = card({ ...plain, monthly: { fee: 0, minimum: 60_000 } });
		const told = priceSideInTime(
			past,
			[0, past.count],
			side(strict),
			[from('2026-01-01', plain), from('2026-03-14', strict)],
			rateOf,
			0
		);
		let missing = 0;
		for (const [month, own] of [
			['2026-01', plain],
			['2026-02', plain],
			['2026-03', strict],
			['2026-04', strict]
		] as const) {
			const payments = [];
			for (let n = 0; n < past.count; n++) {
				const day = past.days[past.day[n]!]!;
				if (!day.startsWith(month) || (month === '2026-03' && day < '2026-03-01')) continue;
				const kind = kindAt(KINDS[past.kind[n]!]!, own, 'BE');
				payments.push({
					kind,
					paid: { minor: past.minor[n]!, currency: kind.currency },
					rate: rateOf(kind.currency, day)
				});
			}
			missing += priceMonth(own, payments).minimum;
		}
		expect(missing).toBeGreaterThan(0);
		expect(told.monthlyMinimum).toBe(missing);
	});

	it('disputes and declined attempts cost what the version of their days says', () => {
		const past = pastOf(8);
		const [cheap, dear] = [1_000, 2_500].map((fee) =>
			card({ ...FLAT, dispute: { fee, returnedWhenWon: false }, declined: fee / 100 })
		);
		const told = priceSideInTime(
			past,
			[0, past.count],
			side(dear!),
			[
				from('2026-01-01', cheap!, { disputes: [1, 0, 2], declined: [3, 0, 0] }),
				from('2026-03-01', dear!, { disputes: [0, 1, 0], declined: [0, 0, 4] })
			],
			rateOf,
			0
		);
		expect(told.around.disputes).toEqual({ count: 4, fee: 3 * 1_000 + 2_500 });
		expect(told.around.declined).toEqual({ count: 7, fee: 3 * 10 + 4 * 25 });
		expect(sumAround({ ...told.around, payouts: { count: 0, fee: 0 } })).toBe(
			told.kinds.reduce((sum, one) => sum + one.around, 0)
		);
	});

	it('of an empty stretch cost nothing', () => {
		const past = pastOf(9);
		const told = priceSideInTime(
			past,
			[10, 10],
			side(FLAT),
			[from('2026-01-01', FLAT), from('2026-02-01', DEARER)],
			rateOf,
			0
		);
		expect([told.fees.length, told.months, sumAround(told.around)]).toEqual([0, 0, 0]);
	});
});
