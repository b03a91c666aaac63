import { db, moveSome, namedForeign, paymentsOfInvoices, paymentsOfOrders, write } from '../db';
import { giveToOrders } from '../payments/ordered';
import { placePayment, placePayments } from '../placing';
import { forgetSnapshot } from '../signals/freshness';
import { tell } from '../signals/live';

let moving: Promise<number> | undefined;

/**
 * Gives payments of files the till, or the account, that they were said to be of: a few thousand in one write, others in
 * between. What an end of the process cuts off goes on at the next start.
 * @returns how many moves came to their end
 */
export function movePayments(): Promise<number> {
	moving ??= moveAll().finally(() => (moving = undefined));
	return moving;
}

async function moveAll(): Promise<number> {
	for (let done = 0; ; done++) {
		const [move] = await db.paymentMoves.find({}, { order: [['id', 'ASC']], limit: 1 });
		if (!move) return done;
		const moveOn = () =>
			write(
				async (tx) => {
					const { after, to, isMore } = await moveSome(move.id, tx);
					// with its till, a number in a file says whose the money is
					await giveToOrders(await paymentsOfOrders(after, to, tx), tx);
					await placePayments(await paymentsOfInvoices(after, to, tx), tx);
					for (const id of await namedForeign(after, to, tx)) await placePayment(id, tx);
					return isMore;
				},
				{ isPatient: true }
			);
		while (await moveOn());
		forgetSnapshot();
		tell('takings');
		tell('connections');
	}
}

const WAIT_MS = 5_000;
/** The same, as far as it comes while somebody waits for a page. */
export const moveSoon = (): Promise<unknown> =>
	Promise.race([movePayments(), new Promise<void>((next) => setTimeout(next, WAIT_MS).unref())]);
