import {
	giveBackColumns,
	isPriced,
	kindAt,
	priceColumns,
	type Kind,
	type PastKind,
	type RateCard
} from '../../core/fees';
import type { FoundRate } from '../../core/money';
import {
	db,
	dueRepricings,
	endRepricing,
	pricedRows,
	write,
	writePrices,
	type ConnectionRow,
	type PricedRow,
	type Repricing
} from '../db';
import { tell } from '../signals/live';
import { contractsOf, type KeptCard } from '../ratecards';
import { netOf, priceCaptured, rateFinderOf, type RateFinder } from './fees';

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
	if (connection) await writeMonth(connection, due);
	await write((tx) => endRepricing(due, tx));
}

/** A payment of a month with what its contract makes of it now. */
export interface RowPrice {
	readonly row: PricedRow;
	readonly contract?: KeptCard;
	readonly rate?: FoundRate;
	/** gross captures of the month before it */
	readonly before: number;
	/** less what refunds gave back; null where no contract has a price for it */
	readonly expected: number | null;
	readonly base: number | null;
}

/** So many payments are priced before others are served. */
const BREATH = 1_000;

/** Prices of payments as columns, in their order. */
interface ColumnPrices {
	/** less what refunds gave back; not a number where the card has no price */
	readonly expected: Float64Array;
	/** below zero where there is none */
	readonly base: Float64Array;
	readonly rateOf: (n: number) => FoundRate | undefined;
}
/** Prices payments of a card without tiers as columns: the same as `priceCaptured` makes of each. */
async function priceColumnsOf(
	card: RateCard,
	rows: readonly PricedRow[],
	kindRows: ReadonlyMap<number, object>,
	connection: ConnectionRow,
	rateOf: RateFinder
): Promise<ColumnPrices> {
	const kinds: Kind[] = [];
	const kindAtOf = new Map<number, number>();
	const rates: (FoundRate | undefined)[] = [undefined];
	const rateAt = new Map<string, number>();
	const count = rows.length;
	const columns = {
		kinds,
		rates,
		kind: new Uint16Array(count),
		minor: new Float64Array(count),
		rate: new Uint16Array(count)
	};
	const refunded = new Float64Array(count);
	for (const [n, row] of rows.entries()) {
		let k = kindAtOf.get(row.kindId);
		if (k === undefined) {
			k = kinds.push(kindAt(kindRows.get(row.kindId) as unknown as PastKind, card, connection.accountCountry)) - 1;
			kindAtOf.set(row.kindId, k);
		}
		let r = 0;
		if (row.currency !== card.settlement) {
			const key = `${row.currency} ${row.accountDay}`;
			r = rateAt.get(key) ?? rates.push(await rateOf(row.currency, card.settlement, row.accountDay)) - 1;
			rateAt.set(key, r);
		}
		columns.kind[n] = k;
		columns.minor[n] = row.taken;
		columns.rate[n] = r;
		refunded[n] = row.refunded;
	}
	const fees = new Float64Array(count);
	const bases = new Float64Array(count);
	priceColumns(card, columns, fees, bases);
	const back = giveBackColumns(card, columns, fees, bases, refunded, new Float64Array(kinds.length));
	const expected = fees.map((fee, n) => (fee < 0 ? NaN : fee - back[n]!));
	return { expected, base: bases, rateOf: (n) => rates[columns.rate[n]!] };
}

/** Days that a month is read by, so that little of it is held at a time. */
const STRETCHES = [
	['01', '10'],
	['11', '20'],
	['21', '31']
] as const;

/** Payments of months of an account, in order of capture, some days at a time: the next are read while these are worked on. */
export async function* rowsOfMonths(
	connectionId: string,
	months: readonly string[]
): AsyncGenerator<{ month: string; rows: PricedRow[] }> {
	const stretches = months.flatMap((month) => STRETCHES.map(([from, to]) => ({ month, from, to })));
	const read = (at: number) => {
		const stretch = stretches[at];
		if (!stretch) return undefined;
		const { month, from, to } = stretch;
		const rows = pricedRows(connectionId, `${month}-${from}`, `${month}-${to}`);
		// told to whoever takes them; who stops before takes none
		rows.catch(() => {});
		return rows;
	};
	let next = read(0);
	for (const [at, { month }] of stretches.entries()) {
		const rows = await next!;
		next = read(at + 1);
		yield { month, rows };
	}
}

/**
 * Prices months of a connection, in order of capture: each payment by the contract of its day and the volume of its month before
 * it. Told by the thousand, and others are served in between.
 * @param months `YYYY-MM`, in order
 */
