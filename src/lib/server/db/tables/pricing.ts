import { RateCard } from '../../../core/fees';
import { Texts } from '../held';
import { json, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// What is charged, and at which rates. Flags are 0 or 1; what holds JSON names what it may hold, and is read by `json` of its table.

export const rateCards = table(
	'rate_cards',
	{
		id: whole,
		connectionId: text,
		role: oneOf('contract', 'proposal'),
		validFrom: text,
		card: json(RateCard),
		source: text,
		createdAt: whole,
		confirmedAt: orNull(whole),
		confirmedBy: text
	},
	['id'],
	true
);
export type RateCardRow = RowOf<typeof rateCards>;

export const candidates = table(
	'candidates',
	{
		id: text,
		name: text,
		processor: text,
		methods: json(Texts),
		currencies: json(Texts),
		paysOutDays: whole,
		card: json(RateCard),
		note: text,
		createdAt: whole,
		removedAt: orNull(whole)
	},
	['id']
);
export type CandidateRow = RowOf<typeof candidates>;

export const exchangeRates = table(
	'exchange_rates',
	{
		day: text,
		fromCurrency: text,
		toCurrency: text,
		source: text,
		rate: text
	},
	['day', 'fromCurrency', 'toCurrency', 'source']
);
export type ExchangeRateRow = RowOf<typeof exchangeRates>;

export const accountCharges = table(
	'account_charges',
	{
		id: whole,
		processor: text,
		connectionId: orNull(text),
		accountId: text,
		kind: oneOf('adjustment', 'monthly', 'payout', 'refund', 'dispute'),
		object: text,
		at: whole,
		/** in the account's time zone, as a payment's account day */
		day: text,
		currency: text,
		minor: whole,
		paymentId: orNull(whole),
		says: text,
		fileId: orNull(whole)
	},
	['id'],
	true
);
export type AccountChargeRow = RowOf<typeof accountCharges>;
