import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Billed, Ordered } from '../standins/history/index.ts';
import { chance } from '../standins/history/index.ts';
import { billing, type Billing, type TypedLine } from '../tests/world/billing.ts';
import { rows } from '../tests/world/database.ts';
import { Desk } from '../tests/world/desk.ts';
import { until } from '../tests/world/index.ts';
import { CARDS } from '../tests/world/cards.ts';
import { keepMethods } from './stored.ts';

// What the business bills: its price list, its payers, eighteen months of invoices, and what is open today.

const DAY = 86_400_000;
const ZONE = 'Europe/Brussels';
const dayOf = (at: number) => new Intl.DateTimeFormat('en-CA', { timeZone: ZONE }).format(at);

/** Where a demo's clock begins so that its first invoice is still to come: the same time of day, some days before it. */
export function beginsBefore(remembered: string): number {
	const billed = JSON.parse(readFileSync(join(remembered, 'billed.json'), 'utf8')) as Billed[];
	const days = Math.ceil((Date.now() - Math.min(...billed.map((one) => one.at))) / DAY) + 3;
	const then = Date.now() - days * DAY;
	const offset = (at: number) => {
		const in_ = (timeZone: string) => Date.parse(new Date(at).toLocaleString('en-US', { timeZone }));
		return Math.round((in_(ZONE) - in_('UTC')) / 60_000) * 60_000;
	};
	return then + offset(Date.now()) - offset(then);
}

const THINGS = [
	[
		'STR-V',
		'Violin strings, one set',
		'',
		'standard 210000',
		{ EUR: '64.90', GBP: '56.00', CHF: '66.00', USD: '72.00', JPY: '10800' }
	],
	[
		'STR-A',
		'Viola strings, one set',
		'',
		'standard 210000',
		{ EUR: '84.50', GBP: '73.00', CHF: '86.00', USD: '94.00', JPY: '14000' }
	],
	['STR-C', 'Cello strings, one set', '', 'standard 210000', { EUR: '168.00', GBP: '145.00' }],
	['STR-B', 'Bass strings, orchestra set', '', 'standard 210000', { EUR: '189.00' }],
	['ROSIN-A', 'Amber rosin', '', 'standard 210000', { EUR: '12.00', GBP: '10.50', CHF: '12.50', USD: '13.50' }],
	['ROSIN-D', 'Dark rosin', '', 'standard 210000', { EUR: '14.00' }],
	['CASE-O', 'Oblong case', '', 'standard 210000', { EUR: '310.00', GBP: '268.00' }],
	['CASE-S', 'Shaped case', '', 'standard 210000', { EUR: '219.00' }],
	['REHAIR', 'Bow, rehaired', '', 'reduced 60000', { EUR: '68.00', GBP: '59.00' }],
	['SETUP-V', 'Violin, setup', '', 'reduced 60000', { EUR: '120.00', GBP: '104.00' }],
	['SETUP-B', 'Double bass, setup', '', 'reduced 60000', { EUR: '385.00' }],
	['BRIDGE', 'New bridge, fitted', '', 'reduced 60000', { EUR: '145.00' }],
	['POST', 'Soundpost, fitted', '', 'reduced 60000', { EUR: '62.00' }],
	['HOUR', 'Work at the bench', 'hour', 'reduced 60000', { EUR: '64.00', GBP: '56.00' }],
	['LESSON-30', 'Lesson of 30 minutes', '', 'exempt 0', { EUR: '32.00' }],
	['LESSON-45', 'Lesson of 45 minutes', '', 'exempt 0', { EUR: '44.00' }],
	['HIRE-V', 'Violin, hired by the month', 'month', 'standard 210000', { EUR: '24.00' }],
	['HIRE-C', 'Cello, hired by the month', 'month', 'standard 210000', { EUR: '46.00' }],
	['SHOULDER', 'Shoulder rest', '', 'standard 210000', { EUR: '49.00' }],
	['PEGS', 'Pegs, a set, fitted', '', 'reduced 60000', { EUR: '98.00' }],
	['WORKSHOP', 'Workshop: care of your bow', '', 'standard 210000', { EUR: '35.00' }],
	['POSTAGE', 'Postage and packing', '', 'standard 210000', { EUR: '6.50', GBP: '8.00' }]
] as const;

