import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { FURTHER_COLUMNS, LINE_COLUMNS, SETTLEMENT_COLUMNS, type FileTrouble } from '../../core/settlement';
import { forgetSnapshot } from '../signals/freshness';
import { audit } from '../access';
import { theBusiness } from '../connect/business';
import { CONNECTORS, connectorOf } from '../connectors';
import {
	addRates,
	dataFolder,
	db,
	knownOtherwise,
	write,
	type ConnectionRow,
	type FileOwner,
	type SettlementFileRow,
	type Tx
} from '../db';
import { tell } from '../signals/live';
import { log } from '../log';
import { inThread, type CheckedFile } from '../threads';
import { mergeFile } from './merge';
import { timeNow } from '../signals/clock';

export type Taken =
	/** its payments are here, or come while one looks on */
	| { readonly taken: SettlementFileRow }
	/** the same file was taken before */
	| { readonly before: SettlementFileRow }
	| { readonly troubles: readonly FileTrouble[] }
	/** several accounts could be meant */
	| { readonly which: readonly { readonly id: string; readonly name: string }[] };

/** Small files are whole when the answer goes out; a large one goes on beside it. */
const WAIT_MS = 8_000;

/** The connections whose account a file of a processor may tell of: live ones, those that still stand before others. */
async function ownersOf(processor: string): Promise<ConnectionRow[]> {
	const all = await db.connections.find({ processor, mode: 'live' }, { order: [['createdAt', 'ASC']] });
	const standing = all.filter((row) => !row.removedAt);
	return standing.length ? standing : all.slice(-1);
}

/**
 * Takes a settlement file in, whole or not at all: checked to its end, kept, and then merged into what is known, a chunk at
 * a time, so that notifications and payers come in between. The same file twice changes nothing. Of a payment that is known
 * already, what is new is added; another sum or currency refuses the file.
 * @param connectionId whose account it tells of, where several could be meant
 */
export async function takeFile(
	name: string,
	processor: string,
	bytes: Uint8Array,
	by: string,
	connectionId?: string
): Promise<Taken> {
	const digest = createHash('sha256').update(bytes).digest('hex');
	const before = await db.settlementFiles.one({ digest });
	if (before && before.state !== 'staging') return { before };
	const owners = await ownersOf(processor);
	const connection = connectionId ? owners.find((row) => row.id === connectionId) : owners[0];
	if (owners.length > 1 && !connectionId)
		return { which: owners.map(({ id, name: called, accountName }) => ({ id, name: `${called}, ${accountName}` })) };
	const { timeZone } = await theBusiness();
	const read = await inThread('checkFile', { bytes, timeZone, accountZone: connection?.timeZone ?? timeZone });
	if ('troubles' in read) return read;
	const owner = { processor, connectionId: connection?.id ?? null, accountId: connection?.accountId ?? '' };
	const troubles = await clashesOf(owner, read);
	if (troubles.length) return { troubles };
	const file = await stageFile({ name, digest, by, ...owner }, read);
	const merging = mergeFile(file.id);
	await Promise.race([merging, new Promise((next) => setTimeout(next, WAIT_MS))]);
	// what goes wrong beside the answer is told by the log, and gone on with by the worker
	merging.catch((error: unknown) => log.error({ file: file.id, error: String(error) }, 'a settlement file waits'));
	return { taken: (await db.settlementFiles.one({ id: file.id }))! };
}

/** Keeps a checked file: from its last step on it will be merged to its end, also after the process was ended. */
async function stageFile(
	{ name, digest, by, ...owner }: { name: string; digest: string; by: string } & Omit<FileOwner, 'fileId' | 'heardAt'>,
	read: CheckedFile
): Promise<SettlementFileRow> {
	const { counts } = read;
	const file = await write(async (tx) => {
		await dropStaging(digest, tx);
		return db.settlementFiles.insert(
			{
				name,
				digest,
				...owner,
				state: 'staging',
				count: counts.captured,
				fresh: 0,
				declined: 0,
				takenAt: timeNow(),
				byUser: by
			},
			tx
		);
	});
	let number = 0;
	for (const [kind, chunks] of [
		['captured', read.captured],
		['declined', read.declined],
		['others', read.others]
	] as const)
		for (const body of chunks)
			await write((tx) =>
				db.fileChunks.insert({ fileId: file.id, number: number++, kind, lines: read.chunkLines, body }, tx)
			);
	await write(async (tx) => {
		await db.fileChunks.insert(
			{ fileId: file.id, number, kind: 'months', lines: 0, body: JSON.stringify(read.months) },
			tx
		);
		await addRates(
			read.rates.map((one) => ({ ...one, source: connectorOf(owner.processor).name })),
			tx
		);
		await db.settlementFiles.update({ id: file.id }, { state: 'merging' }, tx);
		// its processor may have been connected while the file was checked
		if (!owner.connectionId) {
			const [connection, other] = await db.connections.find(
				{ processor: owner.processor, mode: 'live', removedAt: null },
				{},
				tx
			);
			if (connection && !other)
				await db.settlementFiles.update(
					{ id: file.id },
					{ connectionId: connection.id, accountId: connection.accountId },
					tx
				);
		}
		await audit(
			{
				by,
				kind: 'settlement file',
				id: String(file.id),
				name,
				act: `imported: ${counts.captured} payments, ${counts.declined} declined attempts, ${counts.others} other lines`
			},
			tx
		);
	});
	return file;
}

