import { z } from 'zod';
import { addDays, type Day } from '../calendar';
import type { ReportedCard } from '../cards';
import type { Method } from '../lineup';

// Methods that a payer lets a processor keep: a token with what may be shown, never a number.

/** What a payer agreed to when a method was kept: the words they saw, when, and from which address on the network. */
export const Consent = z.object({
	words: z.string(),
	/** of the words; it changes when they do */
	version: z.string(),
	language: z.string(),
	/** milliseconds since 1970 */
	at: z.number().int(),
	address: z.string(),
	/** of a mandate: debits may be begun by the business, each told so many days before; none where the payer begins each */
	noticeDays: z.number().int().optional()
});
export type Consent = z.infer<typeof Consent>;
/** The version of the words by which payers agree. Whoever changes the words changes this. */
export const CONSENT_VERSION = '2026-12';

/** By what a bank debit may be collected. The account is known by its end alone. */
export const Mandate = z.object({
	reference: z.string().min(1),
	/** who collects, as the payer's statement names them */
	creditor: z.string(),
	bank: z.string().default(''),
	/** the last four signs of the account */
	last4: z.string().default(''),
	/** milliseconds since 1970 */
	signedAt: z.number().int(),
	use: z.enum(['one time', 'recurring'])
});
export type Mandate = z.infer<typeof Mandate>;

export interface StoredFacts {
	readonly method: Method;
	readonly state: 'active' | 'suspended' | 'ended';
	/** the last month of a card, `YYYY-MM`; empty where it has none */
	readonly expires: string;
	/** the day it was used last, or stored */
	readonly lastUsed: Day;
}

/** The last day of a month, `2028-02` → `2028-02-29`. */
export const lastDayOfMonth = (month: string): Day => {
	const [year, number] = month.split('-').map(Number) as [number, number];
	return new Date(Date.UTC(year, number, 0)).toISOString().slice(0, 10);
};

/** A mandate that is not used for so long ends. */
export const MANDATE_MONTHS = 36;
/** So many days before a card ends, its payer is asked to renew it. */
export const RENEWAL_DAYS = 30;

/** The same day so many months later; the last of the month where that day does not exist. */
export function addMonths(day: Day, count: number): Day {
	const [year, month, date] = day.split('-').map(Number) as [number, number, number];
	const at = year * 12 + (month - 1) + count;
	const last = lastDayOfMonth(`${Math.floor(at / 12)}-${String((at % 12) + 1).padStart(2, '0')}`);
	return `${last.slice(0, 8)}${String(Math.min(date, Number(last.slice(8)))).padStart(2, '0')}`;
}

/**
 * Why a stored method has come to its end by itself, or nothing. A card is good to the last day of its month; a mandate
 * ends once it was not used for 36 months.
 */
export function whyOver({ method, expires, lastUsed }: StoredFacts, today: Day): 'expired' | 'unused' | undefined {
	if (expires && today > lastDayOfMonth(expires)) return 'expired';
	if (method === 'bank-debit' && today >= addMonths(lastUsed, MANDATE_MONTHS)) return 'unused';
	return undefined;
}

/** Whether it can be paid by today. */
export const isUsable = (one: StoredFacts, today: Day): boolean => one.state === 'active' && !whyOver(one, today);

/** Whether its payer is asked to renew it: from thirty days before a card's last day to that day. */
export function isRenewalDue(one: StoredFacts, today: Day): boolean {
	if (!one.expires || !isUsable(one, today)) return false;
	return today >= addDays(lastDayOfMonth(one.expires), -RENEWAL_DAYS);
}

/** The months whose cards are asked to be renewed today: this one, and the next where its last day is that near. */
export function renewalMonths(today: Day): { readonly from: string; readonly to: string } {
	const from = today.slice(0, 7);
	const next = addDays(lastDayOfMonth(from), 1).slice(0, 7);
	return { from, to: lastDayOfMonth(next) <= addDays(today, RENEWAL_DAYS) ? next : from };
}

/** What may be shown of a stored method: `Corvid 1108`, `BE bank 6769`. */
export function storedName(
	one: { readonly method: Method; readonly card?: ReportedCard; readonly mandate?: Mandate },
	schemeNames: Readonly<Record<string, string>>
): string {
	if (one.mandate) return [one.mandate.bank, one.mandate.last4].filter(Boolean).join(' ') || one.mandate.reference;
	const scheme = one.card?.scheme && one.card.scheme !== 'unknown' ? one.card.scheme : '';
	return [schemeNames[scheme] ?? scheme, one.card?.last4 ?? ''].filter(Boolean).join(' ');
}

/** The order in which a payer sees them: the default one first, then the one used last. */
export const byUse = <T extends { readonly isDefault: boolean; readonly usedAt: number; readonly id: number }>(
	all: readonly T[]
): T[] => [...all].sort((a, b) => Number(b.isDefault) - Number(a.isDefault) || b.usedAt - a.usedAt || b.id - a.id);
