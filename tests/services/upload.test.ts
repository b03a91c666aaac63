import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';

// A form with a file in it, read as it comes: onto the disk, whole or not at all.

const folder = mkdtempSync(join(tmpdir(), 'purse-upload-'));
process.env.JUSTPURSE_DATA = folder;
const { dropIncoming, readUpload } = await import('../../src/lib/server/upload');
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const incoming = () => (existsSync(join(folder, 'incoming')) ? readdirSync(join(folder, 'incoming')) : []);

const requestOf = (form: FormData) => new Request('http://here.example/', { method: 'POST', body: form });
function formWith(
	content: string | Uint8Array | undefined,
	name = 'fernhall.csv',
	fields: Record<string, string> = {}
) {
	const form = new FormData();
	for (const [box, text] of Object.entries(fields)) form.append(box, text);
	if (content !== undefined)
		form.append('file', new Blob([typeof content === 'string' ? content : new Uint8Array(content)]), name);
	return requestOf(form);
}

describe('a form with a file', () => {
	it('gives its boxes, and the file as it was, byte by byte', async () => {
		const bytes = Uint8Array.from({ length: 300_000 }, (_, n) => (n * 7 + (n >> 8)) % 256);
		const { fields, file, end } = await readUpload(
			formWith(bytes, 'März, „Fernhall“.csv', { processor: 'fernhall', connection: 'c-1' })
		);
		expect(fields).toEqual({ processor: 'fernhall', connection: 'c-1' });
		expect(file!.name).toContain('Fernhall');
		expect(Buffer.compare(readFileSync(file!.path), bytes)).toBe(0);
		end();
		expect(existsSync(file!.path)).toBe(false);
		end();
	});
	it('without a file, or with an empty one, has none', async () => {
		for (const content of [undefined, '']) {
			const { file, fields, end } = await readUpload(formWith(content, 'empty.csv', { processor: 'ostrel' }));
			expect([file, fields.processor]).toEqual([undefined, 'ostrel']);
			end();
		}
		expect(incoming()).toEqual([]);
	});
	it('takes one file, whatever else is put beside it', async () => {
		const form = new FormData();
		form.append('file', new Blob(['first']), 'one.csv');
		form.append('file', new Blob(['second']), 'two.csv');
		const { file, end } = await readUpload(requestOf(form));
		expect([file!.name, readFileSync(file!.path, 'utf8')]).toEqual(['one.csv', 'first']);
		end();
		expect(incoming()).toEqual([]);
	});
	it('never writes where the name of a file leads', async () => {
		const { file, end } = await readUpload(formWith('x', '../../../../etc/passwd'));
		expect(file!.path.startsWith(join(folder, 'incoming'))).toBe(true);
		expect(file!.name).not.toContain('/');
		end();
	});
	it('that breaks off leaves nothing behind', async () => {
		const boundary = 'b0undary';
		const head = `--${boundary}\r\ncontent-disposition: form-data; name="file"; filename="half.csv"\r\n\r\n`;
		const body = new ReadableStream<Uint8Array>({
			start(controller) {
				controller.enqueue(new TextEncoder().encode(`${head}payment,captured_at`));
				controller.error(new Error('the line was cut'));
			}
		});
		const request = new Request('http://here.example/', {
			method: 'POST',
			body,
			headers: { 'content-type': `multipart/form-data; boundary=${boundary}` },
			duplex: 'half'
		} as RequestInit);
		await expect(readUpload(request)).rejects.toThrow('the line was cut');
		expect(incoming()).toEqual([]);
	});
	it('that is no such form is refused', async () => {
		await expect(
			readUpload(
				new Request('http://here.example/', { method: 'POST', body: 'a=1', headers: { 'content-type': 'text/plain' } })
			)
		).rejects.toThrow(/content type/i);
		await expect(
			readUpload(
				new Request('http://here.example/', {
					method: 'POST',
					body: 'nothing of the kind',
					headers: { 'content-type': 'multipart/form-data' }
				})
			)
		).rejects.toThrow(/boundary/i);
		expect(incoming()).toEqual([]);
	});
	it('reads several at once, each by itself', async () => {
		const all = await Promise.all(
			Array.from({ length: 8 }, (_, n) => readUpload(formWith(`content ${n}`, `${n}.csv`, { n: String(n) })))
		);
		for (const [n, { file, fields, end }] of all.entries()) {
			expect([fields.n, readFileSync(file!.path, 'utf8')]).toEqual([String(n), `content ${n}`]);
			end();
		}
	});
});

describe('what an earlier process was given', () => {
	it('and did not get to the end of, goes', async () => {
		await readUpload(formWith('left behind'));
		expect(incoming().length).toBe(1);
		dropIncoming();
		expect(incoming()).toEqual([]);
		dropIncoming();
	});
});
