import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ACCOUNTS, connectAt, NAMES, prepare as readyAt } from '../tests/world/connections.ts';
import { STANDINS } from '../standins/main.ts';
import { Desk } from '../tests/world/desk.ts';
import { until, type World } from '../tests/world/index.ts';
import { CARDS } from '../tests/world/cards.ts';
import { TILLS } from './lineups.ts';
import { openDatabase, rows } from '../tests/world/database.ts';
import { billPast, billPresent, setUpBilling } from './billing.ts';

const DAY = 86_400_000;
/** Sums that payers wanted to pay in CHF, and could not. */
const UNMET = [
	['12.50', 'WA-CH-101', 3],
	['8.90', 'WA-CH-102', 6],
	['17.00', 'WA-CH-103', 9],
	['14.50', 'WA-CH-104', 13],
	['9.50', 'WA-CH-105', 17],
	['19.00', 'WA-CH-106', 22],
	['11.00', 'WA-CH-107', 28]
] as const;

/** What the business is like once it has been running: said by `says` as it goes. */
export async function prepareDemo(
	world: World,
	remembered: string,
	says: (line: string) => void,
	settlements = ''
): Promise<void> {
	const desk = new Desk(world);
	await desk.setUp();
	const act = async (path: string, form: Record<string, string | string[]>) => {
		const answer = await desk.act(path, form);
		if (answer.type === 'failure' || answer.type === 'error')
			throw new Error(`${path}: ${JSON.stringify(answer.data ?? answer)}`);
		return answer;
	};
	await act('/connect/business', {
		name: 'Wren & Alder Strings',
		country: 'BE',
		homeCurrency: 'EUR',
		timeZone: 'Europe/Brussels',
		locale: 'en-BE',
		legalName: 'Wren & Alder Strings BV',
		legalForm: 'BV',
		taxNumber: 'BE 0123.456.749',
		street: 'Bowstraat 12',
		postcode: '9000',
		city: 'Gent',
		representative: 'Ilse Verhaeren'
	});
	says('adding offline methods, payers, the price list and six tills');
	const offline = (name: string, kind: string, more: Record<string, string | string[]> = {}) =>
		act('/connect/offline/new', { name, kind, holder: '', iban: '', currencies: 'EUR', termDays: '0', ...more });
	await offline('Credit transfer', 'credit-transfer', {
		holder: 'Wren & Alder Strings',
		iban: 'BE68 5390 0754 7034',
		referenceStyle: 'structured',
		transferCode: 'on',
		termDays: '10'
	});
	await offline('Cash', 'cash');
	await offline('On account', 'on-account', { currencies: ['EUR', 'GBP'], termDays: '30' });
	const slugs = new Map<string, string>();
	for (const till of TILLS) {
		const made = await act('/accept/tills/new', {
			name: till.name,
			kind: till.kind,
			mode: 'live',
			currencies: [...till.currencies],
			colour: till.colour,
			...till.more
		});
		slugs.set(till.name, made.location!.split('/').at(-1)!);
	}
	const db = await openDatabase(world);
	await setUpBilling(desk, db.rows);
	const past = join(remembered, 'billed.json');
	const read = (name: string) => JSON.parse(readFileSync(join(remembered, name), 'utf8'));
	if (remembered && existsSync(past)) await billPast(desk, read('billed.json'), read('ordered.json'), says);
	if (settlements) {
		const inbox = join(world.app.folder, 'settlements');
		mkdirSync(inbox, { recursive: true });
		says('taking in the settlement files, and placing what they tell');
		const names = readdirSync(settlements);
		for (const name of names) copyFileSync(join(settlements, name), join(inbox, name));
		await until(
			'every file is taken in',
			async () =>
				(await rows<{ n: number }>(world, `SELECT COUNT(*) AS n FROM settlement_files WHERE state = 'taken'`))[0]!.n >=
				names.length,
			180_000
		);
	}
	says('telling the processors what they remember of the past sixty days');
	for (const name of NAMES.filter((one) => STANDINS[one]!.remembers)) {
		const file = join(remembered, `${name}.json`);
		if (!remembered || !existsSync(file)) continue;
		await world.at(name, 'remember', {
			account: ACCOUNTS[name],
			payments: JSON.parse(readFileSync(file, 'utf8'))
		});
	}
	says('connecting the processors');
	// it says by mail when it cannot reach us
	await world.at('fernhall', 'mail', await world.at<object>('mailbox', 'smtp'));
	for (const name of NAMES) {
		await readyAt(desk, name);
		await connectAt(desk, name);
	}
	for (const name of ['fernhall', 'brackwater']) await connectAt(desk, name, { mode: 'test' });
	const row = async (processor: string) =>
		(
			await db.rows<{ id: string; hook_key: string }>(
				`SELECT id, hook_key FROM connections WHERE processor = ? AND mode = 'live' AND removed_at IS NULL`,
				[processor]
			)
		)[0]!;
	const offlineIds = async () =>
		(await db.rows<{ kind: string; id: string }>('SELECT kind, id FROM offline_methods')).map(
			(one) => [one.kind, one.id] as const
		);
	// two of them are told at their own consoles where to send notifications, and of what
	for (const { name, tickedByHand: topics } of Object.values(STANDINS)) {
		if (!topics) continue;
		const { id, hook_key: key } = await row(name);
		await world.at(name, 'listener', {
			id: 'by-hand',
			account: ACCOUNTS[name],
			mode: 'live',
			address: `${world.app.address}/hooks/${key}`,
			topics,
			secret: ''
		});
		await desk.act(`/connect/connections/${id}/notifications?/read`, {});
		if (name === 'ostrel')
			await act(`/connect/connections/${id}/notifications?/tick`, {
				notice: ['captured', 'failed', 'refunded', 'settled', 'paid-out']
			});
		await act(`/connect/connections/${id}/notifications?/test`, {});
	}
	says('adding domains');
	for (const domain of ['pay.wrenalder.example', 'shop.wrenalder.example'])
		await act('/connect/domains?/add', { domain, page: '/' });
	// one domain is proven for the wallet; the other's proof is missing, and stays so
	const fernhall = (await row('fernhall')).id;
	await act('/connect/domains?/prove', { domain: 'pay.wrenalder.example', connection: fernhall });
	// the code of Sundial Split stands on the shop's page, where its owner has put it
	const code = await (await desk.get(`/connect/domains?code=${(await row('sundial')).id}`)).text();
	const html = /<textarea[^>]*readonly[^>]*>([\s\S]*?)<\/textarea>/.exec(code)?.[1] ?? '';
	await fetch(`${world.addressOf('shop')}/edit`, {
		method: 'POST',
		headers: { 'content-type': 'application/x-www-form-urlencoded' },
		body: new URLSearchParams({
			code: html.replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&quot;', '"').replaceAll('&amp;', '&')
		})
	});
	await desk.act('/connect/domains?/look', {
		domain: 'shop.wrenalder.example',
		connection: (await row('sundial')).id
	});
	says('publishing the line-ups of the six tills, with their past');
	for (const till of TILLS) {
		const slug = slugs.get(till.name)!;
		const ids = new Map<string, string>();
		for (const version of till.versions) {
			// an offer keeps its id from version to version
			const offers = version.offers.map((offer) => {
				const name = String(offer.name);
				if (!ids.has(name)) ids.set(name, `${slug}-${ids.size + 1}`);
				return { id: ids.get(name)!, ...offer };
			});
			const text = JSON.stringify({ kind: 'line-up', format: 1, offers });
			await act(`/accept/tills/${slug}/file?/take`, { text, revision: '0' });
			await act(`/accept/tills/${slug}?/publish`, { revision: '1', reason: version.reason });
		}
		// they were published when the history says, not today
		for (const [at, version] of till.versions.entries())
			await db.run(
				`UPDATE lineup_versions SET at = ? WHERE number = ? AND till_id = (SELECT id FROM tills WHERE slug = ?)`,
				[Date.now() - version.daysAgo * DAY, at + 1, slug]
			);
		await db.run(`UPDATE tills SET created_at = ? WHERE slug = ?`, [
			Date.now() - (till.versions[0]!.daysAgo + 1) * DAY + TILLS.indexOf(till) * 60_000,
			slug
		]);
	}
	says('bringing what was received by its own methods, from the books');
	for (const [kind, id] of await offlineIds()) {
		const file = join(remembered, `books-${kind}.csv`);
		if (!remembered || !existsSync(file)) continue;
		const answer = await desk.upload(
			'/connect/files?/take',
			{ processor: `offline:${id}` },
			'file',
			`books-${kind}.csv`,
			readFileSync(file, 'utf8')
		);
		if (answer.type !== 'success') throw new Error(`books-${kind}.csv: ${JSON.stringify(answer.data)}`);
	}
	says('payers who met nothing');
	for (const [amount, reference, daysAgo] of UNMET) {
		const answer = await act('/accept/tills/web-shop/address', {
			amount,
			currency: 'CHF',
			reference,
			name: 'Reto Frei',
			mail: 'reto@payer.example',
			country: 'CH'
		});
		await desk.get(String(answer.data!.address));
		await db.run(`UPDATE unmet SET at = ? WHERE reference = ?`, [Date.now() - daysAgo * DAY, reference]);
	}
	says('orders of today, paid in several ways');
	for (const [till, order, how] of ORDERS) {
		const made = await act(`/accept/tills/${till}/address`, { country: 'BE', purpose: '', ...order });
		const address = String(made.data!.address);
		const way = await desk.way(address, how.way);
		if (how.card) {
			await desk.act(address, { way, token: await desk.token(how.card), ...TOLD });
			continue;
		}
		await desk.act(address, { way, ...TOLD });
		const [{ id, processor_id: processorId }] = (await db.rows<{ id: number; processor_id: string | null }>(
			'SELECT id, processor_id FROM payments WHERE reference = ?',
			[order.reference]
		)) as [{ id: number; processor_id: string | null }];
		if (how.approve && processorId) await world.at(how.approve, `act/${processorId}`, { act: 'approve' });
		if (how.part)
			await act(`/takings/payments/${id}?/receive`, {
				amount: how.part,
				how: 'cash',
				day: new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/Brussels' }).format(new Date()),
				note: 'paid a part at the bench',
				key: `demo-${order.reference}`
			});
	}
	// one of yesterday's payers says that nothing came
	const [claimed] = await db.rows<{ at: string }>(
		`SELECT processor_id AS at FROM payments WHERE reference = 'WA-5101' AND connection_id IS NOT NULL`
	);
	await world.at('fernhall', `act/${claimed!.at}`, { act: 'dispute', why: 'the goods did not come' });
	says('quotes, pay links, and money that nobody claims');
	await billPresent(desk);
	await until(
		'every message is sent',
		async () => (await db.rows(`SELECT 1 FROM outbox WHERE state IN ('waiting', 'sending') LIMIT 1`)).length === 0,
		60_000
	);
	await db.close();
}

