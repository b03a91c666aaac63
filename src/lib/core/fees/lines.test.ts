import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isAccountCause, sayCause, whyCause } from './causes';
import type { NamedCause } from './feeCheck';
import { addCost, blankCost, blankLine, costsOf, percentText, type CostForm } from './form';
import {
	costOf,
	hasInterchange,
	lineFor,
	lineMatches,
	linesAt,
	specificity,
	stretchesOf,
	type Kind,
	type RateCard,
	type RateLine
} from './rateCard';
import { sayUnpriced } from './words';

// Which line of a rate card prices a payment, and how a payment falls into tiers: held against counting one by one.

const VALUES = {
	method: ['card', 'bank-app'],
	scheme: ['corvid', 'mainsail', 'unknown'],
	funding: ['debit', 'credit', 'unknown'],
	region: ['domestic', 'regional', 'unknown'],
	currency: ['EUR', 'GBP'],
	entry: ['online', 'present']
} as const;
const NAMES = Object.keys(VALUES) as (keyof typeof VALUES)[];
const kind: fc.Arbitrary<Kind> = fc.record(
	Object.fromEntries(NAMES.map((name) => [name, fc.constantFrom(...VALUES[name])])) as never
);
const line: fc.Arbitrary<RateLine> = fc.record({
	when: fc.record(
		Object.fromEntries(
			NAMES.map((name) => [name, fc.constantFrom(...VALUES[name].filter((one) => one !== 'unknown'))])
		),
		{ requiredKeys: [] }
	),
	percentage: fc.integer({ min: 0, max: 50_000 }),
	fixed: fc.integer({ min: 0, max: 50 })
}) as never;

describe('the line that prices a kind of payment', () => {
	it('is the one that states most of what holds; two of them are told as two, and none as none', () => {
		fc.assert(
			fc.property(fc.array(line, { minLength: 1, maxLength: 12 }), kind, (lines, of) => {
				const states = (one: RateLine) => NAMES.filter((name) => one.when[name] !== undefined);
				const fitting = lines
					.map((one, index) => ({ index, states: states(one), one }))
					.filter(({ states: all, one }) => all.every((name) => one.when[name] === of[name]));
				const most = Math.max(-1, ...fitting.map((one) => one.states.length));
				const best = fitting.filter((one) => one.states.length === most).map((one) => one.index);
				const choice = lineFor({ lines }, of);
				if (best.length === 0) expect(choice).toEqual({ found: 'none' });
				else if (best.length === 1) expect(choice).toEqual({ found: 'one', line: lines[best[0]!], index: best[0] });
				else expect(choice).toEqual({ found: 'ambiguous', indexes: best });
				for (const one of lines) {
					expect(specificity(one)).toBe(states(one).length);
					expect(lineMatches(one, of)).toBe(fitting.some((other) => other.one === one));
				}
			}),
			{ numRuns: 3_000 }
		);
	});
	it('is never one that asks for what is not known of a card', () => {
		const asks: RateLine = { when: { method: 'card', scheme: 'corvid' }, percentage: 10_000, fixed: 0 };
		const open: RateLine = { when: { method: 'card' }, percentage: 20_000, fixed: 0 };
		const unknown: Kind = {
			method: 'card',
			scheme: 'unknown',
			funding: 'unknown',
			region: 'unknown',
			currency: 'EUR',
			entry: 'online'
		};
		expect(lineFor({ lines: [asks, open] }, unknown)).toMatchObject({ found: 'one', index: 1 });
		expect(lineFor({ lines: [asks] }, unknown)).toEqual({ found: 'none' });
	});
});

describe('a payment in the tiers of its month', () => {
	const plain = (percentage: number): RateLine[] => [{ when: {}, percentage, fixed: 0 }];
	const tiers = fc
		.uniqueArray(fc.integer({ min: 1, max: 200 }), { minLength: 1, maxLength: 5 })
		.map((limits) => limits.sort((a, b) => a - b).map((from, at) => ({ from, lines: plain(at + 1) })));

	it('is split where it crosses a limit, as if each minor unit came by itself', () => {
		fc.assert(
			fc.property(tiers, fc.nat(250), fc.integer({ min: 1, max: 250 }), (steps, before, base) => {
				const card = { lines: plain(0), tiers: { way: 'band' as const, steps } };
				const stretches = stretchesOf(card, base, before);
				const byUnit = new Map<number, number>();
				for (let at = before; at < before + base; at++) {
					const tier = linesAt(card, at)[0]!.percentage;
					byUnit.set(tier, (byUnit.get(tier) ?? 0) + 1);
				}
				expect(new Map(stretches.map((one) => [one.lines[0]!.percentage, one.minor]))).toEqual(byUnit);
				expect(stretches.reduce((sum, one) => sum + one.minor, 0)).toBe(base);
			}),
			{ numRuns: 3_000 }
		);
	});
	it('is whole where the whole month has one price, and where there are no tiers', () => {
		const steps = [{ from: 100, lines: plain(1) }];
		expect(stretchesOf({ lines: plain(0), tiers: { way: 'whole', steps } }, 500, 20)).toEqual([
			{ minor: 500, lines: plain(0) }
		]);
		expect(stretchesOf({ lines: plain(0), tiers: { way: 'whole', steps } }, 500, 100)).toEqual([
			{ minor: 500, lines: plain(1) }
		]);
		expect(stretchesOf({ lines: plain(7) }, 500, 1_000_000)).toEqual([{ minor: 500, lines: plain(7) }]);
	});
	it('of nothing is nothing that crosses', () => {
		const card = { lines: plain(0), tiers: { way: 'band' as const, steps: [{ from: 10, lines: plain(1) }] } };
		expect(stretchesOf(card, 0, 10).every((one) => one.minor === 0)).toBe(true);
	});
});

