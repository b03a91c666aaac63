import { inZone } from '../../core/calendar';
import type { OtherLine, Placed } from '../../core/settlement';
import { theBusiness } from '../connect/business';
import { placePayments } from '../placing';
import { forgetSnapshot } from '../signals/freshness';
import {
	addChunk,
	db,
	markRepricing,
	write,
	type AccountChargeRow,
	type FileChunkRow,
	type FileOwner,
	type KnownLine,
	type PaymentRow,
	type SettlementFileRow,
	type Tx
} from '../db';
import { tell } from '../signals/live';
import { nameForeign } from '../payments/foreign';
import { giveToOrders } from '../payments/ordered';
import { feesOf, keepFacts, keepFee, recompute, standingFee } from '../payments/record';
import { unpackText } from '../packText';
import { wake } from '../signals/wake';

const merging = new Map<number, Promise<void>>();

/** Whether a file is being merged now. What is worked out from payments waits for its end: each chunk would undo it. */
export const isMerging = (): boolean => merging.size > 0;

/** Merges a file that was kept into what is known, to its end. Whoever asks while it is under way waits for the same. */
export function mergeFile(id: number): Promise<void> {
	let under = merging.get(id);
	if (!under) {
		under = mergeAll(id).finally(() => merging.delete(id));
		merging.set(id, under);
	}
	return under;
}

async function mergeAll(id: number): Promise<void> {
	for (;;) {
		// one chunk a transaction: whoever writes meanwhile waits for no more than one
		const isOver = await write(
			async (tx) => {
				const file = (await db.settlementFiles.one({ id }, tx))!;
				const chunk = (await db.fileChunks.find({ fileId: id }, { order: [['number', 'ASC']], limit: 1 }, tx))[0];
				if (!chunk) {
					await db.settlementFiles.update({ id, state: 'merging' }, { state: 'taken' }, tx);
					return true;
				}
				await mergeChunk(file, chunk, tx);
				await db.fileChunks.remove({ fileId: id, number: chunk.number }, tx);
				return false;
			},
			{ isPatient: true }
		);
		if (isOver) break;
		await new Promise((next) => setImmediate(next));
	}
	forgetSnapshot();
	tell('connections');
	tell('takings');
	wake();
}

async function mergeChunk(file: SettlementFileRow, chunk: FileChunkRow, tx: Tx): Promise<void> {
	const owner: FileOwner = {
		fileId: file.id,
		processor: file.processor,
		connectionId: file.connectionId,
		accountId: file.accountId,
		heardAt: file.takenAt
	};
	if (chunk.kind === 'months') {
		// every payment of these months is priced by its contract, those that were known by the volume as it is now
		const first = (JSON.parse(chunk.body) as string[]).sort()[0];
		if (file.connectionId && first) await markRepricing(file.connectionId, `${first}-01`, tx);
		return;
	}
	if (chunk.kind === 'others') {
		let [changed, clashes] = [0, 0];
		const connection = file.connectionId ? await db.connections.one({ id: file.connectionId }, tx) : undefined;
		const timeZone = connection?.timeZone ?? (await theBusiness()).timeZone;
		for (const line of JSON.parse(unpackText(chunk.body)) as Placed<OtherLine>[]) {
			const told = await mergeOther(owner, line, timeZone, tx);
			changed += Number(told.changed);
			clashes += told.clashes;
		}
		await db.settlementFiles.update(
			{ id: file.id },
			{ changed: file.changed + changed, clashes: file.clashes + clashes },
			tx
		);
		return;
	}
	const kind = chunk.kind === 'captured' ? 'captured' : 'declined';
	const { fresh, known, billed, ordered, foreign } = await addChunk(
		owner,
		kind,
		{ ...chunk, body: unpackText(chunk.body) },
		tx
	);
	await giveToOrders(ordered, tx);
	const mine = new Set(ordered.map((one) => one.paymentId));
	await placePayments(
		billed.filter((id) => !mine.has(id)),
		tx
	);
	let [changed, clashes] = [0, 0];
	for (const line of known) {
		const told = await mergeKnown(owner, line, tx);
		if (told === 'clash') clashes++;
		else if (told) changed++;
	}
	// what came by itself is the till's now, or the order's or invoice's whose number the file tells
	for (const line of foreign) if ((await nameForeign(line, tx)) && !known.some((one) => one.id === line.id)) changed++;
	await db.settlementFiles.update(
		{ id: file.id },
		{
			changed: file.changed + changed,
			clashes: file.clashes + clashes,
			...(kind === 'captured'
				? { fresh: file.fresh + fresh, merged: file.merged + chunk.lines }
				: { declined: file.declined + fresh })
		},
		tx
	);
}

