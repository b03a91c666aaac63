import fc from 'fast-check';
import { appendFileSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { isLuhnValid, SchemeCatalogue, schemeOf } from '../../src/lib/core/cards';
import catalogue from '../../src/lib/core/cards/schemes.json';
import { givenBack, isPriced, kindOf, priceOne } from '../../src/lib/core/fees';
import { findRate } from '../../src/lib/core/money';
import { PricesAnswer, readPrices } from '../../src/lib/server/connectors/fernhall/form';
import { cardTypeOf } from '../../src/lib/core/cards';
import { TEST_CARDS } from '../../standins/shared/cards.ts';
import { priceOf, PRICES } from '../../standins/fernhall/prices.ts';
import { backInProportion } from '../../standins/shared/price.ts';
import { rateOf } from '../../standins/shared/sums.ts';
import type { Payment } from '../../standins/shared/engine.ts';
import { Journal } from '../../standins/shared/journal.ts';

const folder = mkdtempSync(join(tmpdir(), 'purse-standin-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('Fernhall’s own pricing and ours, written apart from each other', () => {
	const card = readPrices(PricesAnswer.parse(JSON.parse(JSON.stringify(PRICES))));
	const day = '2026-11-24';
	const HOME = { country: 'BE', zone: 'Europe/Brussels' };
	const paid = (issuedIn: string, funding: string) => ({
		takenAt: `${day}T10:00:00Z`,
		card: { scheme: 'corvid', funding, issuedIn, lastFour: '0000', expires: '2029-09' }
	});
	const payment = fc.record({
		currency: fc.constantFrom('EUR', 'GBP', 'USD', 'JPY'),
		minor: fc.oneof(fc.integer({ min: 50, max: 100_000 }), fc.integer({ min: 1, max: 200_000_000 })),
		funding: fc.constantFrom('debit', 'credit', 'prepaid', 'commercial') as fc.Arbitrary<'debit'>,
		issuerCountry: fc.constantFrom('BE', 'NL', 'DE', 'US', 'JP', 'GB'),
		refunded: fc.double({ min: 0, max: 1, noNaN: true })
	});
	it('agree on every payment and every refund, to the cent', () => {
		fc.assert(
			fc.property(payment, ({ currency, minor, funding, issuerCountry, refunded }) => {
				const rates = [{ day, from: currency, to: 'EUR', rate: rateOf(day, currency, 'EUR'), source: 'Fernhall' }];
				const rate = currency === 'EUR' ? undefined : findRate(rates, currency, 'EUR', day);
				const kind = kindOf({
					method: 'card',
					currency,
					...cardTypeOf({ scheme: 'corvid', funding, issuerCountry }, 'BE', card.areas)
				});
				const ours = priceOne(card, kind, { minor, currency }, rate);
				if (!isPriced(ours)) throw new Error(ours.reason);
				const told = { minor, currency, ...paid(issuerCountry, funding) };
				const charged = priceOf(told, HOME, false);
				expect([ours.fee.minor, ours.base.minor]).toEqual([charged.fee, charged.base]);
				const back = Math.floor(minor * refunded);
				const given = givenBack(card, {
					percentagePart: ours.percentagePart,
					fee: ours.fee.minor,
					captured: minor,
					refunded: back
				});
				expect(given).toBe(backInProportion({ ...told, charged } as Payment, back));
			}),
			{ seed: 20417, numRuns: 5000 }
		);
	});
	it('differ where a fault makes Fernhall price neighbours as from elsewhere', () => {
		const fee = (wrong: boolean) => priceOf({ currency: 'EUR', minor: 10_000, ...paid('NL', 'credit') }, HOME, wrong);
		expect([fee(false), fee(true)]).toMatchObject([
			{ fee: 173, label: 'neighbour' },
			{ fee: 317, label: 'away' }
		]);
	});
	it('refuse a price list that is not in its usual form', () => {
		for (const change of [
			{ rounded: 'somehow' },
			{ bands: [] },
			{ exchange: '1,75' },
			{ bands: [{ ...PRICES.bands[0], share: '-1' }] }
		])
			expect(PricesAnswer.safeParse({ ...PRICES, ...change }).success).toBe(false);
	});
});

it('documents test cards that are valid numbers of their schemes, of no real country', () => {
	const schemes = SchemeCatalogue.parse(catalogue);
	for (const card of TEST_CARDS) {
		expect([card.number, isLuhnValid(card.number), schemeOf(card.number, schemes)?.id]).toEqual([
			card.number,
			true,
			card.scheme
		]);
		expect(schemes.find((one) => one.id === card.scheme)!.lengths).toContain(card.number.length);
		expect(card.number).toMatch(/^99\d\d/);
	}
	expect(new Set(TEST_CARDS.map((card) => card.number)).size).toBe(TEST_CARDS.length);
});

describe('the journal of a stand-in', () => {
	it('keeps its records over a restart, and survives being killed while it writes', () => {
		const file = join(folder, 'some.journal');
		const first = new Journal<{ things: { name: string } }>(file);
		first.put('things', 'a', { name: 'one' });
		first.put('things', 'b', { name: 'two' });
		first.put('things', 'a', { name: 'one, changed' });
		first.remove('things', 'b');
		appendFileSync(file, '["things","c",{"na');
		const second = new Journal<{ things: { name: string } }>(file);
		expect(second.all('things')).toEqual([{ name: 'one, changed' }]);
		expect(readFileSync(file, 'utf8').trim().split('\n')).toHaveLength(1);
		expect(second.get('things', 'b')).toBeUndefined();
	});
});
