import type { z } from 'zod';
import { BillContent, LineForm } from '../../core/billing';
import { allTills, tillCurrencies } from '../accept/tills';
import { approve, setOutside } from '../bill/approve';
import { send } from '../bill/collect';
import { billToOf, contentOf, newDraft, saveDraft } from '../bill/drafts';
import { priceList } from '../bill/prices';
import { billSettings } from '../bill/settings';
import { db, pageOfInvoices, type InvoiceRow } from '../db';
import { invoiceAddress } from '../messages';
import { notFound, Problem } from './problem';
import type * as schemas from './schemas';

type Shown = z.output<typeof schemas.Invoice>;

async function show(row: InvoiceRow): Promise<Shown> {
	const [dues, tills] = await Promise.all([
		db.invoiceDues.find({ invoiceId: row.id }, { order: [['n', 'ASC']] }),
		allTills()
	]);
	const content = contentOf(row);
	return {
		invoice: String(row.id),
		number: row.number,
		state: row.state as Shown['state'],
		payer: row.payerId,
		payerName: row.payerName,
		till: tills.find((one) => one.id === row.tillId)?.slug ?? null,
		currency: row.currency,
		day: row.day || null,
		pricing: content.pricing,
		lines: content.lines.map(({ text, quantity, unit, price, category, rate }) => ({
			text,
			quantity,
			unit,
			price,
			tax: category,
			ratePpm: rate
		})),
		netMinor: row.net,
		taxMinor: row.tax,
		totalMinor: row.total,
		placedMinor: row.placed,
		creditedMinor: row.credited,
		promisedMinor: row.promised,
		openMinor: row.open,
		dues: dues.map((due) => ({ day: due.day, minor: due.minor, openMinor: due.open })),
		creditorReference: row.creditorReference,
		outsideReference: row.outsideReference,
		address: row.state === 'draft' ? null : invoiceAddress(row)
	};
}

/** Invoices, the newest first. @param cursor `next` of the page before */
export async function listInvoices(asked: {
	state?: string;
	payer?: string;
	text?: string;
	cursor?: string;
}): Promise<z.output<typeof schemas.Invoices>> {
	const cursor = asked.cursor === undefined ? undefined : Number(asked.cursor);
	if (cursor !== undefined && !Number.isSafeInteger(cursor))
		throw new Problem(400, 'Broken request', '“cursor” is what `next` of the page before said.');
	const { rows, next } = await pageOfInvoices({
		kind: 'invoice',
		...(asked.state ? { states: [asked.state] } : {}),
		...(asked.payer ? { payerId: asked.payer } : {}),
		...(asked.text ? { text: asked.text } : {}),
		...(cursor === undefined ? {} : { after: { key: '', id: cursor } })
	});
	return { invoices: await Promise.all(rows.map(show)), next: next ? String(next.id) : null };
}

async function found(id: string | undefined): Promise<InvoiceRow> {
	const number = Number(id);
	const row = Number.isSafeInteger(number) ? await db.invoices.one({ id: number, kind: 'invoice' }) : undefined;
	if (!row) throw notFound('There is no such invoice.');
	return row;
}
/** One invoice. @throws Problem 404 */
export const readInvoice = async (id: string | undefined): Promise<Shown> => show(await found(id));

/** Writes an invoice, and approves or sends it where that is asked. @throws Problem 422 for a payer, till or line that cannot be */
export async function writeInvoice(given: z.output<typeof schemas.InvoicePost>, by: string): Promise<Shown> {
	const wrong = (pointer: string, detail: string) =>
		new Problem(422, 'Not as described', detail, [{ pointer, detail }]);
	const payer = await db.payers.one({ id: given.payer, removedAt: null });
	if (!payer) throw wrong('/payer', 'There is no such payer.');
	const till = (await allTills()).find((one) => one.slug === given.till);
	if (!till) throw wrong('/till', 'There is no such till.');
	if (!tillCurrencies(till).includes(given.currency))
		throw wrong('/currency', `${till.name} does not take ${given.currency}.`);
	const [settings, items] = await Promise.all([billSettings(), priceList()]);
	const lines = given.lines.map((line, at): LineForm => {
		const item = line.code ? items.find((one) => one.code === line.code) : undefined;
		if (line.code && !item) throw wrong(`/lines/${at}/code`, `Nothing on the price list has the code ${line.code}.`);
		const price = line.price ?? item?.prices.find((one) => one.currency === given.currency)?.price;
		const text = line.text ?? item?.name;
		if (price === undefined || text === undefined)
			throw wrong(
				`/lines/${at}`,
				'A line has a text and a price, or a code of the price list with a price in this currency.'
			);
		return LineForm.parse({
			text,
			quantity: line.quantity ?? '1',
			unit: line.unit ?? item?.unit ?? '',
			price,
			category: line.tax ?? item?.category ?? 'standard',
			rate: line.ratePpm ?? item?.rate ?? 0,
			...(item ? { item: item.id } : {})
		});
	});
	const id = await newDraft({ kind: 'invoice', payerId: payer.id, tillId: till.id, currency: given.currency }, by);
	const content = BillContent.parse({
		pricing: given.pricing ?? settings.pricing,
		lines,
		billTo: billToOf(payer),
		dues: { kind: 'all at once', days: given.days ?? settings.days },
		terms: settings.terms,
		noteFoot: settings.noteFoot,
		reason: given.reason ?? settings.reason
	});
	const saved = await saveDraft(
		id,
		{ revision: 0, payerId: payer.id, tillId: till.id, currency: given.currency, until: '', content },
		by
	);
	if (!('revision' in saved) || 'conflict' in saved)
		throw new Problem(409, 'Changed meanwhile', 'The draft was changed at the same time.');
	if (given.outsideReference) await setOutside(id, given.outsideReference, by);
	const answer = given.send?.length
		? await send(id, { channels: given.send }, by)
		: given.approve
			? await approve(id, undefined, by)
			: undefined;
	if (answer && 'problem' in answer) throw new Problem(409, 'Not done', `It stays a draft: ${answer.problem}`);
	return readInvoice(String(id));
}

/** Things and charges of the price list. */
export const listPrices = async (): Promise<z.output<typeof schemas.PriceList>> => ({
	things: (await priceList()).map((one) => ({
		code: one.code,
		name: one.name,
		unit: one.unit,
		tax: one.category,
		ratePpm: one.rate,
		pricing: one.pricing,
		prices: one.prices.map(({ currency, price }) => ({ currency, price })),
		stock: one.stock
	}))
});
