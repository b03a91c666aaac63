import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { billing, type Billing } from '../world/billing.ts';

// Many documents as one file of PDFs: what is in it, how far it is, and what becomes of one that is stopped.

let world: World;
let desk: Desk;
let bill: Billing;
const ids: number[] = [];
const numbers: string[] = [];
beforeAll(async () => {
	world = await makeWorld({}, { with: ['fernhall', 'mailbox', 'texts'] });
	desk = new Desk(world);
	await desk.openWebShop();
	bill = await billing(desk);
	const payer = await bill.payer({ name: 'Bram Peeters', mail: 'bram@payer.example' });
	for (let n = 0; n < 3; n++) {
		const id = await bill.invoice(payer, [{ text: `Strings ${n}`, price: '12.10' }]);
		await bill.act(id, 'approve');
		ids.push(id);
		numbers.push((await bill.row(id)).number);
	}
	ids.push(await bill.invoice(payer, [{ text: 'Not approved yet', price: '5.00' }]));
});
afterAll(() => world.end());

interface Told {
	done: number;
	of: number;
	ended: boolean;
}
const begin = async (form: [string, string][]): Promise<string> => {
	const answer = await desk.submit('/bill/pdfs', new URLSearchParams(form));
	expect(answer.status).toBe(303);
	return answer.headers.get('location')!;
};
const ended = (at: string) =>
	until('the file is there', async () => ((await (await desk.get(`${at}/progress`)).json()) as Told).ended);
const filesOf = async (at: string) => unzipSync(new Uint8Array(await (await desk.get(`${at}/file`)).arrayBuffer()));

describe('a file of PDFs', () => {
	it('holds the documents that were ticked, each once and each a PDF of its own', async () => {
		const at = await begin([
			['id', String(ids[0])],
			['id', String(ids[2])],
			['id', String(ids[2])],
			['id', String(ids[3])]
		]);
		await ended(at);
		const files = await filesOf(at);
		expect(Object.keys(files).sort()).toEqual([`${numbers[0]}.pdf`, `${numbers[2]}.pdf`, 'draft.pdf'].sort());
		for (const [name, bytes] of Object.entries(files)) {
			const text = Buffer.from(bytes).toString('latin1');
			expect(text.slice(0, 5), name).toBe('%PDF-');
			expect(text.trimEnd().endsWith('%%EOF'), name).toBe(true);
		}
		const page = await (await desk.get(at)).text();
		// where its lines end in the source is nothing to the reader
		expect(page.replace(/\s+/g, ' ')).toContain('3 documents are in one ZIP file');
	});
	it('holds all that a list finds, where nothing was ticked', async () => {
		const all = await begin([['kind', 'invoice']]);
		await ended(all);
		expect(Object.keys(await filesOf(all))).toHaveLength(4);
		const one = await begin([
			['kind', 'invoice'],
			['query', `q=${numbers[1]}`]
		]);
		await ended(one);
		expect(Object.keys(await filesOf(one))).toEqual([`${numbers[1]}.pdf`]);
		const open = await begin([
			['kind', 'invoice'],
			['open', '1']
		]);
		await ended(open);
		expect(Object.keys(await filesOf(open)).sort()).toEqual(numbers.map((one) => `${one}.pdf`).sort());
	});
	it('is refused where the list finds nothing', async () => {
		const answer = await desk.submit('/bill/pdfs', new URLSearchParams({ kind: 'credit note' }));
		expect(answer.status).toBe(409);
		expect(await answer.text()).toContain('There is no document in this list.');
	});
	it('that is stopped leaves nothing on the disk, and its page says so', async () => {
		const at = await begin([['kind', 'invoice']]);
		await fetch(`${world.app.address}${at}/progress`, {
			method: 'DELETE',
			headers: { cookie: desk.cookie, origin: world.app.address }
		});
		await ended(at);
		const key = at.split('/').at(-1)!;
		const left = await readdir(join(world.app.folder, 'packs')).catch(() => []);
		const page = await (await desk.get(at)).text();
		// it may have come to its end before it heard of it
		if (page.includes('Save the file')) expect(left).toContain(`${key}.zip`);
		else {
			expect(page).toContain('There is no such file');
			expect(left).not.toContain(`${key}.zip`);
			expect((await desk.get(`${at}/file`)).status).toBe(404);
		}
	});
	it('is nobody else’s: without a sign-in it is not to be had', async () => {
		const at = await begin([['id', String(ids[0])]]);
		await ended(at);
		expect((await new Desk(world).get(`${at}/file`)).status).not.toBe(200);
	});
	it('goes where five later ones were made', async () => {
		const first = await begin([['id', String(ids[0])]]);
		await ended(first);
		for (let n = 0; n < 6; n++) await ended(await begin([['id', String(ids[1])]]));
		expect((await desk.get(`${first}/file`)).status).toBe(404);
		expect(await readdir(join(world.app.folder, 'packs'))).not.toContain(`${first.split('/').at(-1)}.zip`);
	});
});
