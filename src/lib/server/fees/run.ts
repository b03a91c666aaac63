import { isAccountCause, kindAt, type ContractVersion, type DifferingGroup, type PastKind } from '../../core/fees';
import {
	addHeld,
	addHeldCharges,
	db,
	discrepanciesOfPayment,
	differingRows,
	dropHeld,
	dropHeldCharges,
	dueFeeChecks,
	endFeeCheck,
	freeAdjustments,
	heldCharges,
	heldPayments,
	noteCorrected,
	sumHeld,
	write,
	type ConnectionRow,
	type DifferingRow,
	type DiscrepancyRow,
	type DueFeeCheck,
	type Tx
} from '../db';
import type { FoundRate } from '../../core/money';
import { recordEvent } from '../events';
import { rateFinderOf } from '../payments/fees';
import { rowsOfMonths } from '../payments/reprice';
import { contractsOf } from '../ratecards';
import { differingOfAccount } from './account';
import { timeNow } from '../signals/clock';
import { tell } from '../signals/live';
import { inThread } from '../threads';

// The fee check beside requests: what of a connection and a kind of payment has changed is looked at again as a whole, its causes
// are named in another thread, and the discrepancies that stand for them are brought up to date.

/** So many connections and kinds are looked at before other work of the worker. */
const AT_ONCE = 8;
/** Who writes what happens by itself. */
export const BY_ITSELF = 'Just Purse';

/**
 * Looks at what has changed since it was last looked at.
 * @param isBusy whether it would only be in the way now
 * @returns how many kinds were looked at
 */
export async function checkFees(isBusy: () => boolean = () => false): Promise<number> {
	if (isBusy()) return 0;
	const due = await dueFeeChecks(AT_ONCE);
	for (const one of due)
		if (one.kindId === 0) await checkAccount(one);
		else await checkKind(one);
	if (due.length) tell('fees');
	return due.length;
}

/** Gross captures of the month before each payment, for the months of some payments of a card with tiers. */
async function volumesBefore(connectionId: string, rows: readonly DifferingRow[]): Promise<Map<number, number>> {
	const wanted = new Set(rows.map((row) => row.id));
	const before = new Map<number, number>();
	const months = [...new Set(rows.map((row) => row.day.slice(0, 7)))];
	let [of, volume] = ['', 0];
	for await (const { month, rows: some } of rowsOfMonths(connectionId, months)) {
		if (month !== of) volume = 0;
		of = month;
		for (const row of some) {
			if (wanted.has(row.id)) before.set(row.id, volume);
			volume += row.base ?? 0;
		}
	}
	return before;
}

async function groupsOf(
	connection: ConnectionRow,
	kindId: number,
	rows: readonly DifferingRow[],
	versions: readonly ContractVersion[]
): Promise<DifferingGroup[]> {
	const past = (await db.paymentKinds.one({ id: kindId })) as unknown as PastKind;
	const groups: DifferingGroup[] = [];
	for (const version of versions) {
		const mine = rows.filter((row) => row.rateCardId === version.id);
		if (!mine.length) continue;
		const before = version.card.tiers ? await volumesBefore(connection.id, mine) : new Map<number, number>();
		const days = mine.map((row) => row.day).sort();
		const rateOf = await rateFinderOf(connection.processor, days[0]!, days.at(-1)!);
		const rates = new Map<string, FoundRate | undefined>();
		for (const row of mine)
			if (!rates.has(row.day)) rates.set(row.day, await rateOf(row.currency, version.card.settlement, row.day));
		groups.push({
			kind: kindAt(past, version.card, connection.accountCountry),
			version,
			payments: mine.map((row) => ({
				id: row.id,
				day: row.day,
				paid: { minor: row.taken, currency: row.currency },
				refunded: row.refunded,
				rate: rates.get(row.day),
				before: before.get(row.id) ?? 0,
				expected: row.expected,
				charged: row.charged
			}))
		});
	}
	return groups;
}

async function checkKind(due: DueFeeCheck): Promise<void> {
	const { connectionId, kindId } = due;
	const connection = await db.connections.one({ id: connectionId });
	const rows = connection ? await differingRows(connectionId, kindId) : [];
	const versions = (await contractsOf(connectionId)).map(({ id, validFrom, body }) => ({ id, validFrom, card: body }));
	const groups = connection && rows.length ? await groupsOf(connection, kindId, rows, versions) : [];
	const spans = groups.length ? await inThread('explainFees', { groups, versions }) : [];
	const byId = new Map(rows.map((row) => [row.id, row]));
	await write(async (tx) => {
		const touched = new Set<number>();
		const { kept } = await followHeld(connectionId, kindId, touched, tx);
		const added: unknown[][] = [];
		for (const span of spans) {
			// what was told to the processor, agreed or let be stays where it stands, as long as it is charged alike
			const fresh = span.payments.filter((id) => !kept.has(id));
			if (!fresh.length) continue;
			const version = groups[span.group]!.version;
			const currency = version.card.settlement;
			const named = { cause: span.cause, parameter: span.parameter, rateCardId: version.id, currency };
			const id = await findDiscrepancy(connectionId, kindId, named, tx);
			touched.add(id);
			for (const payment of fresh) {
				const row = byId.get(payment)!;
				added.push([id, payment, kindId, row.day, row.expected, row.charged]);
			}
		}
		await addHeld(added, tx);
		await sumHeld([...touched], tx);
		await settleTouched([...touched], tx);
		await endFeeCheck(due, tx);
	});
}