/** What an earlier process began to keep and never finished. */
async function dropStaging(digest: string | undefined, tx: Tx): Promise<void> {
	for (const { id } of await db.settlementFiles.find({ state: 'staging', ...(digest ? { digest } : {}) }, {}, tx)) {
		await db.fileChunks.remove({ fileId: id }, tx);
		await db.settlementFiles.remove({ id }, tx);
	}
}

/** Goes on with files whose merging an earlier process did not finish. */
export async function resumeFiles(): Promise<void> {
	for (const { id } of await db.settlementFiles.find({ state: 'merging' }, { order: [['id', 'ASC']] }))
		await mergeFile(id);
}

const AT_MOST = 50;
async function clashesOf(owner: Omit<FileOwner, 'fileId' | 'heardAt'>, read: CheckedFile): Promise<FileTrouble[]> {
	const troubles: FileTrouble[] = [];
	for (const [chunks, kind] of [
		[read.captured, 'captured'],
		[read.declined, 'declined']
	] as const)
		for (const chunk of chunks)
			for (const { line, payment, turned } of await knownOtherwise(owner, kind, chunk)) {
				troubles.push({
					line,
					says: turned
						? `Payment ${payment} is known already, as ${kind === 'captured' ? 'a declined attempt' : 'captured'}.`
						: `Payment ${payment} is known already, with another amount or currency.`
				});
				if (troubles.length >= AT_MOST) return troubles;
			}
	for (const { line, payment } of read.elsewhere) {
		const { processor, accountId } = owner;
		if (await db.payments.one({ processor, mode: 'live', accountId, processorId: payment })) continue;
		troubles.push({ line, says: `It belongs to payment ${payment}, which is known neither here nor in the file.` });
		if (troubles.length >= AT_MOST) break;
	}
	return troubles;
}

/** How many settlement files there are. */
export const countFiles = (): Promise<number> => db.settlementFiles.count();

export const allFiles = (): Promise<SettlementFileRow[]> =>
	db.settlementFiles.find({ state: ['merging', 'taken'] }, { order: [['id', 'DESC']], limit: 50 });

/** The headers that a file may have, to copy from. */
export const HEADER = SETTLEMENT_COLUMNS.join(',');
export const FURTHER = FURTHER_COLUMNS.join(',');
export const OTHERS = LINE_COLUMNS.join(',');

/**
 * Takes in what lies in the folder `settlements` beside the database, one file a processor and named like it. What was
 * taken goes to `taken`, what cannot be is left with a note in `refused`.
 */
export async function takeInbox(): Promise<void> {
	const inbox = join(dataFolder(), 'settlements');
	if (!existsSync(inbox)) return;
	for (const name of readdirSync(inbox).sort()) {
		const processor = /^([a-z]+)[^/]*\.csv$/.exec(name)?.[1];
		if (!processor || !Object.hasOwn(CONNECTORS, processor)) continue;
		const result = await takeFile(name, processor, readFileSync(join(inbox, name)), 'Just Purse');
		const isTaken = 'taken' in result || 'before' in result;
		const to = join(inbox, isTaken ? 'taken' : 'refused');
		mkdirSync(to, { recursive: true });
		renameSync(join(inbox, name), join(to, name));
		if ('troubles' in result)
			log.warn({ file: name, troubles: result.troubles.slice(0, 5) }, 'a settlement file was refused');
		if ('which' in result) log.warn({ file: name }, 'several accounts could be meant: import the file on its page');
	}
	forgetSnapshot();
	tell('connections');
}
