import { select } from './select';

export interface ListedDispute {
	readonly paymentId: number;
	readonly reference: string;
	readonly payer: string;
	readonly currency: string;
	readonly minor: number;
	readonly method: string;
	readonly connectionId: string | null;
	readonly openedAt: number;
	readonly reason: string;
	readonly answerBy: number | null;
	readonly answeredAt: number | null;
	readonly outcome: string;
	readonly closedAt: number | null;
}
/** Disputes: those that are open by their deadline, then those that are over, the latest first. */
export const listedDisputes = (
	isOpen: boolean,
	limit: number,
	before = Number.MAX_SAFE_INTEGER
): Promise<ListedDispute[]> =>
	select(
		`SELECT d.payment_id AS paymentId, COALESCE(NULLIF(p.reference, ''), p.processor_id, '') AS reference, p.payer_name AS payer, p.currency, d.minor, p.method, p.connection_id AS connectionId,
			d.opened_at AS openedAt, d.reason, d.answer_by AS answerBy, d.answered_at AS answeredAt, d.outcome, d.closed_at AS closedAt
		 FROM disputes d CROSS JOIN payments p ON p.id = d.payment_id
		 WHERE p.mode = 'live' AND ${isOpen ? `d.outcome = ''` : `d.outcome IN ('won', 'lost', 'accepted') AND d.opened_at < :before`}
		 ORDER BY ${isOpen ? 'd.answer_by IS NULL, d.answer_by, d.opened_at DESC' : 'd.opened_at DESC'} LIMIT :limit`,
		{ limit, before }
	);

/** Payments, disputes and what was lost, by connection, method, scheme and currency, of payments captured since a moment. */
export const disputeCounts = (
	since: number
): Promise<
	{
		connectionId: string | null;
		method: string;
		scheme: string;
		currency: string;
		payments: number;
		disputes: number;
		lost: number;
	}[]
> =>
	select(
		`SELECT p.connection_id AS connectionId, k.method, k.scheme, p.currency, COUNT(*) AS payments,
			SUM(d.payment_id IS NOT NULL) AS disputes, SUM(CASE WHEN d.outcome IN ('lost', 'accepted') THEN d.minor ELSE 0 END) AS lost
		 FROM payments p JOIN payment_kinds k ON k.id = p.kind_id LEFT JOIN disputes d ON d.payment_id = p.id
		 WHERE p.captured_at >= ? AND p.mode = 'live' AND p.connection_id IS NOT NULL GROUP BY 1, 2, 3, 4`,
		[since]
	);

/** Messages about a payment or its order's invoice, the oldest first. */
export const messagesOfPayment = (
	paymentId: number
): Promise<{ event: string; subject: string; to: string; sentAt: number | null }[]> =>
	select(
		`SELECT event, subject, to_address AS "to", sent_at AS sentAt FROM outbox WHERE id IN (
			SELECT id FROM outbox WHERE payment_id = :id
			UNION SELECT m.id FROM places l CROSS JOIN outbox m ON m.invoice_id = l.invoice_id WHERE l.payment_id = :id)
		 ORDER BY id LIMIT 50`,
		{ id: paymentId }
	);