/** Looks at the charges of an account, then at what came back for it. */
async function checkAccount(due: DueFeeCheck): Promise<void> {
	const { connectionId } = due;
	const found = await differingOfAccount(connectionId);
	await write(async (tx) => {
		const touched = new Set<number>();
		const byKey = new Map(found.map((one) => [one.key, one]));
		const kept = new Set<string>();
		const gone: number[] = [];
		for (const { id, discrepancyId, state, key, expected, charged } of await heldCharges(connectionId, tx)) {
			const now = byKey.get(key);
			if (state !== 'open' && now?.expected === expected && now.charged === charged) {
				kept.add(key);
				continue;
			}
			gone.push(id);
			touched.add(discrepancyId);
		}
		await dropHeldCharges(gone, tx);
		const ids = new Map<string, number>();
		const added: unknown[][] = [];
		for (const { key, id = null, day, versionId, charged, expected, cause, parameter, currency } of found) {
			if (kept.has(key)) continue;
			const named = { cause, parameter, rateCardId: versionId, currency };
			const sign = [cause, parameter, versionId].join('|');
			const discrepancyId = ids.get(sign) ?? (await findDiscrepancy(connectionId, 0, named, tx));
			ids.set(sign, discrepancyId);
			touched.add(discrepancyId);
			added.push([discrepancyId, key, id, day, expected, charged]);
		}
		await addHeldCharges(added, tx);
		await sumHeld([...touched], tx);
		await settleTouched([...touched], tx);
		await matchAdjustments(due, tx);
	});
}

/**
 * What became of payments that discrepancies hold: those of open ones are put together anew; of the others, corrections are
 * noted, and what does not differ any more because the contract changed goes.
 * @returns the payments that stay where they are
 */
async function followHeld(
	connectionId: string,
	kindId: number,
	touched: Set<number>,
	tx: Tx
): Promise<{ kept: Set<number> }> {
	const kept = new Set<number>();
	const gone: unknown[][] = [];
	const corrected: unknown[][] = [];
	for (const one of await heldPayments(connectionId, kindId, tx)) {
		const { discrepancyId, paymentId, state, expected, charged } = one;
		const isSame = one.chargedNow === charged && one.expectedNow === expected;
		if (one.chargedNow !== null && one.chargedNow !== charged && one.expectedNow === expected) {
			// the processor changed its charge: that is the correction, a part of it, or more than it
			const [whole, back] = [charged - expected, charged - one.chargedNow];
			const isPart = Math.sign(back) !== Math.sign(whole) || Math.abs(back) < Math.abs(whole);
			if (!isPart || state !== 'open') {
				// what goes beyond the correction stands on its own, as a payment that differs the other way
				const noted = isPart ? back : whole;
				if (one.corrected !== noted) {
					corrected.push([discrepancyId, paymentId, noted]);
					touched.add(discrepancyId);
				}
				if (isPart) kept.add(paymentId);
				continue;
			}
		}
		if (state === 'open' || !isSame) {
			gone.push([discrepancyId, paymentId]);
			touched.add(discrepancyId);
		} else kept.add(paymentId);
	}
	await noteCorrected(corrected, tx);
	await dropHeld(gone, tx);
	return { kept };
}

type Named = Pick<DiscrepancyRow, 'cause' | 'parameter' | 'rateCardId' | 'currency'>;
/** The discrepancy that stands for a cause and is not closed, or a new one. */
async function findDiscrepancy(connectionId: string, kindId: number, named: Named, tx: Tx): Promise<number> {
	const sign = [
		connectionId,
		named.cause,
		named.parameter,
		named.rateCardId,
		...(named.cause === 'not explained' ? [kindId] : [])
	].join('|');
	const known = await db.discrepancies.find({ sign }, { order: [['n', 'DESC']] }, tx);
	const latest = known[0];
	if (latest && (latest.state === 'open' || latest.state === 'sent' || latest.state === 'agreed')) return latest.id;
	const at = timeNow();
	const n = (latest?.n ?? 0) + 1;
	await db.discrepancies.insert(
		{
			sign,
			n,
			connectionId,
			...named,
			firstDay: '',
			lastDay: '',
			count: 0,
			over: 0,
			under: 0,
			corrected: 0,
			state: 'open',
			stateAt: at,
			foundAt: at
		},
		tx
	);
	const { id } = (await db.discrepancies.one({ sign, n }, tx))!;
	await noteOn(id, BY_ITSELF, 'found', latest ? 'It came again after it was closed.' : '', tx);
	return id;
}

