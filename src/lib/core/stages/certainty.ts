import { addBankDays, addDays, expectedDay, inZone, type BankCalendar, type Day } from '../calendar';
import type { Working, WorkingStep } from '../workings';
import type { Stage } from './state';

/** From when on a till hands out what was paid for. */
export const FULFIL = ['on promise', 'when settled', 'when it can no longer come back'] as const;
export type FulfilPolicy = (typeof FULFIL)[number];

/** What decides how certain the money of a payment is. */
export interface CertaintyAsked {
	readonly stage: Stage;
	/** when it was captured, or where it is not yet, when the payer agreed to it; milliseconds since 1970 */
	readonly since: number;
	/** when the processor told that it is settled */
	readonly settledAt?: number;
	readonly policy: FulfilPolicy;
	/** the day it is, in the time zone of the account */
	readonly today: Day;
	readonly account: {
		readonly timeZone: string;
		/** `HH:MM`; at it is late */
		readonly cutOff: string;
		readonly bankDays: number;
		readonly calendar: BankCalendar;
		/** until when a payer's bank may take it back; nothing where it cannot */
		readonly returns?: { readonly bankDays: number; readonly weeks: number };
	};
}

export interface Certainty {
	/** the bank day on which the money is expected; nothing once it is there or has gone */
	readonly expected?: Day;
	/** the last day on which the bank may return it, for want of money or a closed account */
	readonly bankReturnsUntil?: Day;
	/** the last day on which it goes back on the payer's word */
	readonly payerReturnsUntil?: Day;
	readonly fulfil: {
		readonly now: boolean;
		/** the first day on which the policy lets it be handed out, where that is known */
		readonly from?: Day;
		readonly why: string;
	};
	/** the days, and how they were counted */
	readonly working: Working;
}

const GONE: readonly Stage[] = ['failed', 'voided', 'expired', 'refunded', 'disputed', 'returned'];
const SETTLED: readonly Stage[] = ['settled', 'paid out', 'received'];

/**
 * How certain the money of a payment is, and whether what was paid for may be handed out by the till's policy. Days are
 * counted over the account's bank calendar.
 * @param say writes a day as the reader does
 */
export function certaintyOf(asked: CertaintyAsked, say: (day: Day) => string): Certainty {
	const { stage, policy, today, account } = asked;
	const { timeZone, cutOff, bankDays, calendar, returns } = account;
	const gone = GONE.includes(stage);
	const settled = SETTLED.includes(stage) || (stage === 'part refunded' && asked.settledAt !== undefined);
	const begun = inZone(new Date(asked.since), timeZone);
	const isLate = begun.time >= cutOff;
	const counted = expectedDay(new Date(asked.since), { timeZone, cutOff, bankDays, calendar });
	const credited = settled && asked.settledAt !== undefined ? inZone(new Date(asked.settledAt), timeZone).day : counted;
	const bankReturnsUntil = returns && !gone ? addBankDays(credited, returns.bankDays, calendar) : undefined;
	const payerReturnsUntil = returns && !gone ? addDays(credited, returns.weeks * 7) : undefined;
	const final =
		payerReturnsUntil && bankReturnsUntil && payerReturnsUntil > bankReturnsUntil
			? payerReturnsUntil
			: bankReturnsUntil;

	const steps: WorkingStep[] = [
		{
			title: stage === 'pending' ? 'Agreed' : 'Captured',
			sub: `${say(begun.day)}, ${begun.time} (${timeZone})${isLate ? `; from ${cutOff} on it counts as the next day` : ''}`
		},
		{
			title: settled ? 'There' : 'Expected',
			sub:
				settled && asked.settledAt !== undefined
					? 'as the processor told'
					: `${bankDays} bank day${bankDays === 1 ? '' : 's'} later, by ${calendar.name} days`,
			sum: say(credited),
			...(settled ? { mark: 'yes' as const } : {})
		}
	];
	if (returns && bankReturnsUntil && payerReturnsUntil)
		steps.push(
			{
				title: 'The bank may return it until',
				sub: `${returns.bankDays} bank days after it came`,
				sum: say(bankReturnsUntil)
			},
			{
				title: 'It goes back on the payer’s word until',
				sub: `${returns.weeks} weeks after it came`,
				sum: say(payerReturnsUntil)
			}
		);

	const fulfil = ((): Certainty['fulfil'] => {
		if (gone) return { now: false, why: `The money is not there: ${stage}.` };
		if (stage === 'requested' || stage === 'authorised' || stage === 'part received')
			return policy === 'on promise' && stage === 'authorised'
				? { now: true, why: 'It is held for you, and this till hands out on promise.' }
				: { now: false, why: stage === 'part received' ? 'A part of it is still missing.' : 'Nothing was paid yet.' };
		if (policy === 'on promise') return { now: true, from: begun.day, why: 'This till hands out on promise.' };
		if (policy === 'when settled')
			return settled
				? { now: true, from: credited, why: 'The money is there.' }
				: { now: false, from: credited, why: `The money is expected on ${say(credited)}.` };
		if (!final)
			return settled
				? { now: true, from: credited, why: 'The money is there and is not taken back by a bank.' }
				: { now: false, from: credited, why: `The money is expected on ${say(credited)}.` };
		// on the last day itself it may still come back
		const from = addDays(final, 1);
		return settled && today > final
			? { now: true, from, why: `It could come back until ${say(final)}; that day is over.` }
			: { now: false, from, why: `It may still come back until ${say(final)}; hand out from ${say(from)}.` };
	})();
	return {
		...(settled || gone ? {} : { expected: credited }),
		...(bankReturnsUntil ? { bankReturnsUntil, payerReturnsUntil } : {}),
		fulfil,
		working: {
			title: fulfil.now ? 'Fulfil now' : gone ? 'Do not fulfil' : 'Wait',
			about: fulfil.why,
			steps,
			end: {
				tone: fulfil.now ? 'moss' : gone ? 'clay' : 'brass',
				text: `The till’s policy: ${policy}.`
			}
		}
	};
}
