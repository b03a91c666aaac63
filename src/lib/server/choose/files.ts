import { parse } from 'csv-parse/sync';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { inZone } from '../../core/calendar';
import { FURTHER_COLUMNS, readSettlement, SETTLEMENT_COLUMNS, type FileTrouble } from '../../core/settlement';
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
	const troubles: FileTrouble[] = [];
	/** those that are not known yet; one that is, with other content, is a fault */
	const unknown = async <
		T extends { payment: string; line: number; amount_minor: number; currency: string; fee_minor: number }
	>(
		list: readonly T[],
		table: 'settled_payments' | 'declined_attempts'
	): Promise<T[]> => {
		const ids = list.map((one) => one.payment);
		const other = table === 'settled_payments' ? 'declined_attempts' : 'settled_payments';
		const [known, turned] = await Promise.all([
			knownPayments(processor, ids, table),
			knownPayments(processor, ids, other)
		]);
		return list.filter(({ payment, line, amount_minor, currency, fee_minor }) => {
			if (turned.has(payment))
				troubles.push({
					line,
					says: `Payment ${payment} is known already, as ${other === 'declined_attempts' ? 'a declined attempt' : 'captured'}.`
				});
			const was = known.get(payment);
			if (!was) return true;
			if (was.minor !== amount_minor || was.currency !== currency || was.fee !== fee_minor)
				troubles.push({ line, says: `Payment ${payment} is known already, with another amount or fee.` });
			return false;
		});
	};
	const fresh = await unknown(read.lines, 'settled_payments');
	const declined = await unknown(read.declined, 'declined_attempts');
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
			{
				name,
				processor,
				digest,
				count: read.lines.length,
				fresh: fresh.length,
				declined: declined.length,
				takenAt: Date.now(),
				byUser: by
			},
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
					disputed: one.disputed_minor,
					orderedAt: one.ordered_at ?? null
				})),
				tx
			);
		for (let at = 0; at < declined.length; at += 500)
			await db.declinedAttempts.insertMany(
				declined.slice(at, at + 500).map((one) => ({
					fileId: file.id,
					processor,
					processorId: one.payment,
					source: one.source,
					at: one.ordered_at,
					method: one.method,
					currency: one.currency,
					minor: one.amount_minor,
					entry: one.entry,
					scheme: one.scheme,
					funding: one.funding,
					issuer: one.issuer,
					feeCurrency: one.fee_currency,
					fee: one.fee_minor,
					reason: one.reason
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
				act: `taken in: ${fresh.length} of ${read.lines.length} payments are new${declined.length ? `, and ${declined.length} declined attempts` : ''}`
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
