import { open, type Tx } from '../open';
import { select, selectLong } from './select';

/** Orders that bear a mail address: all orders are gone through for it, beside what others wait for. */
export const ordersByMail = async (mail: string): Promise<number[]> =>
	mail ? (await selectLong<{ id: number }>(`SELECT id FROM orders WHERE mail = ?`, [mail])).map((one) => one.id) : [];

/**
 * Takes a person out of everything that was written about a payer but the documents of the books: their orders, payments,
 * messages, and what the audit trail says of them.
 * @param known orders that bear their mail address
 * @param gone what stands in place of the name
 */
export async function forgetPerson(
	{ id, mail }: { readonly id: string; readonly mail: string },
	known: readonly number[],
	gone: string,
	tx: Tx
): Promise<void> {
	const found = (
		await select<{ id: number }>(
			`SELECT order_id AS id FROM order_claims WHERE payer_id = :id
			 UNION SELECT order_id FROM payments WHERE payer_mail = :mail AND payer_mail <> '' AND order_id IS NOT NULL
			 UNION SELECT value FROM json_each(:known)`,
			{ id, mail, known: JSON.stringify(known) },
			tx
		)
	).map((one) => one.id);
	const paid = (
		await select<{ id: number }>(
			`SELECT id FROM payments WHERE order_id IN (SELECT value FROM json_each(:orders))
			 UNION SELECT id FROM payments WHERE payer_id = :id AND payer_id IS NOT NULL
			 UNION SELECT id FROM payments WHERE payer_mail = :mail AND payer_mail <> ''
			 UNION SELECT p.payment_id FROM places p JOIN invoices i ON i.id = p.invoice_id WHERE i.payer_id = :id`,
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
