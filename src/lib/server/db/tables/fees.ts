import { DISCREPANCY_STATES } from '../../../core/fees';
import { freeText, oneOf, orNull, table, text, whole, type RowOf } from '../table';

// What the fee check found, and what became of it.

export const discrepancies = table(
	'discrepancies',
	{
		id: whole,
		/** what tells causes apart: connection, cause, parameter, contract; what nothing explains by kind, too */
		sign: text,
		/** the first, or one that came again after the first was closed */
		n: whole,
		connectionId: text,
		cause: text,
		parameter: text,
		rateCardId: orNull(whole),
		currency: text,
		firstDay: text,
		lastDay: text,
		count: whole,
		over: whole,
		under: whole,
		/** what was charged too much and came back, less what was too little and was charged after all */
		corrected: whole,
		state: oneOf(...DISCREPANCY_STATES),
		stateAt: whole,
		foundAt: whole
	},
	['id'],
	true
);
export type DiscrepancyRow = RowOf<typeof discrepancies>;

export const discrepancyPayments = table(
	'discrepancy_payments',
	{
		discrepancyId: whole,
		paymentId: whole,
		kindId: whole,
		day: text,
		/** as they were when it was found */
		expected: whole,
		charged: whole,
		corrected: whole
	},
	['discrepancyId', 'paymentId']
);
export type DiscrepancyPaymentRow = RowOf<typeof discrepancyPayments>;

/** A charge of an account in a discrepancy: for a month, a payout, a refund or a dispute. */
export const discrepancyCharges = table(
	'discrepancy_charges',
	{
		id: whole,
		discrepancyId: whole,
		/** `monthly 2026-10`, `payout po_4` */
		key: text,
		/** none where it was never charged */
		chargeId: orNull(whole),
		day: text,
		expected: whole,
		charged: whole
	},
	['id'],
	true
);
export type DiscrepancyChargeRow = RowOf<typeof discrepancyCharges>;

/** An adjustment that corrected a discrepancy as a whole. */
export const discrepancyAdjustments = table(
	'discrepancy_adjustments',
	{ chargeId: whole, discrepancyId: whole, minor: whole },
	['chargeId']
);
export type DiscrepancyAdjustmentRow = RowOf<typeof discrepancyAdjustments>;

export const discrepancyNotes = table(
	'discrepancy_notes',
	{
		id: whole,
		discrepancyId: whole,
		at: whole,
		byUser: text,
		act: text,
		text: freeText
	},
	['id'],
	true
);
export type DiscrepancyNoteRow = RowOf<typeof discrepancyNotes>;

/** A route that cheapest routing may not propose. */
export const refusedMoves = table(
	'refused_moves',
	{ tillId: text, method: text, currency: text, connectionId: text, byUser: text, at: whole },
	['tillId', 'method', 'currency', 'connectionId']
);

/** A route that a draft was made of, and what that promised to save. */
export const promisedMoves = table(
	'promised_moves',
	{
		id: whole,
		tillId: text,
		method: text,
		currency: text,
		fromId: text,
		toId: text,
		/** the payments it was worked out on */
		firstDay: text,
		lastDay: text,
		/** minor units of the home currency, by itself, over those payments */
		saves: whole,
		payments: whole,
		byUser: text,
		at: whole
	},
	['id'],
	true
);
export type PromisedMoveRow = RowOf<typeof promisedMoves>;
