import { createEvents, type EventAttributes } from 'ics';
import { addBankDays, calendarNamed, inZone, type Day } from '../../core/calendar';
import { methodName } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import type { Certainty, FulfilPolicy } from '../../core/stages';
import { snapshot } from '../accept/snapshot';
import { awaitedPayments } from '../db';
import { certaintyOfPayment } from '../payments/certain';
import { timeNow } from '../signals/clock';

/** Money that is waited for: payments of one day and connection, and what they come to. */
export interface AwaitedDay {
	readonly day: Day;
	readonly isLate: boolean;
	readonly payments: readonly AwaitedPayment[];
	/** sums as they are shown, a currency each */
	readonly sums: readonly string[];
}
export interface AwaitedPayment {
	readonly id: number;
	readonly reference: string;
	readonly payer: string;
	readonly amount: string;
	readonly method: string;
	readonly route: string;
	readonly stage: string;
	readonly certainty: Certainty;
}

interface Gathered {
	readonly payments: AwaitedPayment[];
	readonly sums: Map<string, number>;
	readonly isLate: boolean;
}

/** So many payments are listed one by one; what lies beyond them is told. */
const LISTED = 2_000;

/** What is waited for by day: agreed or captured, and not yet with the bank. Late days stand first. */
export async function awaitedDays(locale: string): Promise<{ days: AwaitedDay[]; more: boolean; debits: number }> {
	const [held, rows] = await Promise.all([snapshot(), awaitedPayments(LISTED + 1)]);
	const policies = new Map([...held.tills.values()].map(({ row }) => [row.id, row.fulfil as FulfilPolicy]));
	const byDay = new Map<Day, Gathered>();
	let debits = 0;
	for (const row of rows.slice(0, LISTED)) {
		const connection = held.connections.get(row.connectionId!);
		if (!connection) continue;
		const certainty = certaintyOfPayment(row, connection, policies.get(row.tillId ?? '') ?? 'when settled', locale);
		if (!certainty.expected) continue;
		if (row.method === 'bank-debit') debits++;
		const today = inZone(new Date(timeNow()), connection.timeZone).day;
		const of: Gathered = byDay.get(certainty.expected) ?? {
			payments: [],
			sums: new Map(),
			isLate: certainty.expected < today
		};
		byDay.set(certainty.expected, of);
		const minor = row.taken || row.minor;
		of.sums.set(row.currency, (of.sums.get(row.currency) ?? 0) + minor - row.refunded);
		of.payments.push({
			id: row.id,
			reference: row.reference || row.processorId || String(row.id),
			payer: row.payerName || row.payerMail,
			amount: formatAmount({ minor, currency: row.currency }, locale),
			method: methodName(row.method),
			route: connection.name,
			stage: row.stage,
			certainty
		});
	}
	return {
		more: rows.length > LISTED,
		debits,
		days: [...byDay]
			.sort(([a], [b]) => (a < b ? -1 : 1))
			.map(([day, one]) => ({
				day,
				isLate: one.isLate,
				payments: one.payments,
				sums: [...one.sums].map(([currency, minor]) => formatAmount({ minor, currency }, locale))
			}))
	};
}

/** A payout is late once so many bank days have gone since its day. */
const LATE_BANK_DAYS = 2;

/** Money that should have been paid out by now, by currency: what is captured, and expected two bank days ago or more. */
export async function lateMoney(
	now: number
): Promise<{ currency: string; minor: number; count: number; carriers: string[] }[]> {
	const [held, rows] = await Promise.all([snapshot(), awaitedPayments(LISTED)]);
	const found = new Map<string, { currency: string; minor: number; count: number; carriers: string[] }>();
	for (const row of rows) {
		const connection = held.connections.get(row.connectionId!);
		if (!connection || row.taken <= row.refunded) continue;
		const { expected } = certaintyOfPayment(row, connection, 'when settled', 'en-GB');
		if (!expected) continue;
		const last = addBankDays(expected, LATE_BANK_DAYS, calendarNamed(connection.bankCalendar));
		if (last >= inZone(new Date(now), connection.timeZone).day) continue;
		const sum = found.get(row.currency) ?? { currency: row.currency, minor: 0, count: 0, carriers: [] };
		found.set(row.currency, {
			currency: row.currency,
			minor: sum.minor + row.taken - row.refunded,
			count: sum.count + 1,
			carriers: sum.carriers.includes(connection.name) ? sum.carriers : [...sum.carriers, connection.name]
		});
	}
	return [...found.values()];
}

/** Days on which money is expected as iCalendar (RFC 5545): an all-day event a day, the same id for the same day. */
export async function awaitedCalendar(locale: string, host: string): Promise<string> {
	const { days } = await awaitedDays(locale);
	const events = days.map(({ day, payments, sums }): EventAttributes => {
		const [year, month, date] = day.split('-').map(Number) as [number, number, number];
		return {
			uid: `expected-${day}@${host}`,
			title: `${sums.join(', ')} expected from ${payments.length} payment${payments.length === 1 ? '' : 's'}`,
			description: payments
				.slice(0, 50)
				.map((one) => `${one.reference}: ${one.amount}, ${one.route}`)
				.join('\n'),
			start: [year, month, date],
			duration: { days: 1 },
			calName: 'Money on its way',
			productId: 'just-purse',
			busyStatus: 'FREE'
		};
	});
	if (!events.length) return EMPTY_CALENDAR;
	const { error, value } = createEvents(events);
	if (error || !value) throw error ?? new Error('the calendar could not be written');
	return value;
}
const EMPTY_CALENDAR = 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:just-purse\r\nEND:VCALENDAR\r\n';
