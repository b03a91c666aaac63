/**
 * Money that a file told under a name of no till was taken for looked at, and stayed on no invoice when the name had its till.
 * It is looked at again then; what has its till already is looked at now.
 */
export const twentyThird: readonly string[] = [
	`UPDATE payments SET considered = 0 WHERE origin = 'file' AND placed = 0 AND considered > 0 AND order_id IS NULL
		AND (reference <> '' OR creditor_reference <> '') AND NOT EXISTS (SELECT 1 FROM places WHERE payment_id = payments.id)`,
	`INSERT INTO payment_moves (kind, source, till_id, last)
	 SELECT 'till', s.source, s.till_id, (SELECT COALESCE(MAX(id), 0) FROM payments) FROM file_sources s
	 WHERE s.till_id IS NOT NULL AND EXISTS (SELECT 1 FROM payments p WHERE p.source = s.source AND p.till_id = s.till_id AND p.origin = 'file' AND p.considered = 0
		AND p.taken > 0 AND p.order_id IS NULL AND p.reference <> ''
		AND EXISTS (SELECT 1 FROM invoices i WHERE i.number = p.reference AND i.kind = 'invoice'))`
];
