import { billing } from '../../tests/world/billing.ts';
import { openDatabase, rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld, type World } from '../../tests/world/index.ts';
import type { Ratio } from './ratio.ts';

const [FEW, MANY] = [2_000, 200_000];
const LISTS: Readonly<Record<string, string>> = {
	'what is owed': '/bill',
	overdue: '/bill?show=overdue',
	'all invoices': '/bill/invoices',
	'a search': '/bill/invoices?q=B-00012',
	'a payer': '/bill/payers/PAYER'
};

/** Invoices of the past two years, a fifth of them open, written as they would stand after so many approvals. */
async function addInvoices(world: World, from: number, to: number): Promise<void> {
	const db = await openDatabase(world);
	await db.run('PRAGMA synchronous = OFF');
	await db.run(
		`WITH RECURSIVE n(i) AS (SELECT ${from} UNION ALL SELECT i + 1 FROM n WHERE i < ${to - 1}),
		 p AS (SELECT id, name, ROW_NUMBER() OVER (ORDER BY id) - 1 AS at FROM payers), c AS (SELECT COUNT(*) AS all_ FROM payers)
		 INSERT INTO invoices (kind, token, payer_id, payer_name, till_id, currency, content, net, tax, total, state, number, day, placed, open,
			next_due, approved_at, approved_by, sent_at, created_by, created_at, changed_at)
		 SELECT 'invoice', 'bench-' || i, p.id, p.name, (SELECT id FROM tills LIMIT 1), 'EUR',
			'{"lines":[{"text":"Strings","quantity":"1","price":"64.90","category":"standard","rate":210000}]}', 5364, 1126, 6490,
			CASE WHEN i % 5 = 0 THEN 'sent' ELSE 'paid' END, printf('B-%07d', i), date('2026-11-29', '-' || (i % 700) || ' days'),
			CASE WHEN i % 5 = 0 THEN 0 ELSE 6490 END, CASE WHEN i % 5 = 0 THEN 6490 ELSE 0 END,
			CASE WHEN i % 5 = 0 THEN date('2026-12-13', '-' || (i % 700) || ' days') ELSE '' END, 1, 'bench', 1, 'bench', i, i
		 FROM n, c JOIN p ON p.at = i % c.all_`
	);
	await db.run(
		`INSERT INTO invoice_dues (invoice_id, n, day, currency, minor, paid, open)
		 SELECT id, 0, date(day, '+14 days'), currency, total, placed, open FROM invoices WHERE number >= 'B-' AND NOT EXISTS
			(SELECT 1 FROM invoice_dues d WHERE d.invoice_id = invoices.id)`
	);
	await db.close();
}

/** The middle of the times that a page's data takes at the server, in milliseconds. */
async function middle(desk: Desk, path: string): Promise<number> {
	const times: number[] = [];
	for (let n = 0; n < 15; n++) {
		const begun = performance.now();
		await desk.data(path);
		times.push(performance.now() - begun);
	}
	return times.sort((a, b) => a - b)[7]!;
}

/** Lists of what is owed with very many invoices against few, the PDF of one, and a link's page against an empty one. */
export async function bills(): Promise<Ratio> {
	const world = await makeWorld({}, { with: ['fernhall', 'mailbox', 'texts'] });
	try {
		const desk = new Desk(world);
		await desk.openWebShop();
		const bill = await billing(desk);
		const names = ['name,mail', ...Array.from({ length: 400 }, (_, n) => `Payer ${n},payer${n}@payer.example`)];
		await desk.upload('/bill/payers?/import', {}, 'file', 'p.csv', names.join('\n'));
		const payer = (await rows<{ id: string }>(world, 'SELECT id FROM payers ORDER BY id LIMIT 1'))[0]!.id;
		const paths = Object.entries(LISTS).map(([name, path]) => [name, path.replace('PAYER', payer)] as const);
		const measure = async () =>
			new Map(await sequence(paths, async ([name, path]) => [name, await middle(desk, path)] as const));
		await addInvoices(world, 0, FEW);
		await measure();
		const few = await measure();
		await addInvoices(world, FEW, MANY);
		const many = await measure();
		const worst = Math.max(...paths.map(([name]) => many.get(name)! / few.get(name)!));
		const slowest = Math.max(...many.values());
		const id = await bill.invoice(payer, [{ text: 'Strings', price: '64.90' }]);
		await bill.act(id, 'approve');
		const pdfs: number[] = [];
		for (let n = 0; n < 9; n++) {
			const begun = performance.now();
			await (await desk.get(`/bill/invoices/${id}/pdf`)).arrayBuffer();
			pdfs.push(performance.now() - begun);
		}
		const pdf = pdfs.sort((a, b) => a - b)[4]!;
		return {
			name: `lists of ${MANY.toLocaleString('en')} invoices, against ${FEW.toLocaleString('en')}`,
			ratio: worst,
			wanted: 'at most 3, under 200 ms, a PDF under 300 ms',
			holds: worst <= 3 && slowest < 200 && pdf < 300,
			detail: `${paths.map(([name]) => `${name} ${few.get(name)!.toFixed(0)} and ${many.get(name)!.toFixed(0)} ms`).join(', ')}; a PDF ${pdf.toFixed(0)} ms`
		};
	} finally {
		await world.end();
	}
}
async function sequence<T, R>(list: readonly T[], act: (one: T) => Promise<R>): Promise<R[]> {
	const done: R[] = [];
	for (const one of list) done.push(await act(one));
	return done;
}
