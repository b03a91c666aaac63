import { QueryTypes } from 'sequelize';
import { open, type Tx } from '../open';

/** A payment of which nothing was looked at, and the invoice that it names. Sums are minor units. */
export interface FreshMoney {
	readonly id: number;
	readonly currency: string;
	readonly minor: number;
	readonly gratuity: number;
	readonly taken: number;
	readonly gone: number;
	readonly tillId: string | null;
	readonly creditorReference: string;
	readonly invoiceId: number;
	readonly number: string;
	readonly payerId: string | null;
	readonly total: number;
	readonly placed: number;
	readonly state: string;
	readonly sentAt: number | null;
}
export interface DueOfInvoice {
	readonly invoiceId: number;
	readonly n: number;
	readonly day: string;
	readonly minor: number;
	readonly open: number;
}

const ids = (given: readonly number[]) => JSON.stringify(given);
const ask = async <T>(sql: string, given: readonly number[], transaction: Tx) =>
	(await (await open()).query(sql, { bind: [ids(given)], type: QueryTypes.SELECT, transaction })) as T[];

/**
 * Which of these payments name an invoice that has nothing special: no credit note, no order of its payer that may be on its
 * way, neither void nor written off. In the order of their ids.
 */
export const freshMoneyOf = (payments: readonly number[], tx: Tx): Promise<FreshMoney[]> =>
	ask(
		`SELECT p.id AS id, p.currency AS currency, p.minor AS minor, p.gratuity AS gratuity, p.taken AS taken, p.gone AS gone,
			p.till_id AS tillId, p.creditor_reference AS creditorReference, i.id AS invoiceId, i.number AS number, i.payer_id AS payerId,
			i.total AS total, i.placed AS placed, i.state AS state, i.sent_at AS sentAt
		 FROM json_each($1) told CROSS JOIN payments p ON p.id = told.value CROSS JOIN invoices i ON i.id = COALESCE(
			(SELECT id FROM invoices WHERE number = p.reference AND number <> '' AND kind = 'invoice'),
			(SELECT MIN(id) FROM invoices WHERE creditor_reference = p.creditor_reference AND creditor_reference <> '' AND kind = 'invoice'),
			(SELECT id FROM invoices WHERE number = p.creditor_reference AND number <> '' AND kind = 'invoice'))
		 WHERE p.order_id IS NULL AND p.mode = 'live' AND p.trial_id IS NULL AND p.placed = 0 AND p.considered = 0
			AND i.currency = p.currency AND (p.till_id IS NULL OR p.till_id = i.till_id)
			AND i.approved_at IS NOT NULL AND i.credited = 0 AND i.promised = 0 AND i.void_at IS NULL AND i.written_off_at IS NULL
			AND NOT EXISTS (SELECT 1 FROM invoices c WHERE c.of_id = i.id AND c.kind = 'credit note')
			AND NOT EXISTS (SELECT 1 FROM order_claims c WHERE c.invoice_id = i.id)
			AND NOT EXISTS (SELECT 1 FROM order_claims c WHERE c.payer_id = i.payer_id AND c.kind = 'owed')
		 ORDER BY p.id`,
		payments,
		tx
	);

/** The dues of some invoices, each invoice's by their days. */
export const duesOfInvoices = (invoices: readonly number[], tx: Tx): Promise<DueOfInvoice[]> =>
	ask(
		`SELECT d.invoice_id AS invoiceId, d.n AS n, d.day AS day, d.minor AS minor, d.open AS open
		 FROM json_each($1) told CROSS JOIN invoice_dues d ON d.invoice_id = told.value ORDER BY d.invoice_id, d.day, d.n`,
		invoices,
		tx
	);

/** What a step of placing writes, row by row in the order of the columns. */
export interface PlacedAtOnce {
	/** payment, invoice, minor */
	readonly places: readonly (readonly [number, number, number])[];
	/** payment, placed, unplaced, considered, payer */
	readonly payments: readonly (readonly [number, number, number, number, string | null])[];
	/** invoice, due, paid, open */
	readonly dues: readonly (readonly [number, number, number, number])[];
	/** invoice, placed, open, day of the next due, state */
	readonly invoices: readonly (readonly [number, number, number, string, string])[];
	/** kind, kind of the object, its id, payload */
	readonly events: readonly (readonly [string, string, string, string])[];
}

/** Writes what was placed on many invoices in a few statements. */
export async function writePlaced(told: PlacedAtOnce, why: string, by: string, at: number, tx: Tx): Promise<void> {
	const db = await open();
	const run = (sql: string, list: readonly unknown[], ...more: unknown[]) =>
		db.query(sql, { bind: [JSON.stringify(list), ...more], transaction: tx });
	await run(
		`INSERT INTO places (payment_id, invoice_id, minor, of_id, why, by_user, at)
		 SELECT value ->> 0, value ->> 1, value ->> 2, NULL, $2, $3, $4 FROM json_each($1) ORDER BY key`,
		told.places,
		why,
		by,
		at
	);
	await run(
		`UPDATE payments SET placed = told.value ->> 1, unplaced = told.value ->> 2, considered = told.value ->> 3,
			payer_id = COALESCE(told.value ->> 4, payer_id) FROM json_each($1) told WHERE payments.id = told.value ->> 0`,
		told.payments
	);
	await run(
		`UPDATE invoice_dues SET paid = told.value ->> 2, open = told.value ->> 3 FROM json_each($1) told
		 WHERE invoice_id = told.value ->> 0 AND n = told.value ->> 1`,
		told.dues
	);
	await run(
		`UPDATE invoices SET placed = told.value ->> 1, open = told.value ->> 2, next_due = told.value ->> 3, state = told.value ->> 4
		 FROM json_each($1) told WHERE invoices.id = told.value ->> 0`,
		told.invoices
	);
	await run(
		`INSERT INTO events (kind, object_kind, object_id, at, payload)
		 SELECT value ->> 0, value ->> 1, value ->> 2, $2, value ->> 3 FROM json_each($1) ORDER BY key`,
		told.events,
		at
	);
}
