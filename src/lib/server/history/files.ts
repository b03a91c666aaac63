import { counted } from '../../core/counted';
import { createHash } from 'node:crypto';
import { createReadStream, existsSync, mkdirSync, readdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import type { Method } from '../../core/lineup';
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
	knowsAccount,
	takenAtTills,
	write,
	type ConnectionRow,
	type FileOwner,
	type OfflineMethodRow,
	type SettlementFileRow,
	type Tx
} from '../db';
import { tell } from '../signals/live';
import { log } from '../log';
import { inThread, type CheckedFile } from '../threads';
import { unpackText } from '../packText';
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
const WAIT_MS = Number(process.env.JUSTPURSE_FILE_WAIT_MS ?? 8_000);

/** Whose file it is: a processor's, or the business's own, of what it received by an offline method. */
export type FileGiver = { readonly processor: string } | { readonly offlineId: string };

/** The connections whose account a file of a processor may tell of: live ones, those that still stand before others. */
async function ownersOf(processor: string): Promise<ConnectionRow[]> {
	const all = await db.connections.find({ processor, mode: 'live' }, { order: [['createdAt', 'ASC']] });
	const standing = all.filter((row) => !row.removedAt);
	return standing.length ? standing : all.slice(-1);
}

/** Files on their way in, by their digest: the same one given twice at once is taken once. */
const underWay = new Map<string, Promise<Taken>>();

/**
 * Takes a settlement file in, whole or not at all: checked to its end, kept, and then merged into what is known, a chunk at
 * a time, so that notifications and payers come in between. The same file twice changes nothing. Of a payment that is known
 * already, what is new is added; another sum or currency refuses the file.
 * @param path where the file lies; it stays there
 * @param giver whose file it is
 * @param connectionId whose account it tells of, where several could be meant
 */
export async function takeFile(
	name: string,
	giver: FileGiver,
	path: string,
	by: string,
	connectionId?: string
): Promise<Taken> {
	const digest = await digestOf(path);
	// given twice at the same moment, the second waits for what becomes of the first
	for (let other = underWay.get(digest); other; other = underWay.get(digest)) await other.catch(() => undefined);
	const taking = takeNew({ name, digest, by, giver, path }, connectionId).finally(() => underWay.delete(digest));
	underWay.set(digest, taking);
	const result = await taking;
	if (!('taken' in result)) return result;
	const merging = mergeFile(result.taken.id);
	await Promise.race([merging, new Promise((next) => setTimeout(next, WAIT_MS))]);
	// what goes wrong beside the answer is told by the log, and gone on with by the worker
	merging.catch((error: unknown) =>
		log.error({ file: result.taken.id, error: String(error) }, 'a settlement file waits')
	);
	return { taken: (await db.settlementFiles.one({ id: result.taken.id }))! };
}

/** Takes a file that nobody else is giving at this moment. */
async function takeNew(given: Omit<Given, 'connection' | 'offline'>, connectionId: string | undefined): Promise<Taken> {
	const before = await db.settlementFiles.one({ digest: given.digest, state: ['merging', 'taken'] });
	if (before) return { before };
	if ('offlineId' in given.giver) {
		const offline = await db.offlineMethods.one({ id: given.giver.offlineId });
		if (!offline) return { troubles: [{ line: 0, says: 'There is no such offline method any more.' }] };
		return checkAndKeep({ ...given, offline });
	}
	const owners = await ownersOf(given.giver.processor);
	const connection = connectionId ? owners.find((row) => row.id === connectionId) : owners[0];
	if (owners.length > 1 && !connectionId)
		return { which: owners.map(({ id, name: called, accountName }) => ({ id, name: `${called}, ${accountName}` })) };
	return checkAndKeep({ ...given, connection });
}

async function digestOf(path: string): Promise<string> {
	const hash = createHash('sha256');
	for await (const bytes of createReadStream(path, { highWaterMark: 1_048_576 })) hash.update(bytes as Buffer);
	return hash.digest('hex');
}

interface Given {
	readonly name: string;
	readonly digest: string;
	readonly by: string;
	readonly giver: FileGiver;
	readonly path: string;
	readonly connection?: ConnectionRow;
	readonly offline?: OfflineMethodRow;
}
/** The order in which kinds of chunks are merged: what belongs to a payment comes after the payments. */
const RANK = { captured: 0, declined: 0, others: 1_000_000, months: 2_000_000 } as const;

/** Checks a file line by line and keeps what is sound on the way; nothing of it stays where anything is wrong. */
async function checkAndKeep(given: Given): Promise<Extract<Taken, { taken: unknown } | { troubles: unknown }>> {
	const { digest, giver, connection, offline, path } = given;
	const { timeZone } = await theBusiness();
	const owner = {
		processor: 'processor' in giver ? giver.processor : '',
		connectionId: connection?.id ?? null,
		accountId: offline?.id ?? connection?.accountId ?? ''
	};
	const { id: fileId } = await write(async (tx) => {
		await dropStaging(digest, tx);
		return db.settlementFiles.insert(
			{
				name: given.name,
				digest,
				...owner,
				state: 'staging',
				count: 0,
				fresh: 0,
				declined: 0,
				takenAt: timeNow(),
				byUser: given.by
			},
			tx
		);
	});
	// of an account that nothing is known of, nothing can be known otherwise; what comes meanwhile is met when it is merged
	const isKnown = await knowsAccount(owner);
	let number = 0;
	const clashes: FileTrouble[] = [];
	try {
		const checked = await inThread(
			'checkFile',
			{
				path,
				timeZone,
				accountZone: connection?.timeZone ?? timeZone,
				...(offline ? { offline: offline.kind as Method } : {})
			},
			async ({ kind, body, lines }) => {
				if (offline) clashes.push(...(await takenHere(offline, unpackText(body))));
				if (isKnown && clashes.length < AT_MOST && kind !== 'others')
					clashes.push(...(await clashesOf(owner, kind, unpackText(body))));
				if (!clashes.length)
					await write((tx) => db.fileChunks.insert({ fileId, number: RANK[kind] + number++, kind, lines, body }, tx), {
						isPatient: true
					});
			}
		);
		const troubles =
			'troubles' in checked ? [...clashes, ...checked.troubles] : [...clashes, ...(await strangersOf(owner, checked))];
		if ('troubles' in checked || troubles.length) {
			await write((tx) => dropStaging(digest, tx));
			return { troubles: troubles.sort((a, b) => (a.line || Infinity) - (b.line || Infinity)).slice(0, AT_MOST) };
		}
		await keepWhole(fileId, given, owner, checked);
		return { taken: (await db.settlementFiles.one({ id: fileId }))! };
	} catch (error) {
		await write((tx) => dropStaging(digest, tx));
		throw error;
	}
}