/** What a file tells of a payment that is known: what is more than was known is added as facts of the file's. */
async function mergeKnown(owner: FileOwner, line: KnownLine, tx: Tx): Promise<boolean | 'clash'> {
	const payment = (await db.payments.one({ id: line.id }, tx))!;
	const source = `file ${owner.fileId}`;
	if (payment.taken > 0 && payment.taken !== line.minor) {
		await db.factClashes.insertNew(
			[
				{
					paymentId: payment.id,
					kind: 'captured',
					object: payment.processorId!,
					knownMinor: payment.taken,
					toldMinor: line.minor,
					source,
					heardAt: owner.heardAt
				}
			],
			['paymentId', 'kind', 'object', 'toldMinor'],
			tx
		);
		return 'clash';
	}
	const at = Math.max(owner.heardAt, line.capturedAt);
	let added = await keepFacts(
		payment.id,
		[
			...(payment.taken
				? []
				: [
						{
							kind: payment.offlineId ? ('received' as const) : ('captured' as const),
							at: line.capturedAt,
							minor: line.minor,
							object: payment.processorId!
						}
					]),
			...(line.refunded > payment.refunded
				? [{ kind: 'refunded so far' as const, at, minor: line.refunded, object: source }]
				: []),
			...(line.disputed > payment.disputed
				? [{ kind: 'disputed so far' as const, at, minor: line.disputed, object: source }]
				: [])
		],
		source,
		tx
	);
	const fees = payment.offlineId ? [] : await feesOf(payment.id, tx);
	if (!payment.offlineId && !fees.some((one) => one.fee === line.fee && one.currency === line.feeCurrency)) {
		const { feeCurrency: currency, fee, base } = line;
		const returned = standingFee(fees)?.returned ?? 0;
		if (await keepFee(payment.id, { currency, fee, base, returned, label: 'settlement file' }, source, tx)) added++;
	}
	if (added) await recompute(payment.id, tx);
	return added > 0;
}

const CHARGE: Partial<Record<OtherLine['outcome'], AccountChargeRow['kind']>> = {
	refund: 'refund',
	dispute: 'dispute',
	adjustment: 'adjustment',
	monthly: 'monthly',
	payout: 'payout'
};

const CHARGE_NAME: Readonly<Record<AccountChargeRow['kind'], string>> = {
	refund: 'charge for the refund',
	dispute: 'charge for the dispute',
	adjustment: 'adjustment',
	monthly: 'monthly charge',
	payout: 'charge for the payout'
};

interface Money {
	readonly currency: string;
	readonly minor: number;
}

/**
 * A refund, a dispute, a charge of the account or a payout that is a line of its own.
 * @param timeZone the account's
 * @returns whether it was new, and how often it was told otherwise before
 */
async function mergeOther(
	owner: FileOwner,
	line: Placed<OtherLine>,
	timeZone: string,
	tx: Tx
): Promise<{ changed: boolean; clashes: number }> {
	const { processor, connectionId, accountId, fileId } = owner;
	const { payment: object, outcome, captured_at: at, amount_minor: minor } = line;
	const source = `file ${fileId}`;
	let payment: PaymentRow | undefined;
	if (line.of_payment)
		payment = await db.payments.one({ processor, mode: 'live', accountId, processorId: line.of_payment }, tx);
	let added = 0;
	if (payment && (outcome === 'refund' || outcome === 'dispute' || outcome === 'dispute won')) {
		const kind = ({ refund: 'refunded', dispute: 'disputed', 'dispute won': 'dispute won' } as const)[outcome];
		added += await keepFacts(payment.id, [{ kind, at, object, ...(minor ? { minor } : {}) }], source, tx);
		if (added) await recompute(payment.id, tx);
	}
	let clashes = 0;
	const mine = { processor, connectionId, accountId, object, at };
	const tell = async (what: string, told: Money, known: Money) => {
		if (known.minor === told.minor && known.currency === told.currency) return;
		clashes += (
			await db.accountClashes.insertNew(
				[
					{
						processor,
						accountId,
						kind: what,
						object,
						knownCurrency: known.currency,
						knownMinor: known.minor,
						toldCurrency: told.currency,
						toldMinor: told.minor,
						source,
						heardAt: owner.heardAt
					}
				],
				['processor', 'accountId', 'kind', 'object', 'toldCurrency', 'toldMinor'],
				tx
			)
		).length;
	};
	if (outcome === 'payout') {
		const told = { currency: line.currency, minor };
		const known = await db.payouts.one({ processor, accountId, object }, tx);
		if (!known) {
			await db.payouts.insert({ ...mine, ...told }, tx);
			added++;
		} else if (known.minor === null) {
			// notifications tell that it was made, files tell how much it was
			await db.payouts.update({ id: known.id }, told, tx);
			added++;
		} else await tell('payout', told, { currency: known.currency, minor: known.minor });
	}
	const kind = CHARGE[outcome];
	if (kind && line.fee_minor !== 0) {
		const told = { currency: line.fee_currency, minor: line.fee_minor };
		const known = await db.accountCharges.one({ processor, accountId, kind, object }, tx);
		if (!known) {
			await db.accountCharges.insert(
				{
					...mine,
					kind,
					day: inZone(new Date(at), timeZone).day,
					...told,
					paymentId: payment?.id ?? null,
					says: line.reason,
					fileId
				},
				tx
			);
			added++;
		} else await tell(CHARGE_NAME[kind], told, known);
	}
	return { changed: added > 0, clashes };
}