const FIRST = [
	'Bram',
	'Lotte',
	'Wout',
	'Noor',
	'Sien',
	'Jef',
	'Marie',
	'Tuur',
	'Fien',
	'Emiel',
	'Hanne',
	'Daan',
	'Elise',
	'Mats',
	'Roos'
];
const LAST = ['Peeters', 'de Wit', 'Claes', 'Maes', 'Wouters', 'Goossens', 'Lambert', 'Renard'];
const HOUSES = [
	[
		'Atheneum Koningin Astrid',
		'Greet Aerts',
		'office@astrid-school.example',
		'BE',
		'Schools',
		'Laan 4',
		'9000',
		'Gent',
		'nl',
		'offline'
	],
	[
		'Collège Sainte-Cécile',
		'Sœur Marie',
		'compta@cecile-school.example',
		'BE',
		'Schools;Orchestras',
		'Rue Haute 3',
		'1000',
		'Bruxelles',
		'fr',
		'offline'
	],
	[
		'Highfield Junior School',
		'Tom Ashby',
		'bursar@highfield-school.example',
		'GB',
		'Schools',
		'2 High Field',
		'LS1 1AA',
		'Leeds',
		'en',
		'offline'
	],
	[
		'Osaka Strings',
		'Ken Mori',
		'buy@osaka-strings.example',
		'JP',
		'Dealers',
		'1-2 Kita',
		'530-0001',
		'Osaka',
		'en',
		'online'
	],
	[
		'Geigenbau Rothe',
		'Ute Rothe',
		'kasse@rothe-geigen.example',
		'DE',
		'Dealers',
		'Am Markt 9',
		'01067',
		'Dresden',
		'de',
		'online'
	],
	['Lyon Cordes', 'Hugo Petit', 'achats@lyon-cordes.example', 'FR', 'Dealers', 'Quai 12', '69001', 'Lyon', 'fr', ''],
	[
		'Leie Chamber Orchestra',
		'An Dierckx',
		'books@leie-orchestra.example',
		'BE',
		'Orchestras',
		'Kaai 7',
		'9000',
		'Gent',
		'nl',
		''
	],
	[
		'Scheldt Youth Orchestra',
		'Pol Martens',
		'pay@scheldt-youth.example',
		'BE',
		'Orchestras',
		'Dok 1',
		'2000',
		'Antwerpen',
		'nl',
		''
	]
] as const;

/** Payers as a file tells them: houses, pupils and walk-ins. */
function payersFile(): string {
	const lines = [
		'name,mail,country,online,groups,number,company,phone,street,postcode,city,language,tax_number,prefers,channel'
	];
	HOUSES.forEach(([company, name, mail, country, groups, street, postcode, city, language, prefers], at) =>
		lines.push(
			[
				name,
				mail,
				country,
				'no',
				groups,
				`K-${1001 + at}`,
				company,
				'',
				street,
				postcode,
				city,
				language,
				country === 'BE' ? `BE0${400000000 + at * 7919}` : '',
				prefers,
				'mail'
			].join(',')
		)
	);
	lines.push('Ana Müller,ana@payer.example,DE,yes,,K-1101,,+49 351 555 01 12,Gasse 3,01067,Dresden,de,,online,mail');
	let n = 0;
	for (const last of LAST)
		for (const first of FIRST.slice(0, 7)) {
			const mail =
				first === 'Bram' && last === 'Peeters'
					? 'bram@payer.example'
					: first === 'Lotte' && last === 'de Wit'
						? 'lotte@payer.example'
						: `${first}.${last.replace(/\W/g, '')}@payer.example`.toLowerCase();
			lines.push(
				[
					`${first} ${last}`,
					mail,
					'BE',
					n % 3 ? 'yes' : '',
					n % 4 === 3 ? '' : 'Pupils',
					`K-${1200 + n}`,
					'',
					`+32 470 55 ${String(10 + (n % 80)).padStart(2, '0')} ${String(10 + ((n * 7) % 80)).padStart(2, '0')}`,
					`Kouter ${n + 1}`,
					'9000',
					'Gent',
					n % 9 === 0 ? 'fr' : 'nl',
					'',
					n % 5 === 0 ? 'offline' : '',
					n % 11 === 5 ? 'text' : 'mail'
				].join(',')
			);
			n++;
		}
	return lines.join('\n');
}

