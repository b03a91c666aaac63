import { createEvents, type EventAttributes } from 'ics';
import {
	addBankDays,
	addDays,
	calendarNamed,
	expectedDay,
	firstExpectedOn,
	inZone,
	type BankCalendar,
	type Day
} from '../../core/calendar';
import { methodName } from '../../core/lineup';
import { formatAmount } from '../../core/money';
import type { Certainty, FulfilPolicy } from '../../core/stages';
import { snapshot } from '../accept/snapshot';
import { awaitedPayments, expectedBefore, type ConnectionRow } from '../db';
import { certaintyOfPayment, expectationOf } from '../payments/certain';
import { timeNow } from '../signals/clock';

/** Money that is waited for: payments of one day and connection, and what they come to. */
export interface AwaitedDay {
	readonly day: Day;
	readonly isLate: boolean;
	/** whether all payments of the day are among those that are listed */
	readonly isWhole: boolean;
	readonly payments: readonly AwaitedPayment[];
	/** sums as they are shown, a currency each; of what is listed */
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

/** What is waited for by day: agreed or captured, and not yet with the bank. Late days stand first; what they come to is told. */
export async function awaitedDays(
	locale: string
): Promise<{ days: AwaitedDay[]; late: string[]; more: boolean; debits: number }> {
	const [held, rows] = await Promise.all([snapshot(), awaitedPayments(LISTED + 1)]);
	// from this day on, what is not listed may be expected, too
	const left = rows[LISTED];
	const whole = left
		? [...held.connections.values()]
				.map((connection) => expectedDay(new Date(left.createdAt), expectationOf(connection)))
				.reduce((least, day) => (day < least ? day : least), '9999')
		: '9999';
	const lateSums = new Map<string, number>();
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
		for (const sums of of.isLate ? [of.sums, lateSums] : [of.sums])
			sums.set(row.currency, (sums.get(row.currency) ?? 0) + minor - row.refunded);
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
	const say = (sums: ReadonlyMap<string, number>) =>
		[...sums].map(([currency, minor]) => formatAmount({ minor, currency }, locale));
	return {
		more: left !== undefined,
		debits,
		late: say(lateSums),
		days: [...byDay]
			.sort(([a], [b]) => (a < b ? -1 : 1))
			.map(([day, one]) => ({
				day,
				isLate: one.isLate,
				isWhole: day < whole,
				payments: one.payments,
				sums: say(one.sums)
			}))
	};
}

/** A payout is late once so many bank days have gone since its day. */
const LATE_BANK_DAYS = 2;

/** The first day that is not late yet: what was expected before it should be there. */
function firstNotLate(today: Day, calendar: BankCalendar): Day {
	let day = today;
	while (addBankDays(addDays(day, -1), LATE_BANK_DAYS, calendar) >= today) day = addDays(day, -1);
	return day;
}

/** The same account and day lead to the same moment: what was found is kept. */
const moments = new Map<string, number>();
const MOST_MOMENTS = 500;
/** The moment before which whatever a connection captured is expected before a day, in milliseconds since 1970. */
function momentOf(day: Day, connection: ConnectionRow): number {
	const account = expectationOf(connection);
	const key = [day, account.timeZone, account.cutOff, account.bankDays, account.calendar.name].join(' ');
	const known = moments.get(key) ?? firstExpectedOn(day, account).getTime();
	if (moments.size >= MOST_MOMENTS) moments.clear();
	moments.set(key, known);
	return known;
}

/** Money that should have been paid out by now, by currency: all that is captured, and expected two bank days ago or more. */
export async function lateMoney(
	now: number
): Promise<{ currency: string; minor: number; count: number; carriers: string[] }[]> {
	const { connections } = await snapshot();
	const before = new Map(
		[...connections.values()].map((connection) => {
			const today = inZone(new Date(now), connection.timeZone).day;
			const day = firstNotLate(today, calendarNamed(connection.bankCalendar));
			return [connection.id, momentOf(day, connection)] as const;
		})
	);
	const found = new Map<string, { currency: string; minor: number; count: number; carriers: string[] }>();
	for (const { connectionId, currency, count, minor } of await expectedBefore(before, false)) {
		const sum = found.get(currency) ?? { currency, minor: 0, count: 0, carriers: [] };
		found.set(currency, {
			currency,
			minor: sum.minor + minor,
			count: sum.count + count,
			carriers: [...sum.carriers, connections.get(connectionId)!.name]
		});
	}
	return [...found.values()];
}

/** What is expected on days of a stretch, both included, of what is captured or agreed: payments, and sums by currency. */
export async function expectedWithin(from: Day, to: Day): Promise<{ count: number; sums: Map<string, number> }> {
	const { connections } = await snapshot();
	const beforeDay = (day: Day) =>
		new Map([...connections.values()].map((one) => [one.id, momentOf(day, one)] as const));
	const [sooner, all] = await Promise.all([
		expectedBefore(beforeDay(from), true),
		expectedBefore(beforeDay(addDays(to, 1)), true)
	]);
	const sums = new Map<string, number>();
	let count = 0;
	for (const [rows, sign] of [
		[all, 1],
		[sooner, -1]
	] as const)
		for (const one of rows) {
			count += sign * one.count;
			sums.set(one.currency, (sums.get(one.currency) ?? 0) + sign * one.minor);
		}
	for (const [currency, minor] of sums) if (!minor) sums.delete(currency);
	return { count, sums };
}

/** Days on which money is expected as iCalendar (RFC 5545): an all-day event a day, the same id for the same day. */
export async function awaitedCalendar(locale: string, host: string): Promise<string> {
	const { days } = await awaitedDays(locale);
	const events = days.map(({ day, payments, sums, isWhole }): EventAttributes => {
		const [year, month, date] = day.split('-').map(Number) as [number, number, number];
		return {
			uid: `expected-${day}@${host}`,
			title: `${isWhole ? '' : 'At least '}${sums.join(', ')} expected from ${payments.length} payment${payments.length === 1 ? '' : 's'}`,
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
