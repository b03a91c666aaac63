import type { Rate } from '../../../core/money';
import { Op } from 'sequelize';
import { open, type Tx } from '../open';
import { exchangeRates, type ExchangeRateRow } from '../tables';

/** Keeps published rates; those of a day that is known stay as they were. */
export async function addRates(rates: readonly ExchangeRateRow[], tx: Tx): Promise<void> {
	if (!rates.length) return;
	await (
		await open()
	).query(
		`INSERT INTO exchange_rates (day, from_currency, to_currency, source, rate)
		 SELECT value ->> 0, value ->> 1, value ->> 2, value ->> 3, value ->> 4 FROM json_each($1) WHERE true
		 ON CONFLICT (day, from_currency, to_currency, source) DO NOTHING`,
		{
			bind: [JSON.stringify(rates.map((one) => [one.day, one.fromCurrency, one.toCurrency, one.source, one.rate]))],
			transaction: tx
		}
	);
}

/** Every rate published from a day on. */
export async function exchangeRatesSince(day: string): Promise<ExchangeRateRow[]> {
	return (await exchangeRates.model.findAll({
		where: { day: { [Op.gte]: day } },
		raw: true
	})) as unknown as ExchangeRateRow[];
}

const BY_DAY: [string, 'DESC'][] = [
	['day', 'DESC'],
	['fromCurrency', 'DESC'],
	['toCurrency', 'DESC'],
	['source', 'DESC']
];
const asRate = (row: ExchangeRateRow): Rate => ({
	day: row.day,
	from: row.fromCurrency,
	to: row.toCurrency,
	rate: row.rate,
	source: row.source
});

/** Every rate of some days, both included, in the order of `ratesUpTo`. */
export async function ratesOfDays(from: string, to: string): Promise<Rate[]> {
	const rows = (await exchangeRates.model.findAll({
		where: { day: { [Op.between]: [from, to] } },
		order: BY_DAY,
		raw: true
	})) as unknown as ExchangeRateRow[];
	return rows.map(asRate);
}

/** The latest rates between two currencies up to a day, in either direction. */
export async function ratesUpTo(from: string, to: string, day: string, tx?: Tx): Promise<Rate[]> {
	const rows = (await exchangeRates.model.findAll({
		where: {
			[Op.or]: [
				{ fromCurrency: from, toCurrency: to },
				{ fromCurrency: to, toCurrency: from }
			],
			day: { [Op.lte]: day }
		},
		order: BY_DAY,
		limit: 40,
		transaction: tx,
		raw: true
	})) as unknown as ExchangeRateRow[];
	return rows.map(asRate);
}