let bill: Billing;
/**
 * Price list, payers, numbers, terms, and where mail goes.
 * @param read looks into the database
 */
export async function setUpBilling(desk: Desk, read: Parameters<typeof billing>[1]): Promise<void> {
	const must = async (path: string, form: Record<string, string | string[]>) => {
		const answer = await desk.act(path, form);
		if (answer.type === 'failure' || answer.type === 'error')
			throw new Error(`${path}: ${JSON.stringify(answer.data ?? answer)}`);
	};
	bill = await billing(desk, read);
	await must('/bill/settings?/billing', {
		approval: 'on sending',
		pricing: 'with tax',
		taxName: ['Standard', 'Reduced', 'Exempt', 'Reverse charge', 'No tax'],
		taxCategory: ['standard', 'reduced', 'exempt', 'reverse charge', 'outside scope'],
		taxRate: ['21', '6', '0', '0', '0'],
		days: '14',
		quoteDays: '30',
		terms: 'Goods stay ours until they are paid.',
		noteFoot: 'Thank you for playing.',
		reason: 'Music lessons are exempt from tax.',
		accent: '#6b2d2a',
		fields: 'Instrument',
		instructions: 'all',
		placesSure: 'on',
		tellPaid: 'ilse@wrenalder.example'
	});
	for (const [code, name, unit, tax, prices] of THINGS)
		await bill.item({
			code,
			name,
			unit,
			tax,
			...Object.fromEntries(Object.entries(prices).map(([currency, price]) => [`price_${currency}`, price])),
			...(code === 'WORKSHOP' ? { stock: '12' } : {})
		});
	const taken = await desk.upload('/bill/payers?/import', {}, 'file', 'payers.csv', payersFile());
	if (taken.type !== 'success') throw new Error(`payers: ${JSON.stringify(taken.data)}`);
}

/** Lines that come to a sum: things of the price list while they fit, and work for the rest. */
function linesFor(
	minor: number,
	currency: string,
	pick: ReturnType<typeof chance>,
	items: Map<string, string>
): TypedLine[] {
	const lines: TypedLine[] = [];
	let left = minor;
	for (let n = 0; n < 3; n++) {
		const fitting = THINGS.flatMap(([code, name, , tax, prices]) => {
			const price = (prices as Record<string, string>)[currency];
			const cents = price ? Math.round(Number(price) * 100) : 0;
			return cents && cents <= left && !/^(LESSON|HIRE|WORKSHOP|HOUR)/.test(code)
				? [{ code, name, tax, price: price!, cents }]
				: [];
		});
		if (!fitting.length || pick.next() < 0.25) break;
		const one = fitting[pick.whole(0, fitting.length - 1)]!;
		const [category, rate] = one.tax.split(' ');
		lines.push({ text: one.name, price: one.price, category, rate: Number(rate), item: items.get(one.code) });
		left -= one.cents;
	}
	if (left > 0)
		lines.push({
			text: 'Work at the bench',
			price: (left / 100).toFixed(2),
			category: 'reduced',
			rate: 60_000,
			item: items.get('HOUR')
		});
	return lines;
}

/**
 * Writes, approves and sends the invoices of the past, and orders at the fair's pay link, each on its day: the demo's clock
 * goes along.
 */
