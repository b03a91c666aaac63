import { quoteState, type QuoteState } from '../../core/billing';
import { audit } from '../access';
import { today } from '../connect/business';
import { db, write, type InvoiceRow } from '../db';
import { recordEvent } from '../events';
import { timeNow } from '../signals/clock';
import { approveCopy, done, type Acted } from './approve';

/** Where a quote is, on a day. */
export const stateOfQuote = (row: InvoiceRow, day: string): QuoteState =>
	quoteState(
		{
			isSent: row.sentAt !== null,
			isOpened: row.openedAt !== null,
			isAccepted: row.answer === 'accepted',
			isDeclined: row.answer === 'declined',
			until: row.until || null
		},
		day
	);

export type Answered =
	| { readonly invoice: InvoiceRow; readonly isNew: boolean }
	| { readonly declined: true }
	| { readonly problem: 'expired' | 'declined' | 'accepted' | 'not sent' | 'gone' };

/**
 * Answers a quote, by its payer or noted by staff. Accepting makes the invoice at once, of the very same lines and terms;
 * accepting twice gives the same invoice.
 * @param who whoever answered, as they gave their name
 */
export async function answerQuote(
	id: number,
	answer: 'accepted' | 'declined',
	who: string,
	by: string
): Promise<Answered> {
	const day = await today();
	return done(
		await write(async (tx): Promise<Answered> => {
			const quote = await db.invoices.one({ id, kind: 'quote' }, tx);
			if (!quote) return { problem: 'gone' };
			if (quote.answer === 'accepted') {
				const invoice = await db.invoices.one({ id: quote.madeId! }, tx);
				return answer === 'accepted' && invoice ? { invoice, isNew: false } : { problem: 'accepted' };
			}
			const state = stateOfQuote(quote, day);
			if (state === 'expired') return { problem: 'expired' };
			if (state === 'draft') return { problem: 'not sent' };
			if (quote.answer === 'declined') return answer === 'declined' ? { declined: true } : { problem: 'declined' };
			const at = timeNow();
			const answered = { answer, answeredAt: at, answeredBy: who.slice(0, 120), state: answer, changedAt: at };
			const told = { number: quote.number, by: who };
			if (answer === 'declined') {
				await db.invoices.update({ id }, answered, tx);
				await recordEvent({ kind: 'quote.declined', object: 'invoice', id, payload: told }, tx);
				await audit({ by, kind: 'quote', id: String(id), name: quote.number, act: `declined by ${who}` }, tx);
				return { declined: true };
			}
			const invoice = await approveCopy(quote, by, day, tx);
			await db.invoices.update({ id }, { ...answered, madeId: invoice.id }, tx);
			await recordEvent(
				{ kind: 'quote.accepted', object: 'invoice', id, payload: { ...told, invoice: invoice.number } },
				tx
			);
			await audit(
				{ by, kind: 'quote', id: String(id), name: quote.number, act: `accepted by ${who}: ${invoice.number}` },
				tx
			);
			return { invoice, isNew: true };
		})
	);
}

/** Says what came of an answer, to staff. */
export function sayAnswer(answered: Answered): Acted {
	if ('invoice' in answered)
		return { says: `${answered.isNew ? 'Accepted' : 'It was accepted already'}: ${answered.invoice.number}.` };
	if ('declined' in answered) return { says: 'Noted as declined.' };
	const SAYS: Readonly<Record<(typeof answered)['problem'], string>> = {
		expired: 'Its last day has passed. Duplicate it, and send it again.',
		declined: 'It was declined.',
		accepted: 'It was accepted.',
		'not sent': 'It was not sent yet.',
		gone: 'There is no such quote.'
	};
	return { problem: SAYS[answered.problem] };
}
