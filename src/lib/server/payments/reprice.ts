import { isPriced, kindAt, type Kind, type PastKind } from '../../core/fees';
import {
	db,
	dueRepricings,
	endRepricing,
	pricedRows,
	write,
	writePrices,
	type ConnectionRow,
	type Repricing
} from '../db';
import { tell } from '../signals/live';
import { contractsOf } from '../ratecards';
import { netOf, priceCaptured, rateOn } from './fees';

/** So many prices are written at once; others write in between. */
const SLICE = 1_000;
/** So many months are priced anew before other work of the worker is looked at. */
const MONTHS = 4;

/**
 * Prices months of connections anew: after a capture that came late, a new contract, a settlement file. All of a month is
 * gone through once, so that tiers count as they do for each payment by itself.
 * @param isBusy whether it would only be in the way now; then nothing is done, and whoever is in the way wakes the worker
 * @returns how many months
 */
export async function repriceDue(isBusy: () => boolean = () => false): Promise<number> {
	if (isBusy()) return 0;
	const due = await dueRepricings(MONTHS);
	for (const one of due) await repriceMonth(one);
	if (due.length) tell('takings');
	return due.length;
}

async function repriceMonth(due: Repricing): Promise<void> {
	const connection = await db.connections.one({ id: due.connectionId });
	if (connection) await priceMonthOf(connection, due);
	await write((tx) => endRepricing(due, tx));
}

async function priceMonthOf(connection: ConnectionRow, { month, after }: Repricing): Promise<void> {
	const [contracts, rows, kinds] = await Promise.all([
		contractsOf(connection.id),
		pricedRows(connection.id, month),
		db.paymentKinds.find()
	]);
	const kindRows = new Map(kinds.map((row) => [row.id, row]));
	const known = new Map<string, Kind>();
	const rates = new Map<string, Awaited<ReturnType<typeof rateOn>>>();
	let volume = 0;
	let prices: unknown[][] = [];
	const flush = async () => {
		const list = JSON.stringify(prices);
		prices = [];
		await write((tx) => writePrices(list, tx), { isPatient: true });
		await new Promise((next) => setImmediate(next));
	};
	for (const row of rows) {
		const contract = contracts.find((one) => one.validFrom <= row.accountDay);
		let expected: number | null = null;
		let base = row.base;
		if (contract) {
			const { body } = contract;
			const kindKey = `${contract.id} ${row.kindId}`;
			let kind = known.get(kindKey);
			if (!kind) {
				kind = kindAt(kindRows.get(row.kindId) as unknown as PastKind, body, connection.accountCountry);
				known.set(kindKey, kind);
			}
			const rateKey = `${row.currency} ${body.settlement} ${row.accountDay}`;
			if (!rates.has(rateKey))
				rates.set(rateKey, await rateOn(row.currency, body.settlement, row.accountDay, connection.processor));
			const told = priceCaptured(body, kind, row, rates.get(rateKey), volume);
			if (isPriced(told.priced)) expected = told.priced.fee.minor - told.givenBack;
			base ??= told.base;
		}
		volume += base ?? 0;
		// what was captured before the late one stays as it was priced
		if (row.capturedAt < after) continue;
		const counted = row.charged ?? expected;
		const net = base !== null && counted !== null ? netOf(base, row.taken, row.refunded, counted) : null;
		prices.push([row.id, expected, net, expected === null ? null : contract!.id, base]);
		if (prices.length >= SLICE) await flush();
	}
	if (prices.length) await flush();
}