export async function billPast(
	desk: Desk,
	billed: readonly Billed[],
	ordered: readonly Ordered[],
	says: (line: string) => void
): Promise<void> {
	const { world } = desk;
	const pick = chance(7);
	const payers = await rows<{ id: string; mail: string; company: string; country: string; channel: string }>(
		world,
		'SELECT id, mail, company, country, channel FROM payers ORDER BY number'
	);
	const items = new Map(
		(await rows<{ id: string; code: string }>(world, 'SELECT id, code FROM price_items')).map((row) => [
			row.code,
			row.id
		])
	);
	const schools = payers.filter((one) => /school/.test(one.mail));
	const british = payers.filter((one) => one.country === 'GB');
	const others = payers.filter((one) => !schools.includes(one));
	const tills = new Map(
		(await rows<{ name: string; slug: string }>(world, 'SELECT name, slug FROM tills')).map((row) => [
			row.name,
			row.slug
		])
	);
	const now = async () => Date.now() + Number(readFileSync(join(world.app.folder, 'demo-clock'), 'utf8'));
	/** Lets the clock go on until a day has come, which is not over. */
	const passTo = async (day: string) => {
		for (let at = dayOf(await now()); at < day; at = dayOf(await now())) {
			const days = Math.round((Date.parse(day) - Date.parse(at)) / DAY);
			const passed = await desk.act('/needs-you?/pass', { step: 'day', times: String(Math.min(days, 24)) });
			if (passed.type === 'error' || passed.type === 'failure') throw new Error(JSON.stringify(passed));
		}
	};
	let done = 0;
	let told = 0;
	const fair = fairLink(desk, pick);
	/** Sends some by one channel, in the order in which they get their numbers, and tells how far it is. */
	const send = async (ids: readonly number[], channel: string) => {
		const sent =
			ids.length > 1 && channel === 'mail'
				? await desk.act('/bill/invoices?/many', { act: 'send', id: ids.map(String) })
				: await bill.act(ids[0]!, 'send', { [channel]: 'on' });
		if (sent.type !== 'success') throw new Error(`${ids.join(', ')}: ${JSON.stringify(sent.data)}`);
		done += ids.length;
		const share = Math.floor((done / billed.length) * 10);
		if (share > told) {
			told = share;
			says(`billing the past eighteen months: ${share * 10} %`);
		}
	};
	const all = [...billed, ...ordered].sort((a, b) => a.at - b.at);
	for (let from = 0; from < all.length;) {
		const day = dayOf(all[from]!.at);
		const end = all.findIndex((one, at) => at > from && dayOf(one.at) !== day);
		const ofDay = all.slice(from, end < 0 ? all.length : end);
		from += ofDay.length;
		await passTo(day);
		// a day's invoices are written side by side, as by several people at their desks, and sent in the order of their numbers
		const written: { draft: Promise<number>; channel: string }[] = [];
		const orders: Promise<void>[] = [];
		for (const one of ofDay) {
			if ('reference' in one) {
				const order = await fair(one);
				orders.push(order());
				continue;
			}
			const payer =
				one.till === 'School accounts'
					? one.currency === 'GBP'
						? british[0]!
						: schools[pick.whole(0, 1)]!
					: others[pick.whole(0, others.length - 1)]!;
			const plan =
				one.till === 'School accounts'
					? { kind: 'all at once', days: 30 }
					: one.minor > 60_000 && pick.next() < 0.5
						? { kind: 'deposit', deposit: { ppm: 300_000 }, days: 0, rest: 30 }
						: one.minor > 40_000 && pick.next() < 0.4
							? { kind: 'instalments', count: 3, days: 14, every: 30 }
							: { kind: 'all at once', days: 14 };
			// what nobody has paid is due whole: which of it is overdue does not hang on chance
			const dues = one.isPaid || one.till === 'School accounts' ? plan : { kind: 'all at once', days: 14 };
			const draft = bill.invoice(payer.id, linesFor(one.minor, one.currency, pick, items), {
				currency: one.currency,
				till: tills.get(one.till)!,
				content: { dues }
			});
			written.push({ draft, channel: payer.channel });
		}
		const drafts = await Promise.all(written.map((one) => one.draft));
		for (let at = 0; at < drafts.length;) {
			const { channel } = written[at]!;
			const other = written.findIndex((one, n) => n > at && (channel !== 'mail' || one.channel !== channel));
			const upTo = other < 0 ? drafts.length : other;
			await send(drafts.slice(at, upTo), channel);
			at = upTo;
		}
		await Promise.all(orders);
	}
	await passTo(dayOf(Date.now()));
}

