import type { Account, Payment, Priced } from '../shared/engine.ts';
import { priceBy, regionOf, type Terms } from '../shared/price.ts';

/** Fernhall's published prices, in its own form: shares in per cent and sums in EUR, as texts. */
export const PRICES = {
	money: 'EUR',
	since: '2026-01-01',
	rounded: 'once, halves up',
	neighbours: 'AT BE BG CY CZ DE DK EE ES FI FR GR HR HU IE IS IT LI LT LU LV MT NL NO PL PT RO SE SI SK'.split(' '),
	bands: [
		{ band: 'home', cards: 'private', issued: 'home', share: '1.35', plus: '0.18' },
		{ band: 'neighbour', cards: 'private', issued: 'neighbours', share: '1.55', plus: '0.18' },
		{ band: 'away', cards: 'private', issued: 'elsewhere', share: '2.95', plus: '0.22' },
		{ band: 'home company', cards: 'company', issued: 'home', share: '2.25', plus: '0.18' },
		{ band: 'neighbour company', cards: 'company', issued: 'neighbours', share: '2.45', plus: '0.18' },
		{ band: 'away company', cards: 'company', issued: 'elsewhere', share: '3.25', plus: '0.22' }
	],
	exchange: '1.75',
	refunds: { share: 'given back', plus: 'kept', charge: '0.00' },
	disputes: { charge: '18.00', givenBackWhenWon: true }
};

/** The prices of an account: the published ones, or dearer at home from a day on, where its people agreed to it. */
export const pricesOf = ({ terms }: Pick<Account, 'terms'>): typeof PRICES =>
	terms?.home && terms.since
		? {
				...PRICES,
				since: terms.since,
				bands: PRICES.bands.map((one) => (one.band === 'home' ? { ...one, share: terms.home! } : one))
			}
		: PRICES;

const ISSUED = { home: 'home', near: 'neighbours', far: 'elsewhere' } as const;

/** @param wrong cards of neighbours are priced as from elsewhere */
export function priceOf(
	payment: Pick<Payment, 'minor' | 'currency' | 'takenAt' | 'card'>,
	account: Pick<Account, 'country' | 'zone' | 'terms'>,
	wrong: boolean
): Priced {
	const region = ISSUED[regionOf(payment.card?.issuedIn ?? '', account.country)];
	const issued = wrong && region === 'neighbours' ? 'elsewhere' : region;
	const cards = payment.card?.funding === 'commercial' ? 'company' : 'private';
	const { band, share, plus } = pricesOf(account).bands.find((one) => one.issued === issued && one.cards === cards)!;
	const terms: Terms = { label: band, share, plus, exchange: PRICES.exchange, back: 'share' };
	return priceBy(payment, PRICES.money, account.zone, 0, terms);
}
