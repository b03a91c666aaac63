import type { Fee, Sum } from './state.ts';

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
} as const;

type Prices = Omit<typeof PRICES, 'since' | 'bands'> & {
	readonly since: string;
	readonly bands: readonly {
		readonly band: string;
		readonly cards: string;
		readonly issued: string;
		readonly share: string;
		readonly plus: string;
	}[];
};

/** The prices of an account: the published ones, or dearer at home from a day on, where its people were told so. */
export const pricesOf = (account: { readonly dearer?: { readonly since: string; readonly home: string } }): Prices =>
	account.dearer
		? {
				...PRICES,
				since: account.dearer.since,
				bands: PRICES.bands.map((one) => (one.band === 'home' ? { ...one, share: account.dearer!.home } : one))
			}
		: PRICES;

const AT_HOME_1: Record<string, number> = { EUR: 1, GBP: 1.1432, USD: 0.9213, CHF: 1.0664, JPY: 0.006135 };

/** The rate of a day: a slow, repeatable movement around a centre, published with six significant digits. */
export function rateOf(day: string, from: string, to: string): string {
	if (from === to) return '1';
	const at = Date.parse(`${day}T00:00:00Z`) / 86_400_000;
	const swing = (code: string) =>
		code === 'EUR' ? 0 : Math.sin(at / 19 + code.charCodeAt(0)) * 0.011 + Math.sin(at / 3 + code.charCodeAt(1)) * 0.003;
	const value = (AT_HOME_1[from]! * (1 + swing(from))) / (AT_HOME_1[to]! * (1 + swing(to)));
	return value.toPrecision(5).includes('e') ? value.toFixed(9) : String(Number(value.toPrecision(5)));
}

export const KNOWN = Object.keys(AT_HOME_1);

/** A decimal text as a whole number of 1 / 10^digits. */
const scaled = (text: string, digits: number): bigint => {
	const [whole = '0', rest = ''] = text.split('.');
	return BigInt(whole + rest.padEnd(digits, '0').slice(0, digits));
};
const halvesUp = (top: bigint, bottom: bigint) => (top * 2n + bottom) / (bottom * 2n);

export function bandOf(issuedIn: string, funding: string, home: string, wrong: boolean, prices: Prices = PRICES) {
	const issued =
		issuedIn === home
			? 'home'
			: (PRICES.neighbours as readonly string[]).includes(issuedIn) && !wrong
				? 'neighbours'
				: 'elsewhere';
	const cards = funding === 'commercial' ? 'company' : 'private';
	return prices.bands.find((one) => one.issued === issued && one.cards === cards)!;
}

/** Prices one payment as Fernhall does, in cents of EUR; the answer is in thousandths. */
export function charge(
	sum: Sum,
	card: { issuedIn: string; funding: string },
	home: string,
	day: string,
	wrong: boolean,
	prices: Prices = PRICES
): { fee: Fee; share: string } {
	const band = bandOf(card.issuedIn, card.funding, home, wrong, prices);
	let cents: bigint;
	let rate: Fee['rate'];
	if (sum.currency === 'EUR') cents = BigInt(sum.thousandths) / 10n;
	else {
		const value = rateOf(day, sum.currency, 'EUR');
		rate = { day, value };
		const top = BigInt(sum.thousandths) * scaled(value, 12);
		const bottom = 10n * 10n ** 12n;
		const twice = (top % bottom) * 2n;
		const down = top / bottom;
		// halves to even for the conversion
		cents = twice > bottom || (twice === bottom && down % 2n === 1n) ? down + 1n : down;
	}
	const share = cents * scaled(band.share, 4);
	const exchange = rate ? cents * scaled(PRICES.exchange, 4) : 0n;
	const fee = halvesUp(share + exchange + scaled(band.plus, 2) * 1_000_000n, 1_000_000n);
	return {
		fee: { currency: 'EUR', thousandths: Number(fee) * 10, base: Number(cents) * 10, rate, band: band.band },
		share: share.toString()
	};
}

/** What of the fee is given back in all once so much is refunded, in thousandths. */
export const returnedInAll = (share: string, refunded: number, taken: number): number =>
	Number(halvesUp(BigInt(share) * BigInt(refunded), 1_000_000n * BigInt(taken))) * 10;
