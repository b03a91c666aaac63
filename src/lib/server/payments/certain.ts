import { calendarNamed, formatDay, inZone } from '../../core/calendar';
import { certaintyOf, type Certainty, type FulfilPolicy, type Stage } from '../../core/stages';
import { readAccount } from '../connectors/account';
import type { ConnectionRow, PaymentRow } from '../db';
import { timeNow } from '../signals/clock';

/** By what an account's money is expected: its clock, its cut-off, its bank days. */
export function expectationOf(connection: ConnectionRow) {
	const { payout } = readAccount(connection.account);
	return {
		timeZone: connection.timeZone,
		cutOff: connection.cutOff || payout.cutOff,
		bankDays: connection.expectedDays ?? payout.bankDays,
		calendar: calendarNamed(connection.bankCalendar)
	};
}

type About = Pick<PaymentRow, 'stage' | 'capturedAt' | 'createdAt' | 'method'>;

/** How certain the money of a payment is that a connection carries. Only bank debits are taken back by a payer's bank. */
export function certaintyOfPayment(
	payment: About,
	connection: ConnectionRow,
	policy: FulfilPolicy,
	locale: string,
	settledAt?: number
): Certainty {
	const account = readAccount(connection.account);
	return certaintyOf(
		{
			stage: payment.stage as Stage,
			since: payment.capturedAt ?? payment.createdAt,
			settledAt,
			policy,
			today: inZone(new Date(timeNow()), connection.timeZone).day,
			account: {
				...expectationOf(connection),
				returns: payment.method === 'bank-debit' ? account.returns : undefined
			}
		},
		(day) => formatDay(day, locale)
	);
}
