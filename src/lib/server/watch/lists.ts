import {
	arrivalCounts,
	db,
	pageOfArrivals,
	pageOfAudit,
	type ArrivalRow,
	type PaymentRow,
	type RefusedArrivalRow
} from '../db';

/** How many arrivals there are in each state. */
export const countArrivals = arrivalCounts;
/** Arrivals, the newest first, a page at a time. */
export const arrivalsPage = pageOfArrivals;
/** Who changed what, the newest first, a page at a time. */
export const trailPage = pageOfAudit;
/** Whose changes can be looked for: those who sign in here, and what happens by itself. */
export const trailPeople = async (): Promise<string[]> => [
	...new Set([...(await db.users.find({}, { order: [['name', 'ASC']] })).map((one) => one.name), 'itself'])
];

/** Days on which notifications were turned away, the latest first. */
export const refusedLately = (limit: number, connectionId?: string): Promise<RefusedArrivalRow[]> =>
	db.refusedArrivals.find(
		{ reason: REFUSALS, ...(connectionId ? { connectionId } : {}) },
		{ order: [['lastAt', 'DESC']], limit }
	);
const REFUSALS = ['forged', 'old', 'malformed', 'too many unconfirmed'];

/** One arrival, with the payment that it was about where it is known. */
export async function arrivalById(id: number): Promise<{ row: ArrivalRow; payment?: PaymentRow } | undefined> {
	const row = await db.arrivals.one({ id });
	return row && { row, payment: row.paymentId ? await db.payments.one({ id: row.paymentId }) : undefined };
}
