import {
	fillIn,
	lastDayOfMonth,
	openLanguage,
	purposeOf,
	type Channel,
	type FillIn,
	type Mandate,
	type MessageEvent
} from '../../core/billing';
import { formatDay, inZone } from '../../core/calendar';
import { methodNameIn } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import { inFours } from '../../core/references';
import { macOf } from '../access';
import { ownAddress } from '../connect/connections';
import { theBusiness } from '../connect/business';
import {
	db,
	owedSums,
	type BusinessRow,
	type InvoiceRow,
	type OfflineMethodRow,
	type OrderRow,
	type PayerRow,
	type PaymentRow
} from '../db';
import { storedTerms } from './defaults';
import { chooseTemplate } from './templates';

/** The address at which a payer sees all that they owe: their number here, signed. */
export const owedAddress = (payerId: string): string =>
	`${ownAddress()}/owed/${payerId}.${macOf(payerId, 'payer page')}`;
export const invoiceAddress = (row: Pick<InvoiceRow, 'token'>): string => `${ownAddress()}/invoice/${row.token}`;

/** The language that a payer is written to in, and the locale that sums and days go by. */
export function languageOf(payer: Pick<PayerRow, 'language'> | undefined, business: BusinessRow, told = '') {
	const own = (business.locale || 'en').slice(0, 2);
	const language = openLanguage(told) ?? openLanguage(payer?.language ?? '') ?? openLanguage(own) ?? 'en';
	return { language, locale: language === 'en' && business.country === 'US' ? 'en-US' : LOCALES[language] };
}
const LOCALES = { en: 'en-GB', nl: 'nl-BE', fr: 'fr-BE', de: 'de-DE' } as const;

/** What a message can be about. */
export interface About {
	readonly payer?: PayerRow;
	readonly invoice?: InvoiceRow;
	readonly payment?: PaymentRow;
	readonly order?: OrderRow;
	readonly method?: OfflineMethodRow;
	/** token of the payment's own page */
	readonly token?: string;
	readonly refundMinor?: number;
	readonly paidMinor?: number;
	readonly code?: string;
	/** the name where there is no payer */
	readonly name?: string;
	/** a stored method, by what may be shown of it; `expires` is the last month of a card */
	readonly stored?: {
		readonly name: string;
		readonly expires: string;
		/** days that each debit of a mandate is told before; none where its payer begins each payment */
		readonly noticeDays?: number;
	};
	/** what a bank debit is collected by, the day on which or until which it is, and its sum where there is no payment yet */
	readonly debit?: { readonly day: string; readonly mandate: Mandate; readonly minor?: number };
}

