import { inZone } from '../../core/calendar';
import type { Rate } from '../../core/money';
import { forgetSnapshot } from '../signals/freshness';
import { connectorOf } from '../connectors';
import { addRates, db, write, type Tx } from '../db';
import { allConnections } from './connections';
import { speak } from '../speak/speak';
import { timeNow } from '../signals/clock';

/** Keeps published rates; those of a day that is known stay as they were. */
export const keepRates = (rates: readonly Rate[], tx: Tx): Promise<void> =>
	addRates(
		rates.map((rate) => ({
			day: rate.day,
			fromCurrency: rate.from,
			toCurrency: rate.to,
			rate: rate.rate,
			source: rate.source
		})),
		tx
	);

/** Fetches the day's published rates where they are not known yet. */
export async function fetchRates(): Promise<void> {
	for (const row of await allConnections()) {
		const { day } = inZone(new Date(timeNow()), row.timeZone);
		const { name } = connectorOf(row.processor);
		if (!row.verified || (await db.exchangeRates.count({ day, source: name, toCurrency: row.settlement })) > 0)
			continue;
		const rates = await speak(row, (connector, credentials) => connector.rates(credentials, day));
		if (!rates.length) continue;
		const known = await db.exchangeRates.count({ source: name });
		await write((tx) => keepRates(rates, tx));
		// told again is no change: answers that are being worked out stay good
		if ((await db.exchangeRates.count({ source: name })) > known) forgetSnapshot();
	}
}
