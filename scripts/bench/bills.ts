import { billing } from '../../tests/world/billing.ts';
import { openDatabase, rows } from '../../tests/world/database.ts';
import { Desk } from '../../tests/world/desk.ts';
import { makeWorld, type World } from '../../tests/world/index.ts';
import type { Ratio } from './ratio.ts';

const [FEW, MANY] = [2_000, Number(process.env.BILLS ?? 200_000)];
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

const HEADER =
	'payment,captured_at,source,method,currency,amount_minor,entry,scheme,funding,issuer,fee_currency,fee_minor,base_minor,rate,refunded_minor,disputed_minor,ordered_at,outcome,reason,reference';

/** Seconds that a bank day of so many transfers takes from the upload until all of it is placed on its invoices. */
async function placeTransfers(world: World, desk: Desk, offline: string, count: number): Promise<number> {
	const open = await rows<{ number: string; open: number }>(
		world,
		`SELECT number, open FROM invoices WHERE open > 0 AND number >= 'B-' ORDER BY id LIMIT ${count}`
	);
	const at = new Date(Date.now() - 86_400_000).toISOString();
	const text = [
		HEADER,
		...open.map(
			(one, n) =>
				`BANK-${n},${at},Web shop,credit-transfer,EUR,${one.open},online,,,,EUR,0,${one.open},,0,0,${at},captured,,${one.number}`
		),
		`total,,${open.length},,EUR,${open.reduce((sum, one) => sum + one.open, 0)},,,,,EUR,0,,,,,,captured,,`
	].join('\n');
	const begun = performance.now();
	const answer = await desk.upload(
		'/connect/files?/take',
		{ processor: `offline:${offline}` },
		'file',
		'day.csv',
		text
	);
	let placed = 0;
	while (placed < open.length) {
		const [found] = await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM places WHERE minor > 0`);
		placed = found!.n;
		if (performance.now() - begun > 60_000)
			throw new Error(`${placed} of ${open.length} placed: ${JSON.stringify(answer.data)}`);
		await new Promise((later) => setTimeout(later, 50));
	}
	return (performance.now() - begun) / 1000;
}

/** A thousand PDFs as one file: seconds until it is there, and the longest that another page waited meanwhile, in milliseconds. */
async function packPdfs(
	world: World,
	desk: Desk,
	count: number
): Promise<{ seconds: number; longest: number; size: number }> {
	const ids = await rows<{ id: number }>(world, `SELECT id FROM invoices ORDER BY id LIMIT ${count}`);
	const begun = performance.now();
	const asked = await desk.submit('/bill/pdfs', new URLSearchParams(ids.map((one) => ['id', String(one.id)])));
	const at = asked.headers.get('location')!;
	let longest = 0;
	for (;;) {
		const from = performance.now();
		await desk.data('/bill/invoices');
		longest = Math.max(longest, performance.now() - from);
		const told = (await (await desk.get(`${at}/progress`)).json()) as { ended: boolean };
		if (told.ended) break;
		await new Promise((later) => setTimeout(later, 20));
	}
	const seconds = (performance.now() - begun) / 1000;
	const file = await (await desk.get(`${at}/file`)).arrayBuffer();
	return { seconds, longest, size: file.byteLength };
}

/** Seconds that a file of so many payers takes, looked at and taken. */
async function importPayers(desk: Desk, count: number): Promise<number> {
	const text = ['name,mail', ...Array.from({ length: count }, (_, n) => `Reader ${n},reader${n}@payer.example`)].join(
		'\n'
	);
	const begun = performance.now();
	const answer = await desk.upload('/bill/payers?/import', {}, 'file', 'many.csv', text);
	if (answer.type !== 'success') throw new Error(JSON.stringify(answer).slice(0, 300));
	return (performance.now() - begun) / 1000;
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
		const { offline } = await desk.openWebShop();
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
		const pack = await packPdfs(world, desk, Number(process.env.PDFS ?? 1_000));
		const transfers = await placeTransfers(world, desk, offline, Number(process.env.TRANSFERS ?? 10_000));
		const payers = await importPayers(desk, Number(process.env.PAYERS ?? 50_000));
		return {
			name: `lists of ${MANY.toLocaleString('en')} invoices, against ${FEW.toLocaleString('en')}`,
			ratio: worst,
			wanted:
				'at most 3, under 200 ms, a PDF under 300 ms, 10,000 transfers placed within 10 s, others waiting at most 250 ms while 1,000 PDFs are written',
			holds: worst <= 3 && slowest < 200 && pdf < 300 && transfers < 10 && pack.longest < 250,
			detail: `${paths.map(([name]) => `${name} ${few.get(name)!.toFixed(0)} and ${many.get(name)!.toFixed(0)} ms`).join(', ')}; a PDF ${pdf.toFixed(0)} ms; 10,000 transfers placed in ${transfers.toFixed(1)} s; 1,000 PDFs in one file of ${(pack.size / 1e6).toFixed(1)} MB in ${pack.seconds.toFixed(0)} s, a page meanwhile at most ${pack.longest.toFixed(0)} ms; a file of 50,000 payers taken in ${payers.toFixed(1)} s`
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
