import { openLanguage, purposeOf } from '../../core/billing';
import { formatLongDay, inZone } from '../../core/calendar';
import { formatAmount, formatNumber } from '../../core/money';
import { snapshot } from '../accept/snapshot';
import { today } from '../connect/business';
import { db, type InvoiceRow } from '../db';
import { dueNow } from './collect';
import { contentOf } from './drafts';
import { stateOfQuote } from './quotes';
import { shownSums } from './view';

/** A day as a reader's locale writes it out. */
export const longDay = (day: string, locale: string): string => (day ? formatLongDay(day, locale) : '');

/** How a till's pages look; the business's own where there is no till. */
export async function lookOf(tillId: string | null) {
	const held = await snapshot();
	const till = [...held.tills.values()].find((one) => one.row.id === tillId);
	return {
		shop: till?.settings.heading || held.business.name,
		logo: till?.settings.logo ?? '',
		colour: till?.row.colour ?? '#6b2d2a',
		test: till?.row.mode === 'test',
		languages: till?.settings.languages ?? (['en'] as const),
		canBePaid: !!till?.published
	};
}

/** A document as its payer sees it. */
export async function payerDocument(row: InvoiceRow, locale: string) {
	const day = await today();
	const content = contentOf(row);
	const say = (minor: number) => formatAmount({ minor, currency: row.currency }, locale);
	const dues = await db.invoiceDues.find({ invoiceId: row.id }, { order: [['n', 'ASC']] });
	const made = row.madeId === null ? undefined : await db.invoices.one({ id: row.madeId });
	const business = (await db.business.one({ id: 1 }))!;
	const now = row.kind === 'invoice' && row.open > 0 ? await dueNow(row, false) : 0;
	const rest = Math.max(0, row.open - row.promised);
	const debit = await db.announcedDebits.one({ invoiceId: row.id, state: 'announced' });
	return {
		kind: row.kind,
		number: row.number,
		state: row.kind === 'quote' ? stateOfQuote(row, day) : row.state,
		sum: {
			number: formatNumber(
				{ minor: row.kind === 'invoice' && row.placed > 0 ? row.open : row.total, currency: row.currency },
				locale
			),
			currency: row.currency
		},
		purpose: purposeOf(content.lines, openLanguage(locale) ?? 'en'),
		to: content.billTo.company || content.billTo.name,
		noteTop: content.noteTop,
		noteFoot: content.noteFoot,
		terms: content.terms,
		lines: shownSums(row, locale).lines.map(({ text, quantity, unit, sum }) => ({ text, quantity, unit, sum })),
		discounts: shownSums(row, locale).discounts,
		total: say(row.total),
		tax: say(row.tax),
		dues: dues.map((due) => ({
			sum: say(due.minor),
			day: longDay(due.day, locale),
			isPaid: due.open === 0,
			isLate: due.open > 0 && due.day < day
		})),
		came: row.placed > 0 ? say(row.placed) : '',
		coming: row.promised > 0 ? say(row.promised) : '',
		open: say(row.open),
		payNow: now > 0 ? say(now) : rest === 0 && row.open > 0 ? say(row.open) : '',
		payAll: rest > now && now > 0 ? say(rest) : '',
		debit: debit && { sum: say(debit.minor), day: longDay(debit.day, locale) },
		isComing: row.promised > 0 && rest === 0,
		until: longDay(row.until, locale),
		answeredBy: row.answeredBy,
		answered: row.answeredAt === null ? '' : longDay(inZone(new Date(row.answeredAt), business.timeZone).day, locale),
		made: made && { number: made.number, token: made.token }
	};
}
