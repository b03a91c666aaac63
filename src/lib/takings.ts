/** Columns that a list of payments may show beside reference and payer, in their order. */
export const PAYMENT_LIST_COLUMNS = [
	{ id: 'stage', name: 'How far' },
	{ id: 'place', name: 'Till, route' },
	{ id: 'card', name: 'Card' },
	{ id: 'captured', name: 'Captured' },
	{ id: 'amount', name: 'Amount' },
	{ id: 'refunded', name: 'Refunded' },
	{ id: 'expected', name: 'Expected fee' },
	{ id: 'charged', name: 'Charged fee' },
	{ id: 'net', name: 'Net' },
	{ id: 'id', name: 'Processor’s id' }
] as const;
/** The columns that are shown until others are chosen. */
export const FIRST_COLUMNS: readonly string[] = ['stage', 'place', 'amount', 'expected', 'charged', 'net'];