const slugOf = async (desk: Desk, location: string): Promise<string> =>
	(
		await rows<{ slug: string }>(desk.world, 'SELECT slug FROM pay_links WHERE id = ?', [
			/links\/([^?]+)/.exec(location)![1]!
		])
	)[0]!.slug;

/**
 * Orders at the pay link of each year's fair, which is made when the first payer comes; some look and leave again.
 * @returns for an order, what makes it
 */
function fairLink(desk: Desk, pick: ReturnType<typeof chance>): (one: Ordered) => Promise<() => Promise<void>> {
	const { world } = desk;
	const links = new Map<string, string>();
	return async ({ reference, at, minor }) => {
		const year = dayOf(at).slice(0, 4);
		let slug = links.get(year);
		if (!slug) {
			const [till] = await rows<{ id: string }>(world, `SELECT id FROM tills WHERE slug = 'autumn-fair'`);
			const made = await desk.act('/bill/links/new?/save', {
				tillId: till!.id,
				revision: '0',
				settings: JSON.stringify({
					title: `Our stand at the autumn fair, ${year}`,
					about: 'Say what you took with you, and pay it here.',
					currency: 'EUR',
					asksFor: 'free sum',
					free: { least: 100, most: 100_000, suggested: [] },
					asksName: 'must',
					asksMail: 'may',
					until: `${year}-10-31`
				})
			});
			if (made.type !== 'redirect') throw new Error(`the fair's link: ${JSON.stringify(made.data)}`);
			slug = await slugOf(desk, made.location!);
			links.set(year, slug);
		}
		const address = `/link/${slug}?reference=${reference}`;
		const leaves = pick.next() < 0.2;
		const name = `${FIRST[pick.whole(0, FIRST.length - 1)]!} ${LAST[pick.whole(0, LAST.length - 1)]!}`;
		return async () => {
			const hand = new Desk(world);
			await hand.get(address);
			if (leaves) await new Desk(world).get(address);
			const begun = await hand.act(`${world.app.address}${address}`, { name, sum: (minor / 100).toFixed(2) });
			if (begun.type !== 'redirect') throw new Error(`${reference}: ${JSON.stringify(begun.data)}`);
		};
	};
}

