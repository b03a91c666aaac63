import { ublProblems, writeUbl } from '../../core/billing/ubl';
import { theBusiness } from '../connect/business';
import { db, type InvoiceRow } from '../db';
import { contentOf, sumsOf } from './drafts';

/** An approved invoice or credit note as UBL; or what is missing for it. */
export async function invoiceUbl(row: InvoiceRow): Promise<{ name: string; xml: string } | { problems: string[] }> {
	if (row.kind === 'quote' || row.approvedAt === null)
		return { problems: ['Only approved invoices and credit notes are written as UBL.'] };
	const business = await theBusiness();
	const details = db.business.json.details(business.details);
	const content = contentOf(row);
	const told = sumsOf(row);
	if ('problem' in told) return { problems: [told.problem] };
	const seller = {
		name: business.name,
		legalName: details.legalName || business.name,
		taxNumber: details.taxNumber,
		street: details.street,
		postcode: details.postcode,
		city: details.city,
		country: business.country,
		mail: details.mail,
		phone: details.phone
	};
	const problems = ublProblems({ seller, content });
	if (problems.length) return { problems };
	const [dues, of, method] = await Promise.all([
		db.invoiceDues.find({ invoiceId: row.id }, { order: [['n', 'ASC']] }),
		row.ofId === null ? undefined : db.invoices.one({ id: row.ofId }),
		db.offlineMethods.one({ kind: 'credit-transfer', removedAt: null })
	]);
	return {
		name: `${row.number.replace(/[^\w.-]+/g, '-')}.xml`,
		xml: writeUbl({
			kind: row.kind,
			number: row.number,
			day: row.day,
			dueDay: dues.at(-1)?.day ?? '',
			currency: row.currency,
			content,
			sums: told.sums,
			seller,
			outsideReference: row.outsideReference,
			transfer: method?.iban
				? { iban: method.iban, bic: method.bic, holder: method.holder, reference: row.creditorReference }
				: undefined,
			corrects: of && row.kind === 'credit note' ? { number: of.number, day: of.day } : undefined,
			terms: content.terms
		})
	};
}

/** Lines of documents as rows of a file, a row a line. */
export const LINE_COLUMNS = [
	'number',
	'kind',
	'day',
	'payer',
	'currency',
	'line',
	'code',
	'text',
	'quantity',
	'unit',
	'price',
	'discount',
	'tax',
	'rate',
	'line_sum',
	'pricing',
	'total',
	'placed',
	'credited',
	'open',
	'state'
] as const;
