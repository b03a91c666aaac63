import { Consent, Mandate } from '../../../core/billing';
import { ReportedCard } from '../../../core/cards';
import { freeText, json, jsonOrNull, oneOf, orNull, table, text, whole, type RowOf } from '../table';

/** Methods that payers let processors keep. The token works at one account alone, and is sealed. */
export const storedMethods = table(
	'stored_methods',
	{
		id: whole,
		payerId: text,
		connectionId: text,
		processor: text,
		accountId: text,
		mode: oneOf('test', 'live'),
		method: text,
		/** by what it is known again, as the sealed token differs each time */
		tokenHash: text,
		/** empty once the processor was told to forget it */
		tokenSealed: text,
		card: jsonOrNull(ReportedCard),
		mandate: jsonOrNull(Mandate),
		/** the last month of a card, `YYYY-MM` */
		expires: text,
		state: oneOf('active', 'suspended', 'ended'),
		isDefault: whole,
		consent: json(Consent),
		/** the payment by which it came to be stored */
		paymentId: orNull(whole),
		usedAt: whole,
		renewalAskedAt: orNull(whole),
		endedAt: orNull(whole),
		endedBy: freeText,
		endedWhy: freeText,
		/** the processor has forgotten it, too */
		forgottenAt: orNull(whole),
		createdAt: whole
	},
	['id'],
	true
);
export type StoredMethodRow = RowOf<typeof storedMethods>;

/** Bank debits that a payer is told of before they are made. */
export const announcedDebits = table(
	'announced_debits',
	{
		id: whole,
		invoiceId: whole,
		payerId: text,
		storedId: whole,
		currency: text,
		minor: whole,
		/** the day on which it is begun */
		day: text,
		noticeDays: whole,
		/** the message by which its payer is told */
		outboxId: orNull(whole),
		state: oneOf('announced', 'made', 'called off', 'not made'),
		/** set before the processor is asked: after a kill it is known what was begun */
		orderId: orNull(whole),
		begunAt: orNull(whole),
		paymentId: orNull(whole),
		why: freeText,
		byUser: freeText,
		endedBy: freeText,
		createdAt: whole,
		endedAt: orNull(whole)
	},
	['id'],
	true
);
export type AnnouncedDebitRow = RowOf<typeof announcedDebits>;
