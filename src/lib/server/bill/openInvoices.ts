import { pageOfInvoices, type InvoiceRow } from '../db';

/** Open invoices of a payer in a currency, the oldest due first. */
export const openOfPayer = async (payerId: string, currency: string): Promise<InvoiceRow[]> =>
	(await pageOfInvoices({ kind: 'invoice', isOpen: true, payerId, currency })).rows;
/** Open invoices whose number, outside reference or payer begins like a text. */
export const openByNumbers = async (text: string, currency: string): Promise<InvoiceRow[]> =>
	(await pageOfInvoices({ kind: 'invoice', isOpen: true, text: text.trim(), currency })).rows;
