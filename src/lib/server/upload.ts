import { randomUUID } from 'node:crypto';
import { createWriteStream, mkdirSync, rmSync } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import busboy from 'busboy';
import { dataFolder } from './db';

/** A form whose file lies on the disk. */
export interface Upload {
	/** what stood in the other boxes */
	readonly fields: Readonly<Record<string, string>>;
	/** undefined where no file was chosen, or an empty one */
	readonly file?: { readonly name: string; readonly path: string };
	/** removes the file */
	end(): void;
}

const folder = (): string => join(dataFolder(), 'incoming');

/** Files that an earlier process was given and did not get to the end of. */
export const dropIncoming = (): void => rmSync(folder(), { recursive: true, force: true });

/**
 * Reads a form with one file in it, which goes to the disk as it comes: a large one is never held in memory.
 * @throws what is wrong with the form, or with its way here
 */
export async function readUpload(request: Request): Promise<Upload> {
	mkdirSync(folder(), { recursive: true, mode: 0o700 });
	const path = join(folder(), randomUUID());
	const end = () => rmSync(path, { force: true });
	const fields: Record<string, string> = {};
	let name = '';
	let writing: Promise<void> | undefined;
	try {
		const form = busboy({
			headers: Object.fromEntries(request.headers),
			limits: { files: 1, fields: 20, fieldSize: 10_000 }
		});
		form.on('field', (box, text) => (fields[box] = text));
		form.on('file', (_box, content, { filename }) => {
			name = filename ?? '';
			writing = pipeline(content, createWriteStream(path, { mode: 0o600 }));
			// told below
			writing.catch(() => {});
		});
		if (request.body) await pipeline(Readable.fromWeb(request.body as never), form);
		await writing;
		const isFile = writing && name && (await stat(path)).size > 0;
		return { fields, ...(isFile ? { file: { name: name.slice(0, 120), path } } : {}), end };
	} catch (error) {
		end();
		throw error;
	}
}