/** What is open today: quotes, a draft that waits, credit notes, a void one, part payments, pay links, money that nobody claims. */
export async function billPresent(desk: Desk): Promise<void> {
	const { world } = desk;
	const must = async (path: string, form: Record<string, string | string[]>) => {
		const answer = await desk.act(path, form);
		if (answer.type === 'failure' || answer.type === 'error')
			throw new Error(`${path}: ${JSON.stringify(answer.data ?? answer)}`);
		return answer;
	};
	const payerOf = async (mail: string) =>
		(await rows<{ id: string }>(world, 'SELECT id FROM payers WHERE mail = ?', [mail]))[0]!.id;
	const items = new Map(
		(await rows<{ id: string; code: string }>(world, 'SELECT id, code FROM price_items')).map((row) => [
			row.code,
			row.id
		])
	);
	const today = new Intl.DateTimeFormat('en-GB', { timeZone: ZONE }).format(Date.now());
	const soon = (days: number) => dayOf(Date.now() + days * DAY);
	const school = await payerOf('compta@cecile-school.example');
	const bram = await payerOf('bram@payer.example');
	const work = (text: string, price: string): TypedLine => ({ text, price, category: 'reduced', rate: 60_000 });
	await keepMethods(desk, bill);
	// quotes: one expires tomorrow, one was accepted and its deposit paid, one was declined
	for (const [mail, text, price, until] of [
		['lotte@payer.example', 'Viola, new bridge and setup', '265.00', soon(1)],
		['books@leie-orchestra.example', 'Six violins, setup', '720.00', soon(21)],
		['pay@scheldt-youth.example', 'Double bass, neck reset', '1240.00', soon(14)]
	] as const) {
		const id = await bill.invoice(await payerOf(mail), [work(text, price)], { kind: 'quote', till: 'bench', until });
		await bill.act(id, 'send', { mail: 'on' });
	}
	const accepted = await bill.invoice(bram, [work('Cello, crack repaired', '480.00')], {
		kind: 'quote',
		till: 'bench',
		until: soon(30),
		content: { dues: { kind: 'deposit', deposit: { ppm: 300_000 }, days: 0, rest: 30 } }
	});
	await bill.act(accepted, 'send', { mail: 'on' });
	const payer = new Desk(world);
	const link = `${world.app.address}/invoice/${(await bill.row(accepted)).token}`;
	await payer.get(link);
	const answered = await payer.act(`${link}?/answer`, { name: 'Bram Peeters', answer: 'accepted' });
	const paying = await payer.act(`${world.app.address}${answered.location!.split('?')[0]}?/pay`, {});
	const card = (
		await rows<{ offers: string }>(
			world,
			`SELECT offers FROM lineup_versions v JOIN tills t ON t.id = v.till_id WHERE t.slug = 'bench' AND v.state = 'published'`
		)
	)[0]!;
	const offer = (JSON.parse(card.offers) as { id: string; name: string }[]).find(
		(one) => one.name === 'Online banking'
	)!;
	await payer.act(paying.location!, { way: offer.id });
	const declined = await bill.invoice(
		await payerOf('kasse@rothe-geigen.example'),
		[work('Two bows, new wrapping', '190.00')],
		{ kind: 'quote', till: 'bench', until: soon(30) }
	);
	await bill.act(declined, 'send', { mail: 'on' });
	await bill.act(declined, 'answer', { who: 'Ute Rothe', answer: 'declined' });
	// one waits for approval, one is a draft
	const waits = await bill.invoice(
		school,
		[{ text: 'Strings for the orchestra, 24 sets', price: '1404.00', item: items.get('STR-V') }],
		{ till: 'school-accounts', content: { dues: { kind: 'all at once', days: 30 } } }
	);
	await bill.act(waits, 'ask', { revision: '1' });
	await bill.invoice(bram, [work('Bow, rehaired', '68.00')], { till: 'bench' });
	// part of one came at the bench, one is credited in part, one whole, one is void
	const open = await rows<{ id: number; total: number; number: string }>(
		world,
		`SELECT id, total, number FROM invoices WHERE kind = 'invoice' AND open > 0
		 AND id NOT IN (SELECT invoice_id FROM announced_debits) ORDER BY id`
	);
	const [first, second] = open.slice(-4);
	/** Does one act with an invoice, which has to succeed. */
	const act = async (id: number, name: string, form: Record<string, string> = {}) => {
		const answer = await bill.act(id, name, form);
		if (answer.type === 'failure' || answer.type === 'error')
			throw new Error(`${name} of ${id}: ${JSON.stringify(answer.data ?? answer)}`);
		return answer;
	};
	await act(first!.id, 'receive', {
		amount: '50.00',
		how: 'cash',
		day: today,
		note: 'at the bench',
		key: 'demo-part-0001'
	});
	for (const one of (
		await rows<{ id: number }>(world, `SELECT id FROM invoices WHERE state = 'paid' ORDER BY id DESC LIMIT 40`)
	).slice(30, 31)) {
		const note = await act(one.id, 'creditNote');
		await act(Number(/invoices\/(\d+)/.exec(note.location!)![1]), 'approve');
	}
	const whole = await act(second!.id, 'creditNote');
	await act(Number(/invoices\/(\d+)/.exec(whole.location!)![1]), 'approve');
	const wrong = await bill.invoice(school, [work('Two cellos, setup', '240.00')], { till: 'school-accounts' });
	await act(wrong, 'send', { mail: 'on' });
	await act(wrong, 'void', { reason: 'Written for the wrong school' });
	// two transfers that nobody claims, one that its reference places
	const due = await rows<{ number: string; open: number; creditor_reference: string }>(
		world,
		`SELECT number, open, creditor_reference FROM invoices WHERE open > 0 ORDER BY next_due LIMIT 3`
	);
	// they come to the account at Quillon, as a payer's bank sends them
	const came = (minor: number, words: string, from: string, iban: string) =>
		world.at('quillon', 'came', { minor, currency: 'EUR', words, from, iban });
	await came(due[0]!.open, `payment ${due[0]!.number.replace('INV-', '')}`, 'Greet Aerts', 'BE62 5100 0754 7061');
	await came(7_315, 'thank you for the lovely sound', 'J. Mertens', '');
	await came(Math.floor(due[1]!.open / 2), due[1]!.creditor_reference, 'Coll. Sainte-Cecile', 'BE43 0689 9999 9501');
	await until(
		'the three transfers are told',
		async () => (await rows(world, `SELECT 1 FROM money_details WHERE recorded_by = ''`)).length === 3
	);
	// pay links: the fair, a workshop with twelve places of which ten are taken, a gift of any sum
	await must('/bill/codes?/add', {
		code: 'STRINGS10',
		name: 'Ten per cent for pupils',
		off: '10 %',
		currency: 'EUR',
		least: '30.00',
		from: '',
		until: '',
		uses: '100',
		usesEach: '1'
	});
	const fair = (
		await rows<{ id: string; slug: string }>(world, `SELECT id, slug FROM tills WHERE slug = 'autumn-fair'`)
	)[0]!;
	const makeLink = async (settings: object) => {
		const made = await must('/bill/links/new?/save', {
			tillId: fair.id,
			revision: '0',
			settings: JSON.stringify({ currency: 'EUR', asksName: 'must', asksMail: 'must', ...settings })
		});
		return slugOf(desk, made.location!);
	};
	const goods = await makeLink({
		title: 'Autumn fair',
		about: 'Order now, and pick it up at our stand.',
		asksFor: 'goods',
		goods: ['STR-V', 'STR-A', 'ROSIN-A', 'SHOULDER'].map((code) => ({ item: items.get(code), most: 6, fixed: false })),
		takesCodes: true
	});
	const workshop = await makeLink({
		title: 'Workshop: care of your bow',
		about: 'Two hours at the bench, with coffee. Bring your bow.',
		asksFor: 'goods',
		goods: [{ item: items.get('WORKSHOP'), most: 1, fixed: true }],
		cap: 12,
		button: 'book',
		fields: [
			{
				id: 'bow',
				label: 'What do you play?',
				kind: 'choice',
				choices: ['Violin', 'Viola', 'Cello', 'Bass'],
				must: true
			}
		],
		tellsBusiness: true
	});
	await makeLink({
		title: 'A gift for young players',
		asksFor: 'free sum',
		free: { least: 500, most: 100_000, suggested: [1000, 2500, 5000] },
		button: 'donate',
		asksName: 'may',
		asksMail: 'may',
		landing: 'own words',
		landingText: 'Thank you. Somebody will play because of you.'
	});
	const buy = async (slug: string, form: Record<string, string>) => {
		const hand = new Desk(world);
		await hand.get(`/link/${slug}`);
		const begun = await hand.act(`${world.app.address}/link/${slug}`, form);
		if (begun.type !== 'redirect') throw new Error(`${slug}: ${JSON.stringify(begun.data)}`);
		await hand.act(begun.location!, {
			way: await hand.way(begun.location!, 'Card'),
			token: await hand.token(CARDS.approved)
		});
	};
	for (let n = 0; n < 10; n++)
		await buy(workshop, {
			name: `${FIRST[n]!} ${LAST[n % LAST.length]!}`,
			mail: `${FIRST[n]!.toLowerCase()}.workshop@payer.example`,
			'field-bow': ['Violin', 'Viola', 'Cello', 'Bass'][n % 4]!
		});
	for (let n = 0; n < 4; n++)
		await buy(goods, {
			name: `${FIRST[n + 3]!} ${LAST[(n + 2) % LAST.length]!}`,
			mail: `fair${n}@payer.example`,
			[`quantity-${items.get('ROSIN-A')}`]: String(n + 1),
			[`quantity-${items.get('STR-V')}`]: '1'
		});
}
