import { formatDay, inZone } from '../../core/calendar';
import { methodNameIn } from '../../core/lineup';
import { formatAmount, formatNumber } from '../../core/money';
import { theBusiness } from '../connect/business';
import { db, placesOfPayment, type OrderRow, type PaymentRow } from '../db';
import { readTold } from '../payments/orders';
import { languageOf } from '../messages';
import { makePdf, QUIET, type PdfCell } from '../pdf';
import { billSettings } from './settings';
import { documentWords } from './words';

/** The receipt of a payment as a PDF: what came, by which way, for what, and what of it went back. */
export async function receiptPdf(payment: PaymentRow, order: OrderRow | undefined): Promise<Buffer> {
	const [business, settings, standing] = await Promise.all([
		theBusiness(),
		billSettings(),
		placesOfPayment(payment.id)
	]);
	const payer = payment.payerId ? await db.payers.one({ id: payment.payerId }) : undefined;
	const told = readTold(order?.more);
	const { language, locale } = languageOf(payer, business, told.language);
	const w = documentWords(language);
	const details = db.business.json.details(business.details);
	const invoices = standing.length ? await db.invoices.find({ id: standing.map((one) => one.invoiceId) }) : [];
	const say = (minor: number) => formatNumber({ minor, currency: payment.currency }, locale);
	const day = formatDay(inZone(new Date(payment.capturedAt ?? payment.createdAt), business.timeZone).day, locale);
	const right = (text: string): PdfCell => ({ text, right: true });
	return makePdf(
		{
			title: `${w.receipt} ${payment.reference}, ${business.name}`,
			language: locale,
			foot: [business.name, details.taxNumber, details.mail].filter(Boolean).join(' · ')
		},
		(out) => {
			const accent = settings.accent || '#6b2d2a';
			out.say('P', business.name, { size: 13, bold: true, color: accent, gap: 10 });
			out.say('H1', `${w.receipt} ${payment.reference || payment.creditorReference}`, {
				size: 20,
				bold: true,
				color: accent
			});
			out.say(
				'P',
				`${w.received} ${formatAmount({ minor: payment.taken, currency: payment.currency }, locale)}, ${day}, ${w.by} ${methodNameIn(payment.method, language)}`,
				{ size: 11, gap: 10 }
			);
			if (order?.name) out.say('P', `${w.to} ${order.name}`, { gap: 8 });
			const lines = (told.lines ?? []).map((line): PdfCell[] => [
				{ text: line.name },
				right(String(line.quantity)),
				right(say(line.amountMinor))
			]);
			const parts = standing.map((one): PdfCell[] => [
				{ text: `${w.invoice} ${invoices.find((row) => row.id === one.invoiceId)?.number ?? ''}` },
				right(''),
				right(say(one.left))
			]);
			out.table(
				[5, 1, 1.6],
				[
					[
						{ text: w.what, bold: true },
						{ text: w.quantity, right: true, bold: true },
						{ text: w.sum, right: true, bold: true }
					],
					...(parts.length
						? parts
						: lines.length
							? lines
							: [
									[
										{ text: order?.purpose || payment.reference },
										right('1'),
										right(say(payment.taken - payment.gratuity))
									]
								]),
					...(payment.gratuity ? [[{ text: '+' }, right(''), right(say(payment.gratuity))]] : []),
					...(payment.refunded ? [[{ text: '−' }, right(''), right(say(-payment.refunded))]] : []),
					[
						{ text: w.total, bold: true },
						right(''),
						{
							text: formatAmount({ minor: payment.taken - payment.refunded, currency: payment.currency }, locale),
							right: true,
							bold: true
						}
					]
				]
			);
			out.gap(8);
			if (settings.noteFoot) out.say('P', settings.noteFoot, { size: 8, color: QUIET });
		}
	);
}
