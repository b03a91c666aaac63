import { z } from 'zod';
import { maskInJson } from '../../../core/cards';
import { BillContent, CodeForm, ItemForm, LinkSettings } from '../../../core/billing';
import { freeText, json, oneOf, orNull, soughtText, table, text, whole, type RowOf } from '../table';

// What is billed, and what was paid onto it. Flags are 0 or 1; what holds JSON names what it may hold, and is read by `json` of its table.

const Prices = ItemForm.shape.prices;

export const priceItems = table(
	'price_items',
	{
		id: text,
		code: text,
		name: freeText,
		about: freeText,
		unit: freeText,
		category: text,
		rate: whole,
		pricing: oneOf('without tax', 'with tax'),
		prices: json(Prices),
		picture: text,
		stock: orNull(whole),
		createdAt: whole,
		removedAt: orNull(whole)
	},
	['id']
);
export type PriceItemRow = RowOf<typeof priceItems>;

export const numberSeries = table(
	'number_series',
	{
		id: text,
		brandId: text,
		kind: oneOf('invoice', 'quote', 'credit note'),
		prefix: text,
		year: oneOf('none', 'two digits', 'four digits'),
		digits: whole,
		start: whole
	},
	['id']
);
export type NumberSeriesRow = RowOf<typeof numberSeries>;

export const numberCounters = table('number_counters', { seriesId: text, year: text, next: whole }, [
	'seriesId',
	'year'
]);

export const invoices = table(
	'invoices',
	{
		id: whole,
		kind: oneOf('invoice', 'quote', 'credit note'),
		/** stands in the address at which the payer sees it */
		token: text,
		payerId: orNull(text),
		payerName: freeText,
		tillId: orNull(text),
		currency: text,
		content: { ...json(BillContent), clean: maskInJson },
		net: whole,
		tax: whole,
		total: whole,
		/** where it is, but for what the day tells: overdue is never stored */
		state: text,
		seriesId: orNull(text),
		number: soughtText,
		day: text,
		/** the last day of a quote */
		until: text,
		creditorReference: soughtText,
		outsideReference: { ...freeText, sought: true },
		outsideAt: orNull(whole),
		/** a credit note: the invoice it corrects; an invoice: the quote it came from */
		ofId: orNull(whole),
		/** a quote: the invoice that was made of it */
		madeId: orNull(whole),
		placed: whole,
		credited: whole,
		promised: whole,
		open: whole,
		/** the day of the first due that is open */
		nextDue: text,
		/** waits for approval since */
		askedAt: orNull(whole),
		askedBy: text,
		approvedAt: orNull(whole),
		approvedBy: text,
		sentAt: orNull(whole),
		openedAt: orNull(whole),
		opened: whole,
		messageAt: orNull(whole),
		heldAt: orNull(whole),
		voidAt: orNull(whole),
		voidReason: freeText,
		writtenOffAt: orNull(whole),
		answer: oneOf('', 'accepted', 'declined'),
		answeredAt: orNull(whole),
		answeredBy: freeText,
		revision: whole,
		createdBy: text,
		createdAt: whole,
		changedAt: whole
	},
	['id'],
	true
);
export type InvoiceRow = RowOf<typeof invoices>;

export const invoiceDues = table(
	'invoice_dues',
	{ invoiceId: whole, n: whole, day: text, currency: text, minor: whole, credited: whole, paid: whole, open: whole },
	['invoiceId', 'n']
);
export type InvoiceDueRow = RowOf<typeof invoiceDues>;

export const places = table(
	'places',
	{
		id: whole,
		paymentId: whole,
		invoiceId: whole,
		/** below zero where it takes from an earlier one */
		minor: whole,
		ofId: orNull(whole),
		why: freeText,
		byUser: text,
		at: whole
	},
	['id'],
	true
);
export type PlaceRow = RowOf<typeof places>;

export const moneyDetails = table(
	'money_details',
	{
		paymentId: whole,
		text: freeText,
		payerName: freeText,
		iban: freeText,
		recordedBy: text,
		setAsideAt: orNull(whole),
		setAsideBy: text,
		setAsideReason: freeText
	},
	['paymentId']
);
export type MoneyDetailsRow = RowOf<typeof moneyDetails>;

export const orderClaims = table(
	'order_claims',
	{
		orderId: whole,
		kind: oneOf('invoice', 'owed', 'link'),
		invoiceId: orNull(whole),
		/** for what is owed: the invoices that were chosen; all of them where there is none */
		invoiceIds: json(z.array(z.number().int()), '[]'),
		payerId: orNull(text),
		linkId: orNull(text),
		code: text,
		payerMail: text
	},
	['orderId']
);
export type OrderClaimRow = RowOf<typeof orderClaims>;

export const discountCodes = table(
	'discount_codes',
	{ code: text, form: json(CodeForm), createdAt: whole, endedAt: orNull(whole) },
	['code']
);
export type DiscountCodeRow = RowOf<typeof discountCodes>;

export const payLinks = table(
	'pay_links',
	{
		id: text,
		slug: text,
		name: freeText,
		tillId: text,
		settings: json(LinkSettings),
		revision: whole,
		createdAt: whole,
		changedAt: whole,
		closedAt: orNull(whole)
	},
	['id']
);
export type PayLinkRow = RowOf<typeof payLinks>;

export const payLinkVersions = table(
	'pay_link_versions',
	{ linkId: text, revision: whole, settings: json(LinkSettings), byUser: text, at: whole },
	['linkId', 'revision']
);
export type PayLinkVersionRow = RowOf<typeof payLinkVersions>;

export const payLinkDays = table('pay_link_days', { linkId: text, day: text, visits: whole, starts: whole }, [
	'linkId',
	'day'
]);
export type PayLinkDayRow = RowOf<typeof payLinkDays>;

/** What was told of things that changed, for outgoing hooks. */
export const events = table(
	'events',
	{
		id: whole,
		kind: text,
		objectKind: text,
		objectId: text,
		at: whole,
		payload: { ...json(z.record(z.string(), z.unknown())), clean: maskInJson }
	},
	['id'],
	true
);
export type EventRow = RowOf<typeof events>;
export const eventReaders = table('event_readers', { name: text, done: whole }, ['name']);
