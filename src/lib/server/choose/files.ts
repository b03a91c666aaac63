import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { FURTHER_COLUMNS, SETTLEMENT_COLUMNS, type FileTrouble } from '../../core/settlement';
import { forgetSnapshot } from '../accept/freshness';
import { audit } from '../access';
import { theBusiness } from '../connect/business';
import { CONNECTORS, connectorOf } from '../connectors';
import {
	addDeclined,
	addSettled,
	dataFolder,
	db,
	knownOtherwise,
	markStale,
	write,
	type SettlementFileRow,
	type Tx
} from '../db';
import { tell } from '../live';
import { log } from '../log';
import { inThread, type CheckedFile } from '../threads';

export type Taken =
	| { readonly taken: SettlementFileRow }
	/** the same file was taken before */
	| { readonly before: SettlementFileRow }
	| { readonly troubles: readonly FileTrouble[] };

/**
 * Takes a settlement file in, whole or not at all. The same file twice changes nothing; a payment that is known already
 * with the same content is left as it is, with other content the file is refused.
 */
export async function takeFile(name: string, processor: string, bytes: Uint8Array, by: string): Promise<Taken> {
	const digest = createHash('sha256').update(bytes).digest('hex');
	const before = await db.settlementFiles.one({ digest });
	if (before) return { before };
	const { timeZone } = await theBusiness();
	const read = await inThread('checkFile', { bytes, timeZone });
	if ('troubles' in read) return read;
	const { counts } = read;
	const source = connectorOf(processor).name;
	try {
		const taken = await write(async (tx) => {
			const troubles = await clashesOf(processor, read, tx);
			if (troubles.length) throw new Clash(troubles);
			const file = await db.settlementFiles.insert(
				{ name, processor, digest, count: counts.captured, fresh: 0, declined: 0, takenAt: Date.now(), byUser: by },
				tx
			);
			let [fresh, declined] = [0, 0];
			for (const chunk of read.captured) fresh += await addSettled(file.id, processor, chunk, tx);
			for (const chunk of read.declined) declined += await addDeclined(file.id, processor, chunk, tx);
			await db.settlementFiles.update({ id: file.id }, { fresh, declined }, tx);
			if (fresh) await markStale(read.months, tx);
			await db.exchangeRates.insertMany(
				read.rates.map((one) => ({ ...one, source })),
				tx,
				{ keepOld: true }
			);
			await audit(
				{
					by,
					kind: 'settlement file',
					id: String(file.id),
					name,
					act: `taken in: ${fresh} of ${counts.captured} payments are new${declined ? `, and ${declined} declined attempts` : ''}`
				},
				tx
			);
			return { ...file, fresh, declined };
		});
		forgetSnapshot();
		tell('connections');
		return { taken };
	} catch (error) {
		if (error instanceof Clash) return { troubles: error.troubles };
		throw error;
	}
}

/** Thrown to leave a transaction: what the file tells cannot stand beside what is known. */
class Clash extends Error {
	constructor(readonly troubles: readonly FileTrouble[]) {
		super('The file does not agree with what is known.');
	}
}

const AT_MOST = 50;
async function clashesOf(processor: string, read: CheckedFile, tx: Tx): Promise<FileTrouble[]> {
	const troubles: FileTrouble[] = [];
	for (const [chunks, kind] of [
		[read.captured, 'captured'],
		[read.declined, 'declined']
	] as const)
		for (const chunk of chunks)
			for (const { line, payment, turned } of await knownOtherwise(processor, kind, chunk, tx)) {
				troubles.push({
					line,
					says: turned
						? `Payment ${payment} is known already, as ${kind === 'captured' ? 'a declined attempt' : 'captured'}.`
						: `Payment ${payment} is known already, with another amount or fee.`
				});
				if (troubles.length >= AT_MOST) return troubles;
			}
	return troubles;
}

export const allFiles = (): Promise<SettlementFileRow[]> =>
	db.settlementFiles.find({}, { order: [['id', 'DESC']], limit: 50 });

/** The headers that a file may have, to copy from. */
export const HEADER = SETTLEMENT_COLUMNS.join(',');
export const FURTHER = FURTHER_COLUMNS.join(',');

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
		const to = join(inbox, 'troubles' in result ? 'refused' : 'taken');
		mkdirSync(to, { recursive: true });
		renameSync(join(inbox, name), join(to, name));
		if ('troubles' in result)
			log.warn({ file: name, troubles: result.troubles.slice(0, 5) }, 'a settlement file was refused');
	}
}