/** Rich text as plain words. */
export const plainWords = (html: string): string =>
	html
		.replace(/<(br|\/p|\/li)\s*\/?>/gi, '\n')
		.replace(/<li[^>]*>/gi, '- ')
		.replace(/<a [^>]*href="([^"]+)"[^>]*>(.*?)<\/a>/gi, '$2 ($1)')
		.replace(/<[^>]+>/g, '')
		.replace(/&nbsp;/g, ' ')
		.replace(/&lt;/g, '<')
		.replace(/&gt;/g, '>')
		.replace(/&quot;/g, '"')
		.replace(/&#39;/g, "'")
		.replace(/&amp;/g, '&')
		.replace(/\n{3,}/g, '\n\n')
		.trim();

/** How an offline way is paid, in words, with account and reference. */
export function instructionsOf(method: OfflineMethodRow, sum: string, reference: string): string {
	const lines = [plainWords(method.instructions)];
	if (method.kind === 'credit-transfer')
		lines.push(
			[sum, method.holder, inFours(method.iban), method.bic, reference && inFours(reference)].filter(Boolean).join('\n')
		);
	return lines.filter(Boolean).join('\n\n');
}

/** Every fill-in that is known of what a message is about. */
export async function valuesFor(about: About, locale: string): Promise<Partial<Record<FillIn, string>>> {
	const business = await theBusiness();
	const details = db.business.json.details(business.details);
	const { payer, invoice, payment, order, method, token } = about;
	const say = (minor: number, currency: string) => formatAmount({ minor, currency }, locale);
	const day = (text: string) => (text ? formatDay(text, locale) : '');
	const values: Partial<Record<FillIn, string>> = {
		'payer.name': payer?.name ?? about.name ?? order?.name ?? '',
		'payer.company': payer?.company ?? '',
		'business.name': business.name,
		'business.mail': details.mail,
		'business.phone': details.phone
	};
	if (invoice) {
		const content = db.invoices.json.content(invoice.content);
		const due = (await db.invoiceDues.find({ invoiceId: invoice.id }, { order: [['n', 'ASC']] })).find(
			(one) => one.open > 0
		);
		Object.assign(values, {
			'invoice.number': invoice.number,
			'invoice.total': say(invoice.total, invoice.currency),
			'invoice.open': say(invoice.open, invoice.currency),
			'invoice.due': say(due?.open ?? invoice.open, invoice.currency),
			'invoice.due_day': day(due?.day ?? invoice.nextDue),
			'invoice.purpose': purposeOf(content.lines, openLanguage(locale) ?? 'en'),
			'invoice.link': invoiceAddress(invoice),
			'quote.number': invoice.number,
			'quote.total': say(invoice.total, invoice.currency),
			'quote.until': day(invoice.until),
			'quote.link': invoiceAddress(invoice)
		});
	}
	if (payer) {
		values['owed.link'] = owedAddress(payer.id);
		values['owed.total'] = (await owedSums(payer.id))
			.filter((one) => one.open > 0)
			.map((one) => say(one.open, one.currency))
			.join(', ');
	}
	if (payment)
		Object.assign(values, {
			'payment.amount': say(about.paidMinor ?? (payment.taken || payment.minor), payment.currency),
			'payment.method': method?.name ?? methodNameIn(payment.method, openLanguage(locale) ?? 'en'),
			'payment.day': day(inZone(new Date(payment.capturedAt ?? payment.createdAt), business.timeZone).day),
			'payment.reference': payment.reference || payment.creditorReference,
			'payment.link': token ? `${ownAddress()}/paid/${token}` : '',
			'refund.amount': say(about.refundMinor ?? payment.refunded, payment.currency)
		});
	if (order)
		Object.assign(values, {
			'order.reference': order.reference,
			'order.outside': order.outsideReference,
			'payment.reference': values['payment.reference'] ?? order.reference
		});
	if (method && payment) {
		values['method.name'] = method.name;
		values['method.instructions'] = instructionsOf(
			method,
			say(payment.minor - payment.taken, payment.currency),
			payment.creditorReference || payment.reference
		);
	}
	if (about.stored) {
		values['method.name'] = about.stored.name;
		values['method.until'] = about.stored.expires ? day(lastDayOfMonth(about.stored.expires)) : '';
		values['method.terms'] = storedTerms(openLanguage(locale) ?? 'en', about.stored.noticeDays);
	}
	if (about.debit) {
		const { reference, creditor, bank, last4 } = about.debit.mandate;
		Object.assign(values, {
			'debit.day': day(about.debit.day),
			'debit.mandate': reference,
			'debit.creditor': creditor,
			'debit.account': [bank, last4 && `···· ${last4}`].filter(Boolean).join(' '),
			...(about.debit.minor === undefined || !invoice
				? {}
				: { 'debit.amount': say(about.debit.minor, invoice.currency) })
		});
	}
	if (about.code) values['sign_in.code'] = about.code;
	return values;
}

/** A message as it will be sent. */
export async function compose(
	event: MessageEvent,
	about: About,
	asked: {
		readonly channel: Channel;
		readonly language: string;
		readonly locale: string;
		readonly brandId?: string;
		readonly variant?: string;
	}
): Promise<{ subject: string; body: string }> {
	const template = await chooseTemplate({
		event,
		brandId: asked.brandId ?? '',
		language: asked.language,
		channel: asked.channel,
		variant: asked.variant ?? about.payer?.template ?? ''
	});
	const values = await valuesFor(about, asked.locale);
	return { subject: fillIn(template.subject, values), body: fillIn(template.body, values) };
}