/** Writes into the history of a discrepancy. */
export async function noteOn(discrepancyId: number, by: string, act: string, text: string, tx: Tx): Promise<void> {
	await db.discrepancyNotes.insert({ discrepancyId, at: timeNow(), byUser: by, act, text }, tx);
}

/** Tells outside programs of a discrepancy, once, when its sums are known. */
async function tellFound(row: DiscrepancyRow, tx: Tx): Promise<void> {
	if (row.state === 'open' && !(await db.events.one({ objectKind: 'discrepancy', objectId: String(row.id) }, tx)))
		await recordEvent({ kind: 'discrepancy.found', object: 'discrepancy', id: row.id, payload: payloadOf(row) }, tx);
}
/** Tells outside programs that a discrepancy is settled or accepted. */
export async function tellClosed(id: number, tx: Tx): Promise<void> {
	const row = (await db.discrepancies.one({ id }, tx))!;
	await recordEvent({ kind: 'discrepancy.closed', object: 'discrepancy', id, payload: payloadOf(row) }, tx);
}
/** What outside programs are told of a discrepancy. */
const payloadOf = (row: DiscrepancyRow) => ({
	connection: row.connectionId,
	cause: row.cause,
	currency: row.currency,
	payments: isAccountCause(row.cause) ? 0 : row.count,
	charges: isAccountCause(row.cause) ? row.count : 0,
	leftMinor: row.over - row.under - row.corrected
});

/** Closes what was corrected whole, notes what was corrected after that, and takes away what stands for nothing any more. */
async function settleTouched(ids: readonly number[], tx: Tx): Promise<void> {
	for (const id of ids) {
		const row = await db.discrepancies.one({ id }, tx);
		if (!row) continue;
		const held =
			(await db.discrepancyPayments.count({ discrepancyId: id }, tx)) +
			(await db.discrepancyCharges.count({ discrepancyId: id }, tx));
		if (!held) {
			// nothing was done with it yet: it never was one
			if (row.state === 'open') {
				await db.discrepancyNotes.remove({ discrepancyId: id }, tx);
				await db.discrepancies.remove({ id }, tx);
			} else await noteOn(id, BY_ITSELF, 'changed', 'The contract was changed: nothing of it differs any more.', tx);
			continue;
		}
		await tellFound(row, tx);
		await settleIfWhole(row, tx);
	}
}
async function settleIfWhole(row: DiscrepancyRow, tx: Tx): Promise<void> {
	const open = row.over - row.under - row.corrected;
	const before = await db.discrepancyNotes.find(
		{ discrepancyId: row.id, act: 'corrected' },
		{ order: [['id', 'DESC']] },
		tx
	);
	const says = `${row.corrected} of ${row.over - row.under}`;
	if (row.corrected !== 0 && before[0]?.text !== says) await noteOn(row.id, BY_ITSELF, 'corrected', says, tx);
	if (row.corrected === 0 || row.state === 'settled' || row.state === 'accepted') return;
	if (open !== 0) return;
	await db.discrepancies.update({ id: row.id }, { state: 'settled', stateAt: timeNow() }, tx);
	await noteOn(row.id, BY_ITSELF, 'settled', 'The correction came, to the minor unit.', tx);
	await tellClosed(row.id, tx);
}

/**
 * Takes what a processor gave back for a whole account, or for single payments, onto the discrepancies that wait for it: by the
 * payment where one is named, else by the sum where exactly one discrepancy is open by it.
 */
async function matchAdjustments(due: DueFeeCheck, tx: Tx): Promise<void> {
	const { connectionId } = due;
	for (const one of await freeAdjustments(connectionId, tx)) {
		const row = await waitingFor(connectionId, one, tx);
		if (!row) continue;
		await db.discrepancyAdjustments.insert({ chargeId: one.id, discrepancyId: row.id, minor: one.minor }, tx);
		await sumHeld([row.id], tx);
		await settleIfWhole((await db.discrepancies.one({ id: row.id }, tx))!, tx);
	}
	await endFeeCheck(due, tx);
}
async function waitingFor(
	connectionId: string,
	{ at, currency, minor, paymentId }: { at: number; currency: string; minor: number; paymentId: number | null },
	tx: Tx
): Promise<DiscrepancyRow | undefined> {
	if (paymentId !== null) {
		const [of] = await discrepanciesOfPayment(paymentId, tx);
		return of && db.discrepancies.one({ id: of.id }, tx);
	}
	const waiting = (
		await db.discrepancies.find({ connectionId, currency, state: ['open', 'sent', 'agreed'] }, {}, tx)
	).filter(
		// what came before the first of its payments is no correction of it, though the sum be the same
		(row) => row.over - row.under - row.corrected === -minor && Date.parse(row.firstDay) <= at
	);
	return waiting.length === 1 ? waiting[0] : undefined;
}