export async function* priceMonthsOf(connection: ConnectionRow, months: readonly string[]): AsyncGenerator<RowPrice[]> {
	const [first, last] = [months[0], months.at(-1)];
	if (!first || !last) return;
	const [contracts, kinds] = await Promise.all([contractsOf(connection.id), db.paymentKinds.find()]);
	const priced: PricedMonth = {
		connection,
		contracts,
		kindRows: new Map(kinds.map((row) => [row.id, row])),
		known: new Map(),
		rates: new Map(),
		rateOf: await rateFinderOf(connection.processor, `${first}-01`, `${last}-31`),
		before: 0
	};
	let of = first;
	for await (const { month, rows } of rowsOfMonths(connection.id, months)) {
		if (month !== of) priced.before = 0;
		of = month;
		yield* priceRows(priced, rows);
	}
}

/** What is known of a month while its payments are priced. */
interface PricedMonth {
	readonly connection: ConnectionRow;
	readonly contracts: readonly KeptCard[];
	readonly kindRows: ReadonlyMap<number, object>;
	readonly known: Map<string, Kind>;
	readonly rates: Map<string, FoundRate | undefined>;
	readonly rateOf: RateFinder;
	/** gross captures so far */
	before: number;
}

async function* priceRows(month: PricedMonth, rows: readonly PricedRow[]): AsyncGenerator<RowPrice[]> {
	const { connection, contracts, kindRows, known, rates, rateOf } = month;
	let told: RowPrice[] = [];
	// without tiers no payment depends on another: all of a contract are priced in one go
	const apart = new Map<number, { prices: ColumnPrices; at: number }>();
	const contractOf = (row: PricedRow) => contracts.find((one) => one.validFrom <= row.accountDay);
	const byContract = new Map<KeptCard, PricedRow[]>();
	for (const row of rows) {
		const contract = contractOf(row);
		if (!contract || contract.body.tiers) continue;
		const mine = byContract.get(contract);
		if (mine) mine.push(row);
		else byContract.set(contract, [row]);
	}
	for (const [{ id, body }, mine] of byContract)
		apart.set(id, { prices: await priceColumnsOf(body, mine, kindRows, connection, rateOf), at: 0 });
	for (const row of rows) {
		const contract = contractOf(row);
		const { before } = month;
		let expected: number | null = null;
		let base = row.base;
		let rate: FoundRate | undefined;
		const priced = contract && apart.get(contract.id);
		if (priced) {
			// in the order of the rows, as they were priced
			const n = priced.at++;
			rate = priced.prices.rateOf(n);
			expected = Number.isNaN(priced.prices.expected[n]!) ? null : priced.prices.expected[n]!;
			if (priced.prices.base[n]! >= 0) base ??= priced.prices.base[n]!;
		} else if (contract) {
			const { body } = contract;
			const kindKey = `${contract.id} ${row.kindId}`;
			let kind = known.get(kindKey);
			if (!kind) {
				kind = kindAt(kindRows.get(row.kindId) as unknown as PastKind, body, connection.accountCountry);
				known.set(kindKey, kind);
			}
			const rateKey = `${row.currency} ${body.settlement} ${row.accountDay}`;
			if (!rates.has(rateKey)) rates.set(rateKey, await rateOf(row.currency, body.settlement, row.accountDay));
			rate = rates.get(rateKey);
			const one = priceCaptured(body, kind, row, rate, before);
			if (isPriced(one.priced)) expected = one.priced.fee.minor - one.givenBack;
			base ??= one.base;
		}
		told.push({ row, contract, rate, before, expected, base });
		month.before += base ?? 0;
		if (told.length < BREATH) continue;
		yield told;
		told = [];
		await new Promise((next) => setImmediate(next));
	}
	if (told.length) yield told;
}

async function writeMonth(connection: ConnectionRow, { month, after }: Repricing): Promise<void> {
	let prices: unknown[][] = [];
	const flush = async () => {
		const list = JSON.stringify(prices);
		prices = [];
		await write((tx) => writePrices(list, tx), { isPatient: true });
	};
	for await (const priced of priceMonthsOf(connection, [month])) {
		for (const { row, contract, expected, base } of priced) {
			// what was captured before the late one stays as it was priced
			if (row.capturedAt < after) continue;
			const counted = row.charged ?? expected;
			const net = base !== null && counted !== null ? netOf(base, row.taken, row.refunded, counted) : null;
			prices.push([row.id, expected, net, expected === null ? null : contract!.id, base]);
		}
		if (prices.length >= SLICE) await flush();
	}
	if (prices.length) await flush();
}
