import { z } from 'zod';
import {
	approvalProblems,
	BillContent,
	BillTo,
	hasAddress,
	inputOf,
	makeDues,
	planOf,
	sumBill,
	type BillSums,
	type Due
} from '../../core/billing';
import { AmountError, isCurrency } from '../../core/money';
import { audit, randomId } from '../access';
import { allTills, tillCurrencies } from '../accept/tills';
import { theBusiness, today } from '../connect/business';
import { db, write, type InvoiceRow, type PayerRow, type TillRow, type Tx } from '../db';
import { tell } from '../signals/live';
import { timeNow } from '../signals/clock';
import { nameOf } from './payers';
import { billSettings } from './settings';

export type DocumentKind = InvoiceRow['kind'];
export const contentOf = (row: Pick<InvoiceRow, 'content'>): BillContent => db.invoices.json.content(row.content);

/** What a payer's documents are made out to. */
export const billToOf = (payer: PayerRow | undefined): BillTo =>
	BillTo.parse(
		payer
			? {
					name: payer.name,
					company: payer.company,
					street: payer.street,
					postcode: payer.postcode,
					city: payer.city,
					country: payer.country,
					mail: payer.mail,
					taxNumber: payer.taxNumber
				}
			: {}
	);

/** The tills that invoices can be paid at: in a currency, sheets for invoices first. */
export const invoiceTills = (tills: readonly TillRow[], currency: string): TillRow[] =>
	tills
		.filter((till) => tillCurrencies(till).includes(currency))
		.sort(
			(a, b) =>
				Number(b.kind === 'invoice sheet') - Number(a.kind === 'invoice sheet') ||
				Number(a.mode === 'test') - Number(b.mode === 'test')
		);

/** The sums of a document, where they can be worked out; else why not. */
export function sumsOf(row: Pick<InvoiceRow, 'content' | 'currency'>): { sums: BillSums } | { problem: string } {
	try {
		return { sums: sumBill(inputOf(contentOf(row), row.currency)) };
	} catch (error) {
		if (!(error instanceof AmountError)) throw error;
		return { problem: error.message };
	}
}
/** The dues of a document that would be approved on a day; or why there are none. */
export function duesOf(content: BillContent, total: number, day: string): { dues: Due[] } | { problem: string } {
	try {
		return { dues: makeDues(total, planOf(content), day) };
	} catch (error) {
		if (!(error instanceof AmountError)) throw error;
		return { problem: error.message };
	}
}

/** What keeps a document from being approved, a sentence for each. */
export async function problemsOf(row: InvoiceRow, tx?: Tx): Promise<string[]> {
	const content = contentOf(row);
	const problems = approvalProblems(content, { reason: content.reason });
	const sums = sumsOf(row);
	if ('problem' in sums) return [...problems, sums.problem];
	if (content.lines.length && sums.sums.total <= 0)
		problems.push('The total is nothing: there would be nothing to pay.');
	const dues = duesOf(content, sums.sums.total, row.day || (await today()));
	if (row.kind === 'invoice' && 'problem' in dues) problems.push(dues.problem);
	const { billTo } = content;
	if (!row.payerId) problems.push('Choose the payer.');
	if (!billTo.name && !billTo.company) problems.push('Say whom it is made out to.');
	const isTaxed = content.lines.some((line) => line.category !== 'outside scope');
	if (isTaxed && (billTo.company || billTo.taxNumber) && !hasAddress(billTo))
		problems.push('An invoice to a company needs its address: street, city and country.');
	if (content.lines.some((line) => line.category === 'reverse charge') && !billTo.taxNumber)
		problems.push('A reverse charge needs the payer’s tax number.');
	const till = row.tillId ? await db.tills.one({ id: row.tillId }, tx) : undefined;
	if (row.kind !== 'credit note') {
		if (!till) problems.push('Choose the till at which it is paid.');
		else if (!tillCurrencies(till).includes(row.currency))
			problems.push(
				`${till.name} does not take ${row.currency}. Choose another till, or add the currency in its settings.`
			);
	}
	if (row.kind === 'quote' && row.until && row.until < (await today())) problems.push('Its last day has passed.');
	return problems;
}

export interface NewDraft {
	readonly kind: DocumentKind;
	readonly payerId?: string;
	readonly tillId?: string;
	readonly currency?: string;
	/** the invoice that a credit note corrects, or a document that is copied */
	readonly ofId?: number;
	readonly content?: BillContent;
}

