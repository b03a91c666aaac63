import { readdirSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { history } from '../../standins/history/index.ts';
import { connectAt, idOf, prepare } from '../world/connections.ts';
import { billing } from '../world/billing.ts';
import { openDatabase, rows } from '../world/database.ts';
import { Desk } from '../world/desk.ts';
import { makeWorld, until, type World } from '../world/index.ts';
import { CARDS } from '../world/steps.ts';

// Every page of the desk is opened, payers pay and notifications come, over a few thousand payments; the statements that
// the server really sent are then explained by the database itself.

let world: World;
let desk: Desk;
/** where the migrations end in what the server wrote */
let begun: number;
let places: Record<string, string>;
beforeAll(async () => {
	world = await makeWorld(
		{ JUSTPURSE_LOG: 'trace', JUSTPURSE_ROUND_MS: '300' },
		{ with: ['brackwater', 'mailbox', 'texts'] }
	);
	begun = world.app.output.length;
	desk = new Desk(world);
	const { connection, offline } = await desk.openWebShop();
	await prepare(desk, 'brackwater');
	const other = idOf(await connectAt(desk, 'brackwater'));
	for (const [name, text] of history({ until: '2026-11-24', payments: 4_000 }))
		if (['fernhall', 'brackwater'].includes(name))
			await desk.upload('/connect/files?/take', { processor: name }, 'file', `${name}.csv`, text);
	await desk.giveCard(await desk.address('84.50', 'ST-1'), CARDS.approved);
	const byTransfer = await desk.address('84.50', 'ST-OWN');
	await desk.act(byTransfer, { way: await desk.way(byTransfer, 'Credit transfer') });
	await until(
		'the payment is told by a notification, and every file is merged and priced',
		async () =>
			(
				await rows<{ n: number }>(
					world,
					`SELECT (SELECT COUNT(*) FROM settlement_files WHERE state <> 'taken') + (SELECT COUNT(*) FROM repricings)
					 + (SELECT COUNT(*) = 0 FROM arrivals WHERE payment_id IS NOT NULL AND state = 'done') AS n`
				)
			)[0]!.n === 0,
		60_000
	);
	const bill = await billing(desk);
	const item = await bill.item({ code: 'ST', name: 'Strings', tax: 'standard 210000', price_EUR: '40.00' });
	const payer = await bill.payer({ name: 'Statement Payer', mail: 'statements@payer.example' });
	const invoice = await bill.invoice(payer, [{ text: 'Strings', price: '40.00', item }]);
	await bill.act(invoice, 'send', { mail: 'on' });
	await bill.act(invoice, 'receive', {
		amount: '15.00',
		how: 'cash',
		day: new Intl.DateTimeFormat('en-GB').format(Date.now()),
		note: '',
		key: 'statement-0001'
	});
	const tillId = (await rows<{ id: string }>(world, `SELECT id FROM tills WHERE slug = 'web-shop'`))[0]!.id;
	const link = await desk.act('/bill/links/new?/save', {
		tillId,
		revision: '0',
		settings: JSON.stringify({ title: 'A gift', currency: 'EUR', asksFor: 'fixed sum', fixed: 2500 })
	});
	const came = await desk.act('/takings/unplaced/new', {
		amount: '12.00',
		currency: 'EUR',
		day: new Intl.DateTimeFormat('en-GB').format(Date.now()),
		method: offline,
		text: 'for strings',
		from: 'Statement Payer',
		key: 'statement-0002'
	});
	const first = async (sql: string) => String((await rows<{ v: unknown }>(world, sql))[0]?.v ?? '');
	const endpoint = await desk.act('/watch/endpoints/new', { address: 'https://shop.example/hooks', all: 'yes' });
	const disputed = await first(
		`SELECT processor_id AS v FROM payments WHERE reference = 'ST-1' AND processor_id IS NOT NULL`
	);
	await world.control(`act/${disputed}`, { act: 'dispute', why: 'not known' });
	await until('it is disputed', async () => (await rows(world, 'SELECT 1 FROM disputes')).length > 0);
	places = {
		'/endpoints/[id]': `/endpoints/${(endpoint.data as unknown as { id: number }).id}`,
		'/disputes/[id]': `/disputes/${await first('SELECT payment_id AS v FROM disputes')}`,
		'[slug]': 'web-shop',
		'[offer]': await first(`SELECT json_extract(offers, '$[0].id') AS v FROM line_ups WHERE state = 'published'`).catch(
			() => 'new'
		),
		'/discrepancies/[id]': `/discrepancies/${await discrepancy()}`,
		'/connections/[id]': `/connections/${connection}`,
		'/offline/[id]': `/offline/${offline}`,
		'/receive/[id]': `/receive/${await first(`SELECT id AS v FROM payments WHERE offline_id IS NOT NULL`)}`,
		'/payments/[id]': `/payments/${await first(`SELECT id AS v FROM payments WHERE reference = 'ST-1'`)}`,
		'/arrivals/[id]': `/arrivals/${await first(`SELECT MAX(id) AS v FROM arrivals`)}`,
		'/invoices/[id]': `/invoices/${invoice}`,
		'/links/[id]': `/links/${/links\/([^?]+)/.exec(link.location!)![1]!}`,
		'/messages/[id]': `/messages/${await first(`SELECT MAX(id) AS v FROM outbox`)}`,
		'/payers/[id]': `/payers/${payer}`,
		'/prices/[id]': `/prices/${item}`,
		'/unplaced/[id]': `/unplaced/${/unplaced\/(\d+)/.exec(came.location!)![1]!}`,
		'[processor]': 'brackwater',
		'[kind]/[value]': 'stage/captured',
		other
	};
});
afterAll(() => world.end());

/** Addresses of all pages of the desk, as its folders name them. */
function pages(folder = 'src/routes/(desk)', path = ''): string[] {
	const found: string[] = [];
	for (const entry of readdirSync(folder, { withFileTypes: true })) {
		if (entry.isDirectory()) found.push(...pages(`${folder}/${entry.name}`, `${path}/${entry.name}`));
		else if (entry.name === '+page.svelte') found.push(path);
	}
	return found;
}
const addressOf = (page: string) =>
	Object.entries(places)
		.sort(([a], [b]) => b.length - a.length)
		.reduce((address, [part, value]) => address.replace(part, value), page);

/** A few payments that were charged otherwise than promised. @returns what the fee check made of them */
async function discrepancy(): Promise<number> {
	const database = await openDatabase(world);
	await database.run(
		`UPDATE payments SET fee_difference = 5, charged_fee = expected_fee + 5 WHERE id IN
		 (SELECT id FROM payments WHERE expected_fee IS NOT NULL AND mode = 'live' LIMIT 5)`
	);
	await database.close();
	let found = 0;
	await until('the fee check finds them', async () => {
		[{ found }] = (await rows<{ found: number | null }>(world, `SELECT MIN(id) AS found FROM discrepancies`)) as [
			{ found: number }
		];
		return !!found;
	});
	return found;
}

describe('the statements that the server really sends', () => {
	it('read no table and no index of payments, events, fees, orders or arrivals from end to end', async () => {
		const all = pages().filter((page) => !/consent|candidates\/\[id\]|\[id\]\/account/.test(page));
		expect(all.length).toBeGreaterThan(40);
		const missing: string[] = [];
		for (const page of [
			...all.map(addressOf),
			`/connect/connections/${places.other}`,
			...[
				'stage=failed',
				'till=web-shop',
				'trouble=fee',
				'trouble=contradiction',
				'trials=all',
				'from=2026-11-01&to=2026-11-24'
			].map((one) => `/takings?${one}`),
			'/takings?q=ST-1',
			'/takings?q=nobodyiscalledthis',
			'/watch?state=done',
			'/find?q=ST'
		]) {
			const { status } = await desk.get(page);
			if (status !== 200 && status !== 303) missing.push(`${status} ${page}`);
		}
		expect(missing).toEqual([]);
		// a payer comes back to an address, and pays another one by transfer
		await (await desk.get(await desk.address('84.50', 'ST-1'))).text();
		const other = await desk.address('120.00', 'ST-2');
		await desk.act(other, { way: await desk.way(other, 'Credit transfer') });

		const sent = new Map<string, string>();
		for (const line of world.app.output.slice(begun).split('\n')) {
			if (!line.includes('"statement"')) continue;
			const { sql } = JSON.parse(line) as { sql: string };
			const text = sql.replace(/^Executing \([^)]*\): /, '');
			// the same question with other values is asked once
			if (/^(SELECT|WITH|UPDATE|DELETE)/.test(text)) sent.set(text.replace(/'[^']*'|\b\d+\b/g, '?'), text);
		}
		expect(sent.size).toBeGreaterThan(120);
		const db = await openDatabase(world);
		const scans: string[] = [];
		try {
			for (const text of sent.values()) {
				// a value that is bound stands as $1: any will do for the plan
				const holes = new Set(text.match(/\$\d+/g)).size;
				const plan = await db
					.rows<{ detail: string }>(
						`EXPLAIN QUERY PLAN ${text}`,
						Array.from({ length: holes }, () => '{}')
					)
					.catch((error: unknown) => {
						throw new Error(`${String(error)}: ${text}`);
					});
				for (const { detail } of plan)
					if (
						/^SCAN (payments|p|payment_events|e|payment_fees|f|arrivals|a|orders|o|payment_requests|actions|invoices|i|invoice_dues|d|places|order_claims|outbox|events)\b/.test(
							detail
						)
					)
						scans.push(`${detail} | ${text.replace(/\s+/g, ' ').replace(/^SELECT .* FROM /, 'SELECT … FROM ')}`);
			}
		} finally {
			await db.close();
		}
		// a list that was handed over is read whole, of course; and where few are meant, an index of all is none for them
		const isList = /^SCAN \w+ VIRTUAL TABLE/;
		const isSparse = /trial_id`? IS NOT NULL/;
		// a page of the newest is read from the end of an index and stops after a page; the other indexes hold only the few asked for
		const isPage =
			/^SCAN (arrivals|`arrivals`|outbox|payment_requests|payments USING (COVERING )?INDEX payments_newest)( |$).*ORDER BY .*DESC.* LIMIT/s;
		const isFew =
			/USING (COVERING )?INDEX (orders_overpaid|payments_contradiction|payments_differs|payments_trials|payments_test|payments_receivable|payments_unplaced|invoices_owed|invoices_open|actions_open|actions_due) /;
		expect(
			scans.filter((one) => !(isPage.test(one) && !isSparse.test(one)) && !isFew.test(one) && !isList.test(one))
		).toEqual([]);
	});
});
