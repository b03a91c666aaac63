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
