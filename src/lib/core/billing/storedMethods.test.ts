import { describe, expect, it } from 'vitest';
import { addDays } from '../calendar';
import {
	addMonths,
	byUse,
	isRenewalDue,
	isUsable,
	lastDayOfMonth,
	renewalMonths,
	storedName,
	whyOver,
	type StoredFacts
} from './storedMethods';

const card = (changes: Partial<StoredFacts> = {}): StoredFacts => ({
	method: 'card',
	state: 'active',
	expires: '2028-02',
	lastUsed: '2026-11-30',
	...changes
});
const mandate = (lastUsed: string): StoredFacts => card({ method: 'bank-debit', expires: '', lastUsed });

describe('stored methods', () => {
	it('knows the last day of a card', () => {
		expect(lastDayOfMonth('2028-02')).toBe('2028-02-29');
		expect(lastDayOfMonth('2027-02')).toBe('2027-02-28');
		expect(lastDayOfMonth('2026-12')).toBe('2026-12-31');
		expect(isUsable(card(), '2028-02-29')).toBe(true);
		expect(whyOver(card(), '2028-03-01')).toBe('expired');
		expect(isUsable(card(), '2028-03-01')).toBe(false);
	});

	it('ends a mandate that was not used for 36 months, to the day', () => {
		expect(whyOver(mandate('2023-11-30'), '2026-11-29')).toBeUndefined();
		expect(whyOver(mandate('2023-11-30'), '2026-11-30')).toBe('unused');
		// a leap day has no anniversary three years on
		expect(addMonths('2024-02-29', 36)).toBe('2027-02-28');
		expect(addMonths('2026-12-31', 2)).toBe('2027-02-28');
		expect(addMonths('2026-12-01', 1)).toBe('2027-01-01');
		// a card has no such end
		expect(whyOver(card({ lastUsed: '2020-01-01' }), '2026-11-30')).toBeUndefined();
	});

	it('asks for a renewal from thirty days before the last day', () => {
		expect(isRenewalDue(card(), '2028-01-29')).toBe(false);
		expect(isRenewalDue(card(), '2028-01-30')).toBe(true);
		expect(isRenewalDue(card(), '2028-02-29')).toBe(true);
		expect(isRenewalDue(card(), '2028-03-01')).toBe(false);
		expect(isRenewalDue(card({ state: 'suspended' }), '2028-02-10')).toBe(false);
		expect(isRenewalDue(mandate('2026-11-01'), '2028-02-10')).toBe(false);
	});

	it('asks for the cards of the right months, whichever day it is', () => {
		for (let at = 0; at < 1500; at++) {
			const today = addDays('2026-01-01', at);
			const { from, to } = renewalMonths(today);
			for (const month of [
				addMonths(from + '-01', -1),
				`${from}-01`,
				addMonths(`${from}-01`, 1),
				addMonths(`${from}-01`, 2)
			]) {
				const expires = month.slice(0, 7);
				expect([today, expires, expires >= from && expires <= to]).toEqual([
					today,
					expires,
					isRenewalDue(card({ expires }), today)
				]);
			}
		}
	});

	it('is not used while suspended or ended', () => {
		expect(isUsable(card({ state: 'suspended' }), '2026-11-30')).toBe(false);
		expect(isUsable(card({ state: 'ended' }), '2026-11-30')).toBe(false);
	});

	it('is named by what may be shown', () => {
		const names = { corvid: 'Corvid' };
		const shown = {
			scheme: 'corvid',
			funding: 'debit',
			issuerCountry: 'BE',
			last4: '1108',
			expiry: '2028-02'
		} as const;
		expect(storedName({ method: 'card', card: shown }, names)).toBe('Corvid 1108');
		expect(storedName({ method: 'card', card: { ...shown, scheme: 'unknown' } }, names)).toBe('1108');
		const signed = {
			reference: 'QM1',
			creditor: 'W',
			bank: 'BE bank',
			last4: '6769',
			signedAt: 1,
			use: 'recurring'
		} as const;
		expect(storedName({ method: 'bank-debit', mandate: signed }, names)).toBe('BE bank 6769');
		expect(storedName({ method: 'bank-debit', mandate: { ...signed, bank: '', last4: '' } }, names)).toBe('QM1');
	});

	it('shows the default one first, then the one used last', () => {
		const one = (id: number, usedAt: number, isDefault = false) => ({ id, usedAt, isDefault });
		expect(byUse([one(1, 5), one(2, 9), one(3, 1, true), one(4, 9)]).map(({ id }) => id)).toEqual([3, 4, 2, 1]);
	});
});
