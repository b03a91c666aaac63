/** What was refunded in part and is not paid out yet: the rest of it is on its way. */
export const twentyFifth: readonly string[] = [
	`CREATE INDEX payments_rest_awaited ON payments (day) WHERE stage = 'part refunded' AND reached_step < 4`
];