/** The last step of keeping a file: from here on it will be merged to its end, also after the process was ended. */
async function keepWhole(
	fileId: number,
	{ name, by }: Given,
	owner: Omit<FileOwner, 'fileId' | 'heardAt'>,
	{ counts, months, rates }: CheckedFile
): Promise<void> {
	await write(async (tx) => {
		await db.fileChunks.insert(
			{ fileId, number: RANK.months, kind: 'months', lines: 0, body: JSON.stringify(months) },
			tx
		);
		await addRates(
			// an offline method tells no rates
			rates.map((one) => ({ ...one, source: connectorOf(owner.processor).name })),
			tx
		);
		await db.settlementFiles.update({ id: fileId }, { state: 'merging', count: counts.captured }, tx);
		// its processor may have been connected while the file was checked
		if (!owner.connectionId && owner.processor) {
			const [connection, other] = await db.connections.find(
				{ processor: owner.processor, mode: 'live', removedAt: null },
				{},
				tx
			);
			if (connection && !other)
				await db.settlementFiles.update(
					{ id: fileId },
					{ connectionId: connection.id, accountId: connection.accountId },
					tx
				);
		}
		await audit(
			{
				by,
				kind: 'settlement file',
				id: String(fileId),
				name,
				act: [
					`imported ${counted(counts.captured, 'payment', 'en-GB')}`,
					...(counts.declined ? [counted(counts.declined, 'declined attempt', 'en-GB')] : []),
					...(counts.others ? [counted(counts.others, 'other line', 'en-GB')] : [])
				].join(', ')
			},
			tx
		);
	});
}

/** Removes what was begun to be kept and never finished: of one file, or of all of an earlier process. */
async function dropStaging(digest: string | undefined, tx: Tx): Promise<void> {
	for (const { id } of await db.settlementFiles.find({ state: 'staging', ...(digest ? { digest } : {}) }, {}, tx)) {
		await db.fileChunks.remove({ fileId: id }, tx);
		await db.settlementFiles.remove({ id }, tx);
	}
}

/** What an earlier process left half kept goes, before this one takes any file. */
export const dropHalfKept = (): Promise<void> => write((tx) => dropStaging(undefined, tx));

/** Goes on with files whose merging an earlier process did not finish. */
export async function resumeFiles(): Promise<void> {
	for (const { id } of await db.settlementFiles.find({ state: 'merging' }, { order: [['id', 'ASC']] }))
		await mergeFile(id);
}

const AT_MOST = 50;
type Owner = Omit<FileOwner, 'fileId' | 'heardAt'>;

/** Lines of a chunk that tell a known payment otherwise. */
async function clashesOf(owner: Owner, kind: 'captured' | 'declined', chunk: string): Promise<FileTrouble[]> {
	return (await knownOtherwise(owner, kind, chunk)).map(({ line, payment, turned }) => ({
		line,
		says: turned
			? `Payment ${payment} is known already, as ${kind === 'captured' ? 'a declined attempt' : 'captured'}.`
			: `Payment ${payment} is known already, with another amount or currency.`
	}));
}

/** Lines of orders that a till took by this very method: their receipts are recorded there, and would count twice. */
async function takenHere(offline: OfflineMethodRow, chunk: string): Promise<FileTrouble[]> {
	return (await takenAtTills(offline.id, chunk)).map(({ line, payment }) => ({
		line,
		says: `${payment} is an order that was taken here by ${offline.name}. Record what was received at its payment.`
	}));
}

/** Lines that belong to a payment which nobody knows. */
async function strangersOf({ processor, accountId }: Owner, { elsewhere }: CheckedFile): Promise<FileTrouble[]> {
	const troubles: FileTrouble[] = [];
	for (const { line, payment } of elsewhere) {
		if (await db.payments.one({ processor, mode: 'live', accountId, processorId: payment })) continue;
		troubles.push({ line, says: `It belongs to payment ${payment}, which is known neither here nor in the file.` });
		if (troubles.length >= AT_MOST) break;
	}
	return troubles;
}

/** How many settlement files there are. */
export const countFiles = (): Promise<number> => db.settlementFiles.count();

const PAGE = 50;
/** One page of settlement files, the newest first. @param page from 1 */
export async function pageOfFiles(page: number): Promise<{ files: SettlementFileRow[]; more: boolean }> {
	const rows = await db.settlementFiles.find(
		{ state: ['merging', 'taken'] },
		{ order: [['id', 'DESC']], limit: PAGE + 1, offset: (page - 1) * PAGE }
	);
	return { files: rows.slice(0, PAGE), more: rows.length > PAGE };
}

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
		const result = await takeFile(name, { processor }, join(inbox, name), 'Just Purse');
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
