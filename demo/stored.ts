import { TEST_CARDS } from '../standins/shared/cards.ts';
import type { Billing, TypedLine } from '../tests/world/billing.ts';
import { rows } from '../tests/world/database.ts';
import { Desk } from '../tests/world/desk.ts';

// Payers who let a processor keep their card or account: at a payment, in their own browser, as everybody does.

const cardOf = (scheme: string, funding: string): string =>
	TEST_CARDS.find((one) => one.scheme === scheme && one.funding === funding && one.outcome === 'approved')!.number;
/** The month that it is, as card fields write it. */
const thisMonth = (): string => {
	const now = new Date();
	return `${String(now.getMonth() + 1).padStart(2, '0')}/${String(now.getFullYear()).slice(2)}`;
};

interface Keeps {
	readonly mail: string;
	readonly till: string;
	readonly line: TypedLine;
	/** the card that is given, with the month in which it ends; a bank debit where there is none */
	readonly card?: readonly [number: string, expiry: string];
	readonly iban?: string;
	/** what they pay afterwards by what is kept */
	readonly again?: TypedLine;
	/** what is billed afterwards and collected by the mandate, announced now */
	readonly collected?: TypedLine;
}
const shop = (text: string, price: string): TypedLine => ({ text, price, category: 'standard', rate: 210_000 });
const bench = (text: string, price: string): TypedLine => ({ text, price, category: 'reduced', rate: 60_000 });
const lesson = (text: string, price: string): TypedLine => ({ text, price, category: 'exempt', rate: 0 });

const ALL: readonly Keeps[] = [
	{
		mail: 'lotte@payer.example',
		till: 'web-shop',
		line: shop('Viola strings, one set', '84.50'),
		card: [cardOf('corvid', 'credit'), '04/29'],
		again: shop('Dark rosin', '14.00')
	},
	{
		mail: 'marie.maes@payer.example',
		till: 'web-shop',
		line: shop('Shoulder rest', '49.00'),
		card: [cardOf('mainsail', 'debit'), '11/28']
	},
	{
		mail: 'wout.dewit@payer.example',
		till: 'web-shop',
		line: shop('Violin strings, one set', '64.90'),
		card: [cardOf('tessel', 'debit'), thisMonth()]
	},
	{
		mail: 'bram@payer.example',
		till: 'lessons',
		line: lesson('Lessons of 45 minutes in November', '176.00'),
		iban: 'BE68 5390 0754 7034',
		again: lesson('Lessons of 45 minutes in December', '132.00')
	},
	{
		mail: 'sien.peeters@payer.example',
		till: 'lessons',
		line: lesson('Lessons of 30 minutes in November', '128.00'),
		iban: 'BE43 0689 9999 9501',
		collected: lesson('Lessons of 30 minutes in December', '96.00')
	},
	{
		mail: 'noor.claes@payer.example',
		till: 'bench',
		line: bench('Bow, rehaired', '68.00'),
		card: [cardOf('corvid', 'debit'), '08/28']
	}
];

export async function keepMethods(desk: Desk, bill: Billing): Promise<void> {
	const { world } = desk;
	for (const { mail, till, line, card, iban, again, collected } of ALL) {
		const [payer] = await rows<{ id: string; name: string }>(world, 'SELECT id, name FROM payers WHERE mail = ?', [
			mail
		]);
		const { view } = await desk.data<{ view: { link: string } }>(`/bill/payers/${payer!.id}`);
		const hand = new Desk(world);
		const told = {
			told_name: payer!.name,
			told_street: 'Kouter 12',
			told_postcode: '9000',
			told_city: 'Gent',
			told_country: 'BE'
		};
		const sent = async (one: TypedLine): Promise<number> => {
			const id = await bill.invoice(payer!.id, [one], { till });
			await bill.act(id, 'send', { mail: 'on' });
			return id;
		};
		const owe = async (one: TypedLine): Promise<string> => {
			const id = await sent(one);
			const paying = await hand.act(`${view.link}?/pay`, { currency: 'EUR', invoice: String(id) });
			if (!paying.location) throw new Error(`${mail}: ${JSON.stringify(paying)}`);
			return paying.location;
		};
		const first = await owe(line);
		// an offer has its name in the payer's language
		const method = card ? 'card' : 'bank-debit';
		const way = (
			await hand.data<{ ways: { id: string; method: string }[] }>(first.replace(world.app.address, ''))
		).ways.find((one) => one.method === method)!.id;
		const begun = await hand.act(first, {
			...told,
			way,
			keep: 'yes',
			...(card ? { token: await tokenAt(desk, till === 'bench' ? 'brackwater' : 'fernhall', ...card) } : {})
		});
		if (iban) {
			const signed = await fetch(begun.location!, {
				method: 'POST',
				body: new URLSearchParams({ act: 'approve', iban }),
				redirect: 'manual'
			});
			await hand.get(signed.headers.get('location')!);
		}
		if (collected) await announce(desk, bill, await sent(collected));
		if (!again) continue;
		const second = await owe(again);
		const { open } = await hand.data<{ open: string }>(second.replace(world.app.address, ''));
		const paid = await hand.act(second, { ...told, way: open });
		if (paid.type !== 'redirect') throw new Error(`${mail}: ${JSON.stringify(paid)}`);
	}
}

/** Tells a payer that an invoice is collected by their mandate. */
async function announce(desk: Desk, bill: Billing, id: number): Promise<void> {
	const { view } = await desk.data<{ view: { collectables: { storedId: number; day: string; minor: number }[] } }>(
		`/bill/invoices/${id}`
	);
	const { storedId, day, minor } = view.collectables[0]!;
	const told = await bill.act(id, 'debit', { storedId: String(storedId), day, minor: String(minor) });
	if (told.type !== 'success') throw new Error(JSON.stringify(told));
}

/** A token of the card fields of a processor, as a payer's browser gets one. */
async function tokenAt(
	desk: Desk,
	processor: 'fernhall' | 'brackwater',
	number: string,
	expiry: string
): Promise<string> {
	const { world } = desk;
	const key = await world.keyOf(processor, processor === 'fernhall' ? 'public' : 'number', 'live');
	const answer = await fetch(`${world.addressOf(processor)}/fields/token`, {
		method: 'POST',
		headers: { 'content-type': 'application/json' },
		body: JSON.stringify({ key, number, expiry, code: '123' })
	});
	const { token, text } = (await answer.json()) as { token?: string; text?: string };
	if (!token) throw new Error(`${processor}: ${text}`);
	return token;
}
