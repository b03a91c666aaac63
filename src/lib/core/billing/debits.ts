import { addDays, openDay, type BankCalendar, type Day } from '../calendar';

// Bank debits that the business begins by a payer's mandate: announced to the payer first, with sum and day, then made.

/** So many days lie between telling a payer of a debit and making it, until the business sets others. */
export const NOTICE_DAYS = 14;
/** The hour of the business's time zone at which a debit is begun on its day. */
export const DEBIT_HOUR = '06:00';
/** A debit that could not be begun on its day is begun at most so many days later. */
export const DEBIT_LATE_DAYS = 3;

/** The days of notice: as set, but never fewer than the payer agreed to. */
export const noticeDaysOf = (set: number, agreed: number): number => Math.max(set, agreed);

/**
 * The day of a debit: the days of notice after the payer is told, not before the sum is due, and a day on which banks work.
 */
export function debitDay(
	{ told, noticeDays, due }: { readonly told: Day; readonly noticeDays: number; readonly due: Day },
	calendar: BankCalendar
): Day {
	const first = addDays(told, noticeDays);
	return openDay(due > first ? due : first, calendar);
}

/** Whether a payer who is told on a day is told in time. */
export const isToldInTime = (told: Day, { day, noticeDays }: { readonly day: Day; readonly noticeDays: number }) =>
	addDays(told, noticeDays) <= day;

/** Whether a debit is to be begun. @param now day and `HH:MM` in the business's time zone */
export function whenDebit(day: Day, now: { readonly day: Day; readonly time: string }): 'later' | 'now' | 'too late' {
	if (now.day < day || (now.day === day && now.time < DEBIT_HOUR)) return 'later';
	return now.day > addDays(day, DEBIT_LATE_DAYS) ? 'too late' : 'now';
}

/**
 * What is collected: never more than was announced, and never more than is still to come. Nothing where it is paid
 * otherwise.
 * @param announced, open, promised minor units of one currency; what is promised is on its way already
 */
export const debitSum = ({
	announced,
	open,
	promised
}: Readonly<Record<'announced' | 'open' | 'promised', number>>): number =>
	Math.max(0, Math.min(announced, open - promised));

/**
 * The debit that an invoice can be collected by: its day, and what is due by then and not on its way already.
 * @param dues with what is open of each, in minor units; what is promised fills the first of them
 */
export function nextDebit(
	dues: readonly { readonly day: Day; readonly open: number }[],
	promised: number,
	{ told, noticeDays }: { readonly told: Day; readonly noticeDays: number },
	calendar: BankCalendar
): { readonly day: Day; readonly minor: number } {
	const inTime = [...dues].sort((a, b) => (a.day < b.day ? -1 : Number(a.day > b.day)));
	let coming = promised;
	const left = inTime.map((due) => {
		const here = Math.min(coming, due.open);
		coming -= here;
		return { day: due.day, open: due.open - here };
	});
	const first = left.find((due) => due.open > 0);
	const day = debitDay({ told, noticeDays, due: first?.day ?? '' }, calendar);
	return { day, minor: left.reduce((all, due) => (due.day <= day ? all + due.open : all), 0) };
}
