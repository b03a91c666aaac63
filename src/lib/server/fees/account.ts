import {
	ACCOUNT_CHARGES,
	checkCharges,
	kindAt,
	monthCharged,
	type AccountChargeKind,
	type ContractVersion,
	type DifferingCharge,
	type PastKind,
	type ToldCharge
} from '../../core/fees';
import { db, type ConnectionRow } from '../db';
import { rateFinderOf } from '../payments/fees';
import { rowsOfMonths } from '../payments/reprice';
import { contractsOf } from '../ratecards';
import { inThread } from '../threads';

/** What of a connection's charges apart from payments' own fees differs from its contract. */
export async function differingOfAccount(connectionId: string): Promise<(DifferingCharge & { currency: string })[]> {
	const [connection, contracts, rows] = await Promise.all([
		db.connections.one({ id: connectionId }),
		contractsOf(connectionId),
		db.accountCharges.find({ connectionId, kind: [...ACCOUNT_CHARGES] })
	]);
	if (!connection || !contracts.length || !rows.length) return [];
	const versions = contracts.map(({ id, validFrom, body }) => ({ id, validFrom, card: body }));
	const charges = rows.map((row): ToldCharge => ({
		id: row.id,
		kind: row.kind as AccountChargeKind,
		object: row.object,
		day: row.day,
		currency: row.currency,
		minor: row.minor
	}));
	const shortfalls = await shortfallsOf(connection, charges, versions);
	const currencyOf = new Map(versions.map((one) => [one.id, one.card.settlement]));
	return checkCharges(charges, versions, shortfalls).map((one) => ({
		...one,
		currency: currencyOf.get(one.versionId)!
	}));
}

/** What is missing to the minimum of each month that was charged, where the contract asks for one. */
async function shortfallsOf(
	connection: ConnectionRow,
	charges: readonly ToldCharge[],
	versions: readonly ContractVersion[]
): Promise<Map<string, number>> {
	const found = new Map<string, number>();
	const months = new Set(charges.filter((one) => one.kind === 'monthly').map((one) => monthCharged(one.day)));
	if (!versions.some((one) => one.card.monthly.minimum > 0)) return found;
	const kinds = new Map((await db.paymentKinds.find()).map((row) => [row.id, row as unknown as PastKind]));
	for (const month of months) {
		const version = versions.find((one) => one.validFrom <= `${month}-31`);
		if (!version?.card.monthly.minimum) continue;
		const { card } = version;
		const rateOf = await rateFinderOf(connection.processor, `${month}-01`, `${month}-31`);
		const payments = [];
		for await (const { rows } of rowsOfMonths(connection.id, [month]))
			for (const row of rows) {
				payments.push({
					kind: kindAt(kinds.get(row.kindId)!, card, connection.accountCountry),
					paid: { minor: row.taken, currency: row.currency },
					rate: await rateOf(row.currency, card.settlement, row.accountDay)
				});
			}
		found.set(month, await inThread('shortfall', { card, payments }));
	}
	return found;
}
