import { open, type Tx } from '../open';
import { select, selectLong } from './select';

/** Orders that bear a mail address: all orders are gone through for it, beside what others wait for. */
export const ordersByMail = async (mail: string): Promise<number[]> =>
	mail ? (await selectLong<{ id: number }>(`SELECT id FROM orders WHERE mail = ?`, [mail])).map((one) => one.id) : [];

const ORDERS = `SELECT order_id AS id FROM order_claims WHERE payer_id = :id
	UNION SELECT order_id FROM payments WHERE payer_mail = :mail AND payer_mail <> '' AND order_id IS NOT NULL
	UNION SELECT value FROM json_each(:known)`;

/** An order of a person that is still to be paid outside of any processor, at the door or by transfer: what is known of them is needed for it. */
export const receivableOf = async (
	{ id, mail }: { readonly id: string; readonly mail: string },
	known: readonly number[],
	tx: Tx
): Promise<string | undefined> =>
	(
		await select<{ reference: string }>(
			`SELECT p.reference FROM payments p WHERE p.order_id IN (${ORDERS}) AND p.offline_id IS NOT NULL AND p.mode = 'live' AND p.open = 1
				AND p.stage IN ('requested', 'part received') LIMIT 1`,
			{ id, mail, known: JSON.stringify(known) },
			tx
		)
	)[0]?.reference;

/**
 * Takes a person out of everything that was written about a payer but the documents of the books: their orders, payments,
 * messages, and what the audit trail says of them. A payment that pays for others, too, keeps the name it came with.
 * @param known orders that bear their mail address
 * @param gone what stands in place of the name
 */
export async function forgetPerson(
	{ id, mail }: { readonly id: string; readonly mail: string },
	known: readonly number[],
	gone: string,
	tx: Tx
): Promise<void> {
	const found = (await select<{ id: number }>(ORDERS, { id, mail, known: JSON.stringify(known) }, tx)).map(
		(one) => one.id
	);
	const paid = (
		await select<{ id: number }>(
			`SELECT id FROM payments WHERE order_id IN (SELECT value FROM json_each(:orders))
			 UNION SELECT id FROM payments WHERE payer_id = :id AND payer_id IS NOT NULL
			 UNION SELECT id FROM payments WHERE payer_mail = :mail AND payer_mail <> ''
			 UNION SELECT m.id FROM invoices i JOIN places p ON p.invoice_id = i.id JOIN payments m ON m.id = p.payment_id
				WHERE i.payer_id = :id AND m.payer_mail IN ('', :mail) AND (m.payer_id IS NULL OR m.payer_id = :id)
					AND NOT EXISTS (SELECT 1 FROM places o JOIN invoices other ON other.id = o.invoice_id JOIN payers q ON q.id = other.payer_id
						WHERE o.payment_id = m.id AND q.id <> :id AND q.removed_at IS NULL)`,
			{ id, mail, orders: JSON.stringify(found) },
			tx
		)
	).map((one) => one.id);
	const given = { id, mail, gone, orders: JSON.stringify(found), payments: JSON.stringify(paid) };
	const db = await open();
	for (const statement of [
		`UPDATE orders SET name = :gone, mail = '',
			more = CASE WHEN json_valid(more) THEN json_remove(more, '$.address', '$.phone', '$.taxNumber', '$.fields') ELSE more END
		 WHERE id IN (SELECT value FROM json_each(:orders))`,
		`UPDATE order_claims SET payer_mail = '' WHERE order_id IN (SELECT value FROM json_each(:orders))`,
		`UPDATE payments SET payer_name = :gone, payer_mail = '' WHERE id IN (SELECT value FROM json_each(:payments))`,
		`UPDATE payment_requests SET details = '{}' WHERE payment_id IN (SELECT value FROM json_each(:payments))`,
		`UPDATE outbox SET to_address = '', to_name = '', subject = 'Removed with its payer', body = 'Removed with its payer.'
		 WHERE payer_id = :id OR (to_address = :mail AND to_address <> '')`,
		`UPDATE audit SET object_name = :gone, before = NULL, after = NULL WHERE object_kind = 'payer' AND object_id = :id`,
		`DELETE FROM payer_codes WHERE mail = :mail`
	])
		await db.query(statement, { replacements: given, transaction: tx });
}
