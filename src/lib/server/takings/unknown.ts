import { waitBeforeTry } from '../../core/notices';
import { speak } from '../connect/speak';
import { ConnectorError } from '../connectors';
import { db, dueActions, write } from '../db';
import { tell } from '../live';
import { endCharge } from './charge';
import { endHeld } from './held';
import { endRefund } from './refund';

/** Asks processors what became of charges and refunds whose answer was lost. Nothing else is tried before they tell. */
export async function settleUnknown(now: number): Promise<void> {
	for (const action of await dueActions(now, 20)) {
		const payment = (await db.payments.one({ id: action.paymentId }))!;
		const connection = payment.connectionId ? await db.connections.one({ id: payment.connectionId }) : undefined;
		if (!connection || connection.removedAt) continue;
		const again = (says: string) =>
			write((tx) =>
				db.actions.update(
					{ key: action.key },
					{
						says,
						tries: action.tries + 1,
						nextAt: Date.now() + Math.min(waitBeforeTry(Math.min(action.tries + 1, 4), Math.random()), 60_000)
					},
					tx
				)
			);
		try {
			const settled = await speak(connection, (connector, credentials) => connector.settle(credentials, action.key), {
				account: payment.accountId
			});
			if (settled.outcome === 'under way') await again(`${connection.name} is still working on it.`);
			else if (action.act === 'charge') await endCharge(payment, action.key, settled, 'asked');
			else if (action.act === 'refund') await endRefund(payment, action.key, settled, 'asked');
			else await endHeld(payment, action.key, settled, 'asked');
		} catch (error) {
			if (!(error instanceof ConnectorError)) throw error;
			await again(error.message);
		}
		tell('takings');
	}
}
