import { randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream, mkdirSync, rmSync } from 'node:fs';
import { stat } from 'node:fs/promises';
import { once } from 'node:events';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { finished } from 'node:stream/promises';
import { Zip, ZipPassThrough } from 'fflate';
import { dataFolder, db, idsOfInvoices, type InvoiceFilter } from '../db';
import { Jobs, type Work } from '../jobs';
import { documentPdf } from './documents';

// Many documents as one ZIP file of PDFs. It is written in the background, one document after the other; who asked sees how
// far it is, can stop it, and takes the file when it is there. Files stay until the server stops or five later ones are made.

/** So many documents go into one file. */
export const MOST_PACKED = 5_000;
const KEPT = 5;
const folder = (): string => join(dataFolder(), 'packs');
const fileOf = (key: string): string => join(folder(), `${key}.zip`);
/** Files that an earlier process made: nobody knows their addresses any more. */
export const dropPacks = (): void => rmSync(folder(), { recursive: true, force: true });

export interface Pack {
	readonly documents: number;
	/** bytes */
	readonly size: number;
	/** documents that could not be written, by their number */
	readonly failed: readonly string[];
}
const packs = new Jobs<Pack>('a file of documents', KEPT);
let kept: string[] = [];

/** Which documents: those that were ticked, or all that a list's filter finds. */
export type PackAsked = { readonly ids: readonly number[] } | { readonly filter: InvoiceFilter };

/**
 * Begins a file of documents.
 * @returns its key, or what is wrong
 */
export async function beginPack(asked: PackAsked, locale: string): Promise<{ key: string } | { problem: string }> {
	const ids = 'ids' in asked ? [...new Set(asked.ids)] : await idsOfInvoices(asked.filter, MOST_PACKED + 1);
	if (!ids.length) return { problem: 'There is no document in this list.' };
	if (ids.length > MOST_PACKED)
		return {
			problem: `One file takes ${MOST_PACKED.toLocaleString(locale)} documents. Narrow the list, by day for instance.`
		};
	const key = randomUUID();
	packs.begin(key, (work) => writePack(key, ids, work));
	// what was made before the last few goes
	for (const old of kept.filter((one) => !packs.at(one))) rmSync(fileOf(old), { force: true });
	kept = [...kept.filter((one) => packs.at(one)), key];
	return { key };
}

async function writePack(key: string, ids: readonly number[], { progress, breathe }: Work): Promise<Pack> {
	mkdirSync(folder(), { recursive: true, mode: 0o700 });
	const out = createWriteStream(fileOf(key), { mode: 0o600 });
	let trouble: Error | undefined;
	out.on('error', (error) => (trouble = error));
	const zip = new Zip((error, chunk) => {
		if (error) trouble = error;
		else out.write(chunk);
	});
	const failed: string[] = [];
	const used = new Set<string>();
	progress.of = ids.length;
	try {
		for (const id of ids) {
			await breathe();
			if (trouble) throw trouble;
			const row = await db.invoices.one({ id });
			progress.done++;
			if (!row) continue;
			try {
				const { name, pdf } = await documentPdf(row);
				// drafts have no number, and two brands may number alike
				const own = used.has(name) ? name.replace(/\.pdf$/, `-${id}.pdf`) : name;
				used.add(own);
				const entry = new ZipPassThrough(own);
				zip.add(entry);
				entry.push(pdf, true);
			} catch {
				failed.push(row.number || `draft ${id}`);
			}
			if (out.writableNeedDrain) await once(out, 'drain');
		}
		zip.end();
		out.end();
		await finished(out);
		if (trouble) throw trouble;
		return { documents: used.size, size: (await stat(fileOf(key))).size, failed };
	} catch (error) {
		out.destroy();
		rmSync(fileOf(key), { force: true });
		throw error;
	}
}

/** How far a file is, or that it is there; undefined where no such file is known. */
export async function packAt(key: string) {
	const job = packs.at(key);
	if (!job) return undefined;
	const result = job.ended && !job.failed ? await job.result : undefined;
	return { ...job.progress, ended: job.ended, failed: job.failed, result };
}
/** Ends the writing of a file; what was written of it goes. */
export const stopPack = (key: string): void => packs.at(key)?.stop();

/** The file itself, as a stream. */
export async function readPack(key: string): Promise<ReadableStream | undefined> {
	const found = await packAt(key);
	return found?.result && (Readable.toWeb(createReadStream(fileOf(key))) as ReadableStream);
}