/** What a till asks of whoever pays there. */
const TOLD = {
	told_name: 'Bram Peeters',
	told_street: 'Kouter 12',
	told_postcode: '9000',
	told_city: 'Gent',
	told_country: 'BE',
	told_phone: '+32 9 555 01 12'
};
interface Paid {
	readonly way: string;
	readonly card?: string;
	/** the stand-in at which the payer says yes */
	readonly approve?: string;
	/** what of it was received, where it is offline */
	readonly part?: string;
}
const payer = (name: string, mail: string) => ({ name, mail });
/** Orders that came in since the last settlement files. */
const ORDERS: readonly [till: string, order: Record<string, string>, how: Paid][] = [
	[
		'web-shop',
		{
			amount: '84.50',
			currency: 'EUR',
			reference: 'WA-5101',
			...payer('Ana Müller', 'ana@payer.example'),
			purpose: 'Strings, a set'
		},
		{ way: 'Card', card: CARDS.approved }
	],
	[
		'web-shop',
		{
			amount: '219.00',
			currency: 'EUR',
			reference: 'WA-5102',
			...payer('Lotte de Wit', 'lotte@payer.example'),
			purpose: 'Case for a viola'
		},
		{ way: 'Card', card: CARDS.declined }
	],
	[
		'web-shop',
		{
			amount: '312.00',
			currency: 'EUR',
			reference: 'WA-5103',
			...payer('Bram Peeters', 'bram@payer.example'),
			purpose: 'Bow, rehaired'
		},
		{ way: 'Credit transfer' }
	],
	[
		'lessons',
		{
			amount: '128.00',
			currency: 'EUR',
			reference: 'LE-2026-12',
			...payer('Bram Peeters', 'bram@payer.example'),
			purpose: 'Lessons in December'
		},
		{ way: 'Bank debit', approve: 'quillon' }
	],
	[
		'school-accounts',
		{
			amount: '640.00',
			currency: 'EUR',
			reference: 'SC-0417',
			...payer('Atheneum Koningin Astrid', 'office@astrid-school.example'),
			purpose: 'Setup of eight violins'
		},
		{ way: 'On account, 30 days', part: '200.00' }
	]
];
