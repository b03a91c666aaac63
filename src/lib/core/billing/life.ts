import type { Day } from '../calendar';
import type { Standing } from './dues';

export const INVOICE_STATES = ['draft', 'approved', 'sent', 'part paid', 'paid', 'void', 'written off'] as const;
export type InvoiceState = (typeof INVOICE_STATES)[number];

/** What is stored of an invoice's life; all else follows from it, from its dues and the day. */
export interface InvoiceFacts {
	readonly isApproved: boolean;
	readonly isSent: boolean;
	readonly isVoid: boolean;
	readonly isWrittenOff: boolean;
	/** money placed on it */
	readonly placed: number;
	/** money for it that is on its way, such as a bank debit that is not settled */
	readonly promised: number;
}
export interface InvoiceLife {
	readonly state: InvoiceState;
	/** something that is due was not paid: derived from the day, never stored */
	readonly isOverdue: boolean;
	readonly isPromised: boolean;
	/** days since the oldest open due; 0 where none is past */
	readonly daysOver: number;
	/** the next due that is open */
	readonly next?: { readonly day: Day; readonly minor: number };
}

/** Where an invoice is in its life. @param today in the business's time zone */
export function lifeOf(facts: InvoiceFacts, { dues, open }: Standing, today: Day): InvoiceLife {
	const isOpen = facts.isApproved && !facts.isVoid && !facts.isWrittenOff && open > 0;
	const late = isOpen ? dues.filter((due) => due.open > 0 && due.day < today) : [];
	const next = isOpen ? dues.find((due) => due.open > 0) : undefined;
	const state: InvoiceState = facts.isVoid
		? 'void'
		: facts.isWrittenOff
			? 'written off'
			: !facts.isApproved
				? 'draft'
				: open === 0
					? 'paid'
					: facts.placed > 0
						? 'part paid'
						: facts.isSent
							? 'sent'
							: 'approved';
	return {
		state,
		isOverdue: late.length > 0,
		isPromised: isOpen && facts.promised > 0,
		daysOver: late.length ? Math.round((Date.parse(today) - Date.parse(late[0]!.day)) / 86_400_000) : 0,
		...(next ? { next: { day: next.day, minor: next.open } } : {})
	};
}

export const QUOTE_STATES = ['draft', 'sent', 'opened', 'accepted', 'declined', 'expired'] as const;
export type QuoteState = (typeof QUOTE_STATES)[number];
/** Where a quote is. It expires at the end of its day, unless it was answered. */
export function quoteState(
	facts: {
		readonly isSent: boolean;
		readonly isOpened: boolean;
		readonly isAccepted: boolean;
		readonly isDeclined: boolean;
		readonly until: Day | null;
	},
	today: Day
): QuoteState {
	if (facts.isAccepted) return 'accepted';
	if (facts.isDeclined) return 'declined';
	if (facts.until !== null && facts.until < today) return 'expired';
	if (facts.isOpened) return 'opened';
	return facts.isSent ? 'sent' : 'draft';
}

/** How the numbers of a series are written. */
export interface NumberPattern {
	readonly prefix: string;
	/** with it, numbers begin again each year */
	readonly year: 'none' | 'two digits' | 'four digits';
	readonly digits: number;
}
/** The years by which a series counts: one for all where its numbers have no year. */
export const countingYear = ({ year }: NumberPattern, day: Day): string => (year === 'none' ? '' : day.slice(0, 4));

/** A number of a series as it is written: `INV-2026-0042`. @param n from 1, or where the administrator begins */
export function numberText({ prefix, year, digits }: NumberPattern, day: Day, n: number): string {
	const y = year === 'none' ? '' : `${year === 'two digits' ? day.slice(2, 4) : day.slice(0, 4)}-`;
	return `${prefix}${y}${String(n).padStart(digits, '0')}`;
}
