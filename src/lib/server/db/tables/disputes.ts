import { freeText, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// Disputes of payments, and what is answered to them.

export const disputes = table(
	'disputes',
	{
		paymentId: whole,
		openedAt: whole,
		/** of the payment's currency */
		minor: whole,
		/** in the processor's words; empty where it does not tell */
		reason: freeText,
		/** until when it can be answered, where the processor tells */
		answerBy: orNull(whole),
		text: freeText,
		answeredAt: orNull(whole),
		answeredBy: text,
		way: oneOf('', 'processor', 'by hand'),
		/** under which the answer is handed over: the same one twice is one */
		answerKey: text,
		outcome: oneOf('', 'won', 'lost', 'accepted'),
		closedAt: orNull(whole)
	},
	['paymentId']
);
export type DisputeRow = RowOf<typeof disputes>;

export const disputeFiles = table(
	'dispute_files',
	{
		id: whole,
		paymentId: whole,
		name: freeText,
		type: text,
		size: whole,
		/** base64 */
		content: text,
		at: whole,
		byUser: text
	},
	['id'],
	true
);