/** Begins a draft. @returns its number here */
export async function newDraft(asked: NewDraft, by: string): Promise<number> {
	const [settings, business, tills, payer, day] = await Promise.all([
		billSettings(),
		theBusiness(),
		allTills(),
		asked.payerId ? db.payers.one({ id: asked.payerId }) : undefined,
		today()
	]);
	const given = tills.find((one) => one.id === asked.tillId);
	const currency = asked.currency || (given && tillCurrencies(given)[0]) || business.homeCurrency;
	const till = given ?? invoiceTills(tills, currency)[0];
	const content =
		asked.content ??
		BillContent.parse({
			pricing: settings.pricing,
			billTo: billToOf(payer),
			dues: { kind: 'all at once', days: settings.days },
			terms: settings.terms,
			noteFoot: settings.noteFoot,
			reason: settings.reason,
			fields: settings.fields.map((name) => ({ name, value: '' }))
		});
	const row = await write((tx) =>
		insertDraft(
			{
				kind: asked.kind,
				payerId: payer?.id ?? null,
				payerName: payer ? nameOf(payer) : '',
				tillId: till?.id ?? null,
				currency,
				content: JSON.stringify(content),
				ofId: asked.ofId ?? null,
				until: asked.kind === 'quote' ? dayAfter(day, settings.quoteDays) : '',
				createdBy: by
			},
			tx
		)
	);
	tell('bill');
	return row.id;
}
const dayAfter = (day: string, days: number) =>
	new Date(Date.parse(`${day}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);

/** Stores a draft, with its sums where they can be told. */
export async function insertDraft(row: Partial<InvoiceRow>, tx: Tx): Promise<InvoiceRow> {
	const at = timeNow();
	const told = sumsOf({ content: row.content!, currency: row.currency! });
	const sums = 'sums' in told ? told.sums : { net: 0, tax: 0, total: 0 };
	const made = await db.invoices.insert(
		{
			token: randomId(),
			state: 'draft',
			net: sums.net,
			tax: sums.tax,
			total: sums.total,
			createdAt: at,
			changedAt: at,
			...row
		},
		tx
	);
	return (await db.invoices.one({ id: made.id }, tx))!;
}

/** What the editor gives. */
export const DraftForm = z.object({
	revision: z.number().int(),
	payerId: z.string().nullable(),
	tillId: z.string().nullable(),
	currency: z.string().refine(isCurrency, 'No currency code.'),
	until: z
		.string()
		.regex(/^(\d{4}-\d{2}-\d{2})?$/)
		.default(''),
	content: BillContent
});
export type DraftForm = z.infer<typeof DraftForm>;

export type SavedDraft =
	| { readonly revision: number }
	/** somebody else changed it meanwhile */
	| { readonly conflict: string; readonly revision: number }
	| { readonly problem: string };

/** Keeps what was written. A draft that cannot be approved yet is kept as well: nothing that was typed is lost. */
export async function saveDraft(id: number, form: DraftForm, by: string): Promise<SavedDraft> {
	const answer = await write(async (tx): Promise<SavedDraft> => {
		const row = await db.invoices.one({ id }, tx);
		if (!row) return { problem: 'There is no such draft any more.' };
		if (row.state !== 'draft')
			return { problem: `It was ${row.kind === 'quote' ? 'sent' : 'approved'} meanwhile: it cannot change any more.` };
		if (row.revision !== form.revision)
			return {
				conflict:
					'Somebody else changed this draft while you wrote. Yours is not stored yet: look at theirs, or store yours over it.',
				revision: row.revision
			};
		const payer = form.payerId ? await db.payers.one({ id: form.payerId }, tx) : undefined;
		const content = JSON.stringify(form.content);
		const told = sumsOf({ content, currency: form.currency });
		const sums = 'sums' in told ? told.sums : { net: 0, tax: 0, total: 0 };
		await db.invoices.update(
			{ id },
			{
				payerId: payer?.id ?? null,
				payerName: payer ? nameOf(payer) : form.content.billTo.company || form.content.billTo.name,
				tillId: form.tillId,
				currency: form.currency,
				until: form.until,
				content,
				net: sums.net,
				tax: sums.tax,
				total: sums.total,
				askedAt: null,
				revision: row.revision + 1,
				changedAt: timeNow()
			},
			tx
		);
		void by;
		return { revision: row.revision + 1 };
	});
	tell('bill');
	return answer;
}

/** Removes a draft: it has no number, and nothing hangs on it. */
export async function removeDraft(id: number, by: string): Promise<string | undefined> {
	const problem = await write(async (tx) => {
		const row = await db.invoices.one({ id }, tx);
		if (!row) return undefined;
		if (row.state !== 'draft' || row.number) return 'Only drafts can be removed. Void it instead: its number stays.';
		await db.invoices.remove({ id }, tx);
		await audit({ by, kind: row.kind, id: String(id), name: row.payerName || 'a draft', act: 'removed a draft' }, tx);
		return undefined;
	});
	tell('bill');
	return problem;
}

/** A new draft of the same things for the same payer. @returns its number here */
export async function duplicate(id: number, by: string, kind?: DocumentKind): Promise<number | undefined> {
	const row = await db.invoices.one({ id });
	if (!row) return undefined;
	return newDraft(
		{
			kind: kind ?? (row.kind === 'credit note' ? 'invoice' : row.kind),
			payerId: row.payerId ?? undefined,
			tillId: row.tillId ?? undefined,
			currency: row.currency,
			content: contentOf(row)
		},
		by
	);
}