describe('a cost table', () => {
	const costs = [
		{ scheme: 'corvid', funding: 'debit', region: 'domestic', interchange: 2_000, schemeFee: 100 },
		{ scheme: 'corvid', funding: 'credit', region: 'domestic', interchange: 3_000, schemeFee: 100 }
	] as NonNullable<RateCard['costs']>;
	const of = (more: Partial<Kind>): Kind => ({
		method: 'card',
		scheme: 'corvid',
		funding: 'debit',
		region: 'domestic',
		currency: 'EUR',
		entry: 'online',
		...more
	});
	it('has an entry for a card type or none, and is asked for nothing but cards', () => {
		expect(costOf({ costs }, of({}))).toMatchObject({ interchange: 2_000 });
		expect(costOf({ costs }, of({ funding: 'credit' }))).toMatchObject({ interchange: 3_000 });
		expect(costOf({ costs }, of({ region: 'regional' }))).toBeUndefined();
		expect(hasInterchange({ costs }, of({}))).toBe(true);
		expect(hasInterchange({ costs }, of({ method: 'device-wallet' }))).toBe(true);
		expect(hasInterchange({ costs }, of({ method: 'bank-app' }))).toBe(false);
		expect(hasInterchange({}, of({}))).toBe(false);
	});
	it('goes into the boxes of its form and out again, each entry once', () => {
		const rows: CostForm[] = [];
		const cell = { interchange: '0.2', schemeFee: '0.01' };
		addCost(rows, { scheme: 'corvid', funding: 'debit', region: 'domestic', ...cell });
		addCost(rows, { scheme: 'corvid', funding: 'debit', region: 'regional', ...cell, interchange: '0.4' });
		addCost(rows, { scheme: 'corvid', funding: 'credit', region: 'domestic', ...cell });
		// a place that is taken begins a row of its own, so that nothing is overwritten
		addCost(rows, { scheme: 'corvid', funding: 'debit', region: 'domestic', ...cell, interchange: '0.9' });
		expect(rows).toHaveLength(3);
		expect(costsOf(rows).map((one) => [one.funding, one.region])).toEqual([
			['debit', 'domestic'],
			['debit', 'regional'],
			['credit', 'domestic'],
			['debit', 'domestic']
		]);
		expect(costsOf([blankCost('corvid', 'debit')])).toEqual([]);
		expect(Object.values(blankLine()).every((one) => one === '')).toBe(true);
		expect([percentText(13_500), percentText(20_000), percentText(1), percentText(0)]).toEqual([
			'1.35',
			'2',
			'0.0001',
			'0'
		]);
	});
});

describe('what is said of a fee', () => {
	it('has a sentence for each reason why nothing is expected', () => {
		const says = (['no line', 'ambiguous', 'no rate', 'no cost'] as const).map((reason) => sayUnpriced({ reason }));
		expect(new Set(says).size).toBe(4);
		for (const one of says) expect(one).toMatch(/^[A-Z].*\.$/);
	});
	it('names a cause with what it was, in the reader’s own figures, and says why it was named', () => {
		const named = (cause: NamedCause['cause'], parameter: string) => ({ cause, parameter }) as NamedCause;
		const says: [NamedCause, string][] = [
			[named('another line', 'region international'), 'Charged as international cards'],
			[named('another line', 'scheme corvid'), 'Charged as Corvid cards'],
			[named('another version', '2026-01-01'), 'Charged by the rate card of 01/01/2026'],
			[named('fixed part', 'missing'), 'The fixed part was left out'],
			[named('fixed part', 'twice'), 'The fixed part was charged twice'],
			[named('rounding', 'each half-up'), 'Rounded otherwise: each part, halves up'],
			[named('rounding', 'total up'), 'Rounded otherwise: the sum, always upwards'],
			[named('refund', 'keeps all'), 'Refunds gave nothing of the fee back'],
			[named('refund', 'keeps fixed'), 'Refunds kept the fixed part'],
			[named('refund', 'keeps nothing'), 'Refunds gave the whole fee back'],
			[named('monthly charge', 'twice'), 'The monthly charge was made twice'],
			[named('payout charge', 'missing'), 'The charge for a payout was left out'],
			[named('refund charge', 'not agreed'), 'A charge for a refund that was not agreed'],
			[named('dispute charge', 'other'), 'Another charge for a dispute than agreed'],
			[named('not explained', ''), 'Nothing that is known explains it']
		];
		for (const [cause, text] of says) {
			expect(sayCause(cause, 'en-GB', (id) => id[0]!.toUpperCase() + id.slice(1))).toBe(text);
			expect(whyCause(cause)).toMatch(/^[A-Z].*\.$/);
			expect(isAccountCause(cause.cause)).toBe(cause.cause.endsWith(' charge'));
		}
		expect(sayCause(named('conversion', '40000'), 'nl-BE', undefined, 35_000)).toMatch(/4\s?%, agreed is 3,5\s?%/);
	});
});
