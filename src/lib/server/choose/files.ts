import { parse } from 'csv-parse/sync';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { inZone } from '../../core/calendar';
import { readSettlement, SETTLEMENT_COLUMNS, type FileTrouble } from '../../core/settlement';
import { forgetSnapshot } from '../accept/freshness';
import { audit } from '../access';
import { theBusiness } from '../connect/business';
import { CONNECTORS, connectorOf } from '../connectors';
import { dataFolder, db, knownPayments, markStale, write, type SettlementFileRow } from '../db';
import { tell } from '../live';
import { log } from '../log';

export type Taken =
	| { readonly taken: SettlementFileRow }
	/** the same file was taken before */
	| { readonly before: SettlementFileRow }
	| { readonly troubles: readonly FileTrouble[] };

const LARGEST = 400_000_000;
const utf8 = new TextDecoder('utf-8', { fatal: true });

/** The file as records with their line numbers, or what keeps it from being read at all. */
function recordsOf(bytes: Uint8Array): { line: number; cells: string[] }[] | FileTrouble {
	if (bytes.length > LARGEST) return { line: 0, says: 'The file is larger than 400 MB.' };
	let text: string;
	try {
		text = utf8.decode(bytes);
	} catch {
		return { line: 0, says: 'The file is not in UTF-8. Save it in that encoding and try again.' };
	}
	try {
		const read = parse(text, {
			bom: true,
			info: true,
			relax_column_count: true,
			skip_empty_lines: true
		}) as unknown as { record: string[]; info: { lines: number } }[];
		return read.map(({ record, info }) => ({ line: info.lines, cells: record }));
	} catch (error) {
		const { lines, message } = error as { lines?: number; message: string };
		return { line: lines ?? 0, says: `It is not CSV: ${message}` };
	}
}

/**
 * Takes a settlement file in, whole or not at all. The same file twice changes nothing; a payment that is known already
 * with the same content is left as it is, with other content the file is refused.
 */
export async function takeFile(name: string, processor: string, bytes: Uint8Array, by: string): Promise<Taken> {
	const digest = createHash('sha256').update(bytes).digest('hex');
	const before = await db.settlementFiles.one({ digest });
	if (before) return { before };
	const records = recordsOf(bytes);
	if ('says' in records) return { troubles: [records] };
	const read = readSettlement(records);
	if ('troubles' in read) return { troubles: read.troubles };
	const { timeZone } = await theBusiness();
	const known = await knownPayments(
		processor,
		read.lines.map((one) => one.payment)
	);
	const troubles: FileTrouble[] = [];
	const fresh = read.lines.filter((one, at) => {
		const was = known.get(one.payment);
		if (!was) return true;
		if (was.minor !== one.amount_minor || was.currency !== one.currency || was.fee !== one.fee_minor)
			troubles.push({
				line: records[at + 1]?.line ?? 0,
				says: `Payment ${one.payment} is known already, with another amount or fee.`
			});
		return false;
	});
	if (troubles.length) return { troubles: troubles.slice(0, 50) };
	const source = connectorOf(processor).name;
	const rates = new Map<
		string,
		{ day: string; fromCurrency: string; toCurrency: string; rate: string; source: string }
	>();
	for (const one of fresh)
		if (one.rate) {
			const { day } = inZone(new Date(one.captured_at), timeZone);
			rates.set(`${day} ${one.currency} ${one.fee_currency}`, {
				day,
				fromCurrency: one.currency,
				toCurrency: one.fee_currency,
				rate: one.rate,
				source
			});
		}
	const taken = await write(async (tx) => {
		const file = await db.settlementFiles.insert(
			{ name, processor, digest, count: read.lines.length, fresh: fresh.length, takenAt: Date.now(), byUser: by },
			tx
		);
		for (let at = 0; at < fresh.length; at += 500)
			await db.settledPayments.insertMany(
				fresh.slice(at, at + 500).map((one) => ({
					fileId: file.id,
					processor,
					processorId: one.payment,
					source: one.source,
					capturedAt: one.captured_at,
					method: one.method,
					currency: one.currency,
					minor: one.amount_minor,
					entry: one.entry,
					scheme: one.scheme,
					funding: one.funding,
					issuer: one.issuer,
					feeCurrency: one.fee_currency,
					fee: one.fee_minor,
					base: one.base_minor,
					refunded: one.refunded_minor,
					disputed: one.disputed_minor
				})),
				tx
			);
		await markStale(new Set(fresh.map((one) => new Date(one.captured_at).toISOString().slice(0, 7))), tx);
		await db.exchangeRates.insertMany([...rates.values()], tx, { keepOld: true });
		await audit(
			{
				by,
				kind: 'settlement file',
				id: String(file.id),
				name,
				act: `taken in: ${fresh.length} of ${read.lines.length} payments are new`
			},
			tx
		);
		return file;
	});
	forgetSnapshot();
	tell('connections');
	return { taken };
}

export const allFiles = (): Promise<SettlementFileRow[]> =>
	db.settlementFiles.find({}, { order: [['id', 'DESC']], limit: 50 });

/** The header that a file must have, to copy from. */
export const HEADER = SETTLEMENT_COLUMNS.join(',');

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
